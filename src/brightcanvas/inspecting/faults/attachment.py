"""Fixed backgrounds where fingers scroll: phones ignore them, or stutter."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.css.selectors import Declared, Element
from brightcanvas.css.styles import Styles
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Severity

NAME = "fixed on phones"


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each element with a picture that is fixed on a touched screen."""
    for element in facts.pictured:
        fixed = [
            (one.screen, winner)
            for one in facts.seen
            if one.screen.touched and one.styles.backgrounds(element)
            and one.styles.is_shown(element) and (winner := _fixed(one.styles, element))
        ]  # fmt: skip
        if fixed:
            yield Finding(
                NAME, "the background is fixed: phones ignore it, or show another part of it",
                facts.at_rule(fixed[0][1], element.etree_element),
                "write it in @media (hover: hover), so that fingers scroll it", Severity.SPOILS,
                tuple(screen for screen, _ in fixed),
            )  # fmt: skip


def _fixed(styles: Styles, element: Element) -> Declared | None:
    winner = styles.winner_of(element, ("background-attachment", "background"))
    if winner is None:
        return None
    words = [one.lower_value for one in winner.value if one.type == "ident"]
    return winner if "fixed" in words else None
