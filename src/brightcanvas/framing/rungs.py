"""Rungs: the pixel sizes in which a cut is shipped, and which screens get which.

What a screen needs is the number of pixels across at which it draws the whole cut. The
viewports of a stage are parted into cells in which that number differs by a small factor;
the rungs form a ladder with even steps. If step times spread stays below the stated factor,
then at each density some rung of the ladder has enough pixels for every screen of a cell,
and for none more than that factor of what it needs.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from brightcanvas.basics.fits import Fit
from brightcanvas.basics.shapes import Size, Span
from brightcanvas.framing.stages import EDGE, Sight, Stage

STEADY_BELOW = 500.0
"""Viewport width (CSS px) below which heights don't part cells.

Phones fold their address bar away while one scrolls; if a rule switched at a height there, a
second file would follow. Such a screen counts with the height of the highest of its width."""

MOST_TILES = 64
"""With so many conditions for a breakpoint, rather one more file than still finer cells."""

MOST_CELLS = MOST_TILES // 2
"""Most cells are served by two rungs or more, so beyond this it is not worth going on."""

MOST_EXTRA_RUNGS = 3
"""How many more files than the least possible are tried to come down to that."""

ROUNDING = 0.99
"""Leaves room for whole px in sizes, widths and densities."""


@dataclass(frozen=True)
class Tile:
    """Screens that get the same rung: viewport widths and heights (CSS px) and densities.

    Widths and heights reach from ``low`` up to, not including, ``high``; densities (device px
    per CSS px) are above ``low``, up to and including ``high``.
    """

    widths: Span
    heights: Span
    densities: Span

    def holds(self, viewport: Size, density: float) -> bool:
        """Whether a screen with that viewport (CSS px) and density is one of them."""
        return (
            self.widths.low <= viewport.width < self.widths.high
            and self.heights.low <= viewport.height < self.heights.high
            and self.densities.low < density <= self.densities.high
        )


@dataclass(frozen=True)
class Shortfall:
    """The screen at which a rung has fewer pixels than are shown."""

    sight: Sight
    density: float
    needed_width: int
    """Pixels across that the screen shows of the whole cut."""


@dataclass(frozen=True)
class Rung:
    """One pixel size of a cut, and the screens that get it."""

    width: int
    height: int
    tiles: tuple[Tile, ...]
    shortfall: Shortfall | None = None


@dataclass(frozen=True)
class Lean:
    """How many times the pixels across that it needs a screen gets at most."""

    factor: float
    viewport: Size
    density: float


class Need(NamedTuple):
    """Least and most pixels across, at density 1, that the screens of a cell need.

    An element that may grow counts with the height that it may grow to.
    """

    low: float
    high: float


EVERYWHERE = Span(0.0, math.inf)


EVERY_SCREEN = Tile(EVERYWHERE, EVERYWHERE, EVERYWHERE)


class _Cell(NamedTuple):
    widths: Span
    heights: Span
    need: Need


@dataclass(frozen=True)
class Demand:
    """Everything that decides how many pixels are needed."""

    cut: Size
    """In source px."""
    stage: Stage
    fit: Fit
    densest: float = 2.0
    """Screens of a higher density get no more pixels than this one."""
    excess: float = 1.6
    """No screen gets more than this many times the pixels across that it needs."""

    def needed(self, box: Size) -> float:
        """Pixels across at density 1 at which a box draws the whole cut."""
        return self.fit.drawn_width(self.cut.aspect, box)

    def need(self, widths: Span, heights: Span) -> Need | None:
        """The need of the screens with such viewports, or None where there is none."""
        viewports = _around(self.stage, widths, heights)
        if viewports is None:
            return None
        least, most = viewports
        if widths.low < STEADY_BELOW:
            least = Size(least.width, most.height)
        box = self.stage.element.box
        return Need(self.needed(box(least, grown=True)), self.needed(box(most, grown=True)))


def _around(stage: Stage, widths: Span, heights: Span) -> tuple[Size, Size] | None:
    """The least and the greatest viewport of the rectangle round those of a stage."""
    shared = [
        (
            begin if begin > widths.low else widths.low,
            end if end < widths.high else widths.high,
            bottom if bottom > heights.low else heights.low,
            top if top < heights.high else heights.high,
        )
        for begin, end, bottom, top in stage.rectangles
        if begin <= widths.high
        and end >= widths.low
        and bottom <= heights.high
        and top >= heights.low
    ]
    if not shared:
        return None
    lefts, rights, lows, highs = zip(*shared, strict=True)
    return Size(min(lefts), min(lows)), Size(max(rights), max(highs))


@lru_cache(maxsize=4096)
def rungs_for(demand: Demand) -> tuple[Rung, ...]:
    """The fewest rungs that leave no screen short and give none too much.

    None is larger than the cut itself; where that leaves screens short, the last rung says
    by how much.
    """
    ladder, tiles = min(_tried(demand), key=lambda tried: max(_count(tried[1]), MOST_TILES))
    if len(tiles) == 1:
        tiles = {width: [EVERY_SCREEN] for width in tiles}
    shortfall = _shortfall(demand, ladder[-1])
    return tuple(
        Rung(
            width,
            max(1, round(width / demand.cut.aspect)),
            tuple(tiles[width]),
            shortfall if width == ladder[-1] else None,
        )
        for width in ladder
        if width in tiles
    )


_Tiles = dict[int, list[Tile]]


def _count(tiles: _Tiles) -> int:
    return sum(len(some) for some in tiles.values())


def _tried(demand: Demand) -> Iterator[tuple[list[int], _Tiles]]:
    """Ladders from the least possible number of rungs on, until the tiles are few enough."""
    excess = demand.excess * ROUNDING
    top, least = _top(demand), _least_need(demand)
    if top <= least * demand.excess:
        yield [top], {top: [EVERY_SCREEN]}
        return
    ratio = max(top / (least * excess), 1 / ROUNDING)
    fewest = math.ceil(math.log(ratio) / math.log(excess * ROUNDING))
    for steps in range(fewest, fewest + MOST_EXTRA_RUNGS + 1):
        step = ratio ** (1 / steps)
        ladder = sorted({min(math.ceil(top / step**i), top) for i in range(steps + 1)})
        is_last = steps == fewest + MOST_EXTRA_RUNGS
        cells = _cells(demand, excess / step, math.inf if is_last else MOST_CELLS)
        if cells is None:
            continue
        tiles = _tiles(demand, ladder, cells)
        yield ladder, tiles
        if _count(tiles) <= MOST_TILES:
            return


def _tiles(demand: Demand, ladder: list[int], cells: Sequence[_Cell]) -> _Tiles:
    """Which screens get each rung of a ladder."""
    tiles: _Tiles = {}
    for cell in cells:
        for width, densities in _served(cell.need, ladder, demand.densest):
            tiles.setdefault(width, []).append(Tile(cell.widths, cell.heights, densities))
    return tiles


def _top(demand: Demand) -> int:
    """The width of the largest rung: what the neediest screen shows, or all that there is."""
    most = max(demand.needed(sight.box) for sight in demand.stage.corners)
    largest = max(1, math.floor(demand.cut.width + 1e-6))
    return min(math.ceil(round(most * demand.densest, 6)), largest)


def _least_need(demand: Demand) -> float:
    """The least need of any screen, counting heights as the cells do."""
    needs = [
        demand.need(Span(0, STEADY_BELOW - EDGE), EVERYWHERE),
        demand.need(Span(STEADY_BELOW, math.inf), EVERYWHERE),
    ]
    return min(need.low for need in needs if need)


def _cells(demand: Demand, spread: float, most: float) -> list[_Cell] | None:
    """Every viewport, parted so that the needs within a cell differ by ``spread`` at most.

    The stage's viewports decide; those that no screen has go to the cell before them. None
    if it takes more than ``most`` cells.
    """
    cells: list[_Cell] = []
    begin, (start, end) = 0.0, (demand.stage.widths.low, demand.stage.widths.high)
    while start <= end:
        stop = _stop(demand, start, end, spread)
        column = _column(demand, Span(start, stop), spread)
        if len(cells) + len(column) > most:
            return None
        if column:
            cells += [_Cell(Span(begin, stop), heights, need) for heights, need in column]
        else:
            cells = [_stretched(cell, start, stop) for cell in cells]
        begin = start = stop
    return [_stretched(cell, begin, math.inf) for cell in cells]


def _stretched(cell: _Cell, end: float, new_end: float) -> _Cell:
    """The cell up to ``new_end``, if it reached to ``end``."""
    if cell.widths.high != end:
        return cell
    return cell._replace(widths=Span(cell.widths.low, new_end))


def _stop(demand: Demand, start: float, end: float, spread: float) -> float:
    """Where the cells that begin at a width end: as far on as the spread allows."""
    far = STEADY_BELOW if start < STEADY_BELOW <= end else math.inf
    need = demand.need(Span(start, min(far - EDGE, end)), EVERYWHERE)
    if need is None or need.high <= need.low * spread:
        return far
    return min(far, max(math.floor(start * spread), math.floor(start) + 1.0))


def _column(demand: Demand, widths: Span, spread: float) -> list[tuple[Span, Need]]:
    """One column of cells, parted by height only where the needs differ too much."""
    closed = Span(widths.low, widths.high - EDGE)
    need = demand.need(closed, EVERYWHERE)
    if need is None:
        return []
    if need.high <= need.low * spread or widths.low < STEADY_BELOW:
        return [(EVERYWHERE, need)]
    return _stacked(demand, closed, spread)


def _stacked(demand: Demand, widths: Span, spread: float) -> list[tuple[Span, Need]]:
    """The cells of a column, from low viewports to high ones, without a gap."""
    viewports = _around(demand.stage, widths, EVERYWHERE)
    assert viewports is not None
    low, top = viewports[0].height, viewports[1].height
    stack: list[tuple[Span, Need]] = []
    bottom = 0.0
    while bottom < math.inf:
        edge = _edge(demand, widths, Span(max(bottom, low), top), spread)
        need = demand.need(widths, Span(bottom, edge - EDGE))
        if need:
            stack.append((Span(bottom, edge), need))
        elif stack:
            stack[-1] = (Span(stack[-1][0].low, edge), stack[-1][1])
        bottom = edge
    return stack


def _edge(demand: Demand, widths: Span, heights: Span, spread: float) -> float:
    """How high a cell may reach: to the top, or as far as the spread allows."""
    need = demand.need(widths, heights)
    if need is None or need.high <= need.low * spread:
        return math.inf
    for power in (3, 1.7):
        edge = math.floor(heights.low * spread**power)
        if edge < heights.high:
            need = demand.need(widths, Span(heights.low, edge - EDGE))
            if need is None or need.high <= need.low * spread:
                return edge
    return max(math.floor(heights.low * spread), math.floor(heights.low) + 1.0)


def _served(need: Need, ladder: list[int], densest: float) -> Iterator[tuple[int, Span]]:
    """Which rung serves which densities of a cell; from the densest on it stays the same."""
    begin = 0.0
    for width in ladder[:-1]:
        end = math.floor(width / need.high * 1000) / 1000
        if end >= densest:
            break
        if end >= 1:
            yield width, Span(begin, end)
            begin = end
    else:
        width = ladder[-1]
    yield width, Span(begin, math.inf)


def _shortfall(demand: Demand, width: int) -> Shortfall | None:
    sight = max(demand.stage.corners, key=lambda corner: demand.needed(corner.box))
    needed = math.ceil(round(demand.needed(sight.box) * demand.densest, 6))
    return Shortfall(sight, demand.densest, needed) if needed > width else None


def seen_density(demand: Demand, rung: Rung) -> float:
    """Px of a rung's file that make a CSS px where one of its screens shows it largest."""
    needs = [demand.need(tile.widths, tile.heights) for tile in rung.tiles]
    highest = max((need.high for need in needs if need), default=float(rung.width))
    return rung.width / highest


def leanest(demand: Demand, rungs: tuple[Rung, ...]) -> Lean:
    """The screen that gets most in proportion to what it needs, of density 1 and more."""
    each = (
        lean
        for rung in rungs
        for tile in rung.tiles
        if (lean := _lean(demand, rung.width, tile)) is not None
    )
    return max(each, key=lambda lean: lean.factor)


def _lean(demand: Demand, width: int, tile: Tile) -> Lean | None:
    """The least needy screen of one tile; None where the stage has none."""
    density = max(1.0, tile.densities.low)
    widths = Span(tile.widths.low, tile.widths.high - EDGE)
    heights = Span(tile.heights.low, tile.heights.high - EDGE)
    need, viewports = demand.need(widths, heights), _around(demand.stage, widths, heights)
    if need is None or viewports is None or density > demand.densest:
        return None
    return Lean(width / (density * need.low), viewports[0], density)
