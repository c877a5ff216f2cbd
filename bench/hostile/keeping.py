"""A project that was built before: its store, its records, and faults at its file events."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
from functools import cache
from pathlib import Path

from bench.hostile.case import Case, brief, mutated
from bench.hostile.media import picture

ODD_RECORDS = (
    b"null", b"7", b"[" * 99999, b"9" * 5000, b'"\\ud800"', b"{}", b"[]", b'{"folders": 3}',
    b'{"folders": {"published": {"owner": 1, "files": {"../brief.toml": 3}, "aside": []}}}',
    b"\xff\xfe", b'{"program": null, "files": {"\\u0000": [1, 2, 3]}}',
)  # fmt: skip


@cache
def built() -> dict[str, bytes]:
    """A project with what its build left."""
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "a.png").write_bytes(picture("PNG", "RGB"))
        (folder / "brief.toml").write_bytes(brief("a.png"))
        command = [sys.executable, "-m", "brightcanvas", "build", "brief.toml"]
        subprocess.run(command, cwd=folder, check=False, capture_output=True)  # too few px: 1
        files = (one for one in folder.rglob("*") if one.is_file())
        return {one.relative_to(folder).as_posix(): one.read_bytes() for one in files}


def damaged_notes(by: random.Random) -> Case:
    """A store, a record or a stamp that somebody changed."""
    files = dict(built())
    own = [name for name in files if name.startswith(".bright-canvas") and ".lock" not in name]
    for name in by.sample(own, by.choice((1, 2, len(own)))):
        files[name] = mutated(files[name], by)
    if by.random() < 0.4:
        files[by.choice([one for one in own if one.endswith(".json")])] = by.choice(ODD_RECORDS)
    calls = (["build"], ["build"], ["build", "--draft"], ["store"], ["store", "--clear"], ["plan"])
    return Case("notes", files, by.choice(calls))


def damaged_output(by: random.Random) -> Case:
    """Published files that somebody changed; they are never touched again."""
    files = dict(built())
    mine = by.sample([name for name in files if name.startswith("published/")], 2)
    for name in mine:
        files[name] = mutated(files[name], by) + b"mine"
    if by.random() < 0.5:
        ledger = json.loads(built()["published/ledger.json"])
        ledger["files"] = [{"file": "brief.toml", "sha256": "0" * 64}, {"file": 3}, None]
        files["published/ledger.json"] = json.dumps(ledger).encode()
    files["brief.toml"] = files["brief.toml"].replace(b"90px", b"70px")
    return Case("output", files, by.choice((["build"], ["served", "--from", "published"])))


def fault(by: random.Random) -> Case:
    """A build that something happens to."""
    files = {name: built()[name] for name in ("a.png", "brief.toml")}
    if by.random() < 0.5:
        files = dict(built())
        files["brief.toml"] = files["brief.toml"].replace(b"90px", b"70px")
    kind = by.choice(("kill", "full", "denied"))
    statuses = frozenset({1, 2, 3, 4, -9})  # its source is short, so a promise breaks
    return Case(f"fault {kind}", files, ["build"], kind, by.randrange(220), statuses)
