// Starts and stops clips behind content: only where a source's media condition holds, never
// where people save data, never out of view, and never against their own choice.
(() => {
  "use strict";
  // Each moving backdrop's markup names this script: a second run would undo each press.
  if ("movingStarted" in document.documentElement.dataset) return;
  document.documentElement.dataset.movingStarted = "";
  const key = "moving " + location.pathname;
  const saves = Boolean(navigator.connection && navigator.connection.saveData);
  let choice = null;
  try { choice = sessionStorage.getItem(key); } catch (error) { /* storage is closed to us */ }

  // Whether clips may start by themselves at all: a browser that forbids it refuses to start even
  // an empty one, and then nothing is fetched before somebody presses the button.
  let allowed = true;
  const empty = document.createElement("video");
  empty.muted = empty.playsInline = true;
  const refused = Promise.resolve(empty.play()).then(() => false, (error) => error.name === "NotAllowedError");
  const whenKnown = Promise.race([refused, new Promise((go) => setTimeout(go, 100, false))])
    .then((isRefused) => { allowed = !isRefused; });

  const keep = (made) => {
    choice = made;
    try { sessionStorage.setItem(key, made); } catch (error) { /* for this page view only */ }
  };

  const start = (video) => {
    const button = video.parentNode.querySelector("[data-moving-button]");
    const sources = [...video.querySelectorAll("source")];
    let inView = false, loaded = "", over = false, pressed = false;
    video.disablePictureInPicture = true;
    const fitting = () => saves ? undefined : sources.find(
      (one) => matchMedia(one.media).matches && video.canPlayType(one.type));
    const label = () => {
      const rests = video.paused;
      video.dataset.state = rests ? "paused" : "playing";
      if (!button) return;
      button.textContent = rests ? button.dataset.play : button.dataset.pause;
      button.setAttribute("aria-pressed", String(rests));
    };
    const update = () => {
      const source = fitting();
      if (button) button.hidden = !source;
      if (!source) {
        video.pause();
        delete video.dataset.state;
        return;
      }
      if (choice === "paused" || !inView || over || !(allowed || pressed)) {
        video.pause();
        if (loaded) label();
        else if (button) { button.textContent = button.dataset.play; button.setAttribute("aria-pressed", "true"); }
        return;
      }
      if (loaded !== source.src) {
        loaded = source.src;
        video.load();
      }
      video.play().catch(() => { label(); });
    };
    video.addEventListener("playing", label);
    video.addEventListener("pause", () => { if (loaded) label(); });
    video.addEventListener("ended", () => { over = true; });
    if (button) button.addEventListener("click", () => {
      keep(loaded && !video.paused ? "paused" : "playing");
      over = false;
      inView = pressed = true;
      update();
    });
    new Set(sources.map((one) => one.media)).forEach(
      (media) => matchMedia(media).addEventListener("change", update));
    whenKnown.then(() => new IntersectionObserver((entries) => {
      inView = entries[entries.length - 1].isIntersecting;
      update();
    }).observe(video.parentNode));
  };
  const hold = (place) => {
    const button = place.parentNode.querySelector("[data-moving-button]");
    const media = matchMedia(place.dataset.media);
    const update = () => {
      const fits = media.matches && !saves, shows = fits && choice !== "paused";
      if (!shows) place.replaceChildren();
      else if (!place.firstChild) {
        const frame = document.createElement("iframe");
        frame.title = place.dataset.title;
        frame.allow = "autoplay";
        frame.tabIndex = -1;
        frame.src = place.dataset.hosted;
        place.append(frame);
      }
      button.hidden = !fits;
      button.textContent = shows ? button.dataset.pause : button.dataset.play;
      button.setAttribute("aria-pressed", String(!shows));
    };
    button.addEventListener("click", () => {
      keep(place.firstChild ? "paused" : "playing");
      update();
    });
    media.addEventListener("change", update);
    update();
  };
  document.querySelectorAll("video[data-moving]").forEach(start);
  const holdAll = () => document.querySelectorAll("[data-hosted]").forEach(hold);
  if (document.readyState === "complete") holdAll();
  else addEventListener("load", holdAll);
})();
