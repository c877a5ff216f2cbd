"""``bright-canvas rehearse``."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.table import Table

from brightcanvas.ledger.record import LEDGER
from brightcanvas.page.folder import folder_of
from brightcanvas.page.found_hints import header_hints
from brightcanvas.page.reading import Page, read_page
from brightcanvas.pipeline.ownership import BY_INTO, Output
from brightcanvas.pipeline.publishing import publish
from brightcanvas.rehearsal.confirming import Confirmed
from brightcanvas.rehearsal.engine_profiles import ENGINES, EngineProfile
from brightcanvas.rehearsal.rehearsing import Rehearsed, file_name, rehearse
from brightcanvas.reports.waterfall import draw_waterfalls, rehearsal_page
from brightcanvas.serving.network_profiles import LINES, PROTOCOLS, Protocol
from brightcanvas.values.environments import environment_of
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.files import read_regular
from brightcanvas.values.screens import DEVICES
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Play the page's load through, draw it, and say what was seen.

    Raises:
        MachineError: the browser that was asked to confirm it failed.
    """
    page = read_page(folder_of(arguments.page, arguments.root))
    protocol = PROTOCOLS[arguments.http]
    engine = ENGINES[arguments.like]
    devices = arguments.screen or DEVICES
    lines = arguments.line or LINES
    headers = _headers(arguments.headers)
    found = rehearse(page, devices, lines, protocol, engine, header_hints(headers))
    drawn = _draw(arguments, page, found, f"As {engine.name} loads it over {protocol.value}.")
    console = streams.console()
    console.print(f"{arguments.page}, as {engine.name} loads it over {protocol.value}.\n")
    console.print(_fetched(found))
    console.print()
    console.print(_times(found))
    for remark in _remarks(page, found):
        console.print(remark, soft_wrap=True)
    console.print(drawn, soft_wrap=True, markup=False)
    is_clean = all(one.is_clean for one in found)
    confirmed, failure = list[Confirmed](), None
    if arguments.browser:
        from brightcanvas.terminal.browsers import confirm_in

        pairs = tuple(("Link", line.partition(":")[2].strip()) for line in headers.splitlines())
        confirmed, failure = confirm_in(page.folder, found, engine, arguments.runs, pairs, console)
        is_clean &= all(one.is_as_foretold for one in confirmed)
    if streams.as_json:
        seen = [_seen_facts(one) for one in confirmed]
        streams.document({**_facts(page, engine, protocol, found), "browser": seen})
    if failure:
        raise failure
    return ExitStatus.ALL_WELL if is_clean else ExitStatus.PROMISE_BROKEN


def _headers(path: Path | None) -> str:
    """The lines of a file that are links."""
    if path is None:
        return ""
    if not path.is_file():
        raise BriefError(f"{path}: no file with headers is there")
    try:
        text = read_regular(path, LONGEST_HEADERS).decode("utf-8", "replace")
    except OSError as error:
        raise BriefError(f"{path} can't be read: {error.strerror or error}.") from error
    lines = text.splitlines()
    return "\n".join(line for line in lines if line.lower().startswith("link:"))


def _draw(arguments: argparse.Namespace, page: Page, found: Sequence[Rehearsed], told: str) -> str:
    """The chart of the screen that waits longest, and the page of all, and where they are.

    Beside a page that isn't ours nothing is written unless a folder is named.
    """
    folder = arguments.into or _own_folder(page.folder.page)
    if folder is None:
        return "No charts were drawn: name a folder for them with --into."
    title = page.folder.page.name
    files = {
        CHART: draw_waterfalls(title, max(found, key=_slowest)),
        CHARTS: rehearsal_page(title, told, found).encode(),
    }
    publish(Output(folder, folder, "rehearsals", BY_INTO), files)
    return f"Charts: {folder / CHART}\nAll screens and lines: {(folder / CHARTS).resolve()}"


def _own_folder(page: Path) -> Path | None:
    """For charts of a page that we published: beside its folder."""
    folder = page.resolve().parent
    return folder.parent / "rehearsal" if (folder / LEDGER).is_file() else None


CHART, CHARTS = "waterfall.png", "rehearsal.html"


def _slowest(one: Rehearsed) -> float:
    hero = one.hero
    return max((over.hinted.at_hand(hero) for over in one.over), default=0.0) if hero else 0.0


def _fetched(found: Sequence[Rehearsed]) -> Table:
    table = Table(box=None, pad_edge=False)
    for heading in ("Screen", "Pictures", "Clips", "Bytes", "First view", "In vain"):
        right = heading in ("Pictures", "Clips", "Bytes")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for one in found:
        hero = one.hero.element if one.hero else "no picture"
        useless = (*one.load.useless, *one.load.hidden)
        vain = ", ".join(file_name(fetch) for fetch in useless) or "nothing"
        screen = f"{one.device.name}, {one.device.figures}"
        counts = str(len(one.load.pictures)), str(len(one.load.clips))
        table.add_row(screen, *counts, bytes_text(one.bytes), hero, vain)
    return table


