"""The commands and their options. Each command's code is imported when it runs."""

from __future__ import annotations

import argparse
import importlib
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from brightcanvas import __version__
from brightcanvas.cli.values import (
    amount_of_bytes,
    codec_names,
    colour,
    density,
    format_names,
    line,
    megapixels,
    pixel_size,
    rate,
    screen,
    seconds,
    speed,
    subject,
    text_size,
    workers,
)

Run = Callable[[argparse.Namespace, Any], int]

ABOUT = """\
Backgrounds for web pages: cut, sized and compressed for each breakpoint,
with the rules that load them, and proof that the subject stays in view.
"""

START = """\
Start here:
  bright-canvas demo                 the full example, in ./marrowfen-mill
  bright-canvas plan                 what brief.toml asks for, in an instant
  bright-canvas build                make and publish it

Exit status: 0 all well; 1 built, but a promise is broken; 2 the command line or
the brief is wrong, nothing written; 3 a source can't be used; 4 the machine failed.
"""


def read_arguments(argv: Sequence[str] | None) -> argparse.Namespace:
    """The arguments of one call; a wrong one ends the program with status 2."""
    return _parser().parse_args(argv)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="bright-canvas",
        description=ABOUT,
        epilog=START,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"bright-canvas {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", required=True)
    _add_build(commands)
    _add_plan(commands)
    _add_sheet(commands)
    _add_crop(commands)
    _add_compress(commands)
    _add_poster(commands)
    _add_transcode(commands)
    _add_subject(commands)
    _add_trials(commands)
    _add_hits(commands)
    _add_rehearse(commands)
    _add_served(commands)
    _add_pretend_host(commands)
    _add_store(commands)
    _add_demo(commands)
    _add_schema(commands)
    return parser


Commands = Any  # argparse keeps the type of its sub-parsers private


