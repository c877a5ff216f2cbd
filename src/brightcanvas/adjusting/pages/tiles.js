// Windows as tiles: each a small page of true proportions, with the backdrop drawn by the browser.
"use strict";

/**
 * @typedef {object} Dragged
 * @property {() => Area | undefined} area as it is now; undefined: it is gone
 * @property {() => { width: number, height: number }} frame px in which it lies
 * @property {(target: EventTarget | null) => boolean} isCorner whether that resizes
 * @property {(area: Area, isLast: boolean) => void} moved what it comes to
 */

const tiles = (() => {
  const [WIDEST, TALLEST] = innerWidth < 600 ? [150, 110] : [215, 140];

  /**
   * @template {keyof HTMLElementTagNameMap} Tag
   * @param {Tag} tag
   * @param {Record<string, any>} named what begins with "on" listens
   * @param {(Node | string | null)[]} children
   * @returns {HTMLElementTagNameMap[Tag]}
   */
  function make(tag, named = {}, ...children) {
    const made = document.createElement(tag), fields = /** @type {Record<string, any>} */ (made);
    for (const [name, value] of Object.entries(named)) {
      if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
      else if (name in made && typeof value !== "string") fields[name] = value;
      else if (value !== null && value !== undefined) made.setAttribute(name, value);
    }
    for (const one of children) if (one !== null) made.append(one);
    return made;
  }

  /** @type {(n: number) => string} */
  const kilo = (n) => (n < 1e3 ? `${n.toFixed()} B` : n < 999500
    ? `${(n / 1e3).toFixed(+(n < 1e5))} kB` : `${(n / 1e6).toFixed(1)} MB`);

  /** @type {(area: Area, size?: Pair) => Area} */
  const percents = (area, size = [1, 1]) => [
    area[0] / size[0], area[1] / size[1], area[2] / size[0], area[3] / size[1],
  ];

  /**
   * @param {HTMLElement} one
   * @param {Area} area
   * @param {number} least fraction of what it lies in
   */
  function put(one, [left, top, right, bottom], least = 0) {
    /** @type {(low: number, high: number) => number} */
    const grow = (low, high) => Math.max(0, least - (high - low)) / 2;
    const x = grow(left, right), y = grow(top, bottom);
    one.style.left = `${(left - x) * 100}%`;
    one.style.top = `${(top - y) * 100}%`;
    one.style.width = `${(right - left + 2 * x) * 100}%`;
    one.style.height = `${(bottom - top + 2 * y) * 100}%`;
  }

  // A place of the source (source px), in fractions of what a box shows.
  /** @type {(area: Area, window: Area) => Area} */
  const within = (area, window) => {
    const width = window[2] - window[0], height = window[3] - window[1];
    return [
      (area[0] - window[0]) / width, (area[1] - window[1]) / height,
      (area[2] - window[0]) / width, (area[3] - window[1]) / height,
    ];
  };

  // A reduced source behind an element: by its address, or by a class where the page is frozen.
  /** @param {HTMLElement} one @param {string} look @param {string} size */
  function showLook(one, look, size = "") {
    if (one.dataset.look === look) return;
    one.dataset.look = look;
    if (document.body.dataset.frozen) one.className = `picture look-${look}`;
    else one.style.backgroundImage = look ? `url("look/${look}${size}")` : "none";
  }

  class Tile {
    /**
     * @param {Pair} window CSS px
     * @param {{ says?: string, most?: Pair, words?: string, copyMoved?: CopyMoved | null }} how "most": the px on this page that it may take
     */
    constructor(window, { says = "", most = [WIDEST, TALLEST], words = "", copyMoved = null } = {}) {
      this.window = this.drawn = this.size = window;
      this.most = most;
      this.scale = 1;
      this.lost = this.covered = 0;
      this.marksSpot = false;
      /** @type {View | null} */
      this.view = null;
      this.picture = make("div", { class: "picture" });
      this.before = make("div", { class: "picture before", hidden: true });
      this.scrim = make("div", { class: "scrim" });
      this.copy = make("div", { class: "copy", hidden: true }, make("span", {}, words));
      this.spot = make("div", { class: "spot", hidden: true });
      this.subjects = make("div", { class: "marks", "aria-hidden": "true" });
      this.box = make("div", { class: "box" },
        this.picture, this.scrim, this.before, this.subjects, this.spot, this.copy);
      this.page = make("div", { class: "page" }, this.box);
      this.frame = make("div", { class: "frame" }, this.page);
      this.says = make("figcaption", {}, says);
      this.root = make("figure", { class: "tile" }, this.frame, this.says);
      if (copyMoved) this.letCopyMove(copyMoved);
    }

    /** @param {CopyMoved} moved */
    letCopyMove(moved) {
      const corner = make("i", { class: "corner" });
      this.copy.append(corner);
      this.copy.tabIndex = 0;
      this.copy.setAttribute("role", "group");
      drags(this.copy, {
        area: () => this.view?.copy?.box,
        frame: () => this.box.getBoundingClientRect(),
        isCorner: (target) => target === corner,
        moved: (area, isLast) => this.view && moved(this.view, area, isLast),
      });
    }

    /** @param {View} view @param {Draft} [draft] */
    draw(view, draft) {
      if (this.view !== view || this.drawn !== this.window) this.size = this.shape(view);
      this.drawPicture(view, draft);
      this.drawCopy(view.copy);
    }

    // All that stays as it is while something is dragged.
    /** @param {View} view @returns {Pair} CSS px of the box */
    shape(view) {
      this.view = view;
      this.drawn = this.window;
      const [width, height] = this.window, size = geometry.box(view.element, this.window);
      const tall = Math.max(height, size[1]);
      const scale = Math.min(this.most[0] / width, this.most[1] / tall);
      this.scale = scale;
      this.frame.style.width = `${width * scale}px`;
      this.frame.style.height = `${tall * scale}px`;
      this.page.style.cssText = `width:${width}px;height:${tall}px;transform:scale(${scale})`;
      this.page.style.setProperty("--fold", `${height}px`);
      this.page.style.setProperty("--hair", `${1 / scale}px`);
      this.page.classList.toggle("folded", size[1] > height);
      this.box.style.width = `${size[0]}px`;
      this.box.style.height = `${size[1]}px`;
      this.box.style.backgroundColor = view.behind;
      this.scrim.style.background = view.scrim ? view.scrim.css : "none";
      if (view.copy) {
        this.copy.style.color = view.copy.colour ?? "#fff";
        this.copy.style.font = `${view.copy.bold ? 700 : 400} ${view.copy.size}px/1.25 system-ui, sans-serif`;
      }
      return size;
    }

    /** @param {View} view @param {Draft} [draft] */
    drawPicture(view, draft) {
      const { size } = this, picture = view.picture, style = this.picture.style;
      this.lost = this.covered = 0;
      if (!picture || !picture.covers) this.subjects.replaceChildren();
      if (!picture) {
        showLook(this.picture, "");
        return;
      }
      if (!picture.covers) {
        showLook(this.picture, picture.look);
        style.backgroundSize = picture.fit;
        style.backgroundRepeat = picture.repeat;
        style.backgroundPosition = picture.position.map((one) => `${one * 100}%`).join(" ");
        return;
      }
      const { cut, position } = picture;
      const shown = geometry.seenAt(cut, position, size[0] / size[1]);
      if (draft && sameArea(draft.cut, cut)) {
        showLook(this.picture, "");
        style.backgroundImage = `url("draft/${draft.file}")`;
        style.backgroundSize = "cover";
        style.backgroundPosition = draft.position.map((one) => `${one * 100}%`).join(" ");
        this.root.classList.add("drafted");
      } else {
        const by = size[0] / (shown[2] - shown[0]);
        showLook(this.picture, picture.look, this.most[0] > WIDEST ? "" : ".small");
        style.backgroundSize = `${picture.size[0] * by}px ${picture.size[1] * by}px`;
        style.backgroundPosition = `${-shown[0] * by}px ${-shown[1] * by}px`;
        this.root.classList.remove("drafted");
      }
      style.backgroundRepeat = "no-repeat";
      this.drawMarks(view, picture, shown);
      this.drawSpot(view, shown);
    }

    /** @param {View} view @param {Picture} picture @param {Area} shown */
    drawMarks(view, { order, subjects }, shown) {
      const { copy } = view, marks = this.subjects;
      while (marks.childElementCount > subjects.length) marks.lastElementChild?.remove();
      while (marks.childElementCount < subjects.length) marks.append(make("div", { class: "mark" }));
      subjects.forEach((one, n) =>
        put(/** @type {HTMLElement} */ (marks.children[n]), within(one, shown), 0.02));
      const hidden = order ? order.drifts * (shown[3] - shown[1]) : 0;
      const sure = [shown[0], shown[1] + hidden, shown[2], shown[3] - hidden];
      this.lost = subjects.length ? geometry.lostShare(sure, subjects) : 0;
      if (copy && copy.clear && subjects.length) {
        this.covered = Math.max(
          ...this.copyBoxes(copy).map((one) => geometry.coveredShare(shown, one, subjects)));
      }
      this.root.classList.toggle("lost", this.lost > 0);
      this.root.classList.toggle("covered", this.covered > 1e-4);
    }

    /** @param {View} view @param {Area} shown */
    drawSpot(view, shown) {
      const spot = this.marksSpot && !view.wasMoved ? view.spot : null;
      this.spot.hidden = !spot;
      if (spot) {
        const [x, y] = spot.place, place = within([x, y, x, y], shown);
        put(this.spot, place);
        this.spot.classList.toggle("low", spot.contrast < spot.wanted);
      }
    }

    // Copy that was measured lies elsewhere in each box.
    /** @param {Copy} copy @returns {Area[]} */
    copyBoxes({ box, places }) {
      const aspect = parseFloat(this.box.style.width) / parseFloat(this.box.style.height);
      const own = places.filter(([low, high]) => low <= aspect && aspect <= high);
      return own.length ? own.map((one) => one[2]) : [box];
    }

    /** @param {Copy | null} copy */
    drawCopy(copy) {
      this.copy.hidden = !copy;
      if (!copy) return;
      const box = geometry.hull(this.copyBoxes(copy));
      put(this.copy, box);
      const said = box.map((one) => `${Math.round(one * 100)} %`);
      this.copy.setAttribute(
        "aria-label", `Copy: left ${said[0]}, top ${said[1]}, right ${said[2]}, bottom ${said[3]}`);
    }

    // The source as one picture for all windows, over the left part (0 to 1) of the tile.
    /** @param {number | null} share @param {string | null} [look] */
    compare(share, look) {
      this.before.hidden = share === null || !look;
      if (share === null || !look) return;
      showLook(this.before, look);
      if (document.body.dataset.frozen) this.before.classList.add("before");
      this.before.style.clipPath = `inset(0 ${(1 - share) * 100}% 0 0)`;
    }

    // Let both sides appear as they would over a line, seconds each.
    /** @param {number} before @param {number} after */
    play(before, after) {
      const way = [{ clipPath: "inset(0 0 100% 0)" }, { clipPath: "inset(0 0 0 0)" }];
      this.picture.animate(way, { duration: after * 1000, fill: "backwards" });
      if (this.before.hidden) return;
      const right = this.before.style.clipPath.split(" ")[1];
      this.before.animate(
        [{ clipPath: `inset(0 ${right} 100% 0)` }, { clipPath: `inset(0 ${right} 0 0)` }],
        { duration: before * 1000, fill: "backwards" });
    }
  }

  /** @type {(one: Area, other: Area) => boolean} */
  const sameArea = (one, other) => one.every((edge, n) => Math.abs(edge - other[n]) < 0.5);

  /** @type {Record<string, Pair>} */
  const ARROWS = {
    ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1],
  };

  // Moving and resizing an area (fractions) by pointer or keys.
  /** @param {HTMLElement} one @param {Dragged} dragged */
  function drags(one, { area, frame, isCorner, moved }) {
    /** @type {{ x: number, y: number, area: Area, corner: boolean, last?: Area } | null} */
    let held = null;
    one.addEventListener("pointerdown", (event) => {
      if (event.button) return;
      event.preventDefault();
      event.stopPropagation();
      one.focus({ preventScroll: true });
      one.setPointerCapture(event.pointerId);
      const now = area(), corner = isCorner(event.target);
      held = now ? { x: event.clientX, y: event.clientY, area: now, corner } : null;
    });
    one.addEventListener("pointermove", (event) => {
      if (!held) return;
      const place = frame();
      held.last = shifted(held.area, held.corner,
        (event.clientX - held.x) / place.width, (event.clientY - held.y) / place.height);
      moved(held.last, false);
    });
    const end = () => {
      const { last } = held ?? {};
      held = null;
      if (last) moved(last, true);
    };
    one.addEventListener("pointerup", end);
    one.addEventListener("pointercancel", end);
    one.addEventListener("keydown", (event) => {
      const step = event.altKey ? 0.001 : 0.005;
      const way = ARROWS[event.key], now = area();
      if (!way || !now) return;
      event.preventDefault();
      moved(shifted(now, event.shiftKey, way[0] * step, way[1] * step), false);
    });
    one.addEventListener("keyup", (event) => {
      const now = area();
      if (ARROWS[event.key] && now) moved(now, true);
    });
  }

  /**
   * @param {Area} area
   * @param {boolean} isResized
   * @param {number} x
   * @param {number} y
   * @returns {Area}
   */
  function shifted([left, top, right, bottom], isResized, x, y) {
    /** @type {(value: number) => number} */
    const fine = (value) => Math.round(value * 1e4) / 1e4;
    const { clamp } = geometry;
    if (isResized) {
      return [
        left, top, fine(clamp(right + x, left + 0.01, 1)), fine(clamp(bottom + y, top + 0.01, 1)),
      ];
    }
    const across = clamp(x, -left, 1 - right), down = clamp(y, -top, 1 - bottom);
    return [left + across, top + down, right + across, bottom + down].map(fine);
  }

  return { Tile, make, put, kilo, percents, drags, showLook };
})();
