"""``bright-canvas inspect``, and how findings are told on a terminal."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from brightcanvas.inspecting.all_findings import inspect_folders
from brightcanvas.page.site import pages_at
from brightcanvas.serving.network_profiles import LINES
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.screens import ALL_DEVICES
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.inspecting.all_findings import Inspected
    from brightcanvas.inspecting.finding import Finding
    from brightcanvas.serving.network_profiles import NetworkProfile
    from brightcanvas.terminal.streams import Streams
    from brightcanvas.values.screens import Screen
PAGE = "inspection.html"


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Tell what the page does wrong, the worst first."""
    screens: Sequence[Screen] = arguments.screen or ALL_DEVICES
    lines = arguments.line or LINES
    with pages_at(arguments.page, arguments.root) as folders:
        found = inspect_folders(folders, screens, lines, arguments.browser)
    console = streams.console()
    print_findings(found, console, screens, lines[len(lines) // 2])
    for text in found.left_out:
        console.print(f"Left out: {text}", soft_wrap=True, markup=False)
    if arguments.into:
        from brightcanvas.pipeline.ownership import BY_INTO, Output
        from brightcanvas.pipeline.publishing import publish
        from brightcanvas.reports.html_reports import inspection_page

        content = inspection_page(headline(found, len(screens)), found, screens, lines)
        publish(Output(arguments.into, arguments.into, "inspections", BY_INTO), {PAGE: content})
        console.print(f"\nTo show: {arguments.into / PAGE}", soft_wrap=True)
    if streams.as_json:
        streams.document({
            "pages": list(found.pages),
            "left_out": list(found.left_out),
            "findings": [facts_of(one, lines) for one in found.findings],
            "not_decided": list(found.undecided),
        })  # fmt: skip
    return ExitStatus.PROMISE_BROKEN if found.findings else ExitStatus.ALL_WELL


MOST_TOLD = 9
"""Kinds of finding that are told on a screen."""

MOST_ALIKE = 3
"""Places that are named of findings of one kind."""


def alike(findings: Sequence[Finding]) -> list[list[Finding]]:
    """Findings of one kind together, the worst of each first."""
    groups: dict[str, list[Finding]] = {}
    for one in findings:
        groups.setdefault(one.fault, []).append(one)
    return list(groups.values())


def print_findings(
    found: Inspected, console: Console, screens: Sequence[Screen], line: NetworkProfile
) -> None:
    """The verdict, then each kind of finding with its worst case."""
    console.print(headline(found, len(screens)), soft_wrap=True)
    groups = alike(found.findings)
    for number, group in enumerate(groups[:MOST_TOLD], 1):
        console.print()
        for text in _told(number, group, screens, line):
            is_first = text.startswith(f"{number:2}  ")
            style = "bold" if is_first else ""
            console.print(text, soft_wrap=True, markup=False, highlight=False, style=style)
    if len(groups) > MOST_TOLD:
        console.print(f"\n{len(groups) - MOST_TOLD} further kinds: --json")
    if found.undecided:
        more = f" and {len(found.undecided) - 3} more: --json" if len(found.undecided) > 3 else ""
        console.print(
            f"\nNot decided: {'; '.join(found.undecided[:3])}{more}", soft_wrap=True, markup=False
        )


def headline(found: Inspected, screens: int) -> str:
    """The verdict in one line."""
    count, pages = len(found.findings), len(found.pages)
    where = found.pages[0] if pages == 1 else f"{pages} pages"
    if not count:
        return f"{where}, on {screens} screens: nothing wrong was found."
    things = "thing is" if count == 1 else "things are"
    return f"{where}, on {screens} screens: {count} {things} wrong; the worst first."


def _told(
    number: int, group: Sequence[Finding], screens: Sequence[Screen], line: NetworkProfile
) -> Iterator[str]:
    first = group[0]
    yield f"{number:2}  {first.fault}: {first.says}"
    facts = [first.place.told, on_screens(first.screens, screens), cost(first, line)]
    facts.append(first.sure.word)
    if len(first.pages) > 1:
        facts.append(f"on {len(first.pages)} pages")
    yield "    " + "; ".join(one for one in facts if one)
    if len(group) > 1:
        others = [_short(one, first) for one in group[1 : MOST_ALIKE + 1]]
        more = f" and {len(group) - 1 - len(others)} more" if len(group) - 1 > len(others) else ""
        yield f"    and {len(group) - 1} like it: {', '.join(others)}{more}"
    yield f"    > {first.do}"


def _short(one: Finding, first: Finding) -> str:
    if one.place.line and one.place.file == first.place.file:
        return f"line {one.place.line}"
    return f"{one.place.file}:{one.place.line}" if one.place.line else one.place.told


def on_screens(concerned: Sequence[Screen], screens: Sequence[Screen]) -> str:
    """The screens in a few words; nothing where it is all of them."""
    if not concerned or len(concerned) == len(screens):
        return "every screen" if concerned else ""
    names = [one.figures if one.name == "screen" else one.name for one in concerned]
    more = f" and {len(names) - 2} more" if len(names) > 2 else ""
    return f"{', '.join(names[:2])}{more}"


def cost(one: Finding, line: NetworkProfile) -> str:
    """What it costs, where it costs bytes."""
    if not one.bytes:
        return ""
    return f"{bytes_text(one.bytes)} in vain, {line.seconds(one.bytes):.1f} s over {line.name}"


def facts_of(one: Finding, lines: Sequence[NetworkProfile]) -> dict[str, Any]:
    """A finding for machines."""
    seconds = one.seconds or tuple(line.seconds(one.bytes) for line in lines)
    return {
        "fault": one.fault,
        "says": one.says,
        "file": one.place.file,
        "line": one.place.line or None,
        "selector": one.place.selector,
        "do": one.do,
        "harm": one.harm.name.lower(),
        "sure": one.sure.word,
        "bytes": one.bytes,
        "seconds": {
            line.name: round(value, 3) for line, value in zip(lines, seconds, strict=False)
        },
        "screens": [screen.figures for screen in one.screens],
        "pages": list(one.pages),
    }
