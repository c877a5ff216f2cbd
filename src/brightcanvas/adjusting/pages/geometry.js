// The geometry of the core (brightcanvas.framing), so that what is dragged is followed at once.
// Sizes are [width, height], areas [left, top, right, bottom], conditions [across, down, rest]
// for the amount across * width + down * height + rest. A test checks it against the core.
"use strict";

/**
 * @typedef {[string, string]} Side of a subject, in the narrowest box and in the widest one
 * @typedef {Record<"startLow" | "startHigh" | "innerLow" | "innerHigh", Condition[]>
 *   & { spare: Condition }} Axis
 * @typedef {{ across: Axis, down: Axis }} Bounds
 */

const geometry = (() => {
  const HAIR = 1e-9, LATTICE = 32, HALVINGS = 10;
  const NEARNESS = [1.01, 1.05, 1.12, 1.25, 1.5, 2.0];
  /** @type {Side[]} */
  const SIDES = [
    ["left", "left"], ["right", "right"], ["above", "above"], ["below", "below"],
    ["above", "left"], ["above", "right"], ["below", "left"], ["below", "right"],
  ];
  /** @type {(value: number, low: number, high: number) => number} */
  const clamp = (value, low, high) => Math.min(Math.max(value, low), high);

  // Boxes of the element (values.lengths, framing.stages)

  /** @param {Calculation} tree @param {Pair} viewport @param {number} whole @returns {number} */
  function length(tree, viewport, whole) {
    if (!tree.does) {
      const { number, unit } = tree;
      if (!unit) return number;
      if (unit === "%") return number * whole / 100;
      return number * (unit === "vw" ? viewport[0] : viewport[1]) / 100;
    }
    const parts = tree.parts.map((one) => length(one, viewport, whole));
    if (tree.does === "min") return Math.min(...parts);
    if (tree.does === "max") return Math.max(...parts);
    if (tree.does === "multiply") return parts[0] * parts[1];
    if (tree.does === "divide") return parts[0] / parts[1];
    return parts.reduce((sum, one) => sum + one, 0);
  }

  // The entries round a number, and how far it is from the first to the second (values.boxes).
  /**
   * @template Value
   * @param {Entries<Value>} entries
   * @param {number} wanted
   * @returns {[Value, Value, number]}
   */
  function around(entries, wanted) {
    const above = entries.findIndex(([at]) => at > wanted);
    const high = above < 0 ? entries.length - 1 : above, low = above > 0 ? above - 1 : high;
    const gap = entries[high][0] - entries[low][0];
    return [entries[low][1], entries[high][1], gap ? (wanted - entries[low][0]) / gap : 0];
  }

  /** @type {(ends: [Pair, Pair, number]) => Pair} */
  const blend = ([first, second, share]) =>
    first.map((side, axis) => side + (second[axis] - side) * share);

  /** @param {Entries<Entries<Pair>>} columns @param {Pair} viewport @returns {Pair} */
  function measured(columns, [width, height]) {
    const [narrow, wide, share] = around(columns, width);
    return blend([blend(around(narrow, height)), blend(around(wide, height)), share]);
  }

  /** @param {PageElement} element @param {Pair} viewport @returns {Pair} */
  function box(element, viewport, grown = false) {
    if (element.fixed) return viewport;
    if (element.boxes) return measured(element.boxes, viewport);
    const width = Math.min(element.share * viewport[0], element.most ?? Infinity);
    const least = element.padding.reduce((sum, one) => sum + length(one, viewport, viewport[0]), 0);
    const rule = element.height;
    const ruled = rule.aspect ? width * rule.aspect[1] / rule.aspect[0] : length(rule, viewport, 0);
    const height = Math.max(ruled, least) + element.drift;
    return [width, grown ? height + element.growth : height];
  }

  // What a box shows of a cut (framing.windows)

  /** @type {(size: Pair, aspect: number) => Pair} */
  const windowSize = ([width, height], aspect) =>
    [Math.min(width, height * aspect), Math.min(height, width / aspect)];

  /** @param {Area} cut @param {Pair} position @param {number} aspect @returns {Area} */
  function seenAt(cut, position, aspect) {
    const size = [cut[2] - cut[0], cut[3] - cut[1]], shown = windowSize(size, aspect);
    const left = cut[0] + position[0] * (size[0] - shown[0]);
    const top = cut[1] + position[1] * (size[1] - shown[1]);
    return [left, top, left + shown[0], top + shown[1]];
  }

  /** @param {Area} window @param {Area[]} subjects */
  function lostShare(window, subjects, slack = 0.01) {
    let worst = 0;
    for (const one of subjects) {
      for (const [low, high] of [[0, 2], [1, 3]]) {
        const out = Math.max(0, window[low] - one[low]) + Math.max(0, one[high] - window[high]);
        const size = one[high] - one[low];
        if (out > slack) worst = Math.max(worst, size ? Math.min(1, out / size) : 1);
      }
    }
    return worst;
  }

  /** @param {Area} window @param {Area} copy @returns {Area} */
  function copyIn(window, copy) {
    const width = window[2] - window[0], height = window[3] - window[1];
    return [
      window[0] + copy[0] * width, window[1] + copy[1] * height,
      window[0] + copy[2] * width, window[1] + copy[3] * height,
    ];
  }

  /** @param {Area} window @param {Area} copy @param {Area[]} subjects */
  function coveredShare(window, copy, subjects) {
    const under = copyIn(window, copy);
    let worst = 0;
    for (const one of subjects) {
      const across = Math.min(under[2], one[2]) - Math.max(under[0], one[0]);
      const down = Math.min(under[3], one[3]) - Math.max(under[1], one[1]);
      const area = Math.max((one[2] - one[0]) * (one[3] - one[1]), 1e-9);
      worst = Math.max(worst, Math.max(0, across) * Math.max(0, down) / area);
    }
    return worst;
  }

  // Polygons of cut sizes (framing.halfplanes)

  /** @type {(condition: Condition, size: Pair) => number} */
  const at = (condition, [width, height]) =>
    condition[0] * width + condition[1] * height + condition[2];
  /** @type {(one: number[], other: number[]) => number[]} */
  const minus = (one, other) => one.map((part, n) => part - other[n]);
  /** @type {(one: number[], other: number[]) => number[]} */
  const plus = (one, other) => one.map((part, n) => part + other[n]);
  /** @type {(one: number[], factor: number) => number[]} */
  const times = (one, factor) => one.map((part) => part * factor);
  /** @type {(value: number) => Condition} */
  const constant = (value) => [0, 0, value];

  /** @param {Pair[]} polygon @param {Condition[]} conditions @param {number} slack */
  function clipped(polygon, conditions, slack) {
    for (const condition of conditions) {
      if (!polygon.length) break;
      const amounts = polygon.map((corner) => at(condition, corner) + slack);
      if (Math.min(...amounts) >= 0) continue;
      /** @type {Pair[]} */
      const kept = [];
      polygon.forEach((corner, n) => {
        const last = (n || polygon.length) - 1, before = polygon[last], amount = amounts[n];
        if ((amount >= 0) !== (amounts[last] >= 0)) {
          const share = amounts[last] / (amounts[last] - amount);
          kept.push([
            before[0] + share * (corner[0] - before[0]), before[1] + share * (corner[1] - before[1]),
          ]);
        }
        if (amount >= 0) kept.push(corner);
      });
      polygon = kept;
    }
    return polygon;
  }

  // What a cut has to hold to (framing.wishes)

  /** @type {(spare: Condition) => Axis} */
  const axis = (spare) =>
    ({ spare, startLow: [], startHigh: [], innerLow: [], innerHigh: [] });

  /** @param {Axis} one */
  function conditionsOf(one) {
    const { startLow, startHigh, innerLow, innerHigh } = one, none = constant(0);
    /** @type {(lows: Condition[], highs: Condition[], spare: Condition) => Condition[]} */
    const ordered = (lows, highs, spare) =>
      highs.flatMap((high) => lows.map((low) => minus(plus(high, spare), low)));
    return [
      ...ordered(startLow, startHigh, none), ...ordered(innerLow, innerHigh, none),
      ...ordered(startLow, innerHigh, none), ...ordered(innerLow, startHigh, one.spare),
    ];
  }

  /** @type {(subjects: Area[]) => Area} */
  const hull = (subjects) => [
    Math.min(...subjects.map((one) => one[0])), Math.min(...subjects.map((one) => one[1])),
    Math.max(...subjects.map((one) => one[2])), Math.max(...subjects.map((one) => one[3])),
  ];

  const WIDTH = [1, 0, 0], HEIGHT = [0, 1, 0];

  /** @param {Wish} wish @param {Side[]} sides @returns {Bounds} */
  function boundsFor(wish, sides) {
    const [low, high] = wish.aspects, narrow = [0, low, 0], wide = [1 / high, 0, 0];
    const across = axis(minus(WIDTH, narrow)), down = axis(minus(HEIGHT, wide));
    for (const one of [across, down]) one.startLow.push(constant(0));
    across.startHigh.push(minus(constant(wish.source[0]), WIDTH));
    down.startHigh.push(minus(constant(wish.source[1]), HEIGHT));
    const subject = hull(wish.subjects), hidden = wish.hidden;
    across.innerHigh.push(constant(subject[0]));
    across.innerLow.push(minus(constant(subject[2]), narrow));
    down.innerHigh.push(minus(constant(subject[1]), times(wide, hidden)));
    down.innerLow.push(minus(constant(subject[3]), times(wide, 1 - hidden)));
    if (hidden) {
      down.startHigh.push(minus(constant(subject[1]), times(HEIGHT, hidden)));
      down.startLow.push(minus(constant(subject[3]), times(HEIGHT, 1 - hidden)));
    }
    sides.forEach((side, n) => keepClear({ across, down }, wish, wish.subjects[n], side));
    return { across, down };
  }

  /**
   * @param {Bounds} bounds
   * @param {Wish} wish
   * @param {Area} subject
   * @param {Side} side
   */
  function keepClear({ across, down }, wish, subject, [inNarrow, inWide]) {
    const [low, high] = wish.aspects, copy = wish.copy ?? [];
    /** @type {(side: string) => boolean} */
    const isAcross = (side) => side === "left" || side === "right";
    if (isAcross(inNarrow)) beside(across, copy, subject, inNarrow, [0, low, 0], true);
    if (isAcross(inWide)) beside(across, copy, subject, inWide, WIDTH, false);
    if (!isAcross(inWide)) beside(down, copy, subject, inWide, [1 / high, 0, 0], true);
    if (!isAcross(inNarrow)) beside(down, copy, subject, inNarrow, HEIGHT, false);
  }

  /**
   * @param {Axis} one
   * @param {Area} copy
   * @param {Area} subject
   * @param {string} where
   * @param {Condition} window
   * @param {boolean} inner
   */
  function beside(one, copy, subject, where, window, inner) {
    const n = where === "left" || where === "right" ? 0 : 1;
    if (where === "left" || where === "above") {
      (inner ? one.innerHigh : one.startHigh).push(
        minus(constant(subject[n]), times(window, copy[n + 2])));
    } else {
      (inner ? one.innerLow : one.startLow).push(
        minus(constant(subject[n + 2]), times(window, copy[n])));
    }
  }

  // Cuts (framing.cuts)

  /** @param {Area} copy @param {Area} subject @param {string} where */
  function lies(copy, subject, where) {
    if (where === "left") return copy[2] <= subject[0];
    if (where === "right") return copy[0] >= subject[2];
    return where === "above" ? copy[3] <= subject[1] : copy[1] >= subject[3];
  }

  /** @param {Cut} cut @param {Wish} wish */
  function isClear({ area, position }, wish) {
    const own = (area[2] - area[0]) / (area[3] - area[1]);
    const [narrow, whole, wide] = [wish.aspects[0], own, wish.aspects[1]]
      .map((aspect) => copyIn(seenAt(area, position, aspect), wish.copy ?? []));
    return wish.subjects.every((subject) => SIDES.some(([first, second]) =>
      lies(narrow, subject, first) && lies(whole, subject, first)
      && lies(whole, subject, second) && lies(wide, subject, second)));
  }

  /** @param {Pair} source @param {Pair} aspects @returns {Pair[]} */
  function sizesWithin(source, [low, high]) {
    const least = 1e-3 * Math.min(1, source[0], source[1]), aspect = source[0] / source[1];
    return [
      [low * least, least], [high * least, least], windowSize(source, high),
      ...(low < aspect && aspect < high ? [source] : []), windowSize(source, low),
    ];
  }

  /**
   * @param {Wish} wish
   * @param {Side[]} chosen
   * @param {Pair[]} among
   * @returns {Generator<[Bounds, Pair[]]>}
   */
  function* feasible(wish, chosen, among) {
    const bounds = boundsFor(wish, chosen), slack = HAIR * Math.max(...wish.source);
    const sizes = clipped(
      among, [...conditionsOf(bounds.across), ...conditionsOf(bounds.down)], slack);
    if (!sizes.length) return;
    if (!wish.copy || chosen.length === wish.subjects.length) {
      yield [bounds, sizes];
      return;
    }
    for (const side of SIDES) yield* feasible(wish, [...chosen, side], sizes);
  }

  /** @param {Pair[]} sizes @param {number | null} aspect */
  function near(sizes, aspect) {
    if (!aspect) return sizes;
    for (const factor of NEARNESS) {
      const found = clipped(sizes, [[1, -aspect / factor, 0], [-1, aspect * factor, 0]], 0);
      if (found.length) return found;
    }
    return sizes;
  }

  /** @type {(size: Pair, source: Pair) => number} */
  const scene = (size, source) => size[0] / source[0] + size[1] / source[1];
  /** @type {(sizes: Pair[], source: Pair, sign: number) => Pair} */
  const best = (sizes, source, sign) =>
    sizes.reduce((one, other) =>
      (sign * scene(other, source) > sign * scene(one, source) ? other : one));

  /**
   * @param {Pair[]} sizes
   * @param {Pair} source
   * @param {Closeness} closeness
   * @param {Pair | null} sharp
   */
  function choose(sizes, source, closeness, sharp) {
    const largest = best(sizes, source, 1);
    if (closeness === "wide") return largest;
    if (sharp) {
      const enough = [minus(WIDTH, constant(sharp[0])), minus(HEIGHT, constant(sharp[1]))];
      const found = clipped(sizes, enough, 0);
      sizes = found.length ? found : [largest];
    }
    const smallest = best(sizes, source, -1);
    if (closeness === "close") return smallest;
    return [(largest[0] + smallest[0]) / 2, (largest[1] + smallest[1]) / 2];
  }

  /** @param {Condition[]} lows @param {Condition[]} highs @param {Pair} size */
  function rangeOf(lows, highs, size) {
    return [
      Math.max(...lows.map((one) => at(one, size))), Math.min(...highs.map((one) => at(one, size))),
    ];
  }

  /** @type {(value: number, low: number, high: number) => number} */
  const between = (value, low, high) => (low <= high ? clamp(value, low, high) : (low + high) / 2);

  // Python's way of rounding, so that both sides agree on a half.
  /** @param {number} value */
  function rounded(value) {
    const floor = Math.floor(value), rest = value - floor;
    if (rest !== 0.5) return Math.round(value);
    return floor % 2 ? floor + 1 : floor;
  }

  /** @param {number} value @param {number} low @param {number} high @param {number} step */
  function onLattice(value, low, high, step) {
    const nearest = rounded(value / step) * step;
    const tried = [nearest, nearest + step, nearest - step];
    return tried.find((one) => low <= one && one <= high) ?? value;
  }

  /**
   * @param {Axis} one
   * @param {Pair} size
   * @param {number} share
   * @param {number} source
   * @param {number} cut
   */
  function anchored(one, size, share, source, cut) {
    const spare = at(one.spare, size), smallest = cut - spare, step = source / LATTICE;
    const [startLow, startHigh] = rangeOf(one.startLow, one.startHigh, size);
    const [innerLow, innerHigh] = rangeOf(one.innerLow, one.innerHigh, size);
    const low = Math.max(startLow, innerLow - spare), high = Math.min(startHigh, innerHigh);
    let start = onLattice(between(share * (source - cut), low, high), low, high, step);
    const inner = between(
      share * (source - smallest), Math.max(innerLow, start), Math.min(innerHigh, start + spare));
    start = Math.min(Math.max(start, 0), source - cut);
    const position = spare > HAIR * source ? (inner - start) / spare : share;
    return [start, clamp(position, 0, 1)];
  }

  /** @param {Wish} wish @param {Bounds} bounds @param {Pair} size @returns {Cut} */
  function placed(wish, bounds, size) {
    const subject = hull(wish.subjects), [width, height] = wish.source;
    const middle = [(subject[0] + subject[2]) / 2, (subject[1] + subject[3]) / 2];
    const [left, x] = anchored(bounds.across, size, middle[0] / width, width, size[0]);
    const [top, y] = anchored(bounds.down, size, middle[1] / height, height, size[1]);
    return { area: [left, top, left + size[0], top + size[1]], position: [x, y] };
  }

  /** @param {Wish} wish @param {Wanted} wanted @returns {Cut | null} */
  function findCut(wish, { closeness, sharp, aspect }) {
    const how = { closeness, sharp, aspect };
    if (wish.copy) {
      const cut = findCut({ ...wish, copy: null }, how);
      if (!cut || isClear(cut, wish)) return cut;
    }
    let found = null;
    for (const [bounds, sizes] of feasible(wish, [], sizesWithin(wish.source, wish.aspects))) {
      const size = choose(near(sizes, aspect), wish.source, closeness, sharp);
      const shown = scene(size, wish.source);
      if (!found || shown > found.shown + HAIR) found = { shown, bounds, size };
    }
    return found && placed(wish, found.bounds, found.size);
  }

  // The best cut there is (framing.compromise)

  /** @param {Wish} wish @param {number} margin */
  function withMargin(wish, margin) {
    if (!margin) return wish;
    const [width, height] = wish.source;
    const subjects = wish.subjects.map((one) => [
      Math.max(0, one[0] - margin), Math.max(0, one[1] - margin),
      Math.min(width, one[2] + margin), Math.min(height, one[3] + margin),
    ]);
    return { ...wish, subjects };
  }

  /** @param {Wish} wish @param {number} share */
  function scaled(wish, share) {
    const whole = hull(wish.subjects);
    const middle = [(whole[0] + whole[2]) / 2, (whole[1] + whole[3]) / 2];
    const subjects = wish.subjects.map((one) =>
      one.map((edge, n) => middle[n % 2] + (edge - middle[n % 2]) * share));
    return { ...wish, subjects };
  }

  /** @param {Wish} wish @returns {Cut | null} */
  function largestPart(wish) {
    /** @type {Wanted} */
    const wide = { closeness: "wide", sharp: null, aspect: null };
    let cut = findCut(scaled(wish, 0), wide), holds = 0, fails = 1;
    for (let n = 0; n < HALVINGS; n += 1) {
      const share = (holds + fails) / 2, better = findCut(scaled(wish, share), wide);
      if (better) [cut, holds] = [better, share];
      else fails = share;
    }
    return cut;
  }

  /** @param {CutOrder} order @returns {Cut | null} */
  function frame(order) {
    const { source, aspects, subjects, copy, hidden, usual, margin } = order;
    const everywhere = { source, aspects, subjects, copy, hidden };
    const differs = usual && (usual[0] !== aspects[0] || usual[1] !== aspects[1]);
    const atUsual = differs ? { ...everywhere, aspects: usual } : everywhere;
    for (const kept of copy ? [copy, null] : [null]) {
      for (const wish of differs ? [everywhere, atUsual] : [everywhere]) {
        for (const room of margin ? [margin, 0] : [0]) {
          const cut = findCut({ ...withMargin(wish, room), copy: kept }, order);
          if (cut) return cut;
        }
      }
    }
    const wish = { ...atUsual, copy: null };
    for (let count = subjects.length - 1; count > 0; count -= 1) {
      const cut = findCut({ ...wish, subjects: subjects.slice(0, count) }, order);
      if (cut) return cut;
    }
    return largestPart({ ...wish, subjects: subjects.slice(0, 1) });
  }

  return { box, seenAt, lostShare, coveredShare, copyIn, frame, clamp, hull };
})();
