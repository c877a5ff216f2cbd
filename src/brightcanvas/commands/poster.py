"""``bright-canvas poster``."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING

from brightcanvas.library.for_pictures import poster
from brightcanvas.reports.picture_sheets import weakest
from brightcanvas.terminal.phrases import box, clip_text
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse

    from brightcanvas.single_file.best_still import ChosenStill
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Choose a still, write it, and tell why."""
    chosen = poster(
        arguments.clip, at=arguments.at, copy=arguments.copy, subject=arguments.subject,
        output=arguments.output, sheet=arguments.sheet, largest_source=arguments.largest_source,
    )  # fmt: skip
    if streams.as_json:
        streams.document(_facts(chosen))
    console = streams.console()
    console.print(f"{arguments.clip.name}: {clip_text(chosen.facts)}")
    given = arguments.at is not None
    first = chosen.stills[0]
    told = "as asked for" if given else f"marked {first.marks.figure:.2f}: {weakest(first.marks)}"
    console.print(f"{chosen.file}  {box(chosen.size)} px, {bytes_text(chosen.bytes)}")
    console.print(f"Its frame at {first.second:.2f} s, {told}.")
    for other in chosen.stills[1:]:
        console.print(
            f"  {other.second:6.2f} s  {other.marks.figure:.2f}  {weakest(other.marks)}",
            style="dim",
        )
    if first.marks.is_dull and not given:
        console.print(_dull(chosen))
    console.print(f"In a brief: poster_at = {first.second:.2f}")
    if chosen.sheet:
        console.print(f"Side by side: {chosen.sheet}")
    return ExitStatus.ALL_WELL


def _dull(chosen: ChosenStill) -> str:
    """Said of the best one, with what would lift it."""
    told = f"Even the best one is dull ({weakest(chosen.stills[0].marks)})"
    if chosen.lift is None:
        return f"{told}: another clip would be better, or a picture of its own."
    amount, figure = chosen.lift.lighten, chosen.lift.figure
    return f"{told}: tone = {{ lighten = {amount:g} }} makes it {figure:.2f}."


def _facts(chosen: ChosenStill) -> dict[str, object]:
    return {
        "file": str(chosen.file),
        "bytes": chosen.bytes,
        "size": [int(chosen.size.width), int(chosen.size.height)],
        "stills": [
            {"second": round(one.second, 4), "figure": round(one.marks.figure, 4),
             "marks": {name: round(mark, 4) for name, mark in asdict(one.marks).items()}}
            for one in chosen.stills
        ],
    }  # fmt: skip
