"""Widths between two rules at which neither holds, or both."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from dataclasses import replace

from brightcanvas.css.selectors import Declared, Element
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Place, Severity
from brightcanvas.values.environments import environment_of
from brightcanvas.values.geometry import plain_number

NAME = "gap between two rules"
HOLE = 0.021
"""CSS px; browsers produce no width in a stretch as narrow as that: measured."""

NARROW = 2.0
"""CSS px; what is wider than that is meant."""

_CUT = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)(px|r?em)\b")
PX = {"px": 1.0, "em": 16.0, "rem": 16.0}


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each element with pictures under conditions of width."""
    told = set()
    for element in facts.pictured:
        declared = [
            one for one in facts.page.cascade.declared(element)
            if one.name in ("background", "background-image") and one.media
        ]  # fmt: skip
        for low, high in _gaps(facts, element, declared):
            place = facts.at_rule(_before(declared, low), element.etree_element)
            if (place, low) not in told:
                told.add((place, low))
                yield _finding(low, high, place)


def _before(declared: list[Declared], low: float) -> Declared:
    """The rule that ends where the gap begins."""
    return next((one for one in declared if low in _cuts([one])), declared[0])


def _cuts(declared: list[Declared]) -> list[float]:
    """The widths in conditions, CSS px."""
    found = {
        float(number) * PX[unit]
        for one in declared for media in one.media for number, unit in _CUT.findall(media)
    }  # fmt: skip
    return sorted(found)


def _gaps(
    facts: PageFacts, element: Element, declared: list[Declared]
) -> Iterator[tuple[float, float]]:
    """Stretches of width, narrower than any window, without the picture of both neighbours."""
    cuts = _cuts(declared)
    tall = environment_of(facts.screens[-1])
    cascade = facts.page.cascade
    for low, high in itertools.pairwise(cuts):
        if not HOLE < high - low <= NARROW:
            continue
        shown = [
            cascade.styles(replace(tall, width=width)).backgrounds(element)
            for width in (low - 1, (low + high) / 2, high + 1)
        ]
        if shown[0] and shown[2] and not shown[1]:
            yield low, high


def _finding(low: float, high: float, place: Place) -> Finding:
    ends = f"{plain_number(low)} and {plain_number(high)} px"
    return Finding(
        NAME, f"windows between {ends} (zoomed, or dense) get no picture at all", place,
        f"end the first rule at {plain_number(high - 0.02)}px, or write (width < "
        f"{plain_number(high)}px)",
        Severity.SPOILS,
    )  # fmt: skip
