"""Which rule a box's height and width follow, recognised from what it does over the windows."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.heights import parse_height

NEAR = 2.0
"""CSS px by which a rule may miss a box."""

MOST_OFF = 0.01
"""Share by which an aspect may."""


@dataclass(frozen=True)
class Box:
    """An element's box in one window, CSS px."""

    viewport: Size
    size: Size
    paddings: tuple[float, float, float, float] | None = None
    """From the top round, CSS px, where a stated height would come on top of them."""


@dataclass(frozen=True)
class Height:
    """A height rule, with what content may add to it."""

    rule: str
    growth: float = 0.0
    """CSS px."""


def height_of(boxes: Sequence[Box]) -> Height:
    """The rule that all boxes of a breakpoint follow.

    Where content decides, it is the least height, and how much more there may be.

    Args:
        boxes: in several windows of different widths and heights; at least one.
    """
    least = math.floor(min(one.size.height for one in boxes))
    found = [_with_growth(rule, boxes) for rule in (*_tried(boxes), f"{max(1, least)}px")]
    return min((one for one in found if one), key=lambda one: one.growth)


def _with_growth(rule: str, boxes: Sequence[Box]) -> Height | None:
    """A rule with what content adds to it at most; None where some box is lower than it."""
    more = [one.size.height - _pixels(rule, one) for one in boxes]
    if min(more) < -NEAR:
        return None
    return Height(rule, math.ceil(max(more)) if max(more) > NEAR else 0.0)


def _pixels(rule: str, box: Box) -> float:
    return parse_height(rule).pixels(box.viewport, box.size.width)


def _tried(boxes: Sequence[Box]) -> list[str]:
    """Rules that may be it: a number of px, shares of the window's height, an aspect."""
    heights = [one.size.height for one in boxes]
    least = min(heights)
    rules = [f"{plain_number(round(least, 1))}px"]
    tallest = max(boxes, key=lambda one: one.viewport.height)
    share = 100 * tallest.size.height / tallest.viewport.height
    if share <= 100.5:
        told = plain_number(round(share, 1) if abs(share - round(share)) > 0.05 else round(share))
        rules += [f"{told}svh", f"max({plain_number(round(least))}px, {told}svh)"]
    if aspect := _aspect(boxes):
        across = _of_width(boxes)
        most = plain_number(round(max(heights)))
        low = plain_number(round(least))
        rules += [aspect, f"max({low}px, {across}vw)"]
        rules += [f"min({across}vw, {most}px)", f"clamp({low}px, {across}vw, {most}px)"]
    return [one for one in rules if _is_rule(one)]


def _is_rule(text: str) -> bool:
    try:
        parse_height(text)
    except ValueError:
        return False
    return True


def _aspect(boxes: Sequence[Box]) -> str:
    widest = max(boxes, key=lambda one: one.size.width)
    ratio = widest.size.width / max(1.0, widest.size.height)
    near = Fraction(ratio).limit_denominator(20)
    is_near = abs(float(near) / ratio - 1) < MOST_OFF
    return f"{near.numerator}/{near.denominator}" if is_near else f"{ratio:.4g}/1"


def _of_width(boxes: Sequence[Box]) -> str:
    """Height in shares of the window's width, as most boxes have it between two bounds."""
    shares = [round(100 * one.size.height / one.viewport.width, 2) for one in boxes]
    return plain_number(Counter(shares).most_common(1)[0][0])


def width_of(boxes: Sequence[Box]) -> str:
    """The rule that all widths follow, never narrower than any box; empty: the window's."""
    share = max(one.size.width / one.viewport.width for one in boxes)
    most = max(one.size.width for one in boxes)
    widest = max(one.viewport.width for one in boxes)
    told = f"{plain_number(math.ceil(100 * share))}%" if share < 0.985 else "100%"
    is_capped = most < 0.985 * min(1.0, share) * widest
    if is_capped:
        return f"min({told}, {math.ceil(most)}px)"
    return told if told != "100%" else ""


def padding_of(boxes: Sequence[Box]) -> str:
    """The paddings that all boxes of a breakpoint have; empty where a height counts them in.

    What grows with the window is told as a share of its width, and otherwise by its least.
    """
    listed = [(one.viewport, one.paddings) for one in boxes if one.paddings is not None]
    if not listed or not any(edges[0] + edges[2] for _, edges in listed):
        return ""
    sides = [[(viewport, edges[side]) for viewport, edges in listed] for side in range(4)]
    told = [_padding(side) for side in sides]
    if told[1] == told[3]:
        told = told[:3] if told[0] != told[2] else told[:2]
    return told[0] if len(told) == 2 and told[0] == told[1] else " ".join(told)


def _padding(side: Sequence[tuple[Size, float]]) -> str:
    least = min(amount for _, amount in side)
    shares = [100 * amount / viewport.width for viewport, amount in side]
    varies = max(amount for _, amount in side) - least > NEAR
    if varies and max(shares) - min(shares) < 0.05:
        return f"{plain_number(round(shares[0], 2))}vw"
    return f"{plain_number(round(least, 1))}px" if least else "0"
