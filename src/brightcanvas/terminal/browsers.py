"""What real browsers did, beside what was foretold."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.rehearsal.confirming import BY_ENGINE, Confirmed, confirm
from brightcanvas.rehearsal.engine_profiles import CHROMIUM, WEBKIT, EngineProfile
from brightcanvas.values.errors import MachineError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.page.folder import Folder
    from brightcanvas.rehearsal.rehearsing import Rehearsed


Headers = tuple[tuple[str, str], ...]


def confirm_in(
    folder: Folder, found: Sequence[Rehearsed], engine: EngineProfile, runs: int, headers: Headers,
    console: Console,
) -> tuple[list[Confirmed], MachineError | None]:  # fmt: skip
    """Load the page in the browser whose habits were asked for, and print what it did.

    Each line is tried ``runs`` times. Where the browser fails, what it did before that is told
    with the failure.
    """
    confirmed, failure = list[Confirmed](), None
    try:
        for one in _visits(folder, found, engine, runs, headers):
            confirmed.append(one)
            if console.is_terminal:
                console.print(f"  loaded: {one.rehearsed.device.figures}, {one.line.name}")
    except MachineError as error:
        failure = error
    if confirmed or not failure:
        console.print(_table(confirmed))
        for line in _remarks(confirmed, engine):
            console.print(line, soft_wrap=True)
    return confirmed, failure


def _visits(
    folder: Folder, found: Sequence[Rehearsed], engine: EngineProfile, runs: int, headers: Headers
) -> Iterator[Confirmed]:
    if engine == WEBKIT:
        found = [one for one in found if one.device.density.is_integer()]
    with BY_ENGINE[engine.name]() as browser:
        yield from confirm(folder, found, browser, runs, headers)


def _table(confirmed: Sequence[Confirmed]) -> Table:
    name = confirmed[0].browser if confirmed else ""
    table = Table(
        box=None, pad_edge=False, title_justify="left", title_style="",
        title=f"\nIn {name}: largest paint, the middle run and its spread",
    )  # fmt: skip
    for heading in ("Screen", "Line", "Prediction", "Measured", "Spread", "Pictures"):
        right = heading in ("Prediction", "Measured", "Spread")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for one in confirmed:
        table.add_row(
            one.rehearsed.device.figures, one.line.name, _seconds(one.predicted),
            _seconds(one.measured), _spread(one),
            "as foretold" if one.is_as_foretold else "differ",
        )  # fmt: skip
    return table


def _seconds(value: float | None) -> str:
    return f"{value:.2f} s" if value is not None else "not counted"


def _spread(one: Confirmed) -> str:
    return f"{one.lowest:.2f} to {one.highest:.2f} s" if one.measured is not None else ""


def _remarks(confirmed: Sequence[Confirmed], engine: EngineProfile) -> Iterator[str]:
    for one in confirmed:
        where = f"{one.rehearsed.device.figures}, {one.line.name}"
        if one.missing:
            yield f"{where}: not asked for: {', '.join(one.missing)}"
        if one.further:
            yield f"{where}: asked for as well, or twice: {', '.join(one.further)}"
    warnings = dict.fromkeys(word for one in confirmed for word in one.warnings)
    yield from (f"The console said: {word}" for word in warnings)
    shift = max((one.shift for one in confirmed), default=0.0)
    if engine == CHROMIUM:
        said = "nothing moved while it loaded" if not shift else f"layout shift up to {shift:.3f}"
        quiet = "" if warnings else "; the console said nothing"
        yield f"In {engine.name}, {said}{quiet}."
    if engine == WEBKIT:
        yield "WebKit tells no largest paint; windows of whole densities only were tried."
