// The page: what is pointed at becomes changes of the brief; what they come to is asked of the core.
"use strict";

(() => {
  const { make, put, drags, showLook } = tiles;
  const { Screens, button, card, heading, hint, note, outlineCuts, percent, row, slider } = screens;
  const RESTS = 20, TYPED = 350; // milliseconds until the core is asked

  /** @type {BriefState} */
  const NO_BRIEF = {
    title: "", file: "", digest: "", widest: 0, breakpoints: [], backdrops: [], sources: [],
    undo: false, redo: false,
  };
  /** @type {Scene} */
  const NO_SCENE = {
    name: "", element: "", digest: "", plays: false, views: [], written: {}, verdicts: [],
    loads: [], line: "",
  };
  // What is looked at, and what was changed of it and isn't written yet.
  const session = {
    state: NO_BRIEF,
    scene: NO_SCENE,
    backdrop: "",
    at: "", // the breakpoint that is set; none: the widest one
    changes: /** @type {Map<string, Change>} */ (new Map()),
    drafts: /** @type {Drafts} */ ({}),
    seen: "", // the digest of the brief that all of this is about
    said: /** @type {string[]} */ ([]),
    hint: /** @type {Suggestion | null} */ (null),
    screens: new Screens(NO_SCENE, { state: NO_BRIEF, drafts: {} }),
    isHeld: false, // a button of the pointer is down
  };
  // What is under way with the core.
  const underway = {
    asked: 0, timer: 0, still: 0, frame: 0, news: 0, isAsking: false, again: false,
    saved: Promise.resolve(),
  };

  // Asking the core

  class Refused extends Error {
    /** @param {string} says @param {number} status @param {any} found */
    constructor(says, status, found) {
      super(says);
      this.status = status;
      this.found = found;
    }
  }

  /** @type {(error: unknown) => string} */
  const messageOf = (error) => (error instanceof Error ? error.message : String(error));

  /** @param {string} what @param {object} body @returns {Promise<any>} */
  async function ask(what, body = {}) {
    const answer = await fetch(what, {
      method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body),
    });
    const found = await answer.json();
    if (!answer.ok) throw new Refused(found.mistake ?? "refused", answer.status, found);
    return found;
  }

  const pending = () => [...session.changes.values()];

  // One at a time: a row of questions would keep the last one waiting.
  async function refresh(ways = false) {
    underway.again = underway.isAsking;
    if (underway.isAsking) return;
    underway.isAsking = true;
    const number = ++underway.asked;
    let isRest = ways;
    try {
      /** @type {Scene} */
      const scene = await ask("scene", { backdrop: session.backdrop, changes: pending(), ways });
      if (number === underway.asked) take(scene, ways);
      isRest ||= number !== underway.asked || scene.verdicts.every((one) => one.state === "holds");
    } catch (error) {
      isRest = true;
      if (number === underway.asked) tell(messageOf(error));
    }
    underway.isAsking = false;
    if (underway.again || !isRest) refresh(!underway.again);
  }

  /** @param {Scene} scene @param {boolean} ways */
  function take(scene, ways) {
    if (!session.changes.size) session.seen = scene.digest;
    session.scene = scene;
    parts.main.inert = false;
    tell("");
    if (ways || isBusy()) {
      drawSource();
      if (!session.screens.take(scene) && !session.isHeld) showRight();
    } else show();
  }

  function askSoon(wait = RESTS) {
    clearTimeout(underway.timer);
    underway.asked += 1; // what is under way is out of date
    underway.timer = setTimeout(() => refresh(), wait);
  }

  // One after the other: what one has written is no change of an editor's to the next.
  const save = () => (underway.saved = saved(underway.saved));

  /** @param {Promise<void>} before */
  async function saved(before) {
    await before;
    const changes = pending();
    if (!changes.length) return;
    clearTimeout(underway.timer);
    try {
      written(await ask("save", { changes, seen: session.seen }), "Saved");
      for (const one of changes) {
        if (session.changes.get(placeOf(one)) === one) session.changes.delete(placeOf(one));
      }
      await refresh();
    } catch (error) {
      if (error instanceof Refused && error.status === 409) conflict(error.found);
      else tell(messageOf(error), [["Leave it", dropChanges]]);
    }
  }

  /** @param {Saved} told @param {string} word */
  function written(told, word) {
    session.seen = told.digest;
    Object.assign(session.state, told);
    const place = told.lines.length ? `, line ${told.lines[0]}: ` : "";
    session.said = [`${word} ${session.state.file}${place}`, (told.texts[0] ?? "").trim()];
    showBar();
    if (told.kept) tell(`An editor saved too; its text: ${told.kept}`);
  }

  /** @param {Conflict} conflict */
  function conflict({ theirs, digest }) {
    const keys = theirs.map((one) => one.place[2]).join(", ");
    tell(`${session.state.file} was changed in an editor meanwhile: ${keys}. Nothing is written.`, [
      ["Keep this", () => { session.seen = digest; save(); }],
      ["Take the file's", dropChanges],
    ]);
  }

  function dropChanges() {
    session.changes.clear();
    refresh();
  }

  /** @param {"undo" | "redo"} what */
  async function goBack(what) {
    session.changes.clear();
    try {
      written(await ask(what), "Back in");
      await reload();
    } catch (error) {
      tell(messageOf(error));
    }
  }

  async function reload() {
    session.state = await ask("state");
    if (!session.state.backdrops.some((one) => one.name === session.backdrop)) session.backdrop = session.state.backdrops[0].name;
    if (session.at && !session.state.breakpoints.includes(session.at)) session.at = "";
    await refresh();
  }

  async function listen() {
    for (;;) {
      try {
        const { number, mistake } = await ask("news", { number: underway.news });
        if (number === underway.news) continue;
        underway.news = number;
        if (mistake) {
          tell(mistake);
          continue;
        }
        session.drafts = await ask("drafts");
        if (!session.changes.size) await reload();
      } catch (error) {
        tell(error instanceof Refused ? error.message
          : "bright-canvas adjust has ended: start it again.");
        await new Promise((done) => { setTimeout(done, 2000); });
      }
    }
  }

  // Changes

  /** @type {(one: Change) => string} */
  const placeOf = (one) => JSON.stringify([one.backdrop, one.breakpoint, one.key]);
  const widest = () => session.state.breakpoints[session.state.breakpoints.length - 1];

  // Where a key is written that is changed for a breakpoint: the widest one's are the backdrop's.
  /** @param {string} key @param {string} at */
  function targetOf(key, at) {
    if (at && at !== widest()) return at;
    return session.scene.written[widest()][key][1] === widest() ? widest() : "";
  }

  // The breakpoints that a change flows down to.
  /** @param {string} key @param {string} target */
  function reached(key, target) {
    const names = session.state.breakpoints, from = target ? names.indexOf(target) : names.length - 1;
    return names.slice(0, from + 1).filter((name) => {
      const place = session.scene.written[name][key][1];
      return name === target || !place || names.indexOf(place) >= from;
    });
  }

  /** @param {string} key @param {any} value @param {string} at @param {number} [wait] */
  function change(key, value, at, wait) {
    const target = targetOf(key, at);
    const one = { backdrop: session.backdrop, breakpoint: target, key, value };
    session.changes.set(placeOf(one), one);
    for (const name of reached(key, target)) session.scene.written[name][key] = [value, target];
    askSoon(wait);
  }

  /** @type {(key: string, at?: string) => any} */
  const valueOf = (key, at = session.at) => session.scene.written[at || widest()][key][0];
  /** @type {(key: string, at?: string) => string | null} */
  const originOf = (key, at = session.at) => session.scene.written[at || widest()][key][1];
  const viewsOf = (at = session.at) => session.scene.views.filter((one) => one.breakpoint === (at || widest()));

  /** @param {string} key */
  function drop(key) {
    change(key, null, session.at);
    save();
  }

  // Subjects

  /** @type {(subject: any) => Area[]} */
  const asBoxes = (subject) => (subject?.boxes ?? (subject?.box ? [subject.box]
    : subject?.point ? [[...subject.point, ...subject.point]] : []));

  const marginOf = () => valueOf("subject")?.margin ?? 0;

  /** @param {Area[]} boxes @param {number} margin @param {boolean} isLast */
  function setSubjects(boxes, margin, isLast) {
    const rest = margin ? { margin } : {};
    const isPoint = boxes.length === 1 && boxes[0][0] === boxes[0][2] && boxes[0][1] === boxes[0][3];
    const value = !boxes.length ? null : isPoint ? { point: boxes[0].slice(0, 2), ...rest }
      : boxes.length === 1 ? { box: boxes[0], ...rest } : { boxes, ...rest };
    change("subject", value, session.at);
    const names = reached("subject", targetOf("subject", session.at));
    follow((view) => names.includes(view.breakpoint), (view) => {
      const { size: [width, height], order } = view.picture, sides = [width, height, width, height];
      view.picture.subjects = boxes.map((box) => box.map((edge, n) => edge * sides[n]));
      if (!order) return;
      order.subjects = boxes.length ? view.picture.subjects : [sides.map((side) => side / 2)];
      order.margin = margin * Math.min(width, height);
    });
    if (isLast) save();
  }

  /** @type {CopyMoved} */
  function setCopy(view, box, isLast) {
    const at = view.breakpoint, before = valueOf("copy", at);
    if (before?.measured) return;
    change("copy", { ...(before ?? { colour: "white", size: 32 }), box }, at);
    const names = reached("copy", targetOf("copy", at));
    follow((one) => names.includes(one.breakpoint), (one) => {
      if (!one.copy) return;
      one.copy.box = box;
      const order = one.picture?.order, still = 1 - (order?.drifts ?? 0);
      if (order?.copy) order.copy = [box[0], box[1] * still, box[2], box[3] * still + 1 - still];
    });
    if (isLast) save();
  }

  /** @type {(view: View) => view is Pictured} */
  const hasPicture = (view) => view.picture !== null;

  // Everything that can follow by geometry alone follows before the next frame.
  /** @param {(view: View) => boolean} concerns @param {(view: Pictured) => void} apply */
  function follow(concerns, apply) {
    for (const view of session.scene.views) {
      if (!concerns(view) || !hasPicture(view)) continue;
      apply(view);
      view.isMoved = Boolean(view.picture.order);
    }
    if (underway.frame) return;
    underway.frame = requestAnimationFrame(() => {
      underway.frame = 0;
      drawSource();
      session.screens.draw();
    });
  }

  // Drawing

  const parts = {
    main: make("main", { class: "bench" }),
    tabs: make("nav", { class: "tabs", "aria-label": "Backdrops" }),
    undo: button("Undo", () => goBack("undo")),
    redo: button("Redo", () => goBack("redo")),
    said: make("span", { class: "said", role: "status" }),
    told: make("div", { class: "told", role: "alert", hidden: true }),
    left: make("section", { class: "left", "aria-label": "Source and settings" }),
    right: make("section", { class: "right", "aria-label": "Screens" }),
    picture: make("div"),
    source: make("div"),
    numbers: make("div"),
  };

  /** @param {string} says @param {Told[]} ways */
  function tell(says, ways = []) {
    parts.told.hidden = !says;
    parts.told.replaceChildren(
      make("span", {}, says), ...ways.map(([word, does]) => button(word, does)));
  }

  function build() {
    parts.main.append(parts.left, parts.right);
    document.body.append(
      make("header", { class: "bar" }, make("h1", {}, session.state.title || session.state.file), parts.tabs,
        row(parts.undo, parts.redo), parts.said),
      parts.told, parts.main);
    document.addEventListener("pointerdown", () => { session.isHeld = true; }, true);
    for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, () => { session.isHeld = false; }, true);
    document.addEventListener("keydown", (event) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || isTyped(event.target)) return;
      event.preventDefault();
      goBack(event.shiftKey ? "redo" : "undo");
    });
  }

  /** @type {(one: EventTarget | null) => boolean} */
  const isTyped = (one) => one instanceof HTMLInputElement && ["text", "number"].includes(one.type);

  function showBar() {
    parts.tabs.replaceChildren(...session.state.backdrops.map((one) => button(one.name, () => {
      session.changes.clear();
      session.backdrop = one.name;
      session.hint = null;
      parts.main.inert = true; // what it shows is another one's
      refresh();
    }, { "aria-pressed": one.name === session.backdrop })));
    parts.undo.disabled = !session.state.undo;
    parts.redo.disabled = !session.state.redo;
    const [says, text = ""] = session.said.length ? session.said : [`${session.state.file}: written as you let go`];
    parts.said.replaceChildren(says, text ? make("code", {}, text) : "");
    parts.said.title = `${says}${text}`;
  }

  // Nothing is built anew under somebody's hand.
  const isBusy = () => session.isHeld || isTyped(document.activeElement);

  /** @type {(inside: Element, selector: string) => HTMLElement[]} */
  const elementsIn = (inside, selector) => [...inside.querySelectorAll(selector)].map((one) =>
    /** @type {HTMLElement} */ (one));
  const focusable = () => elementsIn(parts.main, ":is(button, input, select, [tabindex])");

  function show() {
    const kept = focusable().findIndex((one) => one === document.activeElement), scrolled = parts.left.scrollTop;
    showBar();
    showLeft();
    showRight();
    parts.left.scrollTop = scrolled;
    focusable()[kept]?.focus({ preventScroll: true });
  }

  // The source, and what is set

  const lead = () => viewsOf().find((one) => one.picture) ?? viewsOf()[0];

  function showLeft() {
    const choice = make("div", { class: "choice", role: "group", "aria-label": "Adjust for" },
      ...[...session.state.breakpoints].reverse().map((name) => button(
        name === widest() ? `${name} and all below` : name,
        () => { session.at = name === widest() ? "" : name; show(); },
        { "aria-pressed": (session.at || widest()) === name })));
    const open = new Set([...parts.left.querySelectorAll("details[open]")].map((one) => one.id));
    parts.left.replaceChildren(
      choice, sourceCard(), showsCard(), copyCard(open), toneCard(open), boxCard(open));
  }

  function sourceCard() {
    const view = lead(), picture = view?.picture;
    if (!picture?.covers) return card(note(picture ? "All of it is shown." : "The colour alone."));
    const subject = valueOf("subject");
    parts.picture = make("div", { class: "picture" });
    parts.source = make("div", { class: "source" }, parts.picture);
    parts.source.style.aspectRatio = `${picture.size[0]} / ${picture.size[1]}`;
    parts.numbers = make("div", { class: "row" });
    drawSource();
    const boxes = asBoxes(subject);
    return card(parts.source, row(
      heading("Must stay in view"), writtenAt("subject"),
      button("Suggest", suggest, {}),
      button(boxes.length ? "One more box" : "Draw a box", () => addBox(boxes)),
      boxes.length ? button("Remove", () => setSubjects(boxes.slice(0, -1), marginOf(), true)) : null,
    ), parts.numbers, boxes.length ? slider("Margin", marginOf(), 0, 0.2, 0.01,
      (value, isLast) => setSubjects(asBoxes(valueOf("subject")), value, isLast), percent) : null,
    picture.seconds ? stillsPart(view.name, picture) : null);
  }

  /** @param {Area[]} boxes */
  function addBox(boxes) {
    setSubjects([...boxes, [0.4, 0.4, 0.6, 0.6]].slice(0, 6), marginOf(), true);
  }

  async function suggest() {
    session.hint = await ask("suggest", { backdrop: session.backdrop, view: lead().name }).catch(() => null);
    if (!session.hint) tell("Nothing stands out.");
    drawSource();
  }

  /** @param {Suggestion} found */
  function suggestion({ box, confidence }) {
    const shown = make("div", { class: "subject hint" });
    put(shown, box);
    parts.source.append(shown);
    /** @type {(does: () => void) => () => void} */
    const answer = (does) => () => { session.hint = null; does(); };
    parts.numbers.replaceChildren(hint(`${percent(confidence)} sure`),
      button("Take it", answer(() => setSubjects([box], marginOf(), true))),
      button("Leave it", answer(drawSource)));
  }

  function drawSource() {
    const picture = lead()?.picture;
    if (!picture?.covers) return;
    showLook(parts.picture, picture.look);
    const boxes = asBoxes(valueOf("subject")), margin = marginOf();
    for (const one of parts.source.querySelectorAll(".cutline, .hint")) one.remove();
    outlineCuts(parts.source, viewsOf());
    const there = elementsIn(parts.source, ".subject");
    boxes.forEach((area, n) => {
      const one = there[n] ?? subjectBox(n);
      const shorter = margin && (Math.min(parts.source.clientWidth, parts.source.clientHeight) || 300);
      one.style.setProperty("--room", `${Math.round(margin * shorter)}`);
      put(one, area);
      const said = area.map((edge) => `${(edge * 100).toFixed(1)} %`);
      one.setAttribute("aria-label",
        `Subject ${n + 1}: left ${said[0]}, top ${said[1]}, right ${said[2]}, bottom ${said[3]}`);
      if (!there[n]) parts.source.append(one); // who is moved about loses the focus
    });
    there.slice(boxes.length).forEach((one) => one.remove());
    if (session.hint) suggestion(session.hint);
    else drawNumbers(boxes);
  }

  /** @param {number} n */
  function subjectBox(n) {
    const corner = make("i", { class: "corner" });
    const one = make("div", {
      class: "subject", role: "group", tabindex: "0",
      "aria-description": "Arrow keys move it; Shift resizes, Alt is finer",
    }, corner);
    drags(one, {
      area: () => asBoxes(valueOf("subject"))[n],
      frame: () => parts.source.getBoundingClientRect(),
      isCorner: (target) => target === corner,
      moved: (area, isLast) => {
        const boxes = asBoxes(valueOf("subject")).map((box, m) => (m === n ? area : box));
        setSubjects(boxes, marginOf(), isLast);
      },
    });
    return one;
  }

  /** @param {Area[]} boxes */
  function drawNumbers(boxes) {
    const area = boxes[0], there = parts.numbers.querySelectorAll("input");
    if (area && there.length === 4) {
      there.forEach((one, n) => {
        if (one !== document.activeElement) one.value = (area[n] * 100).toFixed(1);
      });
      return;
    }
    parts.numbers.replaceChildren(...(area ? numbers(area, "Subject", (changed) =>
      setSubjects([changed, ...asBoxes(valueOf("subject")).slice(1)], marginOf(), true)) : [
      note("Nothing is named: the middle is kept.")]));
  }

  /**
   * @type {(says: string, type: string, value: string, changed: (value: string, one: HTMLInputElement) => void, more?: object) => HTMLElement}
   */
  const input = (says, type, value, changed, more) => make("label", {}, `${says} `,
    make("input", { type, value, onchange: (/** @type {{ target: HTMLInputElement }} */ { target }) => changed(target.value, target),
      ...more }));

  /** @param {Area} area @param {string} what @param {(area: Area) => void} changed */
  function numbers(area, what, changed) {
    return ["left", "top", "right", "bottom"].map((edge, n) =>
      input(edge, "number", (area[n] * 100).toFixed(1), (value) => {
        const wanted = area.with(n, geometry.clamp(Number(value) / 100, 0, 1));
        if (wanted[0] <= wanted[2] && wanted[1] <= wanted[3]) changed(wanted);
      }, { min: "0", max: "100", step: "0.1", "aria-label": `${what}: ${edge}, percent` }));
  }

  // A word about where a value comes from; its own one can be taken out.
  /** @param {string} key */
  function writtenAt(key) {
    const origin = originOf(key), own = origin === targetOf(key, session.at) && origin !== null;
    if (own && session.at) {
      return button("as above again", () => drop(key), { class: "plain" });
    }
    const says = origin === null ? "nothing written" : origin === "" ? (session.at ? "flows down" : "written")
      : own ? "own" : `from ${origin}`;
    return make("span", { class: `from${own ? " own" : ""}` }, says);
  }

  /**
   * @param {string} says
   * @param {string} value
   * @param {(string | string[])[]} options
   * @param {(value: string) => void} changed
   */
  function select(says, value, options, changed) {
    const one = make("select", { "aria-label": says, onchange: () => changed(one.value) },
      ...options.map((each) => (typeof each === "string" ? [each, each] : each))
        .map(([word, told]) => make("option", { value: word }, told)));
    one.value = value;
    return make("label", { class: "field" }, make("span", {}, says), one, make("span", {}));
  }

  /** @type {(key: string, value: any, isLast?: boolean) => void} */
  const set = (key, value, isLast = true) => {
    change(key, value, session.at);
    if (isLast) save();
  };

  // Four choices: this picture, another one, the colour alone, the clip

  function showsCard() {
    const plain = valueOf("plain"), source = valueOf("source"), closeness = valueOf("closeness") ?? "wide";
    /** @type {string[][]} */
    const ways = [["picture", "A picture"], ["plain", "The colour alone"]];
    if (session.scene.plays) ways.splice(1, 0, ["clip", "The clip"]);
    const moving = session.scene.plays && !plain && valueOf("moving") !== false;
    const now = plain ? "plain" : moving ? "clip" : "picture";
    /** @type {(way: string) => void} */
    const chosen = (way) => {
      if (session.scene.plays) change("moving", way === "clip" ? null : way === "plain" ? valueOf("moving") : false, session.at);
      set("plain", way === "plain" ? true : plain ? false : null);
    };
    return card(row(
      heading("Shows"), make("div", { class: "choice" }, ...ways.map(([way, says]) =>
        button(says, () => chosen(way), { "aria-pressed": way === now }))),
      writtenAt("plain")),
    plain || !source ? null : select("Picture", source, [...new Set([source, ...session.state.sources])],
      (value) => set("source", value)),
    plain ? null : select("Cut", closeness, [
      ["wide", "widest"], "halfway", "close",
    ], (value) => set("closeness", value)));
  }

  /** @param {string} view @param {Picture} picture */
  function stillsPart(view, { seconds, second }) {
    const list = make("div", { class: "stills" });
    ask("stills", { backdrop: session.backdrop, view }).then((/** @type {StillFrame[]} */ found) => {
      list.replaceChildren(...found.map((one) => button("", () => set("poster_at", round2(one.second)), {
        "aria-pressed": Math.abs(one.second - (second ?? Infinity)) < 0.02, title: `${one.second.toFixed(2)} s`,
      })));
      [...list.children].forEach((one, n) =>
        one.append(make("img", { src: `look/${found[n].look}`, alt: `still at ${found[n].second.toFixed(2)} s` })));
    }).catch((error) => tell(messageOf(error)));
    const at = slider("Still at", second ?? 0, 0, Math.max((seconds ?? 0) - 0.05, 0), 0.04, (value, isLast) => {
      clearTimeout(underway.still);
      underway.still = setTimeout(async () => {
        const found = await ask("frame", { backdrop: session.backdrop, view, second: value });
        showLook(parts.picture, found.look);
        if (isLast) set("poster_at", round2(value));
      }, RESTS);
    }, (value) => `${value.toFixed(2)} s`);
    return make("div", { class: "in" }, heading("Stills"), list, at);
  }

  /** @type {(value: number) => number} */
  const round2 = (value) => Math.round(value * 100) / 100;

  /**
   * @param {string} id
   * @param {Set<string>} open
   * @param {string} says
   * @param {(Node | string | null)[]} inside
   */
  function folded(id, open, says, ...inside) {
    return make("details", { class: "card", id, open: open.has(id) },
      make("summary", {}, says), make("div", { class: "in" }, ...inside));
  }

  /** @param {Set<string>} open */
  function copyCard(open) {
    const copy = valueOf("copy");
    if (!copy) {
      return card(row(heading("Copy"),
        button("Add copy", () => set("copy", { box: [0.06, 0.3, 0.5, 0.7], colour: "white", size: 32 }))));
    }
    /** @type {(more: object) => void} */
    const changeCopy = (more) => set("copy", { ...copy, ...more });
    const scrim = valueOf("scrim"), found = viewsOf().find((one) => one.spot), spot = found?.spot;
    const strength = scrim?.strength ?? found?.scrim?.strength ?? 0;
    /** @type {(more: object) => object} */
    const withScrim = (more) => {
      const { colour, side, lines, baked } = scrim ?? {};
      return JSON.parse(JSON.stringify({ ...more, colour, side, lines, baked }));
    };
    const contrast = spot ? Math.min(spot.contrast, spot.plain) : 0;
    open.add("copy");
    return folded("copy", open, "Copy, scrim",
      spot ? make("p", { class: `verdict ${contrast < spot.wanted ? "bad" : "good"}` },
        `Contrast ${contrast.toFixed(2)}, ${spot.wanted} wanted`) : null,
      copy.measured ? heading("Measured") : row(...numbers(copy.box, "Copy", (box) => changeCopy({ box })), writtenAt("copy")),
      copy.measured ? null : row(
        input("Colour", "text", copy.colour ?? "", (colour) => changeCopy({ colour })),
        input("Size px", "number", `${copy.size ?? 16}`, (size) => changeCopy({ size: Number(size) })),
        input("off the subject", "checkbox", "", (_, { checked }) => changeCopy({ clear_of_subject: checked }),
          { checked: Boolean(copy.clear_of_subject) })),
      slider("Scrim", strength, 0, 0.95, 0.01, (value, isLast) =>
        set("scrim", value ? withScrim({ strength: value }) : null, isLast), percent),
      row(
        button("Least that does", () => set("scrim", withScrim({ least: true })),
          { "aria-pressed": Boolean(scrim?.least) }), writtenAt("scrim")),
      select("Scrim at", scrim?.side ?? "", [["", "everywhere"], "left", "right", "top", "bottom"],
        (value) => set("scrim", { ...withScrim(scrim?.least ? { least: true } : { strength: strength || 0.4 }), side: value || undefined })));
  }

  /** @type {[string, string, number?, number?][]} */
  const TONES = [
    ["darken", "Darken"], ["lighten", "Lighten"], ["calm", "Calm"], ["desaturate", "Less colour"], ["soften", "Soften", 30, 0.5],
  ];

  /** @param {Set<string>} open */
  function toneCard(open) {
    const tone = valueOf("tone") ?? {};
    return folded("tone", open, "Tone", writtenAt("tone"), ...TONES.map(([key, says, most = 1, step = 0.01]) =>
      slider(says, tone[key] ?? 0, 0, most, step, (value, isLast) => {
        const changed = { ...valueOf("tone"), [key]: value };
        if (!value) delete changed[key];
        set("tone", Object.keys(changed).length ? changed : null, isLast);
      }, most > 1 ? (value) => `${value} px` : percent)));
  }

  /** @param {Set<string>} open */
  function boxCard(open) {
    /** @type {(key: string, says: string, placeholder: string) => HTMLElement} */
    const field = (key, says, placeholder) => make("label", { class: "field" }, make("span", {}, says), make("input", {
      type: "text", value: valueOf(key) ?? "", placeholder, spellcheck: false,
      oninput: (/** @type {{ target: HTMLInputElement }} */ { target }) =>
        change(key, target.value.trim() || null, session.at, TYPED),
      onchange: () => save(),
    }), writtenAt(key));
    return folded("box", open, "Height and padding",
      field("height", "Height", "60svh"), field("padding", "Padding", "the page's own"));
  }

  // The screens

  function showRight() {
    session.screens.close();
    /** @type {(changes: Change[]) => void} */
    const offered = (changes) => {
      for (const one of changes) session.changes.set(placeOf(one), one);
      save().then(reload);
    };
    session.screens = new Screens(session.scene, session, { copyMoved: setCopy, offered });
    parts.right.replaceChildren(
      make("div", { class: "first" }, session.screens.wideCard(), session.screens.proofCard()),
      session.screens.loadsCard(), ...session.screens.parts());
  }

  // The page

  async function begin() {
    session.state = await ask("state");
    session.backdrop = session.state.backdrops[0].name;
    build();
    showBar();
    await refresh();
    listen();
  }

  begin().catch((error) => document.body.append(make("p", { class: "told" }, messageOf(error))));
})();
