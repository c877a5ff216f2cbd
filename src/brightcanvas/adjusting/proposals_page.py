"""What would be better about a page, each proposal before and after; needs nothing but itself."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence

from brightcanvas.adjusting.page import rendered
from brightcanvas.adjusting.proposals import Proposal, Shot

WIDEST, HIGHEST = 260, 260
"""CSS px of a picture."""

MARK = '<meta name="generator" content="Bright Canvas">'
"""By which the page is known as ours."""


def better_page(title: str, brief: str, proposals: Sequence[Proposal]) -> bytes:
    """The page.

    Args:
        title: of the site.
        brief: the name of its file.
        proposals: at least one.
    """
    return rendered(
        "better.html.j2", title=title, brief=brief, proposals=proposals, across=_across, kilo=_kilo,
        encoded=lambda file: b64encode(file).decode(),
    ).encode()  # fmt: skip


def _across(shot: Shot) -> int:
    return round(min(WIDEST, HIGHEST * shot.box.aspect))


def _kilo(weight: float) -> str:
    return f"{weight / 1000:.1f} kB"
