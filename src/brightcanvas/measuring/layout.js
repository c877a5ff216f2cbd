/**
 * What a settled page looks like in one window: the first element of each selector, its box, how it
 * is painted, and the lines of text that lie above it; see ElementLayout.
 * @param {string[]} selectors
 */
function layout(selectors) {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 1;
  const paint = canvas.getContext("2d", { willReadFrequently: true });
  if (!paint) throw new Error("no colour can be computed");
  /** @type {Map<string, number[]>} */
  const known = new Map();
  /** Red, green and blue of 255, alpha of 1. @param {string} colour */
  const rgb = (colour) => {
    const before = known.get(colour);
    if (before) return before;
    paint.clearRect(0, 0, 1, 1);
    paint.fillStyle = colour;
    paint.fillRect(0, 0, 1, 1);
    const [red, green, blue, alpha] = paint.getImageData(0, 0, 1, 1).data;
    const found = [red, green, blue, alpha / 255];
    known.set(colour, found);
    return found;
  };
  /** Of the page, CSS px. @param {Edges} rect */
  const box = (rect) => [rect.left + scrollX, rect.top + scrollY, rect.right + scrollX, rect.bottom + scrollY];
  /** @param {Element} element */
  const seen = (element) => element.checkVisibility
    ? element.checkVisibility({ opacityProperty: true, visibilityProperty: true, contentVisibilityAuto: true })
    : element.getClientRects().length > 0 && getComputedStyle(element).visibility === "visible";

  /** @param {Element} element */
  const ancestors = function* (element) {
    for (let around = element.parentElement; around; around = around.parentElement) yield around;
  };

  const pageWidth = Math.max(document.documentElement.clientWidth, innerWidth);
  /**
   * The part of a line that no box round it clips, and that lies on the page at all.
   * @param {Edges} rect
   * @param {Element} parent
   */
  const unclipped = (rect, parent) => {
    let [left, top, right, bottom] = [rect.left, rect.top, rect.right, rect.bottom];
    for (const around of [parent, ...ancestors(parent)]) {
      if (around === document.body || around === document.documentElement) break;
      const style = getComputedStyle(around);
      const clips = style.overflowX !== "visible" || style.overflowY !== "visible" || style.clipPath !== "none" || style.clip !== "auto";
      if (clips && style.display !== "inline") {
        const own = around.getBoundingClientRect();
        const inset = style.clip !== "auto" && style.position === "absolute" ? 1 : 0;
        left = Math.max(left, own.left); right = Math.min(right, own.right - inset);
        top = Math.max(top, own.top); bottom = Math.min(bottom, own.bottom - inset);
      }
      if (style.position === "fixed") break;
    }
    return { left: Math.max(left, -scrollX), top: Math.max(top, -scrollY), right: Math.min(right, pageWidth - scrollX), bottom };
  };
  /**
   * By the first family alone: many a stack of plain ones ends with one for symbols.
   * @param {string} text
   * @param {CSSStyleDeclaration} style
   */
  const isIcon = (text, style) =>
    /icon|symbol|glyph|awesome/i.test(style.fontFamily.split(",")[0]) || /^[\ue000-\uf8ff\s]+$/.test(text);
  /**
   * Something else of the page lies on top of the line's middle, as far as it is in the window.
   * @param {Edges} rect
   * @param {Element} parent
   */
  const isBehind = (rect, parent) => {
    const x = (rect.left + rect.right) / 2, y = (rect.top + rect.bottom) / 2;
    if (x < 0 || y < 0 || x >= innerWidth || y >= innerHeight) return false;
    for (const front of document.elementsFromPoint(x, y)) {
      if (front === parent || front.contains(parent) || parent.contains(front)) return false;
      const style = getComputedStyle(front);
      if (rgb(style.backgroundColor)[3] > 0.9 || /^(IMG|VIDEO|IFRAME|CANVAS)$/.test(front.tagName)) return true;
    }
    return false;
  };

  /**
   * Whether something between a text and an element has a ground of its own.
   * @param {Element} parent of the text
   * @param {Element} element
   */
  const isCovered = (parent, element) => {
    for (const around of [parent, ...ancestors(parent)]) {
      if (around.contains(element)) break;
      const style = getComputedStyle(around);
      if (rgb(style.backgroundColor)[3] > 0.5 || /url\(|image-set\(/.test(style.backgroundImage)) return true;
    }
    return false;
  };
  /** @param {Element} element */
  const isMoved = (element) => [element, ...ancestors(element)].some((around) => {
    const style = getComputedStyle(around);
    return style.transform !== "none" || /transform/.test(style.willChange);
  });
  /** @param {string} text */
  const px = (text) => parseFloat(text) || 0;
  /**
   * An img fits its picture as a background of its content box would.
   * @param {Element} element
   * @param {CSSStyleDeclaration} style
   */
  const background = (element, style) => {
    if (!(element instanceof HTMLImageElement)) return style;
    const cover = style.objectFit === "cover";
    return {
      backgroundImage: element.currentSrc ? `url("${element.currentSrc}")` : "none", backgroundSize: "cover",
      backgroundPosition: cover ? style.objectPosition : "0px 0px", backgroundRepeat: "no-repeat", backgroundAttachment: "scroll",
    };
  };
  /**
   * The box that a background is placed in: without its borders, as the usual origin has it.
   * @param {Element} element
   * @param {CSSStyleDeclaration} style
   * @param {string | undefined} pseudo
   */
  const placed = (element, style, pseudo) => {
    const [left, top, right, bottom] = box(element.getBoundingClientRect());
    if (!pseudo) {
      const borders = style.backgroundOrigin === "border-box" ? [0, 0, 0, 0]
        : [style.borderLeftWidth, style.borderTopWidth, style.borderRightWidth, style.borderBottomWidth].map(px);
      return [left + borders[0], top + borders[1], right - borders[2], bottom - borders[3]];
    }
    const wide = style.boxSizing === "border-box" ? 0 : px(style.paddingLeft) + px(style.paddingRight);
    const high = style.boxSizing === "border-box" ? 0 : px(style.paddingTop) + px(style.paddingBottom);
    if (!/px$/.test(style.width) || !/px$/.test(style.height)) return [left, top, right, bottom];
    return [left, top, left + px(style.width) + wide, top + px(style.height) + high];
  };

  const elements = selectors.map((selector) => {
    const [plain, pseudo] = selector.split(/::?(?=before|after)/);
    const element = document.querySelector(plain);
    if (!element) return null;
    const style = getComputedStyle(element, pseudo ? `::${pseudo}` : null);
    return { element, style, edges: placed(element, style, pseudo) };
  });
  /** In square px. @param {number[]} box @param {number[]} other */
  const overlap = ([left, top, right, bottom], [l, t, r, b]) =>
    Math.max(0, Math.min(r, right) - Math.max(l, left)) * Math.max(0, Math.min(b, bottom) - Math.max(t, top));
  /** @param {Edges} rect */
  const liesAboveAny = (rect) => {
    const edges = box(rect);
    return elements.some((placing) => placing && overlap(placing.edges, edges) > 0);
  };

  // All lines of text above these elements that can be seen, once.
  /** @type {{ box: number[], parent: Element, colour: number[], size: number, bold: boolean, words: string }[]} */
  const lines = [];
  const range = document.createRange();
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode() && lines.length < 3000) {
    const text = /** @type {Text} */ (walker.currentNode), parent = text.parentElement;
    if (!text.data.trim() || !parent || /^(SCRIPT|STYLE|NOSCRIPT|TEMPLATE)$/.test(parent.tagName)) continue;
    range.selectNodeContents(text);
    const rects = [...range.getClientRects()].filter((rect) => rect.width >= 1 && rect.height >= 1 && liesAboveAny(rect));
    if (!rects.length || !seen(parent)) continue;
    const style = getComputedStyle(parent), colour = rgb(style.webkitTextFillColor || style.color);
    const isPainted = /text/.test(style.backgroundClip || style.webkitBackgroundClip || "");
    if (colour[3] < 0.1 || isPainted || isIcon(text.data, style) || parseFloat(style.fontSize) < 2) continue;
    for (const rect of rects) {
      const part = unclipped(rect, parent);
      const share = Math.max(0, part.right - part.left) * Math.max(0, part.bottom - part.top) / (rect.width * rect.height);
      if (share < 0.5 || isBehind(rect, parent)) continue;
      lines.push({
        box: box(part), parent, colour,
        size: parseFloat(style.fontSize), bold: (parseFloat(style.fontWeight) || 400) >= 600,
        words: text.data.trim().replace(/\s+/g, " ").replace(/^(.{24}).+$/, "$1…"),
      });
    }
  }

  /** @param {CSSStyleDeclaration} style */
  const paints = (style) => parseFloat(style.opacity) > 0.02 && style.visibility === "visible"
    && (rgb(style.backgroundColor)[3] > 0.02 || style.backgroundImage !== "none");
  /**
   * Whether the page lays a layer of its own over most of an element's picture: a colour, a gradient.
   * @param {Element} element
   * @param {number[]} edges
   */
  const isVeiled = (element, edges) => {
    const [left, top, right, bottom] = edges;
    const most = 0.6 * (right - left) * (bottom - top);
    for (const pseudo of ["::before", "::after"]) {
      const style = getComputedStyle(element, pseudo);
      if (style.content !== "none" && paints(style) && px(style.width) * px(style.height) > most) return true;
    }
    return [...element.querySelectorAll("*")].slice(0, 300).some((inner) => {
      if (/^(IMG|VIDEO|PICTURE|CANVAS|IFRAME)$/.test(inner.tagName)) return false;
      return overlap(edges, box(inner.getBoundingClientRect())) > most && paints(getComputedStyle(inner));
    });
  };

  return elements.map((placing) => {
    if (!placing) return null;
    const { element, style, edges } = placing, own = background(element, style);
    const [left, top, right, bottom] = edges;
    const width = right - left, height = bottom - top;
    const above = width < 1 || height < 1 ? [] : lines.filter((line) => {
      const [l, t, r, b] = line.box;
      return overlap(edges, line.box) > 0.5 * (r - l) * (b - t) && (line.parent === element || !line.parent.contains(element)) && !isCovered(line.parent, element);
    });
    return {
      box: edges,
      shown: seen(element),
      veiled: isVeiled(element, edges),
      colour: rgb(style.backgroundColor),
      background: {
        image: own.backgroundImage.replaceAll(location.origin, "http://page.invalid"),
        size: own.backgroundSize, position: own.backgroundPosition, repeat: own.backgroundRepeat,
        attachment: isMoved(element) ? own.backgroundAttachment.replaceAll("fixed", "scroll") : own.backgroundAttachment,
      },
      lines: above.map((line) => ({
        box: [(line.box[0] - left) / width, (line.box[1] - top) / height, (line.box[2] - left) / width, (line.box[3] - top) / height],
        colour: line.colour, size: line.size, bold: line.bold, words: line.words,
      })),
    };
  });
}
