"""Arguments that several commands take, and their values as people write them."""

from __future__ import annotations

import argparse
import re
from pathlib import Path
from typing import TYPE_CHECKING

from brightcanvas.values.errors import BriefError
from brightcanvas.values.file_formats import WRITTEN, ClipFormat
from brightcanvas.values.files import LARGEST_SOURCE

if TYPE_CHECKING:
    from collections.abc import Sequence

    from brightcanvas.serving.network_profiles import NetworkProfile
    from brightcanvas.values.screens import Screen


def pixel_size(text: str) -> tuple[int, int]:
    """Read ``740x400``; ValueError otherwise."""
    parts = text.lower().split("x")
    if len(parts) != 2 or not all(part.isascii() and part.isdigit() for part in parts):
        raise argparse.ArgumentTypeError("a size in px such as 740x400 is wanted")
    width, height = int(parts[0]), int(parts[1])
    if not (0 < width <= 20_000 and 0 < height <= 20_000):
        raise argparse.ArgumentTypeError("each side must be from 1 to 20000 px")
    return width, height


def subject(text: str) -> tuple[float, float, float, float]:
    """Read a point ``x,y`` or a box ``left,top,right,bottom`` in fractions, 0..1.

    Raises:
        ArgumentTypeError: it is neither, or turned round.
    """
    wanted = "two or four fractions from 0 to 1 are wanted, such as 0.7,0.4"
    try:
        parts = [float(part) for part in text.split(",")]
    except ValueError:
        raise argparse.ArgumentTypeError(wanted) from None
    if len(parts) == 2:
        parts = parts * 2
    if len(parts) != 4 or not all(0 <= part <= 1 for part in parts):
        raise argparse.ArgumentTypeError(wanted)
    if parts[0] > parts[2] or parts[1] > parts[3]:
        raise argparse.ArgumentTypeError(
            "LEFT,TOP,RIGHT,BOTTOM: left before right, top above bottom"
        )
    return parts[0], parts[1], parts[2], parts[3]


