"""What was planned and what was made, as tables that a designer reads."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from typing import Literal

from rich.console import Console
from rich.table import Table
from rich.text import Text

from brightcanvas.basics.formats import FileFormat
from brightcanvas.cli.words import box, breakpoint_text, screens, weight
from brightcanvas.eye.attention import Suggestion
from brightcanvas.ledger.model import BackdropRecord, ClipAsset, Shipped, Shown
from brightcanvas.plan.model import BackdropPlan, Picture, Plan
from brightcanvas.promises.verdict import Verdict, worth_telling
from brightcanvas.rules.headers import all_links, are_heavy
from brightcanvas.rules.stylesheet import position_text
from brightcanvas.workshop.building import TRY_PAGE, Outcome


def print_outcome(outcome: Outcome, console: Console) -> None:
    """All assets, the promises, and what to do next."""
    for record in outcome.record.backdrops:
        console.print(_assets_table(record))
    _print_promises(outcome.verdicts, console)
    for name, suggestion in outcome.suggestions:
        console.print(f"{name}: no subject is named, so the middle of the picture is kept.")
        console.print(f"  Suggested: {suggestion_line(suggestion)}", soft_wrap=True)
    output = outcome.plan.brief.output
    assets = outcome.record.assets
    total = sum(asset.bytes for asset in assets)
    console.print(f"{len(assets)} pictures, {weight(total)} in all, are in {output}")
    if clips := outcome.record.clips:
        total = sum(asset.bytes for asset in clips)
        console.print(f"{len(clips)} clip files, {weight(total)}, are there too")
    for name, purpose in published_files(outcome):
        console.print(f"  {name:15}  {purpose}")
    if outcome.lacking:
        console.print(
            f"{len(outcome.lacking)} files have no address in the list yet; once they are uploaded,"
            f" add them: {', '.join(outcome.lacking)}",
            soft_wrap=True,
        )
    console.print(f"Open this page to try it: {(output / TRY_PAGE).resolve()}", soft_wrap=True)


def published_files(outcome: Outcome) -> Iterator[tuple[str, str]]:
    """What lies beside the pictures, and what it is for."""
    if outcome.record.moves:
        yield "moving.js", "starts, stops and pauses them; markup.html loads it"
    yield "backdrops.css", "link it, or paste it into your own style sheet"
    yield "head.html", "hints for the page's head"
    yield "markup.html", "the elements they fill"
    is_heavy = are_heavy(all_links(outcome.record))
    caution = "; too long for some servers, see paste.html" if is_heavy else ""
    yield "headers.txt", f"the hints as HTTP headers instead{caution}"
    yield "early-hints.txt", "what may be sent ahead of the page, beside the others"
    yield "paste.html", "all of it in blocks to copy, for boxes to paste into"
    yield "ledger.json", "every file, rule and promise, for machines"


def suggestion_line(suggestion: Suggestion) -> str:
    """A suggested subject as a line for the brief, with how sure it is."""
    box = suggestion.box
    edges = ", ".join(f"{edge:.2f}" for edge in (box.left, box.top, box.right, box.bottom))
    return f"subject = {{ box = [{edges}] }}   # {suggestion.confidence:.0%} sure"


def _table(title: str, *headings: str) -> Table:
    table = Table(title=title, title_justify="left", title_style="bold", box=None, pad_edge=False)
    for heading in headings:
        right = heading in ("Pixels", "Bytes")
        justify: Literal["left", "right"] = "right" if right else "left"
        is_last = heading == headings[-1]  # where the line is too long, the last one gives way
        table.add_column(heading, justify=justify, header_style="dim", no_wrap=not is_last)
    return table


def _yielding(text: str) -> Text:
    """A cell that is cut short where there is no room, not broken into lines."""
    return Text(text, no_wrap=True, overflow="ellipsis")


def _assets_table(record: BackdropRecord) -> Table:
    headings = ("Breakpoint", "Screens", "Pixels", "Bytes", "Older browsers", "File")
    table = _table(f"\n{record.name} on {record.element}", *headings)
    for shown in record.shown:
        for shipped, label in zip(shown.shipped, _labels(shown), strict=False):
            table.add_row(label, *_shipped_cells(shown, shipped))
        for asset in shown.clip.assets if shown.clip else ():
            table.add_row("", *_clip_cells(asset))
        if not shown.shipped:
            table.add_row(
                _label(shown), "all", "", "0 B", "", f"the colour {shown.behind.css} alone"
            )
    return table


def _label(shown: Shown) -> str:
    return breakpoint_text(shown.view.slot.breakpoint)


def _labels(shown: Shown) -> itertools.chain[str]:
    return itertools.chain([_label(shown)], itertools.repeat("", len(shown.shipped)))


def _shipped_cells(shown: Shown, shipped: Shipped) -> list[str | Text]:
    best, *older = shipped.assets
    return [
        screens(shipped.rung, shown.view.slot.breakpoint),
        "any size" if best.format is FileFormat.SVG else f"{best.width} x {best.height}",
        weight(best.bytes),
        ", ".join(f"{asset.format.label} {weight(asset.bytes)}" for asset in older),
        _yielding(best.file),
    ]


def _clip_cells(asset: ClipAsset) -> list[str | Text]:
    told = f"clip, {asset.seconds:g} s, {asset.frames} frames"
    kind = asset.type.partition(";")[0].partition("/")[2]
    size = f"{asset.width} x {asset.height}"
    return [told, size, weight(asset.bytes), kind, _yielding(asset.file)]


def print_plan(plan: Plan, verdicts: Sequence[Verdict], console: Console) -> None:
    """What would be made of each source, breakpoint by breakpoint."""
    for one in plan.backdrops:
        console.print(_plan_table(one))
        for line in _source_lines(one):
            console.print(line, style="dim")
    _print_promises(verdicts, console)
    console.print(f"Nothing was written. To make it: bright-canvas build {plan.brief.path}")


def _plan_table(one: BackdropPlan) -> Table:
    headings = (
        "Breakpoint",
        "Boxes, narrowest to widest",
        "Cut of the source",
        "Position",
        "Rungs",
    )
    table = _table(f"\n{one.backdrop.name} on {one.backdrop.element}", *headings)
    for view in one.views:
        where = breakpoint_text(view.slot.breakpoint)
        cells = _picture_cells(view.picture) if view.picture else ["", "the colour alone", "", ""]
        table.add_row(where, *cells)
    return table


def _picture_cells(picture: Picture) -> list[str]:
    stage, cut = picture.stage, picture.cut
    rungs = ", ".join(str(rung.width) for rung in picture.rungs)
    return [
        f"{box(stage.narrowest.box)} to {box(stage.widest.box)}",
        f"{box(cut.area.size)} at {cut.area.left:.0f}, {cut.area.top:.0f}",
        position_text(cut.position),
        rungs,
    ]


def _source_lines(one: BackdropPlan) -> list[str]:
    pictures = {view.picture.facts.path: view.picture for view in one.views if view.picture}
    return [f"  {_source_line(picture)}" for picture in pictures.values()]


def _source_line(picture: Picture) -> str:
    facts = picture.facts
    size = f"{'counted as ' if facts.kind.is_drawing else ''}{box(facts.size)} px"
    told = f"{facts.path.name}: {facts.kind.name}, {size}, {weight(facts.bytes)}"
    if facts.jpeg_quality is not None:
        told += f", last saved at a JPEG quality of about {facts.jpeg_quality}"
    if facts.kind.is_clip:
        second = picture.offer.poster_at
        told += ", its best frame" if second is None else f", its frame at {second:g} s"
    return told


def _print_promises(verdicts: Sequence[Verdict], console: Console) -> None:
    console.print()
    for verdict in worth_telling(verdicts):
        console.print(_promise_line(verdict), soft_wrap=True)
    broken = sum(not verdict.holds for verdict in verdicts)
    if broken:
        console.print(f"{broken} of {len(verdicts)} promises broken.", style="bold red")
    elif verdicts:
        console.print(f"All {len(verdicts)} promises hold.", style="green")
    console.print()


def _promise_line(verdict: Verdict) -> Text:
    mark, style = _mark(verdict)
    line = Text.assemble((f"{mark:6}", style), f" {verdict.promise}: ")
    line.append(f"{verdict.backdrop}, {verdict.breakpoint}: {verdict.says}")
    if verdict.remedy:
        line.append(f"\n       {verdict.remedy}")
    return line


def _mark(verdict: Verdict) -> tuple[str, str]:
    if not verdict.holds:
        return "BROKEN", "bold red"
    return ("note", "yellow") if verdict.remedy else ("holds", "green")
