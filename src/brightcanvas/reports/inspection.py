"""An inspection as one HTML page that needs nothing but itself."""

from __future__ import annotations

from collections.abc import Sequence

from jinja2 import Environment, PackageLoader

from brightcanvas.inspecting.inspect import Inspected
from brightcanvas.rehearsal.lines import Line
from brightcanvas.values.screens import Screen

HARMS = {"SPOILS": "is seen", "COSTS": "costs", "LITTERS": "is in the way"}


def _sentence(text: str) -> str:
    """A text that begins as sentences do, unless it begins with a file or a command."""
    first = text.split(" ", 1)[0]
    is_word = first.isalpha()
    return text[0].upper() + text[1:] if is_word else text


def inspection_page(
    told: str, found: Inspected, screens: Sequence[Screen], lines: Sequence[Line]
) -> bytes:
    """All findings, the worst first.

    Args:
        told: the verdict in one line.
        found: what was found.
        screens: that were asked about.
        lines: over which costs are told.
    """
    environment = Environment(
        loader=PackageLoader("brightcanvas.reports", "pages"), autoescape=True
    )
    heaviest = max((one.bytes for one in found.findings), default=0)
    page = environment.get_template("inspection.html.j2").render(
        told=told,
        found=found,
        screens=screens,
        lines=lines,
        heaviest=heaviest,
        harms=HARMS,
        sentence=_sentence,
    )
    return page.encode()
