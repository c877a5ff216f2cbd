"""Pages that nobody here wrote: what the engine says is fetched, against what browsers ask for.

``scripts/test`` takes them from the npm registry and from Debian's packages; none is kept here.
"""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import pytest
from bench.foretold import Compared, run

from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.browsers.firefox import firefox_window

from .browsing import CHROMIUM, DRIVER
from .conftest import call
from .test_firefox import FIREFOX

FOLDER = Path(__file__).parent.parent / ".templates"
PAGES = 1
LEAST = 0.98

sites = sorted(path for path in FOLDER.glob("*/*") if path.is_dir()) if FOLDER.is_dir() else []
needs_templates = pytest.mark.skipif(not sites, reason="no templates here: see scripts/test")


def share(compared: Iterable[Compared]) -> float:
    """Of the files that were asked for or foretold, those that were both.

    Told by the tool itself as not decided, and so left out: what scripts fetch.
    """
    listed = list(compared)
    agreed = sum(one.both for one in listed)
    differed = sum(
        len(one.over) + (0 if one.is_undecided else len(one.missed)) for one in listed
    )  # fmt: skip
    assert agreed > 100
    return agreed / (agreed + differed)


@needs_templates
@pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium here")
def test_chromium_fetches_what_was_foretold() -> None:
    with chromium_window() as window:
        assert share(run(window, sites, PAGES)) >= LEAST


@needs_templates
@pytest.mark.skipif(not FIREFOX, reason="no Firefox here")
def test_firefox_fetches_what_was_foretold() -> None:
    with firefox_window() as window:
        assert share(run(window, sites, PAGES)) >= LEAST


@needs_templates
@pytest.mark.parametrize("site", sites, ids=lambda path: path.name)
def test_every_page_can_be_inspected(site: Path) -> None:
    ran = call("inspect", next(iter(sorted(site.rglob("*.htm*")))), "--root", site, "--json")
    assert ran.status in (0, 1), ran.err
    assert all(one["line"] is None or one["line"] > 0 for one in ran.facts["findings"])
