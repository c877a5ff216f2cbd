"""Nothing but our own files is replaced or removed, whatever anybody wrote into our notes."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from brightcanvas.pipeline.ownership import Output, Owned, is_given, note
from brightcanvas.pipeline.publishing import publish
from brightcanvas.pipeline.result_store import Store

from .conftest import SHORT, Demo, call, save_noise, write_brief

BRIEF = '[[backdrop]]\nsource = "picture.jpg"\nelement = ".a"\nheight = "90px"\n'

LINKS = pytest.mark.skipif(os.name == "nt", reason="links need rights there")


def project(folder: Path, site: str = "") -> Path:
    """A brief that is built in an instant."""
    folder.mkdir(exist_ok=True)
    save_noise(folder / "picture.jpg", 64, 40)
    return write_brief(folder, f"{site}\n{BRIEF}")


def digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def every_file(folder: Path) -> dict[str, bytes]:
    return {
        path.relative_to(folder).as_posix(): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and ".bright-canvas" not in path.parts
    }


@contextmanager
def untouched(folder: Path) -> Iterator[None]:
    """All that is there now is there afterwards, as it was."""
    before = every_file(folder)
    yield
    assert before.items() <= every_file(folder).items()


@LINKS
@pytest.mark.slow
@pytest.mark.parametrize(
    "place", [".bright-canvas", ".bright-canvas/made", ".bright-canvas/made/0a"]
)
def test_a_store_that_is_a_link_to_another_folder_is_refused(tmp_path: Path, place: str) -> None:
    brief = project(tmp_path / "site", '[site]\nroom = "1 kB"')
    others = tmp_path / "others"
    for name in ("0a/" + "0a" * 32, "made/0a/" + "0a" * 32, "0a" * 32, "notes.txt"):
        (others / name).parent.mkdir(parents=True, exist_ok=True)
        (others / name).write_text("mine")
    (brief.parent / place).parent.mkdir(parents=True, exist_ok=True)
    (brief.parent / place).symlink_to(others)
    with untouched(others):
        cleared = call("store", brief, "--clear")
        built = call("build", brief)
    if place.endswith("0a"):
        assert cleared.status == 0, "what lies behind the link counts as no entry"
    else:
        assert (cleared.status, built.status) == (4, 4)
        assert "is a link" in built.err


def test_what_is_called_otherwise_in_a_store_stays(tmp_path: Path) -> None:
    store = Store(tmp_path)
    store.keep("ab" * 32, b"ours")
    mine = tmp_path / "made/ab/notes.txt"
    mine.write_text("mine")
    store.clear()
    Store(tmp_path).trim(0)
    assert [path.name for path in (tmp_path / "made/ab").iterdir()] == ["notes.txt"]


@pytest.mark.slow
def test_a_forged_record_reaches_neither_brief_nor_source(tmp_path: Path) -> None:
    """The name that we would give, the right digest, and yet not ours."""
    brief = project(tmp_path / "site", '[site]\noutput = "."')
    folder = brief.parent
    source = folder / "picture.jpg"
    picture = source.rename(folder / f"picture-64x40-{digest(source)[:8]}.jpg")
    brief.write_text(brief.read_text().replace("picture.jpg", picture.name))
    (folder / "notes.txt").write_text("mine")
    forged = {one.name: [digest(one)] for one in folder.iterdir()} | {"../a.css": ["0" * 64]}
    (folder / ".bright-canvas").mkdir()
    record = {"folders": {".": {"owner": "the build of brief.toml", "files": forged}}}
    (folder / ".bright-canvas/outputs.json").write_text(json.dumps(record))
    with untouched(folder):
        assert call("build", brief).status == SHORT


@pytest.mark.slow
def test_a_ledger_alone_makes_nothing_ours(tmp_path: Path) -> None:
    brief = project(tmp_path / "site", '[site]\noutput = "."')
    listed = [{"file": one.name, "sha256": digest(one)} for one in brief.parent.iterdir()]
    ledger = {"made_by": "bright-canvas", "files": listed}
    (brief.parent / "ledger.json").write_text(json.dumps(ledger))
    with untouched(brief.parent):
        ran = call("build", brief)
    assert (ran.status, "belongs to another build" in ran.err) == (2, True)


@pytest.mark.slow
def test_an_output_folder_has_one_owner(tmp_path: Path) -> None:
    brief = project(tmp_path / "site")
    other = brief.with_name("other.toml")
    other.write_text(BRIEF.replace(".a", ".b"))
    elsewhere = project(tmp_path / "more", '[site]\noutput = "../site/published"')
    elsewhere.write_text(elsewhere.read_text().replace("90px", "80px"))
    assert call("build", brief).status == SHORT
    folder = brief.parent / "published"
    with untouched(folder):
        second = call("build", other)
        third = call("build", elsewhere)
        sheet = call("sheet", brief, "--into", folder)
        rehearsal = call("rehearse", folder / "try-it.html", "--into", folder)
    assert [one.status for one in (second, third, sheet, rehearsal)] == [2, 2, 2, 2]
    assert "belongs to the build of brief.toml: name another 'output'" in second.err
    assert "belongs to another build" in third.err
    assert "name another folder with --into" in sheet.err
    assert call("build", brief).status == SHORT


@pytest.mark.slow
def test_a_build_that_came_without_its_record_is_taken_over_if_it_is_the_same(
    tmp_path: Path,
) -> None:
    brief = project(tmp_path / "site")
    assert call("build", brief).status == SHORT
    shutil.rmtree(brief.parent / ".bright-canvas")
    assert call("build", brief).status == SHORT
    shutil.rmtree(brief.parent / ".bright-canvas")
    brief.write_text(brief.read_text().replace("90px", "80px"))
    ran = call("build", brief)
    assert (ran.status, "remove that folder" in ran.err) == (2, True)


@LINKS
@pytest.mark.slow
@pytest.mark.parametrize(
    "linked", ["published", "published/backdrops.css", "published/ledger.json"]
)
def test_no_link_is_followed_to_what_is_replaced(tmp_path: Path, linked: str) -> None:
    brief = project(tmp_path / "site")
    assert call("build", brief).status == SHORT
    place, kept = brief.parent / linked, tmp_path / "kept"
    place.rename(kept)
    place.symlink_to(kept)
    brief.write_text(brief.read_text().replace("90px", "80px"))
    before = every_file(tmp_path)
    ran = call("build", brief)
    assert (ran.status, "link" in ran.err or "was not made by" in ran.err) == (2, True)
    assert every_file(tmp_path) == before


@pytest.mark.slow
def test_files_that_look_like_what_a_killed_run_left_stay(tmp_path: Path) -> None:
    brief = project(tmp_path / "site")
    output = Output(brief.parent / "published", brief.parent, "the build of brief.toml")
    output.folder.mkdir()
    token = "0a" * 16
    for name in (".aside-mine", f".aside-{token}-x1"):
        (output.folder / name).write_text("half")
    note(output, Owned(output.owner, {"backdrops.css": frozenset({"0" * 64})}, token))
    assert call("build", brief).status == SHORT
    assert (output.folder / ".aside-mine").exists()
    assert not (output.folder / f".aside-{token}-x1").exists()


def nested(depth: int = 100_000) -> str:
    return "[" * depth + "]" * depth


FORGED: dict[str, str] = {
    "null": "null",
    "number": "7",
    "text": '"\\ud800"',
    "nested": nested(),
    "long number": "9" * 5000,
    "cut": '{"folders": {"publ',
    "lists": '{"folders": [[]]}',
    "wrong inside": '{"folders": {"published": {"owner": 3, "files": {"a": 1}, "aside": null}}}',
    "odd names": json.dumps(
        {"folders": {"published": {"owner": "the build of brief.toml", "aside": "../*",
         "files": {"..": ["0" * 64], "\ud800": ["x"], "a/b": [None], "ledger.json": [[]]}},
         "\0": {}, "x" * 5000: {}, "/": 1}}
    ),
    "binary": "\x00\x01",
}  # fmt: skip
"""What may stand in a file of notes."""


@pytest.mark.slow
@pytest.mark.parametrize("name", ["outputs.json", "last-build-brief.json"])
def test_notes_of_every_shape_are_survived(tmp_path: Path, name: str) -> None:
    brief = project(tmp_path / "site")
    assert call("build", brief).status == SHORT
    before = every_file(brief.parent)
    notes = brief.parent / ".bright-canvas" / name
    for shape, text in FORGED.items():
        notes.write_text(text)
        assert call("build", brief).status in (SHORT, 2), shape
        assert every_file(brief.parent) == before, shape


def stamps(parts: Any) -> Iterator[Any]:
    """A stamp with each of its parts exchanged in turn."""
    for key in parts:
        for odd in (None, -1, 1e999, "\ud800", [], {"a": []}, {"a": [1, 2]}, [[[[]]]]):  # type: ignore[var-annotated]
            yield parts | {key: odd}


@pytest.mark.slow
def test_a_stamp_with_any_part_forged_is_survived(tmp_path: Path) -> None:
    brief = project(tmp_path / "site")
    told = call("build", brief)
    stamp = brief.parent / ".bright-canvas/last-build-brief.json"
    for forged in stamps(json.loads(stamp.read_text())):
        stamp.write_text(json.dumps(forged))
        ran = call("build", brief)
        assert ran.status in (0, 1), forged
    assert call("build", brief).out == told.out


def pipe(path: Path) -> None:
    os.mkfifo(path)


def folder(path: Path) -> None:
    path.mkdir()


@LINKS
@pytest.mark.slow
@pytest.mark.parametrize("make", [pipe, folder])
@pytest.mark.parametrize(
    "place",
    ["picture.jpg", "brief.toml", "published", "published/backdrops.css", "published/ledger.json",
     ".bright-canvas", ".bright-canvas/outputs.json", ".bright-canvas/last-build-brief.json",
     ".bright-canvas/publishing.lock"],
)  # fmt: skip
def test_what_is_no_file_is_never_waited_for(
    tmp_path: Path, place: str, make: Callable[[Path], None]
) -> None:
    brief = project(tmp_path / "site")
    odd = brief.parent / place
    odd.unlink(missing_ok=True)
    if not (make is folder and place in ("published", ".bright-canvas")):
        odd.parent.mkdir(exist_ok=True)
        make(odd)
    ran = call("build", brief)
    assert ran.status in (0, 1, 2, 3, 4), ran.err


@pytest.mark.slow
def test_a_rehearsal_leaves_files_alone_that_it_did_not_make(tmp_path: Path) -> None:
    brief = project(tmp_path / "site")
    call("build", brief)
    charts = brief.parent / "rehearsal"
    charts.mkdir()
    (charts / "rehearsal.html").write_text("mine")
    forged = {"made_by": "bright-canvas", "files": [
        {"file": "rehearsal.html", "sha256": digest(charts / "rehearsal.html")}]}  # fmt: skip
    (charts / "ledger.json").write_text(json.dumps(forged))
    with untouched(charts):
        ran = call("rehearse", brief.parent / "published/try-it.html")
    assert ran.status == 2


def test_all_names_that_we_give_are_known_as_ours(demo: Demo) -> None:
    for path in demo.published.iterdir():
        assert is_given(path.name, (digest(path),)), path.name


def test_an_outdated_file_that_cannot_be_removed_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    output = Output(tmp_path / "published", tmp_path, "a build")
    publish(output, {"head.html": b"1", "moving.js": b"2"})
    removed = Path.unlink

    def refusing(path: Path, *, missing_ok: bool = False) -> None:
        if path.name == "moving.js":
            raise PermissionError(13, "Permission denied")
        removed(path, missing_ok=missing_ok)

    monkeypatch.setattr(Path, "unlink", refusing)
    assert publish(output, {"head.html": b"1"}) == ("moving.js",)
    monkeypatch.undo()
    assert publish(output, {"head.html": b"1"}) == ()
    assert not (output.folder / "moving.js").exists()
