"""What real browsers did, beside what was foretold."""

from __future__ import annotations

from contextlib import ExitStack, contextmanager
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.measuring.site import BROWSERS, window_of
from brightcanvas.rehearsal.chromium import chromium
from brightcanvas.rehearsal.confirming import Confirmed, confirm
from brightcanvas.rehearsal.firefox import LEAST_WIDTH, firefox
from brightcanvas.rehearsal.lines import CHROMIUM, FIREFOX, WEBKIT, Habits
from brightcanvas.rehearsal.webkit import webkit
from brightcanvas.values.errors import MachineError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from brightcanvas.browsers.window import Window
    from brightcanvas.page.folder import Folder
    from brightcanvas.rehearsal.rehearsing import Rehearsed


@contextmanager
def first_window(browser: str | None, folders: Sequence[Folder]) -> Iterator[Window | None]:
    """A window of the browser that is named, or of the first one that is here; else none.

    Args:
        browser: ``chromium``, ``firefox`` or ``none``; None: whichever is here.
        folders: of the pages that it is for.

    Raises:
        MachineError: the one that is named isn't here, or fails.
    """
    with ExitStack() as stack:
        yield _entered(stack, BROWSERS if browser is None else (browser,), folders)


def _entered(stack: ExitStack, names: Sequence[str], folders: Sequence[Folder]) -> Window | None:
    for name in names:
        if name == "none":
            return None
        try:
            return stack.enter_context(window_of(name, folders))
        except MachineError:
            if len(names) == 1:
                raise
    return None


Headers = tuple[tuple[str, str], ...]


def confirm_in(
    folder: Folder, found: Sequence[Rehearsed], habits: Habits, runs: int, headers: Headers,
    console: Console,
) -> tuple[list[Confirmed], MachineError | None]:  # fmt: skip
    """Load the page in the browser whose habits were asked for, and print what it did.

    Where the browser fails, what it did before that is told with the failure.
    """
    confirmed, failure = list[Confirmed](), None
    try:
        for one in _visits(folder, found, habits, runs, headers):
            confirmed.append(one)
            if console.is_terminal:
                console.print(f"  loaded: {one.rehearsed.device.figures}, {one.line.name}")
    except MachineError as error:
        failure = error
    if confirmed or not failure:
        console.print(_table(confirmed))
        for line in _remarks(confirmed, habits):
            console.print(line, soft_wrap=True)
    return confirmed, failure


def _visits(
    folder: Folder, found: Sequence[Rehearsed], habits: Habits, runs: int, headers: Headers
) -> Iterator[Confirmed]:
    if habits == CHROMIUM:
        with chromium() as browser:
            yield from confirm(folder, found, browser, runs, headers)
        return
    if habits == WEBKIT:
        whole = [one for one in found if one.device.density.is_integer()]
        yield from confirm(folder, whole, webkit(), runs, headers)
        return
    wide = [one for one in found if one.device.viewport.width >= LEAST_WIDTH]
    yield from confirm(folder, wide, firefox(), runs, headers)


def _table(confirmed: Sequence[Confirmed]) -> Table:
    name = confirmed[0].browser if confirmed else ""
    table = Table(
        box=None, pad_edge=False, title_justify="left", title_style="",
        title=f"\nIn {name}: largest paint, the middle run and its spread",
    )  # fmt: skip
    for heading in ("Screen", "Line", "Foretold", "Measured", "Spread", "Pictures"):
        right = heading in ("Foretold", "Measured", "Spread")
        table.add_column(heading, header_style="dim", justify="right" if right else "left")
    for one in confirmed:
        table.add_row(
            one.rehearsed.device.figures, one.line.name, _seconds(one.predicted),
            _seconds(one.measured), f"{one.lowest:.2f} to {one.highest:.2f} s",
            "as foretold" if one.is_as_foretold else "differ",
        )  # fmt: skip
    return table


def _seconds(value: float | None) -> str:
    return f"{value:.2f} s" if value is not None else "not counted"


def _remarks(confirmed: Sequence[Confirmed], habits: Habits) -> Iterator[str]:
    for one in confirmed:
        where = f"{one.rehearsed.device.figures}, {one.line.name}"
        if one.missing:
            yield f"{where}: not asked for: {', '.join(one.missing)}"
        if one.further:
            yield f"{where}: asked for as well, or twice: {', '.join(one.further)}"
    warnings = dict.fromkeys(word for one in confirmed for word in one.warnings)
    yield from (f"The console said: {word}" for word in warnings)
    shift = max((one.shift for one in confirmed), default=0.0)
    if habits == CHROMIUM:
        said = "nothing moved while it loaded" if not shift else f"layout shift up to {shift:.3f}"
        quiet = "" if warnings else "; the console said nothing"
        yield f"In {habits.name}, {said}{quiet}."
    if habits == FIREFOX:
        yield f"Firefox's windows are {LEAST_WIDTH} px wide at least, and its console isn't read."
    if habits == WEBKIT:
        yield "WebKit tells no largest paint; windows of whole densities only were tried."
