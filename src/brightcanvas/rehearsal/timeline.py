"""When each file of a page load is asked for, begins to arrive, and is there.

The answers to all open requests share the line: evenly over HTTP/1.1, whose connections know
nothing of each other; the most urgent first, and then one after the other, over HTTP/2.
A connection takes a round trip to open (two over HTTP/2, which comes with TLS 1.3); then each
request takes one until its first byte. Hosts answer at once, and lines lose nothing.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from brightcanvas.page.fetch import Fetch, ShownElement, Urgency
from brightcanvas.page.page_load import PageLoad
from brightcanvas.rehearsal.engine_profiles import EngineProfile
from brightcanvas.serving.network_profiles import NetworkProfile, Protocol

HEADERS = 230
"""Bytes of an answer's own headers, about."""

PACKET = 1400
"""Bytes of a page that arrive together, about: what stands in them is found together."""


@dataclass(frozen=True)
class Timing:
    """One file on its way; seconds since the page was asked for."""

    fetch: Fetch
    bytes: int
    asked: float
    begun: float
    done: float


@dataclass(frozen=True)
class Waterfall:
    """A whole load."""

    timings: tuple[Timing, ...]
    """In the order in which they were asked for."""

    @property
    def done(self) -> float:
        """When everything is there."""
        return max((one.done for one in self.timings), default=0.0)

    @property
    def unheld(self) -> float:
        """When nothing holds the first paint any more."""
        held = [one.done for one in self.timings if one.fetch.holds_paint]
        return max([self.timings[0].done, *held])

    def at_hand(self, shown: ShownElement) -> float:
        """When an element's pictures are there and may be painted."""
        own = [one.done for one in self.timings if one.fetch.url in shown.urls]
        return max([self.unheld, *own])


@dataclass
class _Open:
    """A request that is on its way."""

    fetch: Fetch
    bytes: int
    asked: float
    begins: float
    left: float
    has_begun: bool = False


