"""A page before and after, side by side: pictures, totals, waterfalls; needs nothing but itself."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence

from jinja2 import Environment, PackageLoader

from brightcanvas.colour.resample import resize
from brightcanvas.formats.encode import encode
from brightcanvas.formats.pictures import decode
from brightcanvas.inserting.comparing import Compared
from brightcanvas.rehearsal.lines import Line
from brightcanvas.rehearsal.rehearsing import file_name
from brightcanvas.reports.waterfall import HERO, KINDS
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster


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
    pictures = {place: [_glance(one) for one in pair] for place, pair in shots.items()}
    heaviest = max((one.before.bytes for one in compared), default=1) or 1
    page = environment.get_template("before-after.html.j2").render(
        title=title, compared=compared, lines=list(enumerate(lines)), shots=pictures, told=told,
        kinds=KINDS, hero=HERO, name=file_name, heaviest=heaviest,
    )  # fmt: skip
    return page.encode()


SEEN = Size(1100, 960)
"""Px of a picture on the page, at most: what is compared is compared before."""

LIGHT = Encoding(FileFormat.JPEG, quality=85, draft=True)


def _glance(png: bytes) -> str:
    """A screenshot of a size in which a page of many can be sent, in base 64."""
    picture = Raster(decode(png).pixels[..., :3])
    width, height = picture.size.rounded
    scale = min(1.0, SEEN.width / width, SEEN.height / height)
    across, down = max(1, round(width * scale)), max(1, round(height * scale))
    picture = resize(picture, Rect(0, 0, width, height), across, down)
    return b64encode(encode(picture, LIGHT)).decode()
