// Everything in a window that shows a large picture or clip: kind, name, files, box, and whether text
// lies above it.
function pictures() {
  /** @param {Element} element */
  const told = (element) => element.tagName.toLowerCase() + (element.id ? `#${element.id}` : "")
    + [...element.classList].map((name) => `.${name}`).join("");
  /** A selector of steps from the body; see path_of. @param {Element} element */
  const path = (element) => {
    const steps = [];
    for (let step = element; step.parentElement; step = step.parentElement) {
      if (step === document.body) {
        steps.unshift("body");
        break;
      }
      const same = [...step.parentElement.children].filter((other) => other.tagName === step.tagName);
      steps.unshift(`${step.tagName.toLowerCase()}:nth-of-type(${same.indexOf(step) + 1})`);
    }
    return steps.join(" > ");
  };
  /** The page's server has another port each time. @param {string} url */
  const lasting = (url) => url.replace(location.origin, "http://page.invalid");
  /** @param {string} text */
  const urls = (text) => [...text.matchAll(/url\("((?:[^"\\]|\\.)*)"\)/g)].map((match) => match[1])
    .filter((url) => !url.startsWith("data:")).map(lasting);
  /** @type {object[]} */
  const found = [];
  /**
   * @param {Element} element
   * @param {"background" | "img" | "video"} kind
   * @param {string[]} files
   * @param {Edges & { width: number, height: number }} rect
   * @param {{ pseudo?: string, fills?: boolean, hasText?: boolean }} further
   */
  const add = (element, kind, files, rect, further = {}) => {
    const wide = rect.width >= 0.4 * innerWidth, high = rect.height >= 120;
    if (files.length && wide && high) {
      found.push({ kind, name: told(element) + (further.pseudo ? `::${further.pseudo}` : ""), path: path(element),
        files, box: [rect.left + scrollX, rect.top + scrollY, rect.right + scrollX, rect.bottom + scrollY], ...further });
    }
  };
  /** @type {DOMRect[]} */
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode() && texts.length < 2000) {
    const text = /** @type {Text} */ (walker.currentNode), parent = text.parentElement;
    if (text.data.trim() && parent && parent.getClientRects().length) texts.push(parent.getBoundingClientRect());
  }
  /** @param {Edges} rect */
  const hasText = (rect) => texts.some((text) => {
    const x = (text.left + text.right) / 2, y = (text.top + text.bottom) / 2;
    return x > rect.left && x < rect.right && y > rect.top && y < rect.bottom;
  });
  for (const element of [...document.querySelectorAll("*")].slice(0, 20000)) {
    const rect = element.getBoundingClientRect();
    const style = getComputedStyle(element);
    add(element, "background", urls(style.backgroundImage), rect);
    for (const pseudo of ["before", "after"]) {
      const own = getComputedStyle(element, `::${pseudo}`);
      if (own.content === "none" || own.content === "normal") continue;
      const [width, height] = [parseFloat(own.width), parseFloat(own.height)];
      add(element, "background", urls(own.backgroundImage),
        { left: rect.left, top: rect.top, right: rect.left + width, bottom: rect.top + height, width, height }, { pseudo });
    }
    if (element instanceof HTMLImageElement && element.currentSrc) {
      const fills = style.objectFit === "cover" || /absolute|fixed/.test(style.position);
      add(element, "img", [lasting(element.currentSrc)], rect, { fills, hasText: hasText(rect) });
    }
    if (element instanceof HTMLVideoElement) {
      const file = element.currentSrc || element.querySelector("source")?.src || element.src;
      add(element, "video", file ? [lasting(file)] : [], rect, { hasText: hasText(rect) });
    }
  }
  return found;
}
