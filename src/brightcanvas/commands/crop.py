"""``bright-canvas crop``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from brightcanvas.library.for_pictures import crop
from brightcanvas.terminal.phrases import box
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Size
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse

    from brightcanvas.single_file.exact_cut import Crop
    from brightcanvas.terminal.streams import Streams


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
    console.print(f"{result.file}  {box(Size(*arguments.to))} px, {bytes_text(result.bytes)}")
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
