"""``bright-canvas crop``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.library import crop
from brightcanvas.terminal.arguments import add_limit, pixel_size, subject
from brightcanvas.terminal.words import box, weight
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Size

if TYPE_CHECKING:
    import argparse

    from brightcanvas.singles.crop import Crop
    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas crop mill.jpg --to 740x400 --subject 0.7,0.4
  bright-canvas crop mill.jpg --to 740x400 --subject 0.66,0.2,0.76,0.8 --output m.webp
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("picture", type=Path, metavar="PICTURE")
    command.add_argument(
        "--to", type=pixel_size, required=True, metavar="WxH", help="exact size of the result in px"
    )
    command.add_argument(
        "--subject", type=subject, default=(0.5, 0.5, 0.5, 0.5), metavar="X,Y",
        help="what must stay in view, in fractions of the picture: a point X,Y"
        " or a box LEFT,TOP,RIGHT,BOTTOM (default: the middle)",
    )  # fmt: skip
    command.add_argument("--output", type=Path, metavar="FILE", help="where to write it")
    add_limit(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Cut one picture and tell what was taken."""
    result = crop(
        arguments.picture,
        arguments.to,
        subject=arguments.subject,
        output=arguments.output,
        largest_source=arguments.largest_source,
    )
    if streams.as_json:
        streams.document(_facts(result, Size(*arguments.to)))
    console = streams.console()
    console.print(f"{result.file}  {box(Size(*arguments.to))} px, {weight(result.bytes)}")
    console.print(
        f"Taken: {box(result.area.size)} px of {box(result.facts.size)},"
        f" from {result.area.left:.0f} px left and {result.area.top:.0f} px down."
    )
    if result.enlarged > 1:
        console.print(f"The source is short of pixels: stretched {result.enlarged:.2f} times.")
    if not result.subject_in_view:
        console.print("The subject does not fit into that shape: its middle is shown.")
    return ExitStatus.ALL_WELL if result.subject_in_view else ExitStatus.PROMISE_BROKEN


def _facts(result: Crop, size: Size) -> dict[str, object]:
    area = result.area
    return {
        "file": str(result.file),
        "size": [int(size.width), int(size.height)],
        "bytes": result.bytes,
        "area": list(area.edges),
        "subject_in_view": result.subject_in_view,
        "enlarged": round(result.enlarged, 4),
    }
