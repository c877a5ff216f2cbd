"""Commands for those who have pictures and clips."""

from __future__ import annotations

import argparse
from pathlib import Path

from brightcanvas.cli.declarations.command import Command
from brightcanvas.terminal.arguments import (
    add_limit,
    amount_of_bytes,
    codec_names,
    colour,
    counting,
    css_px,
    density,
    format_names,
    pixel_size,
    rate,
    seconds,
    speed,
    subject,
    text_size,
)
from brightcanvas.values.file_formats import GRAINS, SEAMS
from brightcanvas.values.files import LARGEST_COMPRESSED

_CROP = """\
  bright-canvas crop mill.jpg --to 740x400 --subject 0.7,0.4
  bright-canvas crop mill.jpg --to 740x400 --subject 0.66,0.2,0.76,0.8 --output m.webp
"""


def _crop(command: argparse.ArgumentParser) -> None:
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


_COMPRESS = """\
  bright-canvas compress mill.jpg map.png logo.svg
  bright-canvas compress photos/*.jpg --formats avif,webp,jpeg --into light
  bright-canvas compress mill.jpg --budget 80kB
"""


def _compress(command: argparse.ArgumentParser) -> None:
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
    add_limit(command, LARGEST_COMPRESSED)


_POSTER = """\
  bright-canvas poster sails.mp4
  bright-canvas poster sails.mp4 --copy 0.06,0.2,0.5,0.8 --sheet stills.png
  bright-canvas poster sails.mp4 --at 1.5 --output sails.avif
"""


def _poster(command: argparse.ArgumentParser) -> None:
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


_TRANSCODE = """\
  bright-canvas transcode sails.mp4
  bright-canvas transcode sails.mov --begin 2 --end 9 --most 900kB --into light
"""


def _transcode(command: argparse.ArgumentParser) -> None:
    command.add_argument("clips", nargs="+", type=Path, metavar="CLIP")
    command.add_argument("--begin", type=seconds, default=0.0, metavar="SECONDS")
    command.add_argument("--end", type=seconds, metavar="SECONDS")
    command.add_argument("--once", action="store_true", help="it is played once, not round")
    command.add_argument(
        "--seam", choices=SEAMS, default="find",
        help="how a round begins again: the best way, a fade, forth and back, or as it is",
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
        help="px of the longer and the shorter side at most (default: 1280x720)",
    )  # fmt: skip
    command.add_argument(
        "--drawn", type=css_px, metavar="PX",
        help="CSS px across where it is shown largest (default: its longer side is 1920)",
    )  # fmt: skip
    command.add_argument(
        "--quality", choices=("careful", "everyday", "thrifty"), default="thrifty",
        help="how much it looks like the source (default: thrifty)",
    )  # fmt: skip
    command.add_argument(
        "--grain", choices=GRAINS, default="smooth",
        help="a sensor's grain: taken out, which saves most of the bytes, or kept",
    )  # fmt: skip
    command.add_argument(
        "--most", type=amount_of_bytes, metavar="BYTES", help="of each file, such as 900kB"
    )
    command.add_argument(
        "--codecs", type=codec_names, default=("av1", "h264"), metavar="LIST",
        help="of av1, vp9, h264 (default: av1,h264)",
    )  # fmt: skip
    command.add_argument("--into", type=Path, metavar="FOLDER", help="where to write the files")
    add_limit(command)


_SUBJECT = """\
  bright-canvas subject mill.jpg
  bright-canvas subject sources/*.jpg --json
"""


def _subject(command: argparse.ArgumentParser) -> None:
    command.add_argument("pictures", nargs="+", type=Path, metavar="PICTURE")
    add_limit(command)


_TRIALS = """\
  bright-canvas trials mill.jpg --copy 0.06,0.3,0.48,0.72 --size 44
  bright-canvas trials mill.jpg --copy 0.06,0.3,0.48,0.72 --choose 2
"""


def _trials(command: argparse.ArgumentParser) -> None:
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
        "--choose", type=counting, metavar="NUMBER", help="print the brief's lines for one trial"
    )
    command.add_argument("--output", type=Path, metavar="FILE", help="where to draw the sheet")
    add_limit(command)


COMMANDS = (
    Command("crop", "cut one picture to an exact size round its subject", _CROP, _crop),
    Command(
        "compress",
        "make single pictures and SVG drawings lighter, each by what is seen of it",
        _COMPRESS,
        _compress,
    ),
    Command(
        "poster",
        "choose the still that stands for a clip, and draw a sheet of the best ones",
        _POSTER,
        _poster,
    ),
    Command(
        "transcode",
        "make a clip light: the stretch that loops, in formats that play everywhere",
        _TRANSCODE,
        _transcode,
    ),
    Command(
        "subject",
        "suggest where a picture's subject is, as a line for the brief",
        _SUBJECT,
        _subject,
    ),
    Command(
        "trials",
        "try treatments and scrims on a picture, side by side under its copy",
        _TRIALS,
        _trials,
    ),
)