def _times(found: Sequence[Rehearsed]) -> Table:
    table = Table(
        box=None, pad_edge=False, title_justify="left", title_style="",
        title="When the first view has its picture: without hints, with them",
    )  # fmt: skip
    table.add_column("Screen", header_style="dim")
    for over in found[0].over:
        table.add_column(over.line.name, header_style="dim", justify="right")
    for one in found:
        hero = one.hero
        cells = [
            f"{over.plain.at_hand(hero):.2f} s, {over.hinted.at_hand(hero):.2f} s" if hero else "-"
            for over in one.over
        ]
        table.add_row(f"{one.device.name}, {one.device.figures}", *cells)
    return table


def _slowest_told(found: Sequence[Rehearsed]) -> list[str]:
    """Who waits longest, and what the hints are worth there."""
    waits = [
        (over.hinted.at_hand(one.hero), over.plain.at_hand(one.hero), one, over)
        for one in found
        for over in one.over
        if one.hero
    ]
    if not waits:
        return ["\nNo element shows a picture."]
    hinted, plain, one, over = max(waits, key=lambda wait: wait[0])
    gain = f"the hints save {plain - hinted:.2f} s" if plain > hinted else "no hint helps"
    return [f"\nThe longest wait: {one.device.figures}, {over.line.name}: {hinted:.2f} s; {gain}."]


def _remarks(page: Page, found: Sequence[Rehearsed]) -> list[str]:
    page_name = page.folder.page
    remarks = _slowest_told(found)
    if all(one.is_clean for one in found):
        remarks.append("Every screen fetches each picture once, and nothing in vain.")
    if any(one.load.useless for one in found):
        remarks.append(
            "Some hints fetch what nothing shows: give each the condition of the rule that it is"
            " for, and hint one format only."
        )
    if any(one.load.hidden for one in found):
        remarks.append(f"Some pictures are hidden, and fetched: bright-canvas inspect {page_name}")
    if page.has_scripts:
        remarks.append("What the page's scripts fetch is not counted.")
    missing = sorted({url for one in found for url in one.unknown})
    remarks += _some("Not here, so not counted", missing, ", ")
    remarks += _some("Not understood, so not counted", [*dict.fromkeys(page.reading.unread)], "; ")
    return remarks


LONGEST_HEADERS = 1_000_000
"""Bytes of a file of headers."""

TOLD = 3
"""Of what is not counted: it must not bury what was found."""


def _some(says: str, listed: Sequence[str], mark: str) -> list[str]:
    if not listed:
        return []
    more = f" and {len(listed) - TOLD} more: --json" if len(listed) > TOLD else ""
    return [f"{says}: {mark.join(listed[:TOLD])}{more}"]


def _facts(
    page: Page, engine: EngineProfile, protocol: Protocol, found: Sequence[Rehearsed]
) -> dict[str, Any]:
    return {
        "page": str(page.folder.page),
        "like": engine.name,
        "protocol": protocol.value,
        "not_understood": list(dict.fromkeys(page.reading.unread)),
        "screens": [_screen_facts(one) for one in found],
    }


def _seen_facts(one: Confirmed) -> dict[str, Any]:
    environment = environment_of(one.rehearsed.device)
    return {
        "browser": one.browser,
        "width": environment.width,
        "height": environment.height,
        "density": environment.density,
        "line": one.line.name,
        "foretold": one.predicted,
        "measured": one.measured,
        "spread": [one.lowest, one.highest],
        "asked": list(one.asked),
        "missing": list(one.missing),
        "further": list(one.further),
        "console": list(one.warnings),
        "layout_shift": one.shift,
    }


def _screen_facts(one: Rehearsed) -> dict[str, Any]:
    environment = environment_of(one.device)
    return {
        "name": one.device.name,
        "width": environment.width,
        "height": environment.height,
        "density": environment.density,
        "pictures": [
            {"file": file_name(fetch), "url": fetch.url, "hinted": fetch.is_hinted,
             "shown_by": list(fetch.used_by)}
            for fetch in one.load.pictures
        ],
        "clips": [{"file": file_name(fetch), "url": fetch.url} for fetch in one.load.clips],
        "bytes": one.bytes,
        "in_vain": [file_name(fetch) for fetch in one.load.useless],
        "hidden": [file_name(fetch) for fetch in one.load.hidden],
        "not_here": list(one.unknown),
        "first_view": one.hero.element if one.hero else None,
        "lines": [
            {
                "line": over.line.name,
                "with_hints": round(over.hinted.at_hand(one.hero), 4) if one.hero else None,
                "without_hints": round(over.plain.at_hand(one.hero), 4) if one.hero else None,
                "files": [
                    {"file": file_name(timing.fetch), "bytes": timing.bytes,
                     "asked": round(timing.asked, 4), "begun": round(timing.begun, 4),
                     "done": round(timing.done, 4)}
                    for timing in over.hinted.timings
                ],
            }
            for over in one.over
        ],
    }  # fmt: skip
