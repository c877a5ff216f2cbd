"""Cuts against brute force: random sources, subjects, copy and stages.

For each, our cut is checked in boxes of many shapes; where we find none, thousands of random
cuts are tried in our place. ``python -m bench.framing 100000`` takes some minutes.
"""

from __future__ import annotations

import random
import sys
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcanvas.framing.cuts import Closeness, Cut, copy_in, find_cut
from brightcanvas.framing.wishes import CutWish
from brightcanvas.values.geometry import Rect, Size, Span

SHAPES = 25
CANDIDATES = 400
Numbers = NDArray[np.float64]


@dataclass
class Score:
    """What a run found."""

    combinations: int = 0
    held: int = 0
    broken: int = 0
    """We claimed a cut that holds, and some box breaks it."""
    missed: int = 0
    """We found none, and brute force did."""
    wasteful: int = 0
    """Some pixel of the cut is in no box."""


def random_wish(chance: random.Random) -> CutWish:
    """A made-up wish: one or two subjects, with or without copy beside them."""
    source = Size(chance.randint(50, 5000), chance.randint(50, 5000))
    low = chance.uniform(0.25, 4)
    aspects = Span(low, low * chance.choice([1, 1.1, 1.5, 2.5, 6]))
    subjects = tuple(
        random_box(chance, 0.5).scaled(source) for _ in range(chance.choice([1, 1, 1, 2]))
    )
    copy = random_box(chance, 0.6) if chance.random() < 0.6 else None
    hidden = chance.choice([0, 0, 0, 0.1])
    return CutWish(source, aspects, subjects, copy, hidden)


def random_box(chance: random.Random, largest: float) -> Rect:
    """A box within the unit square; sometimes a point."""
    width, height = chance.uniform(0, largest), chance.uniform(0, largest)
    if chance.random() < 0.1:
        width = height = 0.0
    left, top = chance.uniform(0, 1 - width), chance.uniform(0, 1 - height)
    return Rect(left, top, left + width, top + height)


def shapes(aspects: Span) -> list[float]:
    """Aspects from the narrowest to the widest box."""
    ratio = aspects.high / aspects.low
    return [aspects.low * ratio ** (i / (SHAPES - 1)) for i in range(SHAPES)]


def holds_everywhere(cut: Cut, wish: CutWish, slack: float) -> bool:
    """Whether a cut keeps a wish in boxes of many shapes."""
    for aspect in shapes(wish.aspects):
        window = cut.seen_at(aspect)
        hidden = wish.hidden * window.height
        sure = Rect(window.left, window.top + hidden, window.right, window.bottom - hidden)
        if not all(sure.contains(one, slack) for one in wish.subjects):
            return False
        if wish.copy and not _clear(copy_in(window, wish.copy), wish.subjects, slack):
            return False
    return True


def _clear(copy: Rect, subjects: tuple[Rect, ...], slack: float) -> bool:
    return not any(
        min(copy.right, one.right) - max(copy.left, one.left) > slack
        and min(copy.bottom, one.bottom) - max(copy.top, one.top) > slack
        for one in subjects
    )


def brute_force_finds(wish: CutWish, numbers: np.random.Generator) -> bool:
    """Whether any of many random cuts keeps a wish, a little inside its bounds."""
    width, height = wish.source.width, wish.source.height
    aspect = numbers.uniform(wish.aspects.low, wish.aspects.high, CANDIDATES)
    scale = numbers.uniform(0.3, 1, CANDIDATES) ** 0.5
    across = np.minimum(width, height * aspect) * scale
    down = across / aspect
    left = numbers.uniform(0, 1, CANDIDATES) * (width - across)
    top = numbers.uniform(0, 1, CANDIDATES) * (height - down)
    x, y = numbers.uniform(0, 1, CANDIDATES), numbers.uniform(0, 1, CANDIDATES)
    good = np.ones(CANDIDATES, bool)
    hair = 1e-6 * max(width, height)
    for shape in shapes(wish.aspects):
        seen_across = np.minimum(across, down * shape)
        seen_down = np.minimum(down, across / shape)
        window = (left + x * (across - seen_across), top + y * (down - seen_down))
        good &= _good(wish, window, (seen_across, seen_down), hair)
    return bool(good.any())


def _good(
    wish: CutWish, start: tuple[Numbers, Numbers], size: tuple[Numbers, Numbers], hair: float
) -> NDArray[np.bool_]:
    good = np.ones(CANDIDATES, bool)
    (left, top), (across, down) = start, size
    for one in wish.subjects:
        good &= (left <= one.left - hair) & (left + across >= one.right + hair)
        good &= (top + wish.hidden * down <= one.top - hair) & (
            top + (1 - wish.hidden) * down >= one.bottom + hair
        )
        if wish.copy:
            good &= (
                (left + wish.copy.right * across <= one.left - hair)
                | (left + wish.copy.left * across >= one.right + hair)
                | (top + wish.copy.bottom * down <= one.top - hair)
                | (top + wish.copy.top * down >= one.bottom + hair)
            )
    return good


def wastes_pixels(cut: Cut, wish: CutWish) -> bool:
    """Whether the cut's own aspect is no box's: then some edge of it is never shown."""
    aspect = cut.area.size.aspect
    return not wish.aspects.low * (1 - 1e-6) <= aspect <= wish.aspects.high * (1 + 1e-6)


def compare(combinations: int, seed: int) -> Score:
    """Try so many random wishes."""
    chance, numbers = random.Random(seed), np.random.default_rng(seed)
    score = Score(combinations)
    for _ in range(combinations):
        wish = random_wish(chance)
        cut = find_cut(wish, chance.choice(list(Closeness)))
        slack = 1e-6 * max(wish.source.width, wish.source.height)
        if cut is None:
            score.missed += brute_force_finds(wish, numbers)
            continue
        score.held += 1
        score.broken += not holds_everywhere(cut, wish, slack)
        score.wasteful += wastes_pixels(cut, wish)
    return score


def main() -> None:
    """Print the score."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 5000
    score = compare(count, seed=1)
    print(
        f"{score.combinations} combinations: a cut found for {score.held},"
        f" {score.broken} of them broken by some box, {score.wasteful} with pixels never shown;"
        f" {score.missed} missed that {CANDIDATES} random cuts each would have found"
    )


if __name__ == "__main__":
    main()
