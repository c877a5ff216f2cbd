"""Copy that can't be read on the picture behind it, as a browser shows it."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.css.selectors import Element
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Severity
from brightcanvas.measuring.letters import ReadLine
from brightcanvas.values.screens import Screen

NAME = "copy can't be read on the picture"
SPARE = 0.95
"""What rounding and resampling take of a contrast."""


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each element with copy in the first view; nothing where no browser was asked."""
    for element in facts.pictured:
        low = [
            (one, screen)
            for screen, look in facts.looks.items()
            for one in look.lines.get(id(element.etree_element), ())
            if one.contrast < SPARE * one.line.letters.wanted_contrast
        ]
        if low:
            yield _finding(facts, element, low)


def _finding(facts: PageFacts, element: Element, low: list[tuple[ReadLine, Screen]]) -> Finding:
    worst, screen = min(low, key=lambda one: one[0].contrast / one[0].line.letters.wanted_contrast)
    wanted = worst.line.letters.wanted_contrast
    screens = {each for _, each in low}
    return Finding(
        NAME, f"“{worst.line.words}” has a contrast of {worst.contrast:.1f}:1 at {screen.figures};"
        f" {wanted:g}:1 is wanted",
        facts.at(element.etree_element),
        "put a scrim between: bright-canvas begin drafts a brief that finds the least one",
        Severity.SPOILS, tuple(one for one in facts.screens if one in screens),
    )  # fmt: skip
