"""What differs from system to system, tried with their rules as far as one of them can show."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest

from brightcanvas.browsers.programs import CHROMIUM, FIREFOX
from brightcanvas.values import files, work
from brightcanvas.values.errors import MachineError

MACOS = "Applications/Google Chrome.app/Contents/MacOS/Google Chrome"
WINDOWS = "Programs/Google/Chrome/Application/chrome.exe"


@pytest.mark.parametrize("place", [MACOS, WINDOWS])
def test_browsers_are_found_where_a_system_keeps_them(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, place: str
) -> None:
    monkeypatch.setenv("PATH", str(tmp_path / "nothing"))
    monkeypatch.setenv("PROGRAMFILES", str(tmp_path / "Programs"))
    monkeypatch.setattr(Path, "home", lambda: tmp_path)
    with pytest.raises(MachineError, match="no Chromium here: for --browser, install"):
        CHROMIUM.path()
    program = tmp_path / place
    program.parent.mkdir(parents=True)
    program.write_bytes(b"")
    assert CHROMIUM.path() == str(program)
    assert FIREFOX.find() is None


def test_the_path_comes_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    named = tmp_path / "chromium"
    named.write_text("#!/bin/sh\n")
    named.chmod(0o755)
    monkeypatch.setenv("PATH", str(tmp_path))
    assert CHROMIUM.find() == str(named) or os.name == "nt"


@pytest.mark.parametrize(
    ("told", "count"),
    [("max 100000", 8), ("200000 100000", 2), ("50000 100000", 1), ("-1", 8), ("300000", 3),
     ("nonsense", 8)],
)  # fmt: skip
def test_a_containers_share_of_the_cores_counts(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, told: str, count: int
) -> None:
    (tmp_path / "cpu.max").write_text(f"{told}\n")
    monkeypatch.setattr(work, "QUOTAS", (tmp_path / "none", tmp_path / "cpu.max"))
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: set(range(8)), raising=False)
    assert work.cores() == count


def test_where_no_affinity_is_known_all_cores_count(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(work, "QUOTAS", ())
    monkeypatch.delattr(os, "sched_getaffinity", raising=False)
    monkeypatch.setattr(os, "cpu_count", lambda: 6)
    assert work.cores() == 6


def test_a_file_that_is_being_read_is_replaced_a_little_later(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Windows lets nobody replace a file while another program has it open."""
    path, refused = tmp_path / "backdrops.css", [True, True]
    path.write_bytes(b"old")
    replace = Path.replace

    def refusing(self: Path, target: Path) -> Path:
        if refused and refused.pop():
            raise PermissionError(13, "used by another process")
        return replace(self, target)

    monkeypatch.setattr(Path, "replace", refusing)
    monkeypatch.setattr(sys, "platform", "win32")
    files.write_whole(path, b"new")
    assert path.read_bytes() == b"new"
    assert refused == []
    refused += [True] * 9
    with pytest.raises(MachineError, match=r"backdrops\.css can't be written: used by another"):
        files.write_whole(path, b"newer")
    assert [one.name for one in tmp_path.iterdir()] == ["backdrops.css"]