def _command(commands: Commands, name: str, about: str, example: str) -> argparse.ArgumentParser:
    command: argparse.ArgumentParser = commands.add_parser(
        name,
        help=about,
        description=about[0].upper() + about[1:] + ".",
        epilog=f"Examples:\n{example}",
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    command.add_argument("--json", action="store_true", help="print the facts for machines")
    command.add_argument("--traceback", action="store_true", help=argparse.SUPPRESS)
    command.set_defaults(run=_runner(name))
    return command


def _runner(name: str) -> Run:
    def run(arguments: argparse.Namespace, streams: Any) -> int:  # noqa: ANN401 - see Streams
        module = importlib.import_module(f"brightcanvas.cli.{name.partition('-')[0]}")
        return int(module.run(arguments, streams))

    return run


def _add_brief(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "brief", nargs="?", type=Path, default=Path("brief.toml"), metavar="BRIEF",
        help="the brief (default: brief.toml in this folder)",
    )  # fmt: skip


def _add_limit(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--largest-source", type=megapixels, default=120.0, metavar="MEGAPIXELS",
        help="refuse larger sources (default: 120)",
    )  # fmt: skip


def _add_build(commands: Commands) -> None:
    command = _command(
        commands,
        "build",
        "make the pictures and the rules that a brief asks for",
        "  bright-canvas build\n  bright-canvas build site/brief.toml --json > facts.json\n",
    )
    _add_brief(command)
    command.add_argument(
        "--watch", action="store_true",
        help="stay, and build again whenever the brief or a source is saved; a draft comes first",
    )  # fmt: skip
    command.add_argument(
        "--draft", action="store_true",
        help="quick files for looking, in a folder of their own beside the final ones",
    )  # fmt: skip
    command.add_argument("--all", action="store_true", help="tell of every file and promise")
    command.add_argument(
        "--workers", type=workers, metavar="WHO",
        help="who does the slow work: threads (default), processes, a number of them, or the"
        " address of a cluster's scheduler such as tcp://host:8786",
    )  # fmt: skip
    _add_limit(command)


def _add_plan(commands: Commands) -> None:
    command = _command(
        commands,
        "plan",
        "show what would be made, touching no pixels and writing nothing",
        "  bright-canvas plan\n  bright-canvas plan site/brief.toml\n",
    )
    _add_brief(command)
    _add_limit(command)


def _add_sheet(commands: Commands) -> None:
    command = _command(
        commands,
        "sheet",
        "draw each source with its cuts, and what the extreme windows see of it",
        "  bright-canvas sheet\n  bright-canvas sheet site/brief.toml --into looks\n",
    )
    _add_brief(command)
    command.add_argument(
        "--into", type=Path, metavar="FOLDER", help="where to draw (default: proof, by the brief)"
    )
    _add_limit(command)


def _add_crop(commands: Commands) -> None:
    command = _command(
        commands,
        "crop",
        "cut one picture to an exact size round its subject",
        "  bright-canvas crop mill.jpg --to 740x400 --subject 0.7,0.4\n"
        "  bright-canvas crop mill.jpg --to 740x400 --subject 0.66,0.2,0.76,0.8 --output m.webp\n",
    )
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
    _add_limit(command)


def _add_compress(commands: Commands) -> None:
    command = _command(
        commands,
        "compress",
        "make single pictures and SVG drawings lighter, each by what is seen of it",
        "  bright-canvas compress mill.jpg map.png logo.svg\n"
        "  bright-canvas compress photos/*.jpg --formats avif,webp,jpeg --into light\n"
        "  bright-canvas compress mill.jpg --budget 80kB\n",
    )
    command.add_argument("files", nargs="+", type=Path, metavar="FILE")
    aim = command.add_mutually_exclusive_group()
    aim.add_argument(
        "--quality", choices=("careful", "everyday", "thrifty"), default="everyday",
        help="how much it looks like the original as displayed (default: everyday)",
    )  # fmt: skip
    aim.add_argument(
        "--budget", type=amount_of_bytes, metavar="BYTES",
        help="the best that fits into so many bytes, such as 80kB",
    )  # fmt: skip
    command.add_argument(
        "--formats", type=format_names, default=(), metavar="LIST",
        help="such as avif,webp,jpeg (default: each file keeps its own)",
    )  # fmt: skip
    command.add_argument(
        "--density", type=density, default=1.0, metavar="NUMBER",
        help="px of the file that make a CSS px where it is shown (default: 1)",
    )  # fmt: skip
    command.add_argument("--into", type=Path, metavar="FOLDER", help="where to write the files")
    command.add_argument(
        "--replace", action="store_true", help="put the files in the place of their sources"
    )
    _add_limit(command)


def _add_poster(commands: Commands) -> None:
    command = _command(
        commands,
        "poster",
        "choose the still that stands for a clip, and draw a sheet of the best ones",
        "  bright-canvas poster sails.mp4\n"
        "  bright-canvas poster sails.mp4 --copy 0.06,0.2,0.5,0.8 --sheet stills.png\n"
        "  bright-canvas poster sails.mp4 --at 1.5 --output sails.avif\n",
    )
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
    _add_limit(command)


def _add_transcode(commands: Commands) -> None:
    command = _command(
        commands,
        "transcode",
        "make a clip light: the stretch that loops, in formats that play everywhere",
        "  bright-canvas transcode sails.mp4\n"
        "  bright-canvas transcode sails.mov --begin 2 --end 9 --most 900kB --into light\n",
    )
    command.add_argument("clips", nargs="+", type=Path, metavar="CLIP")
    command.add_argument("--begin", type=seconds, default=0.0, metavar="SECONDS")
    command.add_argument("--end", type=seconds, metavar="SECONDS")
    command.add_argument("--once", action="store_true", help="it is played once, not round")
    command.add_argument(
        "--seam", choices=("find", "fade", "leave"), default="find",
        help="where a round begins again: the frames that match best, a fade, or as it is",
    )  # fmt: skip
    command.add_argument("--speed", type=speed, default=1.0, help="2 is twice as fast")
    command.add_argument(
        "--most-rate",
        type=rate,
        default=30.0,
        metavar="NUMBER",
        help="frames a second (default: 30)",
    )
    command.add_argument(
        "--largest", type=pixel_size, default=(1280, 720), metavar="WxH",
        help="px that it has at most (default: 1280x720)",
    )  # fmt: skip
    command.add_argument(
        "--quality", choices=("careful", "everyday", "thrifty"), default="thrifty",
        help="how much it looks like the source (default: thrifty)",
    )  # fmt: skip
    command.add_argument(
        "--most", type=amount_of_bytes, metavar="BYTES", help="of each file, such as 900kB"
    )
    command.add_argument(
        "--codecs", type=codec_names, default=("av1", "h264"), metavar="LIST",
        help="of av1, vp9, h264 (default: av1,h264)",
    )  # fmt: skip
    command.add_argument("--into", type=Path, metavar="FOLDER", help="where to write the files")
    _add_limit(command)


def _add_subject(commands: Commands) -> None:
    command = _command(
        commands,
        "subject",
        "suggest where a picture's subject is, as a line for the brief",
        "  bright-canvas subject mill.jpg\n  bright-canvas subject sources/*.jpg --json\n",
    )
    command.add_argument("pictures", nargs="+", type=Path, metavar="PICTURE")
    _add_limit(command)


def _add_trials(commands: Commands) -> None:
    command = _command(
        commands,
        "trials",
        "try treatments and scrims on a picture, side by side under its copy",
        "  bright-canvas trials mill.jpg --copy 0.06,0.3,0.48,0.72 --size 44\n"
        "  bright-canvas trials mill.jpg --copy 0.06,0.3,0.48,0.72 --choose 2\n",
    )
    command.add_argument("picture", type=Path, metavar="PICTURE")
    command.add_argument(
        "--copy", type=subject, required=True, metavar="LEFT,TOP,RIGHT,BOTTOM",
        help="where the copy lies, in fractions of the picture",
    )  # fmt: skip
    command.add_argument(
        "--colour", type=colour, default="white", metavar="COLOUR", help="of the letters"
    )
    command.add_argument(
        "--size", type=text_size, default=24.0, metavar="PX", help="of the letters (default: 24)"
    )
    command.add_argument("--bold", action="store_true", help="the letters are bold")
    command.add_argument(
        "--choose", type=int, metavar="NUMBER", help="print the brief's lines for one trial"
    )
    command.add_argument("--output", type=Path, metavar="FILE", help="where to draw the sheet")
    _add_limit(command)


def _add_hits(commands: Commands) -> None:
    command = _command(
        commands,
        "hits",
        "tell whether the brief's selectors hit a page, and whose rules would win there",
        "  bright-canvas hits site/index.html\n"
        "  bright-canvas hits site/index.html site/brief.toml --root site\n",
    )
    command.add_argument("page", type=Path, metavar="PAGE", help="an HTML file of your site")
    _add_brief(command)
    _add_root(command)


def _add_root(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "--root", type=Path, metavar="FOLDER",
        help="what is / on its host (default: the page's folder)",
    )  # fmt: skip


def _add_rehearse(commands: Commands) -> None:
    command = _command(
        commands,
        "rehearse",
        "play a page's load through: which screen fetches what, when, over which line",
        "  bright-canvas rehearse\n"
        "  bright-canvas rehearse site/index.html --root site --screen 390x844@3\n"
        "  bright-canvas rehearse --line 1.6Mbit/s,150ms --browser\n",
    )
    command.add_argument(
        "page", nargs="?", type=Path, default=Path("published/try-it.html"), metavar="PAGE",
        help="an HTML file (default: published/try-it.html)",
    )  # fmt: skip
    _add_root(command)
    command.add_argument(
        "--headers", type=Path, metavar="FILE", help="header lines that come with the page"
    )
    command.add_argument(
        "--screen", type=screen, action="append", metavar="WxH@DENSITY",
        help="a viewport in CSS px, and its density; as often as you like (default: seven usual)",
    )  # fmt: skip
    command.add_argument(
        "--line", type=line, action="append", metavar="RATE,DELAY",
        help="such as 1.6Mbit/s,150ms; as often as you like (default: three)",
    )  # fmt: skip
    command.add_argument("--http", choices=("1.1", "2"), default="1.1", help="default: 1.1")
    command.add_argument(
        "--like", choices=("chromium", "firefox"), default="chromium",
        help="whose habits (default: chromium)",
    )  # fmt: skip
    command.add_argument(
        "--browser", action="store_true",
        help="also load it in the Chromium and the Firefox that are here, over such lines",
    )  # fmt: skip
    command.add_argument(
        "--runs", type=int, choices=range(1, 51), default=5, metavar="NUMBER",
        help="of each page in a browser; the middle one counts (default: 5)",
    )  # fmt: skip
    command.add_argument("--into", type=Path, metavar="FOLDER", help="where to draw the charts")


def _add_served(commands: Commands) -> None:
    command = _command(
        commands,
        "served",
        "tell which files a host serves as they were built, and which it compressed again",
        "  bright-canvas served --from downloads\n"
        "  bright-canvas served site/brief.toml --from addresses.csv\n"
        "\nA list has a line for each file: its URL, or our file's name, a comma and the URL.\n",
    )
    _add_brief(command)
    command.add_argument(
        "--from", dest="where", type=Path, required=True, metavar="FOLDER_OR_LIST",
        help="a folder with what the host serves, or a list of URLs",
    )  # fmt: skip


def _add_pretend_host(commands: Commands) -> None:
    command = _command(
        commands,
        "pretend-host",
        "serve a folder on this machine like a host that compresses pictures again",
        "  bright-canvas pretend-host published --port 8080\n",
    )
    command.add_argument("folder", type=Path, metavar="FOLDER")
    command.add_argument(
        "--port", type=int, default=0, metavar="NUMBER", help="0 takes any that is free (default)"
    )
    command.add_argument(
        "--host-quality", type=int, choices=range(1, 101), default=60, metavar="NUMBER",
        help="of its compression, 1 to 100 (default: 60)",
    )  # fmt: skip


def _add_store(commands: Commands) -> None:
    command = _command(
        commands,
        "store",
        "tell how much is kept for the next run, or clear it",
        "  bright-canvas store\n  bright-canvas store site/brief.toml --clear\n",
    )
    _add_brief(command)
    command.add_argument("--clear", action="store_true", help="remove everything that is kept")


def _add_demo(commands: Commands) -> None:
    command = _command(
        commands,
        "demo",
        "set up the example of Marrowfen Mill and build it",
        "  bright-canvas demo\n  bright-canvas demo try/mill\n",
    )
    command.add_argument(
        "folder", nargs="?", type=Path, default=Path("marrowfen-mill"), metavar="FOLDER",
        help="where to put it (default: marrowfen-mill)",
    )  # fmt: skip


def _add_schema(commands: Commands) -> None:
    _command(
        commands,
        "schema",
        "print the brief's JSON Schema, for editors that check while one types",
        "  bright-canvas schema > brief.schema.json\n",
    )
