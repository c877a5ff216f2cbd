"""A page before and after, side by side: pictures, totals, waterfalls; needs nothing but itself."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence

from jinja2 import Environment, PackageLoader

from brightcanvas.inserting.comparing import Compared
from brightcanvas.rehearsal.lines import Line
from brightcanvas.rehearsal.rehearsing import file_name
from brightcanvas.reports.waterfall import HERO, KINDS


def before_after_page(
    title: str, compared: Sequence[Compared], lines: Sequence[Line],
    shots: Mapping[tuple[str, str], tuple[bytes, bytes]], told: Sequence[str],
) -> bytes:  # fmt: skip
    """The page.

    Args:
        title: of the page that was compared.
        compared: each screen.
        lines: over which it was loaded.
        shots: PNGs of both, by the screen's name and the element that is in view.
        told: what is seen to differ, a line each.
    """
    environment = Environment(
        loader=PackageLoader("brightcanvas.reports", "pages"), autoescape=True
    )
    pictures = {
        place: [b64encode(one).decode() for one in pair] for place, pair in shots.items()
    }  # fmt: skip
    heaviest = max((one.before.bytes for one in compared), default=1) or 1
    page = environment.get_template("before-after.html.j2").render(
        title=title, compared=compared, lines=list(enumerate(lines)), shots=pictures, told=told,
        kinds=KINDS, hero=HERO, name=file_name, heaviest=heaviest,
    )  # fmt: skip
    return page.encode()
