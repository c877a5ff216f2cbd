/*! Starts and stops what moves behind content: only where a source's media condition holds, never
    where people save data, never out of view, and never against their choice, which each keeps for
    itself. It may be loaded any number of times, and finds what other scripts put in later. */
(() => {
  "use strict";
  const BUTTON = "[data-moving-button]", MOVING = "video[data-moving], [data-hosted]";
  // One for each page, however often this file is loaded.
  const key = Symbol.for("moving backdrops");
  const page = /** @type {Record<symbol, Known>} */ (/** @type {unknown} */ (window));
  const known = page[key] = page[key] || { parts: new WeakMap(), find: null };
  if (known.find) { known.find(); return; }

  const saves = () => Boolean(navigator.connection && navigator.connection.saveData);

  // Whether clips may start by themselves at all: a browser that forbids it refuses to start even
  // an empty one, and then nothing is fetched before somebody presses the button.
  let allowed = true;
  const empty = document.createElement("video");
  empty.muted = empty.playsInline = true;
  const refused = Promise.resolve(empty.play()).then(() => false, (error) => error.name === "NotAllowedError");
  const whenKnown = Promise.race([refused, new Promise((go) => setTimeout(go, 100, false))])
    .then((isRefused) => { allowed = !isRefused; });

  /** What somebody chose for one of them, as long as the window is open. @param {string} name */
  const choiceOf = (name) => {
    const place = `moving ${location.pathname} ${name}`;
    /** @type {string | null} */
    let choice = null;
    try { choice = sessionStorage.getItem(place); } catch { /* storage is closed to us */ }
    return {
      get rests() { return choice === "paused"; },
      /** @param {"paused" | "playing"} made */
      keep(made) {
        choice = made;
        try { sessionStorage.setItem(place, made); } catch { /* for this page view only */ }
      },
    };
  };

  /** @param {Element} part @returns {HTMLElement | null} */
  const buttonOf = (part) => part.parentNode && part.parentNode.querySelector(`:scope > ${BUTTON}`);
  /** @param {Element} part @param {boolean} fits @param {boolean} rests */
  const show = (part, fits, rests) => {
    const button = buttonOf(part);
    if (!button) return;
    button.hidden = !fits;
    const words = (rests ? button.dataset.play : button.dataset.pause) || "";
    if (button.textContent !== words) button.textContent = words;
  };

  /**
   * Those that are no longer in the page are let go.
   * @param {Element} part
   * @param {Iterable<string>} conditions
   * @param {() => void} update
   */
  const listen = (part, conditions, update) => {
    for (const media of conditions) {
      const query = matchMedia(media);
      const changed = () => {
        if (part.isConnected) update();
        else query.removeEventListener("change", changed);
      };
      query.addEventListener("change", changed);
    }
  };

  /** @param {HTMLVideoElement} video @returns {Moving} */
  const play = (video) => {
    const sources = [...video.querySelectorAll("source")];
    const choice = choiceOf(sources.map((one) => one.getAttribute("src")).join(" "));
    let inView = false, loaded = "", over = false, pressed = false;
    video.disablePictureInPicture = true;
    const fitting = () => saves() ? undefined : sources.find(
      (one) => matchMedia(one.media).matches && video.canPlayType(one.type));
    const label = () => {
      video.dataset.state = video.paused ? "paused" : "playing";
      show(video, true, video.paused);
    };
    const update = () => {
      const source = fitting();
      if (!source) {
        video.pause();
        delete video.dataset.state;
        show(video, false, true);
        return;
      }
      if (choice.rests || !inView || over || !(allowed || pressed)) {
        video.pause();
        if (loaded) label();
        else show(video, true, true);
        return;
      }
      if (loaded !== source.src) {
        loaded = source.src;
        video.load();
      }
      video.play().then(label, label);
    };
    video.addEventListener("playing", label);
    video.addEventListener("pause", () => { if (loaded) label(); });
    video.addEventListener("ended", () => { over = true; });
    listen(video, new Set(sources.map((one) => one.media)), update);
    whenKnown.then(() => new IntersectionObserver((entries) => {
      inView = entries[entries.length - 1].isIntersecting;
      update();
    }).observe(/** @type {Element} */ (video.parentNode)));
    return {
      update,
      press() {
        choice.keep(loaded && !video.paused ? "paused" : "playing");
        over = false;
        inView = pressed = true;
        update();
      },
    };
  };

  /** @param {HTMLElement} place @returns {Moving} */
  const hold = (place) => {
    const { hosted = "", media = "", title = "" } = place.dataset;
    const choice = choiceOf(hosted);
    let isLoaded = document.readyState === "complete";
    const update = () => {
      const fits = matchMedia(media).matches && !saves();
      const shows = fits && isLoaded && !choice.rests;
      if (!shows) place.replaceChildren();
      else if (!place.firstChild) {
        const frame = document.createElement("iframe");
        frame.title = title;
        frame.allow = "autoplay";
        frame.tabIndex = -1;
        frame.src = hosted;
        place.append(frame);
      }
      show(place, fits, !shows);
    };
    if (!isLoaded) addEventListener("load", () => { isLoaded = true; update(); });
    listen(place, [media], update);
    update();
    return {
      update,
      press() {
        choice.keep(place.firstChild ? "paused" : "playing");
        isLoaded = true;
        update();
      },
    };
  };

  /** @returns {NodeListOf<HTMLElement>} */
  const parts = () => document.querySelectorAll(MOVING);
  const find = () => parts().forEach((part) => {
    const moving = known.parts.get(part), button = buttonOf(part);
    if (!moving) known.parts.set(part, part instanceof HTMLVideoElement ? play(part) : hold(part));
    else if (button && button.hidden) moving.update();
  });
  known.find = find;

  // Buttons are heard from afar, so one that another script put in place of ours works as well.
  addEventListener("click", (event) => {
    const button = event.target instanceof Element && event.target.closest(BUTTON);
    if (!button || !button.parentNode) return;
    find();
    const [moving] = [...button.parentNode.children].map((child) => known.parts.get(child))
      .filter(Boolean);
    if (moving) moving.press();
  }, true);
  // A page that comes back as it was left may have lost what it played.
  addEventListener("pageshow", (event) => {
    if (!event.persisted) return;
    find();
    for (const part of parts()) {
      const moving = known.parts.get(part);
      if (moving) moving.update();
    }
  });
  find();
  new MutationObserver((changes) => {
    if (changes.some((one) => one.addedNodes.length)) find();
  }).observe(document.documentElement, { childList: true, subtree: true });
})();
