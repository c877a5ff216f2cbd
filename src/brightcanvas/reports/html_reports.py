"""Inspections, and pages before and after, as HTML that needs nothing but itself."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence
from itertools import chain

from brightcanvas.colour.resample import resize
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.inspecting.all_findings import Inspected
from brightcanvas.integration.differing import Compared
from brightcanvas.reports.waterfall import LOOK
from brightcanvas.serving.network_profiles import NetworkProfile
from brightcanvas.templates.rendering import rendered
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.raster import Raster
from brightcanvas.values.screens import Screen

HARMS = {"SPOILS": "is seen", "COSTS": "costs", "LITTERS": "is in the way"}


def _sentence(text: str) -> str:
    """A text that begins as sentences do, unless it begins with a file or a command."""
    first = text.split(" ", 1)[0]
    is_word = first.isalpha()
    return text[0].upper() + text[1:] if is_word else text


def inspection_page(
    told: str, found: Inspected, screens: Sequence[Screen], lines: Sequence[NetworkProfile]
) -> bytes:
    """All findings, the worst first.

    Args:
        told: the verdict in one line.
        found: what was found.
        screens: that were asked about.
        lines: over which costs are told.
    """
    heaviest = max((one.bytes for one in found.findings), default=0)
    return rendered(
        "inspection.html.j2",
        told=told,
        found=found,
        screens=screens,
        lines=lines,
        heaviest=heaviest,
        harms=HARMS,
        sentence=_sentence,
    ).encode()


def before_after_page(
    title: str, compared: Sequence[Compared], lines: Sequence[NetworkProfile],
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
    glances = {png: _glance(png) for png in dict.fromkeys(chain.from_iterable(shots.values()))}
    pictures = {place: [glances[png] for png in pair] for place, pair in shots.items()}
    heaviest = max((one.before.bytes for one in compared), default=1) or 1
    return rendered(
        "before-after.html.j2", title=title, compared=compared, lines=list(enumerate(lines)),
        shots=pictures, told=told, look=LOOK, heaviest=heaviest,
    ).encode()  # fmt: skip


SEEN = Size(1100, 960)
"""Px of a picture on the page, at most: what is compared is compared before."""

LIGHT = Encoding(FileFormat.JPEG, quality=85, draft=True)


def _glance(png: bytes) -> str:
    """A screenshot of a size in which a page of many can be sent, in base 64."""
    picture = Raster(decode(png).pixels[..., :3])
    width, height = picture.size.rounded
    scale = min(1.0, SEEN.width / width, SEEN.height / height)
    if scale < 1.0:
        across, down = max(1, round(width * scale)), max(1, round(height * scale))
        picture = resize(picture, Rect(0, 0, width, height), across, down)
    return b64encode(encode(picture, LIGHT)).decode()
