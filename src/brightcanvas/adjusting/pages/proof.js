// The page frozen: every backdrop, one below the other, for whoever has to agree.
"use strict";

(() => {
  const { make, put, percents, showLook } = tiles;
  const { Screens, heading, hint, outlineCuts, row } = screens;
  /** @type {{ state: BriefState, scenes: Scene[] }} */
  const { state, scenes } = JSON.parse(document.getElementById("facts")?.textContent ?? "");

  /** @param {View[]} views @param {Picture} shown */
  function source(views, { size, look, subjects }) {
    const picture = make("div", { class: "picture" }), one = make("div", { class: "source" }, picture);
    one.style.aspectRatio = `${size[0]} / ${size[1]}`;
    showLook(picture, look);
    outlineCuts(one, views);
    for (const subject of subjects) {
      const mark = make("div", { class: "subject" });
      put(mark, percents(subject, size), 0.012);
      one.append(mark);
    }
    return one;
  }

  /** @param {Scene} scene */
  function section(scene) {
    const shown = scene.views.findLast((one) => one.picture)?.picture;
    const all = new Screens(scene, { state, drafts: {} });
    return make("section", {},
      row(heading(scene.name), hint(`${shown ? shown.source : "the colour alone"} on ${scene.element}`)),
      make("div", { class: "top" }, shown ? source(scene.views, shown) : null, all.proofCard()),
      make("div", { class: "top" }, all.wideCard(), all.loadsCard()), ...all.parts());
  }

  const broken = scenes.flatMap((one) => one.verdicts).filter((one) => one.state === "broken").length;
  document.body.append(make("main", { class: "sheet" },
    make("header", {}, make("h1", {}, state.title || state.file),
      make("p", {}, `${scenes.length} ${scenes.length === 1 ? "backdrop" : "backdrops"} in every window that occurs. `
        + `${broken ? `${broken} promises are broken.` : "No promise is broken."} `
        + "The yellow marks must stay in view; the dashed box is the copy.")),
    ...scenes.map(section)));
})();
