// Windows as tiles: each a small page of true proportions, with the backdrop drawn by the browser.
"use strict";

const tiles = (() => {
  const [WIDEST, TALLEST] = innerWidth < 600 ? [150, 110] : [215, 140];

  function make(tag, named = {}, ...children) {
    const made = document.createElement(tag);
    for (const [name, value] of Object.entries(named)) {
      if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
      else if (name in made && typeof value !== "string") made[name] = value;
      else if (value !== null && value !== undefined) made.setAttribute(name, value);
    }
    made.append(...children.filter((one) => one !== null));
    return made;
  }

  const kilo = (bytes) => (bytes < 1e6
    ? `${(bytes / 1e3).toFixed(bytes < 1e5 ? 1 : 0)} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

  const percents = (area, size = [1, 1]) => [
    area[0] / size[0], area[1] / size[1], area[2] / size[0], area[3] / size[1],
  ];

  function put(one, [left, top, right, bottom], least = 0) {
    const grow = (low, high) => Math.max(0, least - (high - low)) / 2;
    const x = grow(left, right), y = grow(top, bottom);
    one.style.left = `${(left - x) * 100}%`;
    one.style.top = `${(top - y) * 100}%`;
    one.style.width = `${(right - left + 2 * x) * 100}%`;
    one.style.height = `${(bottom - top + 2 * y) * 100}%`;
  }

  // A place of the source (source px), in fractions of what a box shows.
  const within = (area, window) => {
    const width = window[2] - window[0], height = window[3] - window[1];
    return [
      (area[0] - window[0]) / width, (area[1] - window[1]) / height,
      (area[2] - window[0]) / width, (area[3] - window[1]) / height,
    ];
  };

  // A reduced source behind an element: by its address, or by a class where the page is frozen.
  function showLook(one, look, size = "") {
    if (one.dataset.look === look) return;
    one.dataset.look = look;
    if (document.body.dataset.frozen) one.className = `picture look-${look}`;
    else one.style.backgroundImage = look ? `url("look/${look}${size}")` : "none";
  }

  class Tile {
    // A window [width, height] in CSS px; most: the px on this page that it may take.
    constructor(window, { says = "", most = [WIDEST, TALLEST], words = "", copyMoved = null } = {}) {
      this.window = window;
      this.most = most;
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

    letCopyMove(moved) {
      const corner = make("i", { class: "corner" });
      this.copy.append(corner);
      this.copy.tabIndex = 0;
      this.copy.setAttribute("role", "group");
      drags(this.copy, {
        area: () => this.view.copy.box,
        frame: () => this.box.getBoundingClientRect(),
        isCorner: (target) => target === corner,
        moved: (area, isLast) => moved(this.view, area, isLast),
      });
    }

    draw(view, draft) {
      if (this.view !== view || this.drawn !== this.window) this.shape(view);
      this.drawPicture(view, this.size, draft);
      this.drawCopy(view);
    }

    // All that stays as it is while something is dragged.
    shape(view) {
      this.view = view;
      this.drawn = this.window;
      const [width, height] = this.window, size = this.size = geometry.box(view.element, this.window);
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
    }

    drawPicture(view, size, draft) {
      const picture = view.picture, style = this.picture.style;
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
      this.drawMarks(view, shown);
      this.drawSpot(view, shown);
    }

    drawMarks(view, shown) {
      const order = view.picture.order, copy = view.copy;
      const subjects = view.picture.subjects;
      while (this.subjects.childElementCount > subjects.length) this.subjects.lastChild.remove();
      subjects.forEach((one, n) => {
        if (!this.subjects.children[n]) this.subjects.append(make("div", { class: "mark" }));
        put(this.subjects.children[n], within(one, shown), 0.02);
      });
      const hidden = order ? order.drifts * (shown[3] - shown[1]) : 0;
      const sure = [shown[0], shown[1] + hidden, shown[2], shown[3] - hidden];
      this.lost = subjects.length ? geometry.lostShare(sure, subjects) : 0;
      if (copy && copy.clear && subjects.length) {
        this.covered = Math.max(
          ...this.copyBoxes(view).map((one) => geometry.coveredShare(shown, one, subjects)));
      }
      this.root.classList.toggle("lost", this.lost > 0);
      this.root.classList.toggle("covered", this.covered > 1e-4);
    }

    drawSpot(view, shown) {
      const spot = view.spot, isWorst = spot && this.marksSpot && !view.wasMoved;
      this.spot.hidden = !isWorst;
      if (isWorst) {
        const [x, y] = spot.place, place = within([x, y, x, y], shown);
        put(this.spot, place);
        this.spot.classList.toggle("low", spot.contrast < spot.wanted);
      }
    }

    // Copy that was measured lies elsewhere in each box.
    copyBoxes({ copy: { box, places } }) {
      const aspect = parseFloat(this.box.style.width) / parseFloat(this.box.style.height);
      const own = places.filter(([low, high]) => low <= aspect && aspect <= high);
      return own.length ? own.map((one) => one[2]) : [box];
    }

    drawCopy(view) {
      this.copy.hidden = !view.copy;
      if (!view.copy) return;
      const box = geometry.hull(this.copyBoxes(view));
      put(this.copy, box);
      const said = box.map((one) => `${Math.round(one * 100)} %`);
      this.copy.setAttribute(
        "aria-label", `Copy: left ${said[0]}, top ${said[1]}, right ${said[2]}, bottom ${said[3]}`);
    }

    // The source as one picture for all windows, over the left part (0 to 1) of the tile.
    compare(share, look) {
      this.before.hidden = share === null || !look;
      if (this.before.hidden) return;
      showLook(this.before, look);
      if (document.body.dataset.frozen) this.before.classList.add("before");
      this.before.style.clipPath = `inset(0 ${(1 - share) * 100}% 0 0)`;
    }

    // Let both sides appear as they would over a line, seconds each.
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

  const sameArea = (one, other) => one.every((edge, n) => Math.abs(edge - other[n]) < 0.5);

  // Moving and resizing an area (fractions) by pointer or keys.
  function drags(one, { area, frame, isCorner, moved }) {
    let held = null;
    one.addEventListener("pointerdown", (event) => {
      if (event.button) return;
      event.preventDefault();
      event.stopPropagation();
      one.focus({ preventScroll: true });
      one.setPointerCapture(event.pointerId);
      held = { x: event.clientX, y: event.clientY, area: area(), corner: isCorner(event.target) };
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
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
      const [x, y] = way[event.key] ?? [0, 0];
      if (!x && !y) return;
      event.preventDefault();
      moved(shifted(area(), event.shiftKey, x * step, y * step), false);
    });
    one.addEventListener("keyup", (event) => {
      if (event.key.startsWith("Arrow")) moved(area(), true);
    });
  }

  function shifted([left, top, right, bottom], isResized, x, y) {
    const fine = (value) => Math.round(value * 1e4) / 1e4, { clamp } = geometry;
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
