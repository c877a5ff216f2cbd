"""``bright-canvas trials``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.reports.picture_sheets import draw_trials
from brightcanvas.single_file.trial_pictures import Trial, run_trials
from brightcanvas.values.colours import parse_colour
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import holds, write_whole
from brightcanvas.values.geometry import Rect
from brightcanvas.values.legible import Letters
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Draw the sheet, print the figures, and the brief's lines for the chosen trial.

    Raises:
        BriefError: the copy's box is empty, or there is no such trial.
    """
    letters = Letters(parse_colour(arguments.colour), arguments.size, arguments.bold)
    copy = Rect(*arguments.copy)
    sheet = arguments.output or arguments.picture.with_name(f"{arguments.picture.stem}-trials.png")
    if not (copy.width and copy.height):
        raise BriefError("--copy takes a box: LEFT,TOP,RIGHT,BOTTOM in fractions of the picture.")
    if not arguments.choose:
        _check_free(sheet)
    trials = run_trials(arguments.picture, copy, letters, arguments.largest_source)
    if arguments.choose and arguments.choose > len(trials):
        raise BriefError(f"--choose {arguments.choose}: there are {len(trials)} trials.")
    drawn = draw_trials(arguments.picture.name, trials, copy, letters)
    if not holds(sheet, drawn):  # choosing draws the same once more
        _check_free(sheet)
        write_whole(sheet, drawn)
    if streams.as_json:
        streams.document({"sheet": str(sheet), "trials": [_facts(trial) for trial in trials]})
    console = streams.console()
    console.print(_table(trials, letters))
    if arguments.choose:
        console.print(f"For the brief:\n{_lines(arguments, trials[arguments.choose - 1])}")
    console.print(f"Open this sheet to compare them: {sheet}", soft_wrap=True)
    return ExitStatus.ALL_WELL


def _check_free(sheet: Path) -> None:
    if sheet.exists():
        raise BriefError(f"{sheet} is there already: name another file with --output.")


def _facts(trial: Trial) -> dict[str, object]:
    return {
        "name": trial.name,
        "line": trial.line,
        "lowest_contrast": round(trial.lowest, 3),
        "bytes": trial.bytes,
    }


def _table(trials: tuple[Trial, ...], letters: Letters) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("", "Trial", f"Lowest contrast, {letters.wanted_contrast:g}:1 wanted", "Bytes"):
        table.add_column(heading, header_style="dim", no_wrap=True)
    table.add_column("The brief's line", header_style="dim")
    for number, trial in enumerate(trials, 1):
        mark = "holds" if trial.lowest >= letters.wanted_contrast else "too low"
        lowest = f"{trial.lowest:.2f}:1  {mark}"
        table.add_row(str(number), trial.name, lowest, bytes_text(trial.bytes), trial.line)
    return table


def _lines(arguments: argparse.Namespace, trial: Trial) -> str:
    box = ", ".join(f"{edge:g}" for edge in arguments.copy)
    size = f", size = {arguments.size:g}" + (", bold = true" if arguments.bold else "")
    copy = f'copy = {{ box = [{box}], colour = "{arguments.colour}"{size} }}'
    return f"{copy}\n{trial.line}" if trial.line else copy
