// The page: what is pointed at becomes changes of the brief; what they come to is asked of the core.
"use strict";

(() => {
  const { Tile, make, put, kilo, percents, drags, showLook } = tiles;
  const RESTS = 40, TYPED = 350; // milliseconds until the core is asked
  const frozen = document.body.dataset.frozen
    ? JSON.parse(document.getElementById("facts").textContent) : null;
  const S = {
    state: null, scene: null, backdrop: "", at: "", changes: new Map(), drafts: {}, news: 0,
    compare: null, marks: true, asked: 0, timer: 0, lastProof: 0,
  };
  const timings = { pointer: [], proof: [], draft: [] };
  globalThis.adjustTimings = timings;

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

  async function refresh() {
    const number = ++S.asked, began = performance.now();
    try {
      const scene = await ask("scene", { backdrop: S.backdrop, changes: pending() });
      if (number !== S.asked) return;
      S.scene = scene;
      tell("");
      show();
      if (S.lastProof) timings.proof.push(performance.now() - began);
      S.lastProof = performance.now();
    } catch (error) {
      if (number === S.asked) tell(error.message);
    }
  }

  function askSoon(wait = RESTS) {
    clearTimeout(S.timer);
    S.asked += 1; // what is under way is out of date
    S.timer = setTimeout(refresh, wait);
  }

  async function save() {
    const changes = pending();
    if (!changes.length) return;
    clearTimeout(S.timer);
    try {
      written(await ask("save", { changes, seen: S.scene.seen }), "Saved");
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
    S.scene.seen = told.digest;
    S.saved = performance.now();
    Object.assign(S.state, { undo: told.undo, redo: told.redo });
    const line = told.lines.length ? `, line ${told.lines[0]}: ` : "";
    S.said = [`${word} ${S.state.file}${line}`, (told.texts[0] ?? "").trim()];
    showBar();
  }

  function conflict({ theirs, digest }) {
    const keys = theirs.map((one) => one.place[2]).join(", ");
    tell(`${S.state.file} was changed in an editor meanwhile: ${keys}. Nothing is written yet.`, [
      ["Keep what is here", () => { S.scene.seen = digest; tell(""); save(); }],
      ["Take what the file says", dropChanges],
    ]);
  }

  function dropChanges() {
    S.changes.clear();
    tell("");
    refresh();
  }

  async function goBack(what) {
    S.changes.clear();
    try {
      written(await ask(what), what === "undo" ? "Undone in" : "Done again in");
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
        if (S.saved) timings.draft.push(performance.now() - S.saved);
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

  function setSubjects(boxes, margin, isLast, stamp) {
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
    }, stamp);
    if (isLast) save();
  }

  function setCopy(view, box, isLast, stamp) {
    const at = view.breakpoint;
    change("copy", { ...(valueOf("copy", at) ?? { colour: "white", size: 32 }), box }, at);
    const names = reached("copy", targetOf("copy", at));
    follow((one) => names.includes(one.breakpoint) && one.copy, (one) => {
      one.copy.box = box;
      const order = one.picture?.order, still = 1 - (order?.drifts ?? 0);
      if (order?.copy) order.copy = [box[0], box[1] * still, box[2], box[3] * still + 1 - still];
    }, stamp);
    if (isLast) save();
  }

  // Everything that can follow by geometry alone follows before the next frame.
  function follow(concerns, apply, stamp) {
    for (const view of S.scene.views) {
      if (!concerns(view) || !view.picture) continue;
      apply(view);
      if (view.picture.order) {
        const framed = geometry.frame(view.picture.order);
        view.framed = framed;
        view.picture.cut = framed.area;
        view.picture.position = framed.position;
      }
    }
    if (S.frame) return;
    S.frame = requestAnimationFrame(() => {
      S.frame = 0;
      drawSource();
      for (const one of S.tiles) {
        if (one.isSeen) drawTile(one);
        else one.isStale = true;
      }
      drawWide();
      if (stamp) {
        void document.body.offsetHeight; // styles and layout belong to what is measured
        timings.pointer.push(performance.now() - stamp);
      }
    });
  }

  // Drawing

  const parts = {};

  function tell(says, ways = []) {
    if (!parts.told) return;
    parts.told.hidden = !says;
    parts.told.replaceChildren(make("span", {}, says), ...ways.map(([word, does]) =>
      make("button", { type: "button", onclick: does }, word)));
  }

  function button(says, does, more = {}) {
    return make("button", { type: "button", onclick: does, ...more }, says);
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
        make("div", { class: "row" }, parts.undo, parts.redo), parts.said),
      parts.told, make("main", { class: "bench" }, parts.left, parts.right));
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
      S.scene = null;
      refresh();
    }, { "aria-pressed": String(one.name === S.backdrop) })));
    parts.undo.disabled = !S.state.undo;
    parts.redo.disabled = !S.state.redo;
    const [says, line] = S.said ?? [`${S.state.file}: what is done here is written into it`, ""];
    parts.said.replaceChildren(says, line ? make("code", {}, line) : "");
    parts.said.title = `${says}${line}`;
  }

  function show() {
    S.scene.seen ??= S.state.digest;
    if (!S.changes.size) S.scene.seen = S.scene.digest;
    const kept = document.activeElement?.dataset?.keeps, scrolled = parts.left.scrollTop;
    showBar();
    showLeft();
    showRight();
    parts.left.scrollTop = scrolled;
    if (kept) document.querySelector(`[data-keeps="${kept}"]`)?.focus({ preventScroll: true });
  }

  // The source, and what is set

  const lead = () => viewsOf().find((one) => one.picture) ?? viewsOf()[0];

  function showLeft() {
    const choice = make("div", { class: "choice", role: "group", "aria-label": "Adjust for" },
      ...[...S.state.breakpoints].reverse().map((name) => button(
        name === widest() ? `${name} and all below` : name,
        () => { S.at = name === widest() ? "" : name; show(); },
        { "aria-pressed": String((S.at || widest()) === name), "data-keeps": `at ${name}` })));
    const open = new Set([...parts.left.querySelectorAll("details[open]")].map((one) => one.id));
    parts.left.replaceChildren(
      choice, sourceCard(), showsCard(), copyCard(open), toneCard(open), boxCard(open));
  }

  function sourceCard() {
    const view = lead(), picture = view?.picture;
    if (!picture) return make("div", { class: "card" }, make("p", { class: "note" }, "The colour alone is shown here."));
    if (!picture.covers) return make("div", { class: "card" }, make("p", { class: "note" }, "All of the picture is shown, and nothing cut off."));
    const subject = valueOf("subject");
    parts.source = make("div", { class: "source" }, make("div", { class: "picture" }));
    parts.source.style.aspectRatio = `${picture.size[0]} / ${picture.size[1]}`;
    parts.numbers = make("div", { class: "row" });
    drawSource();
    const boxes = asBoxes(subject);
    return make("div", { class: "card" }, parts.source, make("div", { class: "row" },
      make("h2", {}, "What must stay in view"), from("subject"),
      button("Suggest", suggest, { "data-keeps": "suggest" }),
      button(boxes.length ? "One more box" : "Draw a box", () => addBox(boxes)),
      boxes.length ? button("Remove", () => setSubjects(boxes.slice(0, -1), subject?.margin ?? 0, true)) : null,
    ), parts.numbers, boxes.length ? slider("margin", "Margin", subject?.margin ?? 0, 0, 0.2, 0.01,
      (value, isLast) => setSubjects(asBoxes(valueOf("subject")), value, isLast), percent) : null,
    picture.seconds ? stillsPart(view) : null);
  }

  function addBox(boxes) {
    setSubjects([...boxes, [0.4, 0.4, 0.6, 0.6]].slice(0, 6), valueOf("subject")?.margin ?? 0, true);
  }

  async function suggest() {
    const found = await ask("suggest", { backdrop: S.backdrop, view: lead().name }).catch(() => null);
    if (!found) {
      tell("Nothing stands out in this picture.", [["Well", () => tell("")]]);
      return;
    }
    const hint = make("div", { class: "subject hint" });
    put(hint, found.box);
    parts.source.append(hint);
    parts.numbers.replaceChildren(
      make("span", { class: "note" }, `A suggestion, ${Math.round(found.confidence * 100)} % sure`),
      button("Take it", () => setSubjects([found.box], valueOf("subject")?.margin ?? 0, true)),
      button("Leave it", () => drawSource()));
  }

  function drawSource() {
    const picture = lead()?.picture;
    if (!picture?.covers) return;
    showLook(parts.source.firstChild, picture.look);
    const boxes = asBoxes(valueOf("subject")), margin = valueOf("subject")?.margin ?? 0;
    for (const one of parts.source.querySelectorAll(".cutline, .hint")) one.remove();
    for (const one of viewsOf()) {
      if (!one.picture?.covers) continue;
      const line = make("div", { class: "cutline" });
      put(line, percents(one.picture.cut, picture.size));
      parts.source.append(line);
    }
    const there = [...parts.source.querySelectorAll(".subject")];
    boxes.forEach((area, n) => {
      const one = there[n] ?? subjectBox(n);
      const shorter = Math.min(parts.source.clientWidth, parts.source.clientHeight) || 300;
      one.style.setProperty("--room", Math.round(margin * shorter));
      put(one, area);
      const said = area.map((edge) => `${(edge * 100).toFixed(1)} %`);
      one.setAttribute("aria-label",
        `Subject ${n + 1}: left ${said[0]}, top ${said[1]}, right ${said[2]}, bottom ${said[3]}`);
      if (!there[n]) parts.source.append(one); // who is moved about loses the focus
    });
    there.slice(boxes.length).forEach((one) => one.remove());
    drawNumbers(boxes, margin);
  }

  function subjectBox(n) {
    const corner = make("i", { class: "corner" });
    const one = make("div", {
      class: "subject", role: "group", tabindex: "0", "data-keeps": `subject ${n}`,
      "aria-description": "Arrow keys move it, with Shift they resize it, with Alt in finer steps",
    }, corner);
    drags(one, {
      area: () => asBoxes(valueOf("subject"))[n],
      frame: () => parts.source.getBoundingClientRect(),
      isCorner: (target) => target === corner,
      moved: (area, isLast, stamp) => {
        const boxes = asBoxes(valueOf("subject")).map((box, m) => (m === n ? area : box));
        setSubjects(boxes, valueOf("subject")?.margin ?? 0, isLast, stamp);
      },
    });
    return one;
  }

  function drawNumbers(boxes, margin) {
    if (parts.numbers.contains(document.activeElement)) return;
    const area = boxes[0];
    parts.numbers.replaceChildren(...(area ? numbers(area, "Subject", (changed) =>
      setSubjects([changed, ...boxes.slice(1)], margin, true)) : [
      make("p", { class: "note" }, "Nothing is named, so the middle of the picture is kept.")]));
  }

  function numbers(area, what, changed) {
    return ["left", "top", "right", "bottom"].map((edge, n) => make("label", {}, `${edge} `,
      make("input", {
        type: "number", min: "0", max: "100", step: "0.1", value: (area[n] * 100).toFixed(1),
        "aria-label": `${what}: ${edge}, percent`, "data-keeps": `${what} ${edge}`,
        onchange: (event) => {
          const wanted = area.with(n, geometry.clamp(Number(event.target.value) / 100, 0, 1));
          if (wanted[0] <= wanted[2] && wanted[1] <= wanted[3]) changed(wanted);
        },
      })));
  }

  // A word about where a value comes from; its own one can be taken out.
  function from(key) {
    const origin = originOf(key), own = origin === targetOf(key, S.at) && origin !== null;
    if (own && S.at) {
      return button("as above again", () => drop(key), { class: "plain", title: `take '${key}' out` });
    }
    const says = origin === null ? "nothing written" : origin === "" ? (S.at ? "flows down" : "written")
      : own ? "own" : `from ${origin}`;
    return make("span", { class: `from${own ? " own" : ""}` }, says);
  }

  const percent = (value) => `${Math.round(value * 100)} %`;

  function slider(keeps, says, value, min, max, step, changed, told) {
    const output = make("output", {}, told(value));
    const input = make("input", {
      type: "range", min: String(min), max: String(max), step: String(step), value: String(value),
      "data-keeps": keeps, "aria-label": says,
      oninput: () => { output.textContent = told(Number(input.value)); changed(Number(input.value), false); },
      onchange: () => changed(Number(input.value), true),
    });
    return make("label", { class: "field" }, make("span", {}, says), input, output);
  }

  function select(keeps, says, value, options, changed) {
    const one = make("select", { "data-keeps": keeps, "aria-label": says, onchange: () => changed(one.value) },
      ...options.map(([word, told]) => make("option", { value: word }, told)));
    one.value = value;
    return make("label", { class: "field" }, make("span", {}, says), one, make("span", {}));
  }

  const sliding = (key, value, isLast) => {
    change(key, value, S.at);
    if (isLast) save();
  };

  const set = (key, value) => {
    change(key, value, S.at);
    save();
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
    const another = S.state.sources.includes(source) || !source ? S.state.sources : [source, ...S.state.sources];
    return make("div", { class: "card" }, make("div", { class: "row" },
      make("h2", {}, "Shows"), make("div", { class: "choice" }, ...ways.map(([way, says]) =>
        button(says, () => chosen(way), { "aria-pressed": String(way === now), "data-keeps": `shows ${way}` }))),
      from("plain")),
    plain || !source ? null : select("source", "Picture", source, another.map((one) => [one, one]),
      (value) => set("source", value)),
    plain ? null : select("closeness", "Cut", closeness, [
      ["wide", "as much of the scene as can be"], ["halfway", "halfway"], ["close", "close to the subject"],
    ], (value) => set("closeness", value)));
  }

  function stillsPart(view) {
    const { seconds, second } = view.picture;
    const list = make("div", { class: "stills" });
    ask("stills", { backdrop: S.backdrop, view: view.name }).then((found) => {
      list.replaceChildren(...found.map((one) => button("", () => set("poster_at", round2(one.second)), {
        "aria-pressed": String(Math.abs(one.second - second) < 0.02), title: `${one.second.toFixed(2)} s`,
      })));
      [...list.children].forEach((one, n) =>
        one.append(make("img", { src: `look/${found[n].look}`, alt: `still at ${found[n].second.toFixed(2)} s` })));
    }).catch((error) => tell(error.message));
    const at = slider("poster", "Still at", second ?? 0, 0, Math.max(seconds - 0.05, 0), 0.04, (value, isLast) => {
      clearTimeout(S.framing);
      S.framing = setTimeout(async () => {
        const found = await ask("frame", { backdrop: S.backdrop, view: view.name, second: value });
        showLook(parts.source.firstChild, found.look);
        if (isLast) set("poster_at", round2(value));
      }, RESTS);
    }, (value) => `${value.toFixed(2)} s`);
    return make("div", { class: "in" }, make("h3", {}, "Stills of the clip"), list, at);
  }

  const round2 = (value) => Math.round(value * 100) / 100;

  function folded(id, open, says, ...inside) {
    return make("details", { class: "card", id, open: open.has(id) },
      make("summary", {}, says), make("div", { class: "in" }, ...inside));
  }

  function copyCard(open) {
    const copy = valueOf("copy");
    if (!copy) {
      return make("div", { class: "card" }, make("div", { class: "row" }, make("h2", {}, "Copy"),
        button("There is copy on it", () => set("copy", { box: [0.06, 0.3, 0.5, 0.7], colour: "white", size: 32 }))));
    }
    const put_ = (more) => set("copy", { ...copy, ...more });
    const scrim = valueOf("scrim"), found = viewsOf().find((one) => one.spot);
    const strength = scrim?.strength ?? found?.scrim?.strength ?? 0;
    const withScrim = (more) => {
      const { colour, side, lines, baked } = scrim ?? {};
      return JSON.parse(JSON.stringify({ ...more, colour, side, lines, baked }));
    };
    const contrast = found ? Math.min(found.spot.contrast, found.spot.plain) : null;
    const isLow = found && contrast < found.spot.wanted;
    open.add("copy");
    return folded("copy", open, "Copy and scrim",
      found ? make("p", { class: `verdict ${isLow ? "bad" : "good"}` },
        `Lowest contrast ${contrast.toFixed(2)}:1, ${found.spot.wanted}:1 is wanted`) : null,
      make("div", { class: "row" }, ...numbers(copy.box, "Copy", (box) => put_({ box })), from("copy")),
      make("div", { class: "row" },
        make("label", {}, "Colour ", make("input", {
          type: "text", size: "9", value: copy.colour ?? "", "data-keeps": "copy colour",
          onchange: (event) => put_({ colour: event.target.value }),
        })),
        make("label", {}, "Size ", make("input", {
          type: "number", min: "8", max: "300", value: String(copy.size ?? 16), "data-keeps": "copy size",
          onchange: (event) => put_({ size: Number(event.target.value) }),
        }), " px"),
        make("label", {}, make("input", {
          type: "checkbox", checked: Boolean(copy.clear_of_subject), "data-keeps": "copy clear",
          onchange: (event) => put_({ clear_of_subject: event.target.checked }),
        }), " never on the subject")),
      slider("scrim", "Scrim", strength, 0, 0.95, 0.01, (value, isLast) =>
        sliding("scrim", value ? withScrim({ strength: value }) : null, isLast), percent),
      make("div", { class: "row" },
        button("Least that does", () => set("scrim", withScrim({ least: true })),
          { "aria-pressed": String(Boolean(scrim?.least)), "data-keeps": "least" }),
        make("label", {}, "from ", side(scrim, (value) => set("scrim", {
          ...withScrim(scrim?.least ? { least: true } : { strength: strength || 0.4 }), ...value,
        }))), from("scrim")));
  }

  function side(scrim, changed) {
    const one = make("select", { "data-keeps": "scrim side", onchange: () => changed(one.value ? { side: one.value } : {}) },
      ...["", "left", "right", "top", "bottom"].map((word) => make("option", { value: word }, word || "everywhere")));
    one.value = scrim?.side ?? "";
    return one;
  }

  function toneCard(open) {
    const tone = valueOf("tone") ?? {};
    const put_ = (key) => (value, isLast) => {
      const { [key]: _, ...rest } = valueOf("tone") ?? {}, changed = value ? { ...rest, [key]: value } : rest;
      sliding("tone", Object.keys(changed).length ? changed : null, isLast);
    };
    const px = (value) => `${value} px`;
    return folded("tone", open, "Tone", from("tone"),
      slider("darken", "Darken", tone.darken ?? 0, 0, 1, 0.01, put_("darken"), percent),
      slider("lighten", "Lighten", tone.lighten ?? 0, 0, 1, 0.01, put_("lighten"), percent),
      slider("calm", "Calm", tone.calm ?? 0, 0, 1, 0.01, put_("calm"), percent),
      slider("desaturate", "Less colour", tone.desaturate ?? 0, 0, 1, 0.01, put_("desaturate"), percent),
      slider("soften", "Soften", tone.soften ?? 0, 0, 30, 0.5, put_("soften"), px));
  }

  function boxCard(open) {
    const line = (key, says, hint) => make("label", { class: "field" }, make("span", {}, says), make("input", {
      type: "text", value: valueOf(key) ?? "", placeholder: hint, "data-keeps": key, spellcheck: false,
      oninput: (event) => change(key, event.target.value.trim() || null, S.at, TYPED),
      onchange: () => save(),
    }), from(key));
    return folded("box", open, "Height and padding",
      line("height", "Height", "60svh"), line("padding", "Padding", "the page's own"));
  }

  // The screens

  function showRight() {
    S.tiles = [];
    seen.disconnect();
    const views = [...S.scene.views].reverse();
    parts.right.replaceChildren(
      make("div", { class: "first" }, wideCard(), proofCard(S.scene)), ...views.map(partOf), loadsCard(S.scene));
    parts.right.classList.toggle("unmarked", !S.marks);
  }

  // Only what is on the screen is drawn while something is dragged.
  const seen = new IntersectionObserver((entries) => {
    for (const entry of entries) {
      const one = S.tiles.find((each) => each.tile.root === entry.target);
      if (!one) continue;
      one.isSeen = entry.isIntersecting;
      if (one.isSeen && one.isStale) drawTile(one);
    }
  });

  function partOf(view) {
    const row = make("div", { class: "tiles" });
    const words = S.state.title || "Your copy stands here";
    const add = (window, says, marksSpot = false) => {
      const one = new Tile(window, { says, words, copyMoved: frozen ? null : (seen, box, isLast) => setCopy(seen, box, isLast) });
      one.marksSpot = marksSpot;
      S.tiles.push({ tile: one, part: view.name, scene: S.scene });
      row.append(one.root);
      seen.observe(one.root);
    };
    for (const one of merged(view.screens)) add([one.width, one.height], one.says);
    for (const one of view.worst) add(one.window, `${one.says}, ${one.window.join(" x ")}`);
    if (view.spot) add(view.spot.window, `lowest contrast ${view.spot.contrast.toFixed(2)}:1`, true);
    for (const one of S.tiles) if (one.part === view.name) drawTile(one);
    const edges = `${view.low || 320} ${view.high ? `to ${view.high}` : "and more"} px`;
    return make("section", { class: "part card" }, make("div", { class: "row" },
      make("h2", {}, view.name), make("span", { class: "note" }, edges), partVerdict(view)), row);
  }

  // Screens of one window differ in density only: one tile shows them all.
  function merged(screens) {
    const found = new Map();
    for (const one of screens) {
      const key = `${one.width} x ${one.height}`;
      const at = found.get(key) ?? { ...one, densities: [] };
      at.densities.push(`${one.density}x`);
      at.says = `${one.name}, ${key}, ${at.densities.join(" and ")}`;
      found.set(key, at);
    }
    return found.values();
  }

  function drawTile(drawn) {
    const { tile, part, scene } = drawn;
    const view = scene.views.find((one) => one.name === part);
    if (!view) return;
    drawn.isStale = false;
    const draft = S.drafts[scene.name]?.[part] ?? null;
    tile.draw(view, view.framed ?? null, frozen ? null : draft);
    const widestLook = scene.views.at(-1).picture?.look;
    tile.compare(S.compare, view.picture?.covers ? widestLook : null);
  }

  function partVerdict(view) {
    const broken = S.scene.verdicts.filter((one) => one.breakpoint === view.name && one.state === "broken");
    return make("span", { class: `verdict ${broken.length ? "bad" : "good"}` },
      broken.length ? `${broken.map((one) => one.promise).join(", ")}: broken` : "all promises hold");
  }

  const viewFor = (scene, [width, height]) => scene.views.find((one) =>
    one.low <= width && (one.high === null || width < one.high)
    && (!one.orientation || one.orientation === (width > height ? "landscape" : "portrait")));

  function wideCard() {
    const window = S.wide ?? [1280, 720];
    const tile = new Tile(window, { most: [430, 240], words: S.state.title || "Your copy stands here" });
    S.wideTile = { tile, scene: S.scene };
    const says = make("span", { class: "note" });
    const resized = (n) => (value) => {
      S.wide = tile.window = tile.window.with(n, value);
      drawWide();
    };
    const across = slider("wide width", "Width", window[0], 320, S.state.widest, 1, resized(0), (value) => `${value}`);
    const down = slider("wide height", "Height", window[1], 260, 1440, 1, resized(1), (value) => `${value}`);
    const grip = make("button", { class: "grip", type: "button", "aria-label": "Drag to resize the window" });
    S.wideTile.says = says;
    S.wideTile.grip = grip;
    tile.root.append(grip);
    gripped(grip, tile, [across, down]);
    const compare = slider("compare", "Source", S.compare ?? 0, 0, 1, 0.01, (value) => {
      S.compare = value || null;
      for (const one of S.tiles) drawTile(one);
      drawWide();
    }, (value) => (value ? percent(value) : "off"));
    const marks = make("label", {}, make("input", {
      type: "checkbox", checked: S.marks, "data-keeps": "marks",
      onchange: (event) => {
        S.marks = event.target.checked;
        parts.right.classList.toggle("unmarked", !S.marks);
      },
    }), " marks");
    drawWide();
    return make("section", { class: "card wide" }, make("div", { class: "row" },
      make("h2", {}, "Between the breakpoints"), says, marks), tile.root,
      make("div", { class: "sliders" }, across, down, compare));
  }

  function gripped(grip, tile, fields) {
    let held = null;
    grip.addEventListener("pointerdown", (event) => {
      grip.setPointerCapture(event.pointerId);
      held = { x: event.clientX, y: event.clientY, window: tile.window, scale: tile.scale };
    });
    grip.addEventListener("pointermove", (event) => {
      if (!held) return;
      const away = [event.clientX - held.x, event.clientY - held.y];
      const most = [S.state.widest, 1440], least = [320, 260];
      S.wide = tile.window = held.window.map((side, n) =>
        Math.round(geometry.clamp(side + away[n] / held.scale, least[n], most[n])));
      fields.forEach((one, n) => {
        one.querySelector("input").value = tile.window[n];
        one.querySelector("output").textContent = tile.window[n];
      });
      drawWide();
    });
    grip.addEventListener("pointerup", () => { held = null; });
    grip.addEventListener("pointercancel", () => { held = null; });
  }

  function drawWide() {
    const { tile, scene, says, grip } = S.wideTile, view = viewFor(scene, tile.window);
    if (!view) return;
    tile.draw(view, view.framed ?? null, frozen ? null : S.drafts[scene.name]?.[view.name]);
    tile.compare(S.compare, view.picture?.covers ? scene.views.at(-1).picture?.look : null);
    grip.style.left = tile.frame.style.width;
    grip.style.top = tile.frame.style.height;
    grip.style.right = "auto";
    grip.style.transform = "translate(-50%, -50%)";
    const lost = tile.lost ? `, ${percent(tile.lost)} of the subject is cut off` : "";
    const covered = tile.covered > 1e-4 ? `, the copy covers ${percent(tile.covered)} of it` : "";
    says.textContent = `${tile.window.join(" x ")}: ${view.name}${lost}${covered}`;
  }

  // The proof

  const ORDER = { broken: 0, note: 1, "not measured": 2, holds: 3 };

  function proofCard(scene) {
    const told = [...scene.verdicts].sort((one, other) => ORDER[one.state] - ORDER[other.state]);
    const loud = told.filter((one) => one.state !== "holds"), quiet = told.filter((one) => one.state === "holds");
    const broken = told.filter((one) => one.state === "broken").length;
    const list = (some) => make("ul", { class: "proof" }, ...some.map(proofLine));
    return make("section", { class: "card" }, make("div", { class: "row" }, make("h2", {}, "Proof"),
      make("span", { class: `verdict ${broken ? "bad" : "good"}`, role: "status" },
        broken ? `${broken} ${broken === 1 ? "promise is" : "promises are"} broken` : "No promise is broken")),
    list(loud), quiet.length ? make("details", { id: "holds" },
      make("summary", {}, `${quiet.length} hold`), list(quiet)) : null);
  }

  function proofLine(one) {
    const kind = one.state === "not measured" ? "note" : one.state;
    const does = frozen || !one.offers.length ? (one.remedy ? [one.remedy] : [])
      : one.offers.map((offer) => button(offer.says, () => {
        for (const each of offer.changes) S.changes.set(placeOf(each), each);
        save().then(reload);
      }));
    return make("li", { class: kind }, make("span", {}, make("b", {}, `${one.promise}, ${one.breakpoint}: `), one.says),
      does.length ? make("div", { class: "does" }, ...does) : null);
  }

  function loadsCard(scene) {
    const rows = scene.loads.map((one) => make("tr", {}, make("td", {}, one.screen),
      make("td", {}, kilo(one.before)), make("td", {}, one.after ? `about ${kilo(one.after)}` : "the colour"),
      make("td", {}, `${one.before_seconds.toFixed(1)} s`), make("td", {}, `${one.after_seconds.toFixed(1)} s`)));
    const tried = scene.loads.every((one) => one.tried || !one.after);
    return make("section", { class: "card" }, make("div", { class: "row" }, make("h2", {}, "Before and after"),
      button("Play the load", () => playLoads(scene), { class: "screen" })),
    make("table", { class: "loads" }, make("thead", {}, make("tr", {}, ...["Screen", "Source for all", "Foretold", "Before", "After"]
      .map((one) => make("th", {}, one)))), make("tbody", {}, ...rows)),
    make("p", { class: "note" }, `Seconds over ${scene.line}, nothing else on it.${tried ? ""
      : " Its files are not tried yet: the bytes are those of usual photographs."}`));
  }

  function playLoads(scene) {
    if (S.compare === null) S.compare = 0.5;
    for (const one of S.tiles) {
      if (one.scene !== scene) continue;
      drawTile(one);
      const nearest = scene.loads.reduce((best, load) => (
        Math.abs(load.window[0] - one.tile.window[0]) < Math.abs(best.window[0] - one.tile.window[0]) ? load : best));
      one.tile.play(nearest.before_seconds, nearest.after_seconds);
    }
  }

  // The page, live or frozen

  function freeze() {
    S.state = frozen.state;
    S.tiles = [];
    parts.right = document.body;
    const broken = frozen.scenes.flatMap((one) => one.verdicts).filter((one) => one.state === "broken").length;
    const sheet = make("main", { class: "sheet" }, make("header", {}, make("h1", {}, S.state.title || S.state.file),
      make("p", {}, `${frozen.scenes.length} backdrops in every window that occurs. `,
        broken ? `${broken} promises are broken.` : "No promise is broken.",
        " The yellow marks must stay in view; the dashed box is the copy.")));
    document.body.append(sheet);
    for (const scene of frozen.scenes) {
      S.scene = scene;
      sheet.append(frozenPart(scene));
    }
  }

  function frozenPart(scene) {
    const views = [...scene.views].reverse(), shown = views.find((one) => one.picture);
    const source = make("div", { class: "source" }, make("div", { class: "picture" }));
    if (shown) {
      const { size, look, subjects } = shown.picture;
      source.style.aspectRatio = `${size[0]} / ${size[1]}`;
      showLook(source.firstChild, look);
      for (const one of views) {
        if (!one.picture?.covers) continue;
        const line = make("div", { class: "cutline" });
        put(line, percents(one.picture.cut, one.picture.size));
        source.append(line);
      }
      for (const one of subjects) {
        const mark = make("div", { class: "subject" });
        put(mark, percents(one, size), 0.012);
        source.append(mark);
      }
    }
    return make("section", {}, make("div", { class: "row" }, make("h2", {}, scene.name),
      make("span", { class: "note" }, `${shown ? shown.picture.source : "the colour alone"} on ${scene.element}`)),
    make("div", { class: "top" }, shown ? source : make("div", {}), proofCard(scene)), ...views.map(partOf), loadsCard(scene));
  }

  async function begin() {
    S.state = await ask("state");
    S.backdrop = S.state.backdrops[0].name;
    build();
    showBar();
    await refresh();
    listen();
  }

  if (frozen) freeze();
  else begin().catch((error) => document.body.append(make("p", { class: "told" }, error.message)));
})();
