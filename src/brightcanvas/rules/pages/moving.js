// Starts and stops clips behind content: only where a source's media condition holds, never
// where people save data, never out of view, and never against their own choice.
(() => {
  "use strict";
  const key = "moving " + location.pathname;
  const saves = Boolean(navigator.connection && navigator.connection.saveData);
  let choice = null;
  try { choice = sessionStorage.getItem(key); } catch (error) { /* storage is closed to us */ }

  const start = (video) => {
    const button = video.parentNode.querySelector("[data-moving-button]");
    const sources = [...video.querySelectorAll("source")];
    let inView = false, loaded = "", over = false;
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
      if (choice === "paused" || !inView || over) {
        video.pause();
        if (loaded) label();
        else if (button) { button.textContent = button.dataset.play; button.setAttribute("aria-pressed", "true"); }
        return;
      }
      if (loaded !== source.src) {
        loaded = source.src;
        video.load();
      }
      video.play().catch(() => {});
    };
    video.addEventListener("playing", label);
    video.addEventListener("pause", () => { if (loaded) label(); });
    video.addEventListener("ended", () => { over = true; });
    if (button) button.addEventListener("click", () => {
      choice = loaded && !video.paused ? "paused" : "playing";
      over = false;
      inView = true;
      try { sessionStorage.setItem(key, choice); } catch (error) { /* for this page view only */ }
      update();
    });
    new Set(sources.map((one) => one.media)).forEach(
      (media) => matchMedia(media).addEventListener("change", update));
    new IntersectionObserver((entries) => {
      inView = entries[entries.length - 1].isIntersecting;
      update();
    }).observe(video.parentNode);
  };
  document.querySelectorAll("video[data-moving]").forEach(start);
})();
