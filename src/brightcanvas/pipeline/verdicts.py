"""The promises that can only be checked on what was made."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain

from brightcanvas.analysis.legibility import BUSY_FROM
from brightcanvas.delivery.hints import backdrop_hints
from brightcanvas.delivery.pictures import picture_markup
from brightcanvas.delivery.stylesheet import backdrop_rules
from brightcanvas.ledger.model import Record
from brightcanvas.pipeline.graph import Results
from brightcanvas.pipeline.recording import Made
from brightcanvas.plan.model import Plan
from brightcanvas.promises import faithful, moving, readable, seamless
from brightcanvas.promises.verdict import Verdict, forgiven
from brightcanvas.rehearsal import one_fetch
from brightcanvas.tasks.copy import letters_of
from brightcanvas.tasks.of_views import seams_task
from brightcanvas.values.targets import LEVELS


def check_made(plan: Plan, made: Made, record: Record) -> Iterator[Verdict]:
    """The verdicts, promise by promise."""
    found = chain(
        _check_seams(plan, made.results),
        _check_copy(plan, made),
        _check_likeness(record),
        _check_clips(record),
        _check_fetches(record),
    )
    yield from found if plan.brief.is_strict else map(forgiven, found)


def _check_seams(plan: Plan, results: Results) -> Iterator[Verdict]:
    for one in plan.backdrops:
        for view in one.views:
            task = seams_task(view)
            if task and (verdict := seamless.check(one.backdrop.name, view, results[task])):
                yield verdict


def _check_copy(plan: Plan, made: Made) -> Iterator[Verdict]:
    for one in plan.backdrops:
        for view in one.views:
            found, letters = made.legibility(view), letters_of(view)
            if found and letters and view.picture:
                names = one.backdrop.name, view.slot.breakpoint.full_name
                yield readable.verdict(
                    *names,
                    letters,
                    (found.lowest, found.plain),
                    (view.picture.stage.sight_with(found.aspect), found.second),
                    (found.scrim, found.least),
                    found.usual,
                )
                yield readable.calm_verdict(*names, found.busyness, BUSY_FROM, found.calming_blur)


def _check_likeness(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        for shown in one.shown:
            slot = shown.view.slot
            level = slot.quality if slot.target == LEVELS[slot.quality] else "by the budget"
            if verdict := faithful.check(one.name, shown, level, slot.target):
                yield verdict


def _check_clips(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        if one.hosted:
            yield moving.check_hosted(one.name, one.shown[-1].view.slot.breakpoint.full_name)
        for shown in one.shown:
            if shown.clip:
                yield from moving.check(one.name, shown, shown.clip)


def _check_fetches(record: Record) -> Iterator[Verdict]:
    for one in record.backdrops:
        addresses = record.addresses
        rules, hinted = backdrop_rules(one, addresses), backdrop_hints(one, addresses)
        elements = picture_markup(one, addresses) if one.is_element else ""
        yield one_fetch.check(one.name, rules, elements, hinted, is_hinted=one.first_view)
