"""An inspection as one HTML page that needs nothing but itself."""

from __future__ import annotations

from collections.abc import Sequence

from jinja2 import Environment, PackageLoader

from brightcanvas.inspecting.inspect import Inspected
from brightcanvas.rehearsal.lines import Line
from brightcanvas.values.screens import Screen

HARMS = {"SPOILS": "is seen", "COSTS": "costs", "LITTERS": "is in the way"}


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
        told=told, found=found, screens=screens, lines=lines, heaviest=heaviest, harms=HARMS
    )
    return page.encode()