class _Run:
    """One load, event by event."""

    def __init__(
        self,
        load: PageLoad,
        sizes: Mapping[str, int],
        line: NetworkProfile,
        protocol: Protocol,
        engine: EngineProfile,
    ) -> None:
        self._waiting = [one for one in load.fetches if not one.is_late and one.url in sizes]
        self._sizes, self._line = sizes, line
        self._protocol, self._habits = protocol, engine
        self._open: list[_Open] = []
        self._done: dict[str, Timing] = {}
        self._idle = [line.round_trip] * engine.spare
        self._connections = 1 if protocol is Protocol.HTTP2 else engine.spare
        self._ready = 2 * line.round_trip
        self._page = self._waiting[0].url
        self.now = 0.0

    def waterfall(self) -> Waterfall:
        """Play it to its end."""
        while self._waiting or self._open:
            self._ask()
            if not self._open:
                break  # what is left waits for files that never come
            self._advance()
        return Waterfall(tuple(sorted(self._done.values(), key=lambda one: one.asked)))

    def _arrived(self) -> float:
        """The share of the page that is there."""
        if self._page in self._done:
            return 1.0
        own = [one for one in self._open if one.fetch.url == self._page]
        return 1 - own[0].left / own[0].bytes if own and own[0].has_begun else 0.0

    def _ask(self) -> None:
        """Ask for everything that may be asked for now, the most urgent first."""
        known = [one for one in self._waiting if self._is_known(one)]
        for fetch in sorted(known, key=lambda one: one.urgency):
            if not self._may_be_asked(fetch):
                continue
            begins = self._begins()
            if begins is None:
                return
            size = self._sizes[fetch.url] + HEADERS
            self._open.append(_Open(fetch, size, self.now, begins, size))
            self._waiting.remove(fetch)

    def _is_known(self, fetch: Fetch) -> bool:
        if fetch.url == self._page:
            return True
        there = all(url in self._done or url not in self._sizes for url in fetch.after)
        return there and self._arrived() >= self._place(fetch) - 1e-9 and self._arrived() > 0

    def _place(self, fetch: Fetch) -> float:
        """The share of the page that is there when a file is found in it: whole packets."""
        size = self._sizes[self._page] + HEADERS
        packets = math.ceil(fetch.place * size / PACKET)
        return min(1.0, packets * PACKET / size)

    def _may_be_asked(self, fetch: Fetch) -> bool:
        if self._protocol is Protocol.HTTP2 or fetch.urgency == Urgency.FIRST:
            return True
        listed = [*self._waiting, *(one.fetch for one in self._open)]
        held = any(
            one.holds_paint for one in listed if self._is_known(one) or one not in self._waiting
        )
        if held and self._habits.pictures_wait and fetch.kind == "picture":
            return False
        low = sum(one.fetch.urgency >= Urgency.LOW for one in self._open)
        most = self._habits.low_while_held
        return not (held and most is not None and fetch.urgency >= Urgency.LOW and low >= most)

    def _begins(self) -> float | None:
        """When the answer to a request that is sent now begins; None without a connection."""
        trip = self._line.round_trip
        if self._protocol is Protocol.HTTP2:
            return max(self.now, self._ready) + trip
        if self._idle and self.now:
            return max(self.now, self._idle.pop()) + trip
        if self._connections >= self._habits.connections:
            return None
        self._connections += 1
        return self.now + 2 * trip

    def _advance(self) -> None:
        """Go on to the next moment at which anything changes."""
        shares = dict(self._shares())
        moments = [one.begins for one in self._open if not one.has_begun]
        for one, rate in shares.items():
            if rate:
                moments.append(self.now + self._until(self._open[one]) / rate)
        then = min(moments)
        for one, rate in shares.items():
            self._open[one].left -= rate * (then - self.now)
        self.now = then
        for one_open in self._open:
            one_open.has_begun |= one_open.begins <= self.now + 1e-12
        for one_open in [one for one in self._open if one.has_begun and one.left <= 1e-6]:
            self._finish(one_open)

    def _until(self, one: _Open) -> float:
        """Bytes until it is there, or until the page tells of another file."""
        if one.fetch.url != self._page:
            return one.left
        share = 1 - one.left / one.bytes
        known = (self._place(two) for two in self._waiting)
        places = [place for place in known if share + 1e-9 < place < 1]
        return min([one.left, *((place - share) * one.bytes for place in places)])

    def _shares(self) -> Iterator[tuple[int, float]]:
        """Bytes a second of each open request that has begun, by its number."""
        rate = self._line.rate / 8
        begun = [number for number, one in enumerate(self._open) if one.has_begun]
        if self._protocol is Protocol.HTTP1:
            yield from ((number, rate / len(begun)) for number in begun)
            return
        first = min(
            begun, key=lambda number: (self._open[number].fetch.urgency, number), default=-1
        )
        yield from ((number, rate if number == first else 0.0) for number in begun)

    def _finish(self, one: _Open) -> None:
        self._open.remove(one)
        self._idle.append(self.now)
        self._done[one.fetch.url] = Timing(one.fetch, one.bytes, one.asked, one.begins, self.now)


def waterfall_of(
    load: PageLoad,
    size: Callable[[str], int | None],
    line: NetworkProfile,
    protocol: Protocol,
    engine: EngineProfile,
) -> Waterfall:
    """Play a load through.

    Args:
        load: what is fetched.
        size: bytes of a URL's file; None where nobody knows, and it then is left out.
        line: over which.
        protocol: and how.
        engine: of the browser.
    """
    known = {one.url: size(one.url) for one in load.fetches}
    sizes = {url: amount for url, amount in known.items() if amount is not None}
    return _Run(load, sizes, line, protocol, engine).waterfall()


def limit_of(page: int, sheet: int, picture: int, line: NetworkProfile) -> float:
    """The least that a page, a sheet and a picture can take over a line.

    A connection has to be opened and the page asked for; then all their bytes have to come, if
    the others are asked for so early that they follow each other without a pause.
    """
    return 2 * line.round_trip + line.seconds(page + sheet + picture)
