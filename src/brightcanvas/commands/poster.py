"""``bright-canvas poster``."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.analysis.stills import StillWish
from brightcanvas.reports.stills_sheet import weakest
from brightcanvas.singles.poster import Chosen, choose_still
from brightcanvas.terminal.arguments import add_limit, seconds, subject
from brightcanvas.terminal.words import box, clip_text, weight
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.geometry import Rect

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams

EXAMPLES = """\
  bright-canvas poster sails.mp4
  bright-canvas poster sails.mp4 --copy 0.06,0.2,0.5,0.8 --sheet stills.png
  bright-canvas poster sails.mp4 --at 1.5 --output sails.avif
"""


def add_arguments(command: argparse.ArgumentParser) -> None:
    """What it takes."""
    command.add_argument("clip", type=Path, metavar="CLIP")
    command.add_argument(
        "--at", type=seconds, metavar="SECONDS", help="this frame (default: the best one)"
    )
    command.add_argument(
        "--copy", type=subject, metavar="BOX",
        help="where copy will lie: LEFT,TOP,RIGHT,BOTTOM in fractions; it should be calm there",
    )  # fmt: skip
    command.add_argument(
        "--subject", type=subject, metavar="X,Y",
        help="what must be seen, in fractions: a point X,Y or a box LEFT,TOP,RIGHT,BOTTOM",
    )  # fmt: skip
    command.add_argument("--output", type=Path, metavar="FILE", help="where to write the still")
    command.add_argument("--sheet", type=Path, metavar="FILE", help="draw the best ones as PNG")
    add_limit(command)


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Choose a still, write it, and tell why."""
    copy = Rect(*arguments.copy) if arguments.copy else None
    subjects = (Rect(*arguments.subject),) if arguments.subject else ()
    wish = StillWish(copy, subjects)
    chosen = choose_still(
        arguments.clip, arguments.at, wish, arguments.output, arguments.sheet,
        arguments.largest_source,
    )  # fmt: skip
    if streams.as_json:
        streams.document(_facts(chosen))
    console = streams.console()
    console.print(f"{arguments.clip.name}: {clip_text(chosen.facts)}")
    given = arguments.at is not None
    first = chosen.stills[0]
    told = "as asked for" if given else f"marked {first.marks.figure:.2f}: {weakest(first.marks)}"
    console.print(f"{chosen.file}  {box(chosen.size)} px, {weight(chosen.bytes)}")
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


def _dull(chosen: Chosen) -> str:
    """Said of the best one, with what would lift it."""
    told = f"Even the best one is dull ({weakest(chosen.stills[0].marks)})"
    if chosen.lift is None:
        return f"{told}: another clip would be better, or a picture of its own."
    amount, figure = chosen.lift.lighten, chosen.lift.figure
    return f"{told}: tone = {{ lighten = {amount:g} }} makes it {figure:.2f}."


def _facts(chosen: Chosen) -> dict[str, object]:
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
