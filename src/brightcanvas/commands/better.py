"""``bright-canvas better``."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING, Any

from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    import argparse
    from collections.abc import Sequence

    from brightcanvas.adjusting.proposals import Proposal, Shot
    from brightcanvas.adjusting.session import Session
    from brightcanvas.terminal.streams import Streams


PAGE = "better.html"


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Propose what would be better than the page as it is, or take some of it.

    Raises:
        BriefError: several briefs are named, or none of the proposals.
    """
    from brightcanvas.adjusting.proposals import proposals_of
    from brightcanvas.adjusting.session import Session

    named: list[str] = arguments.named
    briefs = [one for one in named if one.lower().endswith(".toml")]
    if len(briefs) > 1:
        raise BriefError("name one brief, and behind it what to take")
    brief = Path(briefs[0]) if briefs else Path("brief.toml")
    with closing(Session(brief, arguments.largest_source)) as session:
        found = [
            proposal for backdrop in session.said().brief.backdrops
            for proposal in proposals_of(session, backdrop.name)
        ]  # fmt: skip
        wanted = [one for one in named if one not in briefs]
        if wanted:
            _take(session, found, wanted, streams)
        else:
            _show(session, found, streams)
    return ExitStatus.ALL_WELL


def _take(
    session: Session, found: Sequence[Proposal], wanted: Sequence[str], streams: Streams
) -> None:
    by_name = {one.name: one for one in found}
    if unknown := [one for one in wanted if one not in by_name]:
        known = ", ".join(by_name) or "nothing, for nothing would be better"
        raise BriefError(f"There is no proposal '{unknown[0]}'. Proposed: {known}.")
    changes = [change for one in dict.fromkeys(wanted) for change in by_name[one].changes]
    told = session.save(changes, session.said().brief.digest)
    if streams.as_json:
        streams.document({"taken": list(wanted), "lines": told["lines"]})
    console = streams.console()
    console.print(f"{session.path.name} says now:", highlight=False)
    for number, text in zip(told["lines"], told["texts"], strict=True):
        console.print(f"  {number}: {text}", markup=False, highlight=False, soft_wrap=True)
    console.print("Next: bright-canvas build, then bright-canvas insert")


def _show(session: Session, found: Sequence[Proposal], streams: Streams) -> None:
    page = session.path.with_name(PAGE)
    if found:
        _write(page, session, found)
    if streams.as_json:
        streams.document({
            "page": str(page) if found else None, "proposals": [_facts(one) for one in found],
        })  # fmt: skip
    console = streams.console()
    if not found:
        console.print(
            "Nothing to propose: no cut would keep more of what stands out in view, and no scrim"
            " is missing that would make measured text readable.",
            soft_wrap=True,
        )
        return
    for one in found:
        console.print(f"{one.name}: {one.says}", highlight=False, markup=False, soft_wrap=True)
        for pair in one.screens:
            before, after = (bytes_text(round(one.bytes)) for one in (pair.before, pair.after))
            console.print(
                f"  {pair.screen.name}: {pair.before.says}, about {before};"
                f" then {pair.after.says}, {after}",
                highlight=False, soft_wrap=True,
            )  # fmt: skip
    console.print(f"In pictures: {page}", soft_wrap=True)
    console.print(f"Take one: bright-canvas better {session.path.name} {found[0].name}")


def _write(page: Path, session: Session, found: Sequence[Proposal]) -> None:
    """Write the page; one that isn't ours stays as it is."""
    from brightcanvas.adjusting.adjust_page import better_page
    from brightcanvas.values.files import write_whole

    if page.exists() and not _is_ours(page):
        raise BriefError(f"{page} is there already, and is no page of ours: move it away")
    brief = session.said().brief
    write_whole(page, better_page(brief.title or session.path.stem, session.path.name, found))


def _is_ours(page: Path) -> bool:
    from brightcanvas.adjusting.adjust_page import MARK
    from brightcanvas.values.files import LARGEST_RECORD, read_regular

    try:
        return MARK.encode() in read_regular(page, LARGEST_RECORD)
    except OSError:
        return False


def _facts(one: Proposal) -> dict[str, Any]:
    return {
        "name": one.name,
        "says": one.says,
        "changes": [
            {"breakpoint": change.breakpoint, "key": change.key, "value": change.value}
            for change in one.changes
        ],
        "screens": [
            {"screen": pair.screen.name, "before": _shot(pair.before), "after": _shot(pair.after)}
            for pair in one.screens
        ],
    }


def _shot(shot: Shot) -> dict[str, Any]:
    return {
        "says": shot.says, "bytes": round(shot.bytes), "scrim": shot.scrim,
        "box": [round(side, 1) for side in (shot.box.width, shot.box.height)],
    }  # fmt: skip
