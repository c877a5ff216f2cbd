// What a page looks like in one window. Given selectors, for each the first element's box, how it
// is painted, and the lines of text that lie above it.
async (selectors) => {
  await document.fonts.ready;
  await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 1;
  const paint = canvas.getContext("2d", { willReadFrequently: true });
  const known = new Map();
  const rgb = (colour) => {
    if (!known.has(colour)) {
      paint.clearRect(0, 0, 1, 1);
      paint.fillStyle = colour;
      paint.fillRect(0, 0, 1, 1);
      const [red, green, blue, alpha] = paint.getImageData(0, 0, 1, 1).data;
      known.set(colour, [red, green, blue, alpha / 255]);
    }
    return known.get(colour);
  };
  const box = (rect) => [rect.left + scrollX, rect.top + scrollY, rect.right + scrollX, rect.bottom + scrollY];
  const seen = (element) => element.checkVisibility
    ? element.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true })
    : element.getClientRects().length > 0 && getComputedStyle(element).visibility === "visible";

  // All lines of text of the page, once.
  const lines = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode() && lines.length < 3000) {
    const text = walker.currentNode, parent = text.parentElement;
    if (!text.data.trim() || !parent || /^(SCRIPT|STYLE|NOSCRIPT|TEMPLATE)$/.test(parent.tagName) || !seen(parent)) continue;
    const style = getComputedStyle(parent);
    const range = document.createRange();
    range.selectNodeContents(text);
    for (const rect of range.getClientRects()) {
      if (rect.width < 1 || rect.height < 1) continue;
      lines.push({
        box: box(rect), parent, colour: rgb(style.webkitTextFillColor || style.color),
        size: parseFloat(style.fontSize), bold: (parseFloat(style.fontWeight) || 400) >= 600,
        words: text.data.trim().replace(/\s+/g, " ").replace(/^(.{24}).+$/, "$1…"),
      });
    }
  }

  // Whether something between a text and an element has a ground of its own.
  const covered = (line, element) => {
    for (let one = line.parent; one && one !== element && !one.contains(element); one = one.parentElement) {
      const style = getComputedStyle(one);
      if (rgb(style.backgroundColor)[3] > 0.5 || /url\(|image-set\(/.test(style.backgroundImage)) return true;
    }
    return false;
  };

  return selectors.map((selector) => {
    const [plain, pseudo] = selector.split(/::?(?=before|after)/);
    const element = document.querySelector(plain);
    if (!element) return null;
    const rect = element.getBoundingClientRect(), style = getComputedStyle(element, pseudo ? `::${pseudo}` : null);
    const [left, top, right, bottom] = box(rect);
    const width = right - left, height = bottom - top;
    const above = width < 1 || height < 1 ? [] : lines.filter((line) => {
      const [l, t, r, b] = line.box;
      const shared = Math.max(0, Math.min(r, right) - Math.max(l, left)) * Math.max(0, Math.min(b, bottom) - Math.max(t, top));
      return shared > 0.5 * (r - l) * (b - t) && (line.parent === element || !line.parent.contains(element)) && !covered(line, element);
    });
    return {
      box: [left, top, right, bottom],
      shown: seen(element),
      picture: style.backgroundImage,
      colour: rgb(style.backgroundColor),
      attachment: style.backgroundAttachment,
      isContentBox: style.boxSizing === "content-box",
      padding: [style.paddingTop, style.paddingRight, style.paddingBottom, style.paddingLeft],
      lines: above.map((line) => ({
        box: [(line.box[0] - left) / width, (line.box[1] - top) / height, (line.box[2] - left) / width, (line.box[3] - top) / height],
        colour: line.colour, size: line.size, bold: line.bold, words: line.words,
      })),
    };
  });
}
