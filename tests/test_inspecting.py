"""What a page does wrong: one fault planted at a time, each found where it is, and nothing else."""

from __future__ import annotations

from pathlib import Path

import pytest

import brightcanvas
from brightcanvas.values.errors import ExitStatus

from .conftest import call
from .mill_pages import Planted, Site, planted, right

FAULTS = {one.name: one for one in planted()}


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Site:
    return right(tmp_path_factory.mktemp("made"))


def test_a_page_that_does_everything_right_is_silent(site: Site, tmp_path: Path) -> None:
    ran = call("inspect", site.write(tmp_path))
    assert (ran.status, ran.out) == (
        ExitStatus.ALL_WELL, "index.html, on 9 screens: nothing wrong was found.\n",
    )  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS.values(), ids=FAULTS.keys())
def test_a_planted_fault_is_found_and_nothing_else(
    fault: Planted, site: Site, tmp_path: Path
) -> None:
    made = tmp_path / "made"
    made.mkdir()
    page = fault.spoil(site, made).write(tmp_path / "site")
    ran = call("inspect", page, "--json")
    findings = ran.facts["findings"]
    assert [one["fault"] for one in findings] == [fault.fault], findings
    assert ran.status == ExitStatus.PROMISE_BROKEN
    (one,) = findings
    lines = (page.parent / fault.file).read_text("utf-8").splitlines()
    assert one["file"] == fault.file
    assert fault.mark in lines[one["line"] - 1], (one["line"], lines[one["line"] - 1])


def test_the_library_tells_the_same(site: Site, tmp_path: Path) -> None:
    page = FAULTS["fixed on phones"].spoil(site, tmp_path).write(tmp_path / "site")
    (finding,) = brightcanvas.inspect(page).findings
    assert (finding.fault, finding.place.file) == ("fixed on phones", "css/site.css")
    with pytest.raises(ValueError, match="chromium"):
        brightcanvas.inspect(page, browser="nobody")
