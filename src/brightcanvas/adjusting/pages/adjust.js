// The page: what is pointed at becomes changes of the brief; what they come to is asked of the core.
"use strict";

(() => {
  const { make, put, percents, drags, showLook } = tiles;
  const { Screens, button, card, heading, hint, note, outlineCuts, percent, row, slider } = screens;
  const RESTS = 20, TYPED = 350; // milliseconds until the core is asked
  const S = {
    state: null, scene: null, backdrop: "", at: "", changes: new Map(), drafts: {}, news: 0,
    asked: 0, timer: 0,
  };

  // Asking the core

  async function ask(what, body = {}) {
    const answer = await fetch(what, {
      method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body),
    });
    const found = await answer.json();
    if (!answer.ok) throw Object.assign(new Error(found.mistake ?? "refused"), { found, status: answer.status });
    return found;
  }

  const pending = () => [...S.changes.values()];

  // One at a time: a row of questions would keep the last one waiting.
  async function refresh(ways = false) {
    S.again = S.asking;
    if (S.asking) return;
    S.asking = true;
    const number = ++S.asked;
    let isRest = ways;
    try {
      const scene = await ask("scene", { backdrop: S.backdrop, changes: pending(), ways });
      if (number === S.asked) take(scene, ways);
      isRest ||= number !== S.asked || scene.verdicts.every((one) => one.state === "holds");
    } catch (error) {
      isRest = true;
      if (number === S.asked) tell(error.message);
    }
    S.asking = false;
    if (S.again || !isRest) refresh(!S.again);
  }

  function take(scene, ways) {
    if (!S.changes.size) S.seen = scene.digest;
    S.scene = scene;
    parts.main.inert = false;
    tell("");
    if (ways || isBusy()) {
      drawSource();
      if (!S.screens.take(scene) && !S.held) showRight();
    } else show();
  }

  function askSoon(wait = RESTS) {
    clearTimeout(S.timer);
    S.asked += 1; // what is under way is out of date
    S.timer = setTimeout(() => refresh(), wait);
  }

  // One after the other: what one has written is no change of an editor's to the next.
  const save = () => (S.saved = saved(S.saved));

  async function saved(before) {
    await before;
    const changes = pending();
    if (!changes.length) return;
    clearTimeout(S.timer);
    try {
      written(await ask("save", { changes, seen: S.seen }), "Saved");
      for (const one of changes) {
        if (S.changes.get(placeOf(one)) === one) S.changes.delete(placeOf(one));
      }
      await refresh();
    } catch (error) {
      if (error.status === 409) conflict(error.found);
      else tell(error.message, [["Leave it", dropChanges]]);
    }
  }

  function written(told, word) {
    S.seen = told.digest;
    Object.assign(S.state, told);
    const line = told.lines.length ? `, line ${told.lines[0]}: ` : "";
    S.said = [`${word} ${S.state.file}${line}`, (told.texts[0] ?? "").trim()];
    showBar();
    if (told.kept) tell(`An editor saved too; its text: ${told.kept}`);
  }

  function conflict({ theirs, digest }) {
    const keys = theirs.map((one) => one.place[2]).join(", ");
    tell(`${S.state.file} was changed in an editor meanwhile: ${keys}. Nothing is written.`, [
      ["Keep this", () => { S.seen = digest; save(); }],
      ["Take the file's", dropChanges],
    ]);
  }

  function dropChanges() {
    S.changes.clear();
    refresh();
  }

  async function goBack(what) {
    S.changes.clear();
    try {
      written(await ask(what), "Back in");
      await reload();
    } catch (error) {
      tell(error.message);
    }
  }

  async function reload() {
    S.state = await ask("state");
    if (!S.state.backdrops.some((one) => one.name === S.backdrop)) S.backdrop = S.state.backdrops[0].name;
    if (S.at && !S.state.breakpoints.includes(S.at)) S.at = "";
    await refresh();
  }

  async function listen() {
    for (;;) {
      try {
        const { number, mistake } = await ask("news", { number: S.news });
        if (number === S.news) continue;
        S.news = number;
        if (mistake) {
          tell(mistake);
          continue;
        }
        S.drafts = await ask("drafts");
        if (!S.changes.size) await reload();
      } catch (error) {
        tell(error.status ? error.message : "bright-canvas adjust has ended: start it again.");
        await new Promise((done) => { setTimeout(done, 2000); });
      }
    }
  }

  // Changes

  const placeOf = (one) => JSON.stringify([one.backdrop, one.breakpoint, one.key]);
  const widest = () => S.state.breakpoints.at(-1);

  // Where a key is written that is changed for a breakpoint: the widest one's are the backdrop's.
  function targetOf(key, at) {
    if (at && at !== widest()) return at;
    return S.scene.written[widest()][key][1] === widest() ? widest() : "";
  }

  // The breakpoints that a change flows down to.
  function reached(key, target) {
    const names = S.state.breakpoints, from = target ? names.indexOf(target) : names.length - 1;
    return names.slice(0, from + 1).filter((name) => {
      const origin = S.scene.written[name][key][1];
      return name === target || !origin || names.indexOf(origin) >= from;
    });
  }

  function change(key, value, at, wait) {
    const target = targetOf(key, at);
    const one = { backdrop: S.backdrop, breakpoint: target, key, value };
    S.changes.set(placeOf(one), one);
    for (const name of reached(key, target)) S.scene.written[name][key] = [value, target];
    askSoon(wait);
  }

  const valueOf = (key, at = S.at) => S.scene.written[at || widest()][key][0];
  const originOf = (key, at = S.at) => S.scene.written[at || widest()][key][1];
  const viewsOf = (at = S.at) => S.scene.views.filter((one) => one.breakpoint === (at || widest()));

  function drop(key) {
    change(key, null, S.at);
    save();
  }

  // Subjects

  const asBoxes = (subject) => (subject?.boxes ?? (subject?.box ? [subject.box]
    : subject?.point ? [[...subject.point, ...subject.point]] : []));

  const marginOf = () => valueOf("subject")?.margin ?? 0;

  function setSubjects(boxes, margin, isLast) {
    const rest = margin ? { margin } : {};
    const isPoint = boxes.length === 1 && boxes[0][0] === boxes[0][2] && boxes[0][1] === boxes[0][3];
    const value = !boxes.length ? null : isPoint ? { point: boxes[0].slice(0, 2), ...rest }
      : boxes.length === 1 ? { box: boxes[0], ...rest } : { boxes, ...rest };
    change("subject", value, S.at);
    const names = reached("subject", targetOf("subject", S.at));
    follow((view) => names.includes(view.breakpoint), (view) => {
      const { size, order } = view.picture, [width, height] = size;
      view.picture.subjects = boxes.map(([l, t, r, b]) => [l * width, t * height, r * width, b * height]);
      if (!order) return;
      const middle = [width / 2, height / 2, width / 2, height / 2];
      order.subjects = boxes.length ? view.picture.subjects : [middle];
      order.margin = margin * Math.min(width, height);
    });
    if (isLast) save();
  }

  function setCopy(view, box, isLast) {
    const at = view.breakpoint, before = valueOf("copy", at);
    if (before?.measured) return;
    change("copy", { ...(before ?? { colour: "white", size: 32 }), box }, at);
    const names = reached("copy", targetOf("copy", at));
    follow((one) => names.includes(one.breakpoint) && one.copy, (one) => {
      one.copy.box = box;
      const order = one.picture?.order, still = 1 - (order?.drifts ?? 0);
      if (order?.copy) order.copy = [box[0], box[1] * still, box[2], box[3] * still + 1 - still];
    });
    if (isLast) save();
  }

  // Everything that can follow by geometry alone follows before the next frame.
  function follow(concerns, apply) {
    for (const view of S.scene.views) {
      if (!concerns(view) || !view.picture) continue;
      apply(view);
      view.isMoved = Boolean(view.picture.order);
    }
    if (S.frame) return;
    S.frame = requestAnimationFrame(() => {
      S.frame = 0;
      drawSource();
      S.screens.draw();
    });
  }

  // Drawing

  const parts = {};

  function tell(says, ways = []) {
    if (!parts.told) return;
    parts.told.hidden = !says;
    parts.told.replaceChildren(make("span", {}, says), ...ways.map((way) => button(...way)));
  }

  function build() {
    parts.tabs = make("nav", { class: "tabs", "aria-label": "Backdrops" });
    parts.undo = button("Undo", () => goBack("undo"));
    parts.redo = button("Redo", () => goBack("redo"));
    parts.said = make("span", { class: "said", role: "status" });
    parts.told = make("div", { class: "told", role: "alert", hidden: true });
    parts.left = make("section", { class: "left", "aria-label": "Source and settings" });
    parts.right = make("section", { class: "right", "aria-label": "Screens" });
    const title = make("h1", {}, S.state.title || S.state.file);
    document.body.append(
      make("header", { class: "bar" }, title, parts.tabs,
        row(parts.undo, parts.redo), parts.said),
      parts.told, parts.main = make("main", { class: "bench" }, parts.left, parts.right));
    document.addEventListener("pointerdown", () => { S.held = true; }, true);
    for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, () => { S.held = false; }, true);
    document.addEventListener("keydown", (event) => {
      const isTyped = ["text", "number"].includes(event.target.type);
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || isTyped) return;
      event.preventDefault();
      goBack(event.shiftKey ? "redo" : "undo");
    });
  }

  function showBar() {
    parts.tabs.replaceChildren(...S.state.backdrops.map((one) => button(one.name, () => {
      S.changes.clear();
      S.backdrop = one.name;
      S.hint = null;
      parts.main.inert = true; // what it shows is another one's
      refresh();
    }, { "aria-pressed": one.name === S.backdrop })));
    parts.undo.disabled = !S.state.undo;
    parts.redo.disabled = !S.state.redo;
    const [says, line] = S.said ?? [`${S.state.file}: written as you let go`, ""];
    parts.said.replaceChildren(says, line ? make("code", {}, line) : "");
    parts.said.title = `${says}${line}`;
  }

  // Nothing is built anew under somebody's hand.
  const isBusy = () => S.held || ["text", "number"].includes(document.activeElement?.type);

  const focusable = () => [...document.querySelectorAll("main :is(button, input, select, [tabindex])")];

  function show() {
    const kept = focusable().indexOf(document.activeElement), scrolled = parts.left.scrollTop;
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
      ...[...S.state.breakpoints].reverse().map((name) => button(
        name === widest() ? `${name} and all below` : name,
        () => { S.at = name === widest() ? "" : name; show(); },
        { "aria-pressed": (S.at || widest()) === name })));
    const open = new Set([...parts.left.querySelectorAll("details[open]")].map((one) => one.id));
    parts.left.replaceChildren(
      choice, sourceCard(), showsCard(), copyCard(open), toneCard(open), boxCard(open));
  }

  function sourceCard() {
    const view = lead(), picture = view?.picture;
    if (!picture?.covers) return card(note(picture ? "All of it is shown." : "The colour alone."));
    const subject = valueOf("subject");
    parts.source = make("div", { class: "source" }, make("div", { class: "picture" }));
    parts.source.style.aspectRatio = `${picture.size[0]} / ${picture.size[1]}`;
    parts.numbers = make("div", { class: "row" });
    drawSource();
    const boxes = asBoxes(subject);
    return card(parts.source, row(
      heading("Must stay in view"), from("subject"),
      button("Suggest", suggest, {}),
      button(boxes.length ? "One more box" : "Draw a box", () => addBox(boxes)),
      boxes.length ? button("Remove", () => setSubjects(boxes.slice(0, -1), marginOf(), true)) : null,
    ), parts.numbers, boxes.length ? slider("Margin", marginOf(), 0, 0.2, 0.01,
      (value, isLast) => setSubjects(asBoxes(valueOf("subject")), value, isLast), percent) : null,
    picture.seconds ? stillsPart(view) : null);
  }

  function addBox(boxes) {
    setSubjects([...boxes, [0.4, 0.4, 0.6, 0.6]].slice(0, 6), marginOf(), true);
  }

  async function suggest() {
    S.hint = await ask("suggest", { backdrop: S.backdrop, view: lead().name }).catch(() => null);
    if (!S.hint) tell("Nothing stands out.");
    drawSource();
  }

  function suggestion({ box, confidence }) {
    const shown = make("div", { class: "subject hint" });
    put(shown, box);
    parts.source.append(shown);
    const answer = (does) => () => { S.hint = null; does(); };
    parts.numbers.replaceChildren(hint(`${percent(confidence)} sure`),
      button("Take it", answer(() => setSubjects([box], marginOf(), true))),
      button("Leave it", answer(drawSource)));
  }

  function drawSource() {
    const picture = lead()?.picture;
    if (!picture?.covers) return;
    showLook(parts.source.firstChild, picture.look);
    const boxes = asBoxes(valueOf("subject")), margin = marginOf();
    for (const one of parts.source.querySelectorAll(".cutline, .hint")) one.remove();
    outlineCuts(parts.source, viewsOf());
    const there = [...parts.source.querySelectorAll(".subject")];
    boxes.forEach((area, n) => {
      const one = there[n] ?? subjectBox(n);
      const shorter = margin && (Math.min(parts.source.clientWidth, parts.source.clientHeight) || 300);
      one.style.setProperty("--room", Math.round(margin * shorter));
      put(one, area);
      const said = area.map((edge) => `${(edge * 100).toFixed(1)} %`);
      one.setAttribute("aria-label",
        `Subject ${n + 1}: left ${said[0]}, top ${said[1]}, right ${said[2]}, bottom ${said[3]}`);
      if (!there[n]) parts.source.append(one); // who is moved about loses the focus
    });
    there.slice(boxes.length).forEach((one) => one.remove());
    if (S.hint) suggestion(S.hint);
    else drawNumbers(boxes);
  }

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

  const input = (says, type, value, changed, more) => make("label", {}, `${says} `,
    make("input", { type, value, onchange: (event) => changed(event.target.value, event.target), ...more }));

  function numbers(area, what, changed) {
    return ["left", "top", "right", "bottom"].map((edge, n) =>
      input(edge, "number", (area[n] * 100).toFixed(1), (value) => {
        const wanted = area.with(n, geometry.clamp(Number(value) / 100, 0, 1));
        if (wanted[0] <= wanted[2] && wanted[1] <= wanted[3]) changed(wanted);
      }, { min: "0", max: "100", step: "0.1", "aria-label": `${what}: ${edge}, percent` }));
  }

  // A word about where a value comes from; its own one can be taken out.
  function from(key) {
    const origin = originOf(key), own = origin === targetOf(key, S.at) && origin !== null;
    if (own && S.at) {
      return button("as above again", () => drop(key), { class: "plain" });
    }
    const says = origin === null ? "nothing written" : origin === "" ? (S.at ? "flows down" : "written")
      : own ? "own" : `from ${origin}`;
    return make("span", { class: `from${own ? " own" : ""}` }, says);
  }

  function select(says, value, options, changed) {
    const one = make("select", { "aria-label": says, onchange: () => changed(one.value) },
      ...options.map((one) => [one].flat()).map(([word, told = word]) => make("option", { value: word }, told)));
    one.value = value;
    return make("label", { class: "field" }, make("span", {}, says), one, make("span", {}));
  }

  const set = (key, value, isLast = true) => {
    change(key, value, S.at);
    if (isLast) save();
  };

  // Four choices: this picture, another one, the colour alone, the clip

  function showsCard() {
    const plain = valueOf("plain"), source = valueOf("source"), closeness = valueOf("closeness") ?? "wide";
    const ways = [["picture", "A picture"], ["plain", "The colour alone"]];
    if (S.scene.plays) ways.splice(1, 0, ["clip", "The clip"]);
    const moving = S.scene.plays && !plain && valueOf("moving") !== false;
    const now = plain ? "plain" : moving ? "clip" : "picture";
    const chosen = (way) => {
      if (S.scene.plays) change("moving", way === "clip" ? null : way === "plain" ? valueOf("moving") : false, S.at);
      set("plain", way === "plain" ? true : plain ? false : null);
    };
    return card(row(
      heading("Shows"), make("div", { class: "choice" }, ...ways.map(([way, says]) =>
        button(says, () => chosen(way), { "aria-pressed": way === now }))),
      from("plain")),
    plain || !source ? null : select("Picture", source, [...new Set([source, ...S.state.sources])],
      (value) => set("source", value)),
    plain ? null : select("Cut", closeness, [
      ["wide", "widest"], "halfway", "close",
    ], (value) => set("closeness", value)));
  }

  function stillsPart(view) {
    const { seconds, second } = view.picture;
    const list = make("div", { class: "stills" });
    ask("stills", { backdrop: S.backdrop, view: view.name }).then((found) => {
      list.replaceChildren(...found.map((one) => button("", () => set("poster_at", round2(one.second)), {
        "aria-pressed": Math.abs(one.second - second) < 0.02, title: `${one.second.toFixed(2)} s`,
      })));
      [...list.children].forEach((one, n) =>
        one.append(make("img", { src: `look/${found[n].look}`, alt: `still at ${found[n].second.toFixed(2)} s` })));
    }).catch((error) => tell(error.message));
    const at = slider("Still at", second ?? 0, 0, Math.max(seconds - 0.05, 0), 0.04, (value, isLast) => {
      clearTimeout(S.framing);
      S.framing = setTimeout(async () => {
        const found = await ask("frame", { backdrop: S.backdrop, view: view.name, second: value });
        showLook(parts.source.firstChild, found.look);
        if (isLast) set("poster_at", round2(value));
      }, RESTS);
    }, (value) => `${value.toFixed(2)} s`);
    return make("div", { class: "in" }, heading("Stills"), list, at);
  }

  const round2 = (value) => Math.round(value * 100) / 100;

  function folded(id, open, says, ...inside) {
    return make("details", { class: "card", id, open: open.has(id) },
      make("summary", {}, says), make("div", { class: "in" }, ...inside));
  }

  function copyCard(open) {
    const copy = valueOf("copy");
    if (!copy) {
      return card(row(heading("Copy"),
        button("Add copy", () => set("copy", { box: [0.06, 0.3, 0.5, 0.7], colour: "white", size: 32 }))));
    }
    const put = (more) => set("copy", { ...copy, ...more });
    const scrim = valueOf("scrim"), found = viewsOf().find((one) => one.spot);
    const strength = scrim?.strength ?? found?.scrim?.strength ?? 0;
    const withScrim = (more) => {
      const { colour, side, lines, baked } = scrim ?? {};
      return JSON.parse(JSON.stringify({ ...more, colour, side, lines, baked }));
    };
    const contrast = found ? Math.min(found.spot.contrast, found.spot.plain) : null;
    const isLow = found && contrast < found.spot.wanted;
    open.add("copy");
    return folded("copy", open, "Copy, scrim",
      found ? make("p", { class: `verdict ${isLow ? "bad" : "good"}` },
        `Contrast ${contrast.toFixed(2)}, ${found.spot.wanted} wanted`) : null,
      copy.measured ? heading("Measured") : row(...numbers(copy.box, "Copy", (box) => put({ box })), from("copy")),
      copy.measured ? null : row(
        input("Colour", "text", copy.colour ?? "", (colour) => put({ colour })),
        input("Size px", "number", `${copy.size ?? 16}`, (size) => put({ size: Number(size) })),
        input("off the subject", "checkbox", "", (_, { checked }) => put({ clear_of_subject: checked }),
          { checked: Boolean(copy.clear_of_subject) })),
      slider("Scrim", strength, 0, 0.95, 0.01, (value, isLast) =>
        set("scrim", value ? withScrim({ strength: value }) : null, isLast), percent),
      row(
        button("Least that does", () => set("scrim", withScrim({ least: true })),
          { "aria-pressed": Boolean(scrim?.least) }), from("scrim")),
      select("Scrim at", scrim?.side ?? "", [["", "everywhere"], "left", "right", "top", "bottom"],
        (value) => set("scrim", { ...withScrim(scrim?.least ? { least: true } : { strength: strength || 0.4 }), side: value || undefined })));
  }

  const TONES = [
    ["darken", "Darken"], ["lighten", "Lighten"], ["calm", "Calm"], ["desaturate", "Less colour"], ["soften", "Soften", 30, 0.5],
  ];

  function toneCard(open) {
    const tone = valueOf("tone") ?? {};
    return folded("tone", open, "Tone", from("tone"), ...TONES.map(([key, says, most = 1, step = 0.01]) =>
      slider(says, tone[key] ?? 0, 0, most, step, (value, isLast) => {
        const { [key]: _, ...rest } = valueOf("tone") ?? {};
        const changed = value ? { ...rest, [key]: value } : rest;
        set("tone", Object.keys(changed).length ? changed : null, isLast);
      }, most > 1 ? (value) => `${value} px` : percent)));
  }

  function boxCard(open) {
    const line = (key, says, hint) => make("label", { class: "field" }, make("span", {}, says), make("input", {
      type: "text", value: valueOf(key) ?? "", placeholder: hint, spellcheck: false,
      oninput: (event) => change(key, event.target.value.trim() || null, S.at, TYPED),
      onchange: () => save(),
    }), from(key));
    return folded("box", open, "Height and padding",
      line("height", "Height", "60svh"), line("padding", "Padding", "the page's own"));
  }

  // The screens

  function showRight() {
    S.screens?.close();
    const offered = (changes) => {
      for (const one of changes) S.changes.set(placeOf(one), one);
      save().then(reload);
    };
    S.screens = new Screens(S.scene, S, { copyMoved: setCopy, offered });
    parts.right.replaceChildren(
      make("div", { class: "first" }, S.screens.wideCard(), S.screens.proofCard()),
      S.screens.loadsCard(), ...S.screens.parts());
  }

  // The page

  async function begin() {
    S.state = await ask("state");
    S.backdrop = S.state.backdrops[0].name;
    build();
    showBar();
    await refresh();
    listen();
  }

  begin().catch((error) => document.body.append(make("p", { class: "told" }, error.message)));
})();
