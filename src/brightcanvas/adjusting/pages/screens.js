// One backdrop on all screens, with what was proved of it.
"use strict";

/** @typedef {(changes: Change[]) => void} Offered what is done with a way out */

const screens = (() => {
  const { Tile, make, put, kilo, percents, drags } = tiles;
  /**
   * @type {(tag: keyof HTMLElementTagNameMap, name?: string) => (...inside: (Node | string | null)[]) => HTMLElement}
   */
  const classed = (tag, name) => (...inside) => make(tag, name ? { class: name } : {}, ...inside);
  const card = classed("section", "card"), row = classed("div", "row"), note = classed("p", "note");
  const hint = classed("span", "note"), heading = classed("h2");

  /** @param {string} says @param {() => void} does @param {Record<string, any>} more */
  function button(says, does, more = {}) {
    return make("button", { type: "button", onclick: does, ...more }, says);
  }

  /** @type {(value: number) => string} */
  const percent = (value) => `${Math.round(value * 100)} %`;

  /**
   * @param {string} says
   * @param {number} value
   * @param {number} min
   * @param {number} max
   * @param {number} step
   * @param {(value: number, isLast: boolean) => void} changed
   * @param {(value: number) => string} told
   */
  function slider(says, value, min, max, step, changed, told) {
    const output = make("output", {}, told(value));
    const input = make("input", {
      type: "range", min, max, step, value, "aria-label": says,
      oninput: () => { output.textContent = told(Number(input.value)); changed(Number(input.value), false); },
      onchange: () => changed(Number(input.value), true),
    });
    return make("label", { class: "field" }, make("span", {}, says), input, output);
  }

  // A view whose subject or copy was moved gets its cut when it is drawn, and not before.
  /** @param {View} view */
  function reframe(view) {
    if (!view.isMoved) return;
    view.isMoved = false;
    view.wasMoved = true;
    const { picture } = view, found = picture?.order && geometry.frame(picture.order);
    if (picture && found) Object.assign(picture, { cut: found.area, position: found.position });
  }

  /** @param {HTMLElement} source @param {View[]} views */
  function outlineCuts(source, views) {
    for (const view of views) {
      const { picture } = view;
      if (!picture?.covers) continue;
      reframe(view);
      const line = make("div", { class: "cutline" });
      put(line, percents(picture.cut, picture.size));
      source.append(line);
    }
  }

  // Screens of one window differ in density only: one tile shows them all.
  /** @param {ListedScreen[]} listed */
  function merged(listed) {
    /** @type {Map<string, ListedScreen & { densities: string[], says: string }>} */
    const found = new Map();
    for (const one of listed) {
      const key = `${one.width} x ${one.height}`;
      const at = found.get(key) ?? { ...one, densities: [], says: "" };
      at.densities.push(`${one.density}x`);
      at.says = `${one.name}, ${key}, ${at.densities.join(" and ")}`;
      found.set(key, at);
    }
    return found.values();
  }

  /** @type {(one: Verdict) => boolean} */
  const isBroken = (one) => one.state === "broken";
  /** @type {(bad: boolean, says: string) => HTMLElement} */
  const judged = (bad, says) =>
    make("span", { class: `verdict ${bad ? "bad" : "good"}` }, says);

  const ORDER = { broken: 0, note: 1, "not measured": 2, holds: 3 };

  /**
   * @typedef {InstanceType<typeof Tile>} Tile
   * @typedef {{ tile: Tile, view: View, isSeen: boolean, isStale: boolean }} Shown
   */

  class Screens {
    /**
     * @param {Scene} scene
     * @param {Shared} shared what is kept from scene to scene
     * @param {{ copyMoved?: CopyMoved | null, offered?: Offered | null }} does
     */
    constructor(scene, shared, { copyMoved = null, offered = null } = {}) {
      this.scene = scene;
      this.shared = shared;
      this.copyMoved = copyMoved;
      this.offered = offered;
      /** @type {Shown[]} */
      this.tiles = [];
      this.words = shared.state.title || "Your copy stands here";
      /** @type {Map<string, HTMLElement>} */
      this.verdicts = new Map();
      this.proof = card();
      this.wide = new Tile(shared.wide ??= [1280, 720], {
        most: [Math.min(430, innerWidth - 66), 240], words: this.words,
      });
      this.says = hint();
      this.grip = make("button", { class: "grip", type: "button", "aria-label": "Resize" });
      this.seen = new IntersectionObserver((entries) => entries.forEach((entry) => {
        const one = this.tiles.find((each) => each.tile.root === entry.target);
        if (!one) return;
        one.isSeen = entry.isIntersecting;
        if (one.isSeen && one.isStale) this.drawTile(one);
      }));
    }

    // Go on with another scene of the same views, so that whoever is dragging something can go on.
    /** @param {Scene} scene */
    take(scene) {
      const named = new Map(scene.views.map((one) => [one.name, one]));
      const isSame = this.scene.views.every((one) => named.has(one.name));
      if (scene.views.length !== this.scene.views.length || !isSame) return false;
      this.scene = scene;
      for (const one of this.tiles) one.view = named.get(one.view.name) ?? one.view;
      this.verdicts.forEach((one, name) => one.replaceWith(this.verdict(name)));
      this.proof.replaceWith(this.proofCard());
      this.draw();
      return true;
    }

    close() {
      this.seen.disconnect();
    }

    // Only what is on the screen is drawn while something is dragged.
    draw(all = false) {
      for (const one of this.tiles) {
        if (all || one.isSeen) this.drawTile(one);
        else one.isStale = true;
      }
      this.drawWide();
    }

    /** @param {Shown} one */
    drawTile(one) {
      one.isStale = false;
      this.drawView(one.tile, one.view);
    }

    /** @param {Tile} tile @param {View} view */
    drawView(tile, view) {
      reframe(view);
      const draft = this.shared.drafts[this.scene.name]?.[view.name];
      tile.draw(view, draft);
      const widest = this.scene.views.at(-1)?.picture?.look;
      tile.compare(this.shared.compare ?? null, view.picture?.covers ? widest : null);
    }

    parts() {
      return [...this.scene.views].reverse().map((view) => this.part(view));
    }

    /** @param {View} view */
    part(view) {
      const list = make("div", { class: "tiles" });
      /** @type {(window: Pair, says: string, marksSpot?: boolean) => void} */
      const add = (window, says, marksSpot = false) => {
        const tile = new Tile(window, { says, words: this.words, copyMoved: this.copyMoved });
        const one = { tile, view, isSeen: false, isStale: false };
        tile.marksSpot = marksSpot;
        this.tiles.push(one);
        list.append(tile.root);
        this.seen.observe(tile.root);
        this.drawTile(one);
      };
      for (const one of merged(view.screens)) add([one.width, one.height], one.says);
      for (const one of view.worst) add(one.window, `${one.says}, ${one.window.join(" x ")}`);
      const { spot } = view;
      if (spot) add(spot.window, `lowest contrast ${spot.contrast.toFixed(2)}:1`, true);
      const edges = `${view.low || 320} ${view.high ? `to ${view.high}` : "and more"} px`;
      return make("section", { class: "part card" },
        row(heading(view.name), hint(edges), this.verdict(view.name)), list);
    }

    /** @param {string} name */
    verdict(name) {
      const own = this.scene.verdicts.filter((one) => one.breakpoint === name);
      const says = own.filter(isBroken).map((one) => one.promise).join(", ");
      const told = judged(Boolean(says), says ? `${says}: broken`
        : own.some((one) => one.is_rare && one.state === "note") ? "holds on usual screens" : "all hold");
      this.verdicts.set(name, told);
      return told;
    }

    // One window of any size, to look between the breakpoints.
    wideCard() {
      const { shared, wide: tile } = this;
      const most = [shared.state.widest, 1440], least = [320, 260];
      const sides = ["Width", "Height"].map((says, n) => slider(says, tile.window[n], least[n], most[n], 1,
        (value) => this.resize(tile.window.with(n, value)), String));
      tile.root.append(this.grip);
      drags(this.grip, {
        area: () => [0, 0, tile.window[0] / most[0], tile.window[1] / most[1]],
        frame: () => ({ width: most[0] * tile.scale, height: most[1] * tile.scale }),
        isCorner: () => true,
        moved: (area) => {
          this.resize(most.map((side, n) => Math.max(least[n], Math.round(area[n + 2] * side))));
          sides.forEach((one, n) => {
            const [, input, output] = /** @type {HTMLInputElement[]} */ ([...one.children]);
            input.value = output.textContent = String(tile.window[n]);
          });
        },
      });
      const compare = slider("Source", shared.compare ?? 0, 0, 1, 0.01, (value) => {
        shared.compare = value || null;
        this.draw(true);
      }, (value) => (value ? percent(value) : "off"));
      const marks = make("input", { type: "checkbox", checked: !document.body.dataset.unmarked,
        onchange: () => { document.body.dataset.unmarked = marks.checked ? "" : "yes"; } });
      this.drawWide();
      return make("section", { class: "card wide" },
        row(heading("Any window"), this.says, make("label", {}, marks, " marks")),
        tile.root, make("div", { class: "sliders screen" }, ...sides, compare));
    }

    /** @param {Pair} window */
    resize(window) {
      this.shared.wide = this.wide.window = window;
      this.drawWide();
    }

    drawWide() {
      const { wide, grip } = this, [width, height] = wide.window;
      const shape = width > height ? "landscape" : "portrait";
      const view = this.scene.views.find((one) => one.low <= width
        && (one.high === null || width < one.high) && (one.orientation ?? shape) === shape);
      if (!view) return;
      this.drawView(wide, view);
      grip.style.left = wide.frame.style.width;
      grip.style.top = wide.frame.style.height;
      const lost = wide.lost ? `, ${percent(wide.lost)} of the subject is cut off` : "";
      const covered = wide.covered > 1e-4 ? `, the copy covers ${percent(wide.covered)} of it` : "";
      this.says.textContent = `${wide.window.join(" x ")}: ${view.name}${lost}${covered}`;
    }

    proofCard() {
      const told = [...this.scene.verdicts].sort((one, other) => ORDER[one.state] - ORDER[other.state]);
      const quiet = told.filter((one) => one.state === "holds"), broken = told.filter(isBroken).length;
      /** @type {(some: Verdict[]) => HTMLElement} */
      const list = (some) => make("ul", { class: "proof" }, ...some.map((one) => this.proofLine(one)));
      return this.proof = card(row(heading("Proof"), judged(broken > 0, broken
        ? `${broken} ${broken === 1 ? "promise is" : "promises are"} broken` : "No promise is broken")),
      list(told.filter((one) => one.state !== "holds")), quiet.length ? make("details", {},
        make("summary", {}, `${quiet.length} hold`), list(quiet)) : null);
    }

    /** @param {Verdict} one */
    proofLine(one) {
      const kind = one.state === "not measured" ? "note" : one.state;
      const { offered } = this;
      const ways = offered ? one.offers.map((offer) =>
        button(offer.says, () => offered(offer.changes))) : [];
      const does = ways.length || !one.remedy ? ways : [one.remedy];
      return make("li", { class: kind },
        make("span", {}, make("b", {}, `${one.promise}, ${one.breakpoint}: `), one.says),
        does.length ? make("div", { class: "does" }, ...does) : null);
    }

    loadsCard() {
      const { loads, line } = this.scene;
      /** @type {(one: number) => string} */
      const seconds = (one) => `${one.toFixed(1)} s`;
      /** @type {(tag: "td" | "th", some: string[]) => HTMLElement} */
      const cells = (tag, some) => make("tr", {}, ...some.map((one) => make(tag, {}, one)));
      const rows = loads.map((one) => cells("td", [one.screen, kilo(one.before),
        one.after ? `about ${kilo(one.after)}` : "the colour", seconds(one.before_seconds), seconds(one.after_seconds)]));
      const untried = loads.some((one) => one.after && !one.tried)
        ? " Not tried yet: bytes as of usual photographs." : "";
      return card(row(heading("Before and after"), button("Play the load", () => this.play(), { class: "screen" })),
        make("table", { class: "loads" },
          make("thead", {}, cells("th", ["Screen", "Source for all", "Foretold", "Before", "After"])),
          make("tbody", {}, ...rows)),
        note(`Seconds over ${line}, nothing else on it.${untried}`));
    }

    play() {
      this.shared.compare ||= 0.5;
      this.draw(true);
      /** @type {(load: Load, tile: Tile) => number} */
      const away = (load, tile) => Math.abs(load.window[0] - tile.window[0]);
      for (const { tile } of this.tiles) {
        const nearest = this.scene.loads.reduce((one, other) => (away(other, tile) < away(one, tile) ? other : one));
        tile.play(nearest.before_seconds, nearest.after_seconds);
      }
    }
  }

  return { Screens, button, card, heading, hint, note, outlineCuts, percent, row, slider };
})();
