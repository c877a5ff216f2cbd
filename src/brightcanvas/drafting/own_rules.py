"""What a page's own rule shows of its picture, window by window, and where that changes."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path

from brightcanvas.css.backgrounds import Layer
from brightcanvas.values.geometry import Point, Size
from brightcanvas.values.layers import PICTURE

MOST_EDGES = 3
"""Widths at which a rule may change; where it changes more often, all of the picture is kept."""

_SHARES = re.compile(r"(-?\d+(?:\.\d+)?)%\s+(-?\d+(?:\.\d+)?)%")
_WORDS = {"left": 0.0, "top": 0.0, "center": 0.5, "right": 1.0, "bottom": 1.0}
_WIDTH = re.compile(r"(\d+(?:\.\d+)?)px(?:\s+auto)?")


class KeptError(Exception):
    """A background that can't be drafted; its message says why, and what to do."""


@dataclass(frozen=True)
class OwnRule:
    """How a page shows a picture in some windows."""

    source: Path | None
    """The largest file that there is of its picture; None: it shows none here."""
    layers: str
    """All layers, with a word for the picture."""
    size: str
    """``cover``, ``contain``, or the width in CSS px."""
    position: Point | None
    """None: none that a part of the picture could be placed by."""
    attachment: str


@dataclass(frozen=True)
class SeenRule:
    """The rule in one window."""

    viewport: Size
    rule: OwnRule


SourceOf = Callable[[str], tuple[Path, Size]]
"""From a URL to the largest file of the same picture, and the shown one's size in px."""


def rule_of(layers: Sequence[Layer], box: Size, source_of: SourceOf) -> OwnRule:
    """What the layers of a background come to.

    Args:
        layers: the first one is on top.
        box: in which they are placed, CSS px.
        source_of: tells the source of a picture.

    Raises:
        KeptError: it can't be kept as it is with other files.
    """
    pictured = [one for one in layers if one.urls]
    if not pictured:
        return OwnRule(None, PICTURE, "cover", None, "scroll")
    if len(pictured) > 1:
        raise KeptError(f"it has {len(pictured)} pictures in one background: give each an element")
    [one] = pictured
    source, natural = source_of(one.urls[0])
    size = _size(one, natural, box)
    listed = ", ".join(PICTURE if each is one else each.image for each in layers)
    position = _position(one.position) if size == "cover" else None
    return OwnRule(
        source, listed, size, position, "fixed" if one.attachment == "fixed" else "scroll"
    )


def _size(layer: Layer, natural: Size, box: Size) -> str:
    said = layer.size.lower()
    if said in ("cover", "contain", "auto", "auto auto"):
        word = said.partition(" ")[0]
    elif found := _WIDTH.fullmatch(said):
        word = f"{float(found[1]):g}px"
    else:
        raise KeptError(f"its background-size is {layer.size}: cover or contain can be kept")
    repeats = layer.repeat.lower() not in ("no-repeat", "no-repeat no-repeat")
    if word == "auto":
        if len(layer.urls) > 1:
            raise KeptError("its image-set is drawn in its own px: state its background-size")
        word = f"{natural.width:g}px"
    if repeats and word != "cover" and _is_tile(word, natural, box):
        raise KeptError("it is a repeated tile, which is light as it is")
    return word


def _is_tile(word: str, natural: Size, box: Size) -> bool:
    """Whether a picture of that size ends within the box, so that another one begins."""
    if word == "contain":
        return True
    width = float(word.removesuffix("px"))
    return width < box.width or width / natural.aspect < box.height


def _position(text: str) -> Point | None:
    """A position in fractions; None for one with lengths in it."""
    if found := _SHARES.fullmatch(text.strip()):
        return _inside(float(found[1]) / 100, float(found[2]) / 100)
    words = text.lower().split()
    shares = [_share(one) for one in words]
    if len(words) > 2 or not words or None in shares:
        return None
    if len(words) == 1:
        words, shares = [*words, "center"], [*shares, 0.5]
    if words[0] in ("top", "bottom") or words[1] in ("left", "right"):
        shares = shares[::-1]
    return _inside(shares[0] or 0.0, shares[1] or 0.0)


def _share(word: str) -> float | None:
    if word in _WORDS:
        return _WORDS[word]
    return float(word[:-1]) / 100 if re.fullmatch(r"-?\d+(\.\d+)?%", word) else None


def _inside(x: float, y: float) -> Point | None:
    return Point(x, y) if 0 <= x <= 1 and 0 <= y <= 1 else None


@dataclass(frozen=True)
class Stretch:
    """Neighbouring widths in which the rule is the same."""

    low: float
    """The first width, CSS px; 0: from the narrowest on."""
    rule: OwnRule


def stretches_of(seen: Sequence[SeenRule]) -> tuple[Stretch, ...]:
    """Where the rule changes, from the narrowest window on.

    Where a position changes with a window's height, or often, the whole picture is kept, for which
    positions don't matter.

    Args:
        seen: in windows of several widths and heights; at least one.

    Raises:
        KeptError: the picture itself, or its layers, change with a window's height, or often.
    """
    for relaxed in (_as_it_is, _anywhere):
        rules = relaxed(seen)
        found = _by_width(rules)
        if found is not None and len(found) <= MOST_EDGES + 1:
            return found
    raise KeptError("its picture or layers change with the window's height, or at many widths")


def _as_it_is(seen: Sequence[SeenRule]) -> Sequence[SeenRule]:
    return seen


def _anywhere(seen: Sequence[SeenRule]) -> Sequence[SeenRule]:
    """Without positions; fixed everywhere, if it is anywhere: the larger box counts."""
    attachment = "fixed" if any(one.rule.attachment == "fixed" for one in seen) else "scroll"
    return [
        replace(one, rule=replace(one.rule, position=None, attachment=attachment)) for one in seen
    ]


def _by_width(seen: Iterable[SeenRule]) -> tuple[Stretch, ...] | None:
    """One rule for each width, the same ones together; None: one width has several."""
    found: list[Stretch] = []
    in_order = sorted(seen, key=lambda one: one.viewport.width)
    for width, group in groupby(in_order, key=lambda one: one.viewport.width):
        rules = {one.rule for one in group}
        if len(rules) > 1:
            return None
        [rule] = rules
        if not found or found[-1].rule != rule:
            found.append(Stretch(width if found else 0.0, rule))
    return tuple(found)