def workers(text: str) -> str:
    """``threads``, ``processes``, ``4`` or a scheduler's address, as it was written.

    Raises:
        ArgumentTypeError: it is none of these.
    """
    from brightcanvas.values.work import parse_workers

    try:
        parse_workers(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from None
    return text


def colour(text: str) -> str:
    """A CSS colour, as it was written.

    Raises:
        ArgumentTypeError: CSS knows no such colour.
    """
    from brightcanvas.values.colours import parse_colour

    try:
        parse_colour(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{error} is wanted") from None
    return text


def text_size(text: str) -> float:
    """Read a size of letters in CSS px, above 0, at most 1000.

    Raises:
        ArgumentTypeError: it is none.
    """
    try:
        size = float(text)
    except ValueError:
        size = 0.0
    if not 0 < size <= 1000:
        raise argparse.ArgumentTypeError("a size of letters in CSS px, above 0, is wanted")
    return size


def amount_of_bytes(text: str) -> int:
    """Read ``80kB``, ``1.5 MB`` or ``81920``; a kB is 1000 bytes.

    Raises:
        ArgumentTypeError: it is no number of bytes.
    """
    from brightcanvas.values.words import parse_bytes

    try:
        return parse_bytes(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"{error} is wanted") from None


def format_names(text: str) -> tuple[str, ...]:
    """Read ``avif,webp,jpeg``."""
    names = tuple(part.strip().lower() for part in text.split(","))
    _check_words(names, [one.word for one in WRITTEN])
    return tuple(dict.fromkeys(names))


def _check_words(names: Sequence[str], known: Sequence[str]) -> None:
    if not set(names) <= set(known):
        listed = f"{', '.join(known[:-1])} and {known[-1]}"
        raise argparse.ArgumentTypeError(f"some of {listed} are wanted")


def counting(text: str) -> int:
    """Read a whole number from 1 on, of nine digits at most.

    Raises:
        ArgumentTypeError: it is none.
    """
    if not (text.isascii() and text.isdigit() and 0 < len(text) < 10 and int(text)):
        raise argparse.ArgumentTypeError("a whole number from 1 on is wanted")
    return int(text)


def density(text: str) -> float:
    """Read a density in px to a CSS px."""
    return _number(text, 0.25, 8, "a density from 0.25 to 8")


def megapixels(text: str) -> float:
    """Read a number of megapixels above zero, below 100,000.

    Raises:
        ArgumentTypeError: it is none.
    """
    try:
        amount = float(text)
    except ValueError:
        amount = 0.0
    if not 0 < amount < 100_000:
        raise argparse.ArgumentTypeError("a number of megapixels above 0 is wanted")
    return amount


def codec_names(text: str) -> tuple[str, ...]:
    """Read ``av1,h264``."""
    names = tuple(part.strip().lower() for part in text.split(","))
    _check_words(names, [one.word for one in ClipFormat])
    return tuple(dict.fromkeys(names))


def seconds(text: str) -> float:
    """Read a time in seconds."""
    return _number(text, 0, 86_400, "a time in seconds")


def speed(text: str) -> float:
    """Read how many times as fast."""
    return _number(text, 0.1, 8, "a speed from 0.1 to 8")


def rate(text: str) -> float:
    """Read frames a second."""
    return _number(text, 5, 60, "a rate of 5 to 60 frames a second")


def css_px(text: str) -> float:
    """A width on a page."""
    return _number(text, 1, 20000, "CSS px")


def screen(text: str) -> Screen:
    """Read ``390x844@3``: a viewport in CSS px and its density; ``,touched`` for fingers.

    Raises:
        ArgumentTypeError: it is no screen.
    """
    from brightcanvas.values.geometry import Size
    from brightcanvas.values.screens import Screen

    match = re.fullmatch(r"(\d{2,5}(?:\.\d+)?)x(\d{2,5})(?:@(\d(?:\.\d+)?)x?)?(,touched)?", text)
    if match is None or not float(match[3] or 1):
        raise argparse.ArgumentTypeError(
            "a screen such as 390x844@3, or 390x844@3,touched, is wanted"
        )
    size = Size(float(match[1]), float(match[2]))
    return Screen("screen", size, float(match[3] or 1), touched=bool(match[4]))


def line(text: str) -> NetworkProfile:
    """Read ``1.6Mbit/s,150ms``: a rate and a round trip.

    Raises:
        ArgumentTypeError: it is no line.
    """
    from brightcanvas.serving.network_profiles import line_of

    found = line_of(text)
    if found is None:
        raise argparse.ArgumentTypeError("a line such as 1.6Mbit/s,150ms is wanted")
    return found


def _number(text: str, least: float, most: float, what: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = least - 1
    if not least <= value <= most:
        raise argparse.ArgumentTypeError(f"{what} is wanted")
    return value


def add_brief(command: argparse.ArgumentParser) -> None:
    """The brief to work on."""
    command.add_argument(
        "brief", nargs="?", type=Path, default=Path("brief.toml"), metavar="BRIEF",
        help="the brief (default: brief.toml in this folder)",
    )  # fmt: skip


def add_pages_and_brief(command: argparse.ArgumentParser) -> None:
    """The pages to work on, and the brief; see ``pages_and_brief``."""
    command.add_argument(
        "named", nargs="+", metavar="PAGE",
        help="HTML files, a folder of them, or an address on this machine; behind them the brief,"
        " a .toml file (default: brief.toml in this folder)",
    )  # fmt: skip


def pages_and_brief(named: Sequence[str]) -> tuple[list[str], Path]:
    """The pages and the brief among what was named; BriefError where that can't be told."""
    briefs = [one for one in named if one.lower().endswith(".toml")]
    pages = [one for one in named if one not in briefs]
    if len(briefs) > 1 or not pages:
        raise BriefError("name the pages, and then one brief: a .toml file")
    return pages, Path(briefs[0]) if briefs else Path("brief.toml")


def add_limit(command: argparse.ArgumentParser, limit: float = LARGEST_SOURCE) -> None:
    """How large a source may be, in megapixels, unless the call says otherwise."""
    command.add_argument(
        "--largest-source", type=megapixels, default=limit, metavar="MEGAPIXELS",
        help=f"refuse larger sources (default: {limit:g})",
    )  # fmt: skip


def check_into(folder: Path | None) -> None:
    """Refuse a folder for files that is none; BriefError says so. One that is not there is made."""
    if folder and folder.exists() and not folder.is_dir():
        raise BriefError(f"{folder} is a file: name a folder with --into.")


def add_screens_and_lines(command: argparse.ArgumentParser) -> None:
    """On which screens, and over which lines, a page is looked at."""
    command.add_argument(
        "--screen", type=screen, action="append", metavar="WxH@DENSITY",
        help="a viewport in CSS px, and its density; as often as you like (default: the usual)",
    )  # fmt: skip
    command.add_argument(
        "--line", type=line, action="append", metavar="RATE,DELAY",
        help="such as 1.6Mbit/s,150ms; as often as you like (default: three)",
    )  # fmt: skip


def add_browser(command: argparse.ArgumentParser, usual: str | None) -> None:
    """Which browser is asked; without a usual one, none is unless it is named."""
    command.add_argument(
        "--browser", choices=("chromium", "firefox"), nargs=None if usual else "?",
        const=None if usual else "chromium", default=usual,
        help=f"which one to ask (default: {usual})" if usual
        else "also ask a real one (chromium unless you say firefox)",
    )  # fmt: skip


def add_root(command: argparse.ArgumentParser) -> None:
    """Where absolute addresses of a page begin."""
    command.add_argument(
        "--root", type=Path, metavar="FOLDER",
        help="what is / on its host (default: the page's folder, and what the page names above it)",
    )  # fmt: skip
