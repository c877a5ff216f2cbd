"""A rehearsal: every screen of a table, over every line, with and without the page's hints."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from brightcanvas.page.fetch import Fetch, ShownElement
from brightcanvas.page.found_hints import HeaderHint
from brightcanvas.page.page_load import PageLoad, load
from brightcanvas.page.reading import Page
from brightcanvas.rehearsal.engine_profiles import EngineProfile
from brightcanvas.rehearsal.timeline import Waterfall, waterfall_of
from brightcanvas.serving.network_profiles import NetworkProfile, Protocol
from brightcanvas.values.screens import Screen


@dataclass(frozen=True)
class Over:
    """One screen over one line."""

    line: NetworkProfile
    hinted: Waterfall
    plain: Waterfall
    """Without the page's hints."""


@dataclass(frozen=True)
class Rehearsed:
    """What one screen fetches, and when."""

    device: Screen
    load: PageLoad
    hero: ShownElement | None
    """What the hints are for; the first background where there are none."""
    over: tuple[Over, ...]
    bytes: int
    """Of all pictures and clips whose size is known, those included that come late."""
    unknown: tuple[str, ...]
    """URLs of files that are not here."""

    @property
    def is_clean(self) -> bool:
        """Whether nothing was fetched in vain."""
        return not self.load.useless and not self.load.hidden


def rehearse(
    page: Page,
    devices: Sequence[Screen],
    lines: Sequence[NetworkProfile],
    protocol: Protocol,
    engine: EngineProfile,
    headers: tuple[HeaderHint, ...] = (),
) -> tuple[Rehearsed, ...]:
    """Play a page's load through on every screen, over every line."""
    return tuple(_one(page, one, lines, protocol, engine, headers) for one in devices)


def _one(
    page: Page,
    device: Screen,
    lines: Sequence[NetworkProfile],
    protocol: Protocol,
    engine: EngineProfile,
    headers: tuple[HeaderHint, ...],
) -> Rehearsed:
    environment = engine.environment(device)
    if engine.conditional_headers_wait:
        headers = tuple(replace(one, waits=one.is_conditional) for one in headers)
    hinted = load(page, environment, headers)
    plain = load(page, environment, headers, with_hints=False)
    size = page.folder.bytes_of
    over = tuple(
        Over(
            line,
            waterfall_of(hinted, size, line, protocol, engine),
            waterfall_of(plain, size, line, protocol, engine),
        )
        for line in lines
    )
    known = {one: size(one.url) for one in hinted.fetches}
    return Rehearsed(
        device,
        hinted,
        hero_of(hinted),
        over,
        sum(known[one] or 0 for one in (*hinted.pictures, *hinted.clips)),
        tuple(one.url for one, amount in known.items() if amount is None),
    )


WIDE = 0.4
"""Share of the window's width from which on a picture may be what the first view is about."""


def hero_of(found: PageLoad) -> ShownElement | None:
    """What the hints are for; where there are none, the first wide element with a picture."""
    hinted = {one.url for one in found.fetches if one.is_hinted}
    for one in found.shown:
        if hinted & set(one.urls):
            return one
    files = [one for one in found.shown if one.files and one.across]
    wide = [one for one in files if one.across >= WIDE * found.width]
    return next(iter(wide or files), None)


def file_name(fetch: Fetch) -> str:
    """The last part of a URL."""
    return fetch.url.rsplit("/", 1)[-1] or fetch.url
