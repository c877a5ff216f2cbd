"""What was planned and what was made, as tables that a designer reads."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Literal

from rich.table import Table
from rich.text import Text

from brightcanvas.delivery.candidates import labels
from brightcanvas.delivery.markup import by_page
from brightcanvas.delivery.published_files import TRY_PAGE, purposes
from brightcanvas.delivery.rule_text import position_text
from brightcanvas.ledger.record import BackdropLoad, load_of, told_screens
from brightcanvas.plan.planning import usual_of
from brightcanvas.promises.verdict import State, Verdict, worth_telling
from brightcanvas.terminal.phrases import box, breakpoint_text
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.geometry import plain_number
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from rich.console import Console

    from brightcanvas.analysis.saliency import Suggestion
    from brightcanvas.brief.brief import Brief
    from brightcanvas.ledger.record import Asset, BackdropRecord, ClipAsset, PublishedVariant
    from brightcanvas.pipeline.building import Outcome
    from brightcanvas.plan.planned import BackdropPlan, Picture, Plan

MOST_BROKEN, MOST_NOTES = 8, 4
"""Lines of a summary: what is left out is told in number."""


def print_stale(brief: Brief, console: Console) -> None:
    """That a page has changed since it was measured: all else rests on that."""
    slots = [slot for one in brief.backdrops for slot in one.slots]
    if any(slot.is_stale or (slot.copy and slot.copy.is_stale) for slot in slots):
        console.print(
            "The page has changed since it was measured, so what follows may be wrong:"
            " bright-canvas measure PAGE",
            style="bold yellow", soft_wrap=True,
        )  # fmt: skip


def print_outcome(outcome: Outcome, console: Console) -> None:
    """On one screen: what people load, what does not hold, and what to do next."""
    print_stale(outcome.plan.brief, console)
    console.print(_loads_table(outcome))
    _print_summary(outcome.verdicts, console)
    for name, suggestion in outcome.suggestions:
        console.print(f"{name}: no subject is named, so the middle of the picture is kept.")
        console.print(f"  Suggested: {suggestion_line(suggestion)}", soft_wrap=True)
    _print_lacking(outcome, console)
    output = outcome.plan.brief.output
    assets, clips = outcome.record.assets, outcome.record.clips
    total = sum(one.bytes for one in assets) + sum(one.bytes for one in clips)
    count = f"{len(assets)} pictures" + (f" and {len(clips)} clip files" if clips else "")
    console.print(f"{count}, {bytes_text(total)}, and the rules are in {output}")
    if outcome.record.moves:
        console.print("markup.html loads moving.js, which starts, stops and pauses what moves")
    if pages := [page.file("head", "html") for page in by_page(outcome.record) if page.name]:
        console.print(f"Each page has hints of its own: {', '.join(pages)}", soft_wrap=True)
    console.print(f"Open this page to try it: {(output / TRY_PAGE).resolve()}", soft_wrap=True)
    console.print("Every file and promise: bright-canvas build --all", style="dim")


def print_all(outcome: Outcome, console: Console) -> None:
    """All assets, all promises, and what every published file is for."""
    print_stale(outcome.plan.brief, console)
    for record in outcome.record.backdrops:
        console.print(_assets_table(record))
    _print_promises(outcome.verdicts, console)
    _print_lacking(outcome, console)
    listed = list(purposes(outcome.record))
    width = max(len(name) for name, _ in listed)
    for name, purpose in listed:
        console.print(f"  {name:{width}}  {purpose}")


def _print_lacking(outcome: Outcome, console: Console) -> None:
    if outcome.damaged:
        results = "result was" if outcome.damaged == 1 else "results were"
        console.print(f"{outcome.damaged} kept {results} damaged, and made again.")
    if outcome.left:
        console.print(
            f"Outdated, but can't be removed, so remove it yourself: {', '.join(outcome.left)}",
            soft_wrap=True,
        )
    if outcome.lacking:
        console.print(
            f"{len(outcome.lacking)} files have no address in the list yet; once they are uploaded,"
            f" add them: {', '.join(outcome.lacking)}",
            soft_wrap=True,
        )


def _loads_table(outcome: Outcome) -> Table:
    screens = told_screens(usual_of(outcome.plan.brief))
    names = [f"{one.name} {plain_number(one.viewport.width)}@{one.density:g}x" for one in screens]
    table = _table("", "Backdrop", *names, "Files", "Bytes in all", "Source")
    for record, plan in zip(outcome.record.backdrops, outcome.plan.backdrops, strict=True):
        sources = {view.picture.facts for view in plan.views if view.picture}
        source = sum(one.bytes for one in sources)
        cells = [_load_cell(load_of(record, one), source) for one in screens]
        files = {asset.file: asset.bytes for shown in record.shown for asset in shown.assets}
        clips = (shown.clip.assets for shown in record.shown if shown.clip)
        files |= {asset.file: asset.bytes for assets in clips for asset in assets}
        whole, total = bytes_text(source) if source else "", bytes_text(sum(files.values()))
        table.add_row(record.name, *cells, str(len(files)), total, whole)
    return table


def _load_cell(load: BackdropLoad, source: int) -> str:
    if load.picture is None:
        return "the colour"
    clip = f" + clip {bytes_text(load.clip)}" if load.clip else ""
    share = f" ({load.picture.bytes / source:.1%})" if source else ""
    return f"{bytes_text(load.picture.bytes)}{share}{clip}"


def _print_summary(verdicts: Sequence[Verdict], console: Console) -> None:
    """What is broken, then notes; what holds in number."""
    console.print()
    broken = [one for one in verdicts if not one.holds]
    told = (State.NOTE, State.NOT_MEASURED)
    notes = [one for one in worth_telling(verdicts) if one.state in told]
    for listed, most in ((broken, MOST_BROKEN), (notes, MOST_NOTES)):
        for verdict in listed[:most]:
            console.print(_promise_line(verdict), soft_wrap=True)
        if len(listed) > most:
            console.print(f"       and {len(listed) - most} more: bright-canvas build --all")
    _print_count(verdicts, console)


def suggestion_line(suggestion: Suggestion) -> str:
    """A suggested subject as a line for the brief, with how sure it is."""
    edges = ", ".join(f"{edge:.2f}" for edge in suggestion.box.edges)
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
    headings = ("Breakpoint", "For", "Pixels", "Bytes", "Score", "File")
    table = _table(f"\n{record.name} on {record.element}", *headings)
    for shown in record.shown:
        label = breakpoint_text(shown.view.slot.breakpoint)
        for cells in _rows(shown):
            table.add_row(label, *cells)
            label = ""
    return table


def _rows(shown: PublishedVariant) -> Iterator[list[str | Text]]:
    for shipped, candidate in zip(shown.shipped, labels(shown), strict=True):
        for asset in shipped.assets:
            if asset != shown.oldest:
                yield _asset_cells(asset, f"{candidate or 'every'} screen".strip())
    if shown.oldest:
        yield _asset_cells(shown.oldest, "all" if shown.is_single else "older browsers")
    for clip in shown.clip.assets if shown.clip else ():
        yield _clip_cells(clip)
    if not shown.shipped:
        yield ["all", "", "0 B", "", f"the colour {shown.behind.css} alone"]


def _asset_cells(asset: Asset, whom: str) -> list[str | Text]:
    size = "any size" if asset.format is FileFormat.SVG else f"{asset.width} x {asset.height}"
    return [whom, size, bytes_text(asset.bytes), f"{asset.score:.3f}", _yielding(asset.file)]


def _clip_cells(asset: ClipAsset) -> list[str | Text]:
    told = f"clip, {asset.seconds:g} s, {asset.frames} frames"
    kind = asset.type.partition(";")[0].partition("/")[2]
    size = f"{asset.width} x {asset.height}"
    return [f"{told}, {kind}", size, bytes_text(asset.bytes), f"{asset.score:.3f}",
            _yielding(asset.file)]  # fmt: skip


def print_plan(plan: Plan, verdicts: Sequence[Verdict], console: Console) -> None:
    """What would be made of each source, breakpoint by breakpoint."""
    print_stale(plan.brief, console)
    for one in plan.backdrops:
        console.print(_plan_table(one))
        for line in (*_parting_lines(one), *_source_lines(one)):
            console.print(line, style="dim")
    _print_promises(verdicts, console)
    console.print(f"Nothing was written. To make it: bright-canvas build {plan.brief.path}")


def _plan_table(one: BackdropPlan) -> Table:
    headings = (
        "Breakpoint",
        "Boxes, narrowest to widest",
        "Cut of the source",
        "Position",
        "Sizes",
    )
    table = _table(f"\n{one.backdrop.name} on {one.backdrop.element}", *headings)
    for view in one.views:
        where = breakpoint_text(view.slot.breakpoint)
        cells = _picture_cells(view.picture) if view.picture else ["", "the colour alone", "", ""]
        table.add_row(where, *cells)
    return table


def _picture_cells(picture: Picture) -> list[str]:
    stage, cut = picture.stage, picture.cut
    sizes = ", ".join(f"{size_variant.width} px" for size_variant in picture.size_variants)
    sizes += " (another part's)" if picture.lender else ""
    return [
        f"{box(stage.narrowest.box)} to {box(stage.widest.box)}",
        f"{box(cut.area.size)} at {cut.area.left:.0f}, {cut.area.top:.0f}",
        position_text(cut.position),
        sizes,
    ]


def _parting_lines(one: BackdropPlan) -> Iterator[str]:
    for parting in one.partings:
        saved = max(parting.saved, 0.0)
        yield (
            f"  {parting.breakpoint} in {parting.count} parts: saves the average visit about"
            f" {bytes_text(round(saved))} more than its files are worth"
        )


def _source_lines(one: BackdropPlan) -> list[str]:
    pictures = {view.picture.facts.path: view.picture for view in one.views if view.picture}
    return [f"  {_source_line(picture)}" for picture in pictures.values()]


def _source_line(picture: Picture) -> str:
    facts = picture.facts
    size = f"{'counted as ' if facts.kind.is_drawing else ''}{box(facts.size)} px"
    told = f"{facts.path.name}: {facts.kind.name}, {size}, {bytes_text(facts.bytes)}"
    if facts.jpeg_quality is not None:
        told += f", last saved at a JPEG quality of about {facts.jpeg_quality}"
    if facts.pages > 1:
        told += f", the first of its {facts.pages} pages"
    if facts.kind.is_clip:
        second = picture.offer.poster_at
        told += ", its best frame" if second is None else f", its frame at {second:g} s"
    return told


def _print_promises(verdicts: Sequence[Verdict], console: Console) -> None:
    console.print()
    for verdict in worth_telling(verdicts):
        console.print(_promise_line(verdict), soft_wrap=True)
    _print_count(verdicts, console)
    console.print()


def _print_count(verdicts: Sequence[Verdict], console: Console) -> None:
    counted = Counter(verdict.state for verdict in verdicts)
    if broken := counted[State.BROKEN]:
        console.print(f"{broken} of {len(verdicts)} promises broken.", style="bold red")
    elif counted.keys() - {State.HOLDS}:
        console.print(f"No promise is broken: {_counts(counted)}.", style="green")
    elif verdicts:
        console.print(f"All {len(verdicts)} promises hold.", style="green")


def _counts(counted: Mapping[State, int]) -> str:
    """As in ``132 hold, 7 have a note``."""
    words = {State.HOLDS: "hold", State.NOTE: "have a note", State.NOT_MEASURED: "not measured"}
    return ", ".join(f"{counted[one]} {word}" for one, word in words.items() if counted[one])


def _promise_line(verdict: Verdict) -> Text:
    mark, style = _MARKS[verdict.state]
    line = Text.assemble((f"{mark:6}", style), f" {verdict.promise}: ")
    line.append(f"{verdict.backdrop}, {verdict.breakpoint}: {verdict.says}")
    if verdict.remedy:
        line.append(f"\n       {verdict.remedy}")
    return line


_MARKS = {
    State.HOLDS: ("holds", "green"),
    State.BROKEN: ("BROKEN", "bold red"),
    State.NOTE: ("note", "yellow"),
    State.NOT_MEASURED: ("not measured", "yellow"),
}
