// Everything in a window that shows a large picture or clip: kind, name, files, box, and whether text
// lies above it.
() => {
  const told = (element) => element.tagName.toLowerCase() + (element.id ? `#${element.id}` : "")
    + [...element.classList].map((one) => `.${one}`).join("");
  const path = (element) => {
    const parts = [];
    for (let one = element; one && one.parentElement; one = one.parentElement) {
      if (one === document.body) {
        parts.unshift("body");
        break;
      }
      const same = [...one.parentElement.children].filter((other) => other.tagName === one.tagName);
      parts.unshift(`${one.tagName.toLowerCase()}:nth-of-type(${same.indexOf(one) + 1})`);
    }
    return parts.join(" > ");
  };
  const urls = (text) => [...text.matchAll(/url\("((?:[^"\\]|\\.)*)"\)/g)].map((one) => one[1])
    .filter((one) => !one.startsWith("data:"))
    .map((one) => one.replace(location.origin, "http://page.invalid"));
  const found = [];
  const add = (element, kind, files, rect, further = {}) => {
    const wide = rect.width >= 0.4 * innerWidth, high = rect.height >= 120;
    if (files.length && wide && high) {
      found.push({ kind, name: told(element) + (further.pseudo ? `::${further.pseudo}` : ""), path: path(element),
        files, box: [rect.left + scrollX, rect.top + scrollY, rect.right + scrollX, rect.bottom + scrollY], ...further });
    }
  };
  const texts = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode() && texts.length < 2000) {
    const parent = walker.currentNode.parentElement;
    if (walker.currentNode.data.trim() && parent && parent.getClientRects().length) texts.push(parent.getBoundingClientRect());
  }
  const has_text = (rect) => texts.some((one) => {
    const x = (one.left + one.right) / 2, y = (one.top + one.bottom) / 2;
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
    if (element.tagName === "IMG" && element.currentSrc) {
      const fills = /cover|fill/.test(style.objectFit) && style.objectFit !== "fill" || /absolute|fixed/.test(style.position);
      add(element, "img", [element.currentSrc.replace(location.origin, "http://page.invalid")], rect,
        { fills, hasText: has_text(rect) });
    }
    if (element.tagName === "VIDEO") {
      const file = element.currentSrc || (element.querySelector("source") || {}).src || element.src;
      add(element, "video", file ? [file.replace(location.origin, "http://page.invalid")] : [], rect, { hasText: has_text(rect) });
    }
  }
  return found;
}
