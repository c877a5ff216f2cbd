"""Commands for those who have a page."""

from __future__ import annotations

import argparse
from pathlib import Path

from brightcanvas.cli.declarations.command import Command
from brightcanvas.rehearsal.engine_profiles import ENGINES
from brightcanvas.terminal.arguments import (
    add_brief,
    add_browser,
    add_limit,
    add_pages_and_brief,
    add_root,
    add_screens_and_lines,
)

_BEGIN = """\
  bright-canvas begin site/index.html
  bright-canvas begin site/index.html site/about.html site/brief.toml
  bright-canvas begin site site/brief.toml --browser firefox
  bright-canvas begin http://localhost:8000/ --browser none
  bright-canvas begin site/index.html --picture DSC_0412.JPG --on .hero
"""


def _begin(command: argparse.ArgumentParser) -> None:
    add_pages_and_brief(command)
    add_root(command)
    command.add_argument(
        "--picture", type=Path, metavar="FILE",
        help="for an element that shows no picture yet; with --on",
    )  # fmt: skip
    command.add_argument("--on", metavar="SELECTOR", help="the element that --picture is for")
    _add_browser_or_none(command, "measures boxes and copy")


def _add_browser_or_none(command: argparse.ArgumentParser, does: str) -> None:
    command.add_argument(
        "--browser", choices=("chromium", "firefox", "none"),
        help=f"which one {does} (default: one that is here)",
    )  # fmt: skip


_INSERT = """\
  bright-canvas insert site/index.html
  bright-canvas insert site/index.html site/about.html site/brief.toml --into site-after
  bright-canvas insert site brief.toml --browser firefox
"""


def _insert(command: argparse.ArgumentParser) -> None:
    add_pages_and_brief(command)
    add_root(command)
    command.add_argument(
        "--into", type=Path, default=Path("with-backdrops"), metavar="FOLDER",
        help="where the copy goes, with all that the page fetches (default: with-backdrops)",
    )  # fmt: skip
    _add_browser_or_none(command, "looks at both pages")


_BETTER = """\
  bright-canvas better                         what would be better, in pictures and figures
  bright-canvas better brief.toml mill.scrim   take it: it is written into the brief
"""


def _better(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "named", nargs="*", metavar="BRIEF",
        help="the brief, a .toml file (default: brief.toml in this folder); behind it the names of"
        " proposals to take",
    )  # fmt: skip
    add_limit(command)


_INSPECT = """\
  bright-canvas inspect site/index.html
  bright-canvas inspect site --json
  bright-canvas inspect site/index.html --browser
  bright-canvas inspect http://localhost:8000/rooms
  bright-canvas inspect site/index.html --screen 390x844@3,touched --into report
"""


def _inspect(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "page", metavar="PAGE", help="an HTML file, a folder of them, or an address on this machine"
    )
    add_root(command)
    add_screens_and_lines(command)
    add_browser(command, None)
    command.add_argument("--into", type=Path, metavar="FOLDER", help="write a page to show there")


_MEASURE = """\
  bright-canvas measure site/index.html
  bright-canvas measure site/index.html site/brief.toml --browser firefox
"""


def _measure(command: argparse.ArgumentParser) -> None:
    command.add_argument("page", metavar="PAGE", help="an HTML file, or an address on this machine")
    add_brief(command)
    add_root(command)
    add_browser(command, "chromium")


_HITS = """\
  bright-canvas hits site/index.html
  bright-canvas hits site/index.html site/brief.toml --root site
"""


def _hits(command: argparse.ArgumentParser) -> None:
    command.add_argument("page", type=Path, metavar="PAGE", help="an HTML file of your site")
    add_brief(command)
    add_root(command)


_REHEARSE = """\
  bright-canvas rehearse
  bright-canvas rehearse site/index.html --root site --screen 390x844@3
  bright-canvas rehearse --line 1.6Mbit/s,150ms --browser
"""


def _rehearse(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "page", nargs="?", type=Path, default=Path("published/try-it.html"), metavar="PAGE",
        help="an HTML file (default: published/try-it.html)",
    )  # fmt: skip
    add_root(command)
    command.add_argument(
        "--headers", type=Path, metavar="FILE", help="header lines that come with the page"
    )
    add_screens_and_lines(command)
    command.add_argument("--http", choices=("1.1", "2"), default="1.1", help="default: 1.1")
    command.add_argument(
        "--like", choices=tuple(ENGINES), default="chromium",
        help="whose habits (default: chromium)",
    )  # fmt: skip
    command.add_argument(
        "--browser", action="store_true",
        help="also load it in that browser, if it is here, over such lines",
    )  # fmt: skip
    command.add_argument(
        "--runs", type=int, choices=range(1, 51), default=5, metavar="NUMBER",
        help="of each page in a browser; the middle one counts (default: 5)",
    )  # fmt: skip
    command.add_argument("--into", type=Path, metavar="FOLDER", help="where to draw the charts")


COMMANDS = (
    Command(
        "begin", "draft a brief that gives back the page as it looks, only lighter", _BEGIN, _begin
    ),
    Command(
        "insert",
        "put the rules into a copy of a page, look at both, tell what differs",
        _INSERT,
        _insert,
    ),
    Command(
        "better",
        "propose what would be better than a page as it is, in pictures and figures",
        _BETTER,
        _better,
    ),
    Command(
        "inspect",
        "tell what a page does wrong as it is, where, and what each fault costs",
        _INSPECT,
        _inspect,
    ),
    Command(
        "measure",
        "measure on a page where its text lies above each backdrop, in every window",
        _MEASURE,
        _measure,
    ),
    Command(
        "hits",
        "tell whether the brief's selectors hit a page, and whose rules would win there",
        _HITS,
        _hits,
    ),
    Command(
        "rehearse",
        "play a page's load through: which screen fetches what, when, over which line",
        _REHEARSE,
        _rehearse,
    ),
)
