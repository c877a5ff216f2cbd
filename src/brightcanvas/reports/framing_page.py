"""Framing sheets as one HTML page that needs nothing but itself."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jinja2 import Environment, PackageLoader

from brightcanvas.formats.encode import encode
from brightcanvas.promises.verdict import Verdict
from brightcanvas.reports.drawing import COLOURS
from brightcanvas.reports.plates import Plate
from brightcanvas.values.geometry import Rect
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.values.raster import Raster

PREVIEW = Encoding(FileFormat.JPEG, quality=80)


@dataclass(frozen=True)
class Overlay:
    """A rectangle above a picture, as the values of CSS ``left``, ``top`` and so on."""

    area: Rect

    @property
    def style(self) -> str:
        """Percentages of the picture; a point gets a little size."""
        area = self.area
        return (
            f"left:{area.left:.3%};top:{area.top:.3%};"
            f"width:{max(area.width, 0.012):.3%};height:{max(area.height, 0.012):.3%}"
        )


def framing_page(
    title: str, plates: Sequence[Plate], verdicts: Mapping[str, Sequence[Verdict]]
) -> str:
    """The page, with every preview inside it."""
    environment = Environment(
        loader=PackageLoader("brightcanvas.reports", "pages"), autoescape=True
    )
    return environment.get_template("framing.html.j2").render(
        title=title or "Backdrops",
        plates=plates,
        verdicts=verdicts,
        colours=COLOURS,
        picture=_data_url,
        over=Overlay,
    )


def _data_url(picture: Raster) -> str:
    opaque = Raster(picture.pixels[..., :3].copy())
    content = base64.b64encode(encode(opaque, PREVIEW)).decode()
    return f"data:image/jpeg;base64,{content}"
