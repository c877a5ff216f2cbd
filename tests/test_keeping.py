"""Runs that are killed, that meet, that find everything done; the store; watching."""

from __future__ import annotations

import os
import random
import shutil
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from filelock import FileLock
from PIL import Image

from brightcanvas.pipeline.ownership import Output
from brightcanvas.pipeline.publishing import publish
from brightcanvas.pipeline.result_store import Store

from .conftest import SHORT, call, noise, save_noise, spawn, write_brief

KILLS = 8

BRIEF = """\
[[backdrop]]
source = "a.jpg"
element = ".a"
height = "300px"
[[backdrop]]
source = "b.png"
element = ".b"
height = "200px"
"""


def start(brief: Path) -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "brightcanvas", "build", str(brief)]
    return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE)


def snapshot(brief: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in (brief.parent / "published").iterdir()}


def kept_of(brief: Path) -> list[Path]:
    """The results in a store, those that are being written included."""
    return Store(brief.parent / ".bright-canvas").entries()


def project(folder: Path) -> Path:
    folder.mkdir()
    save_noise(folder / "a.jpg", 200, 120)
    save_noise(folder / "b.png", 160, 100)
    return write_brief(folder, BRIEF)


@pytest.mark.timeout(900)
@pytest.mark.slow
def test_a_killed_build_goes_on_to_the_very_same_files(tmp_path: Path) -> None:
    undisturbed = project(tmp_path / "undisturbed")
    first = start(undisturbed)
    first.communicate(timeout=120)
    assert first.returncode == SHORT
    wanted, results = snapshot(undisturbed), len(kept_of(undisturbed))
    moments = random.Random(5)
    killed = 0
    for number in range(KILLS):
        brief = project(tmp_path / f"n{number}")
        running, wanted_results = start(brief), moments.randrange(results)
        while running.poll() is None and len(kept_of(brief)) < wanted_results:
            time.sleep(0.002)
        time.sleep(moments.uniform(0, 0.05))
        killed += running.poll() is None
        running.kill()
        running.communicate()
        assert call("build", brief).status == SHORT
        assert snapshot(brief) == wanted
        shutil.rmtree(brief.parent)
    assert killed >= KILLS // 2


@pytest.mark.slow
def test_two_runs_that_meet_end_with_the_same_files(tmp_path: Path) -> None:
    alone = project(tmp_path / "alone")
    assert call("build", alone).status == SHORT
    brief = project(tmp_path / "met")
    both = [start(brief), start(brief)]
    for one in both:
        _, err = one.communicate(timeout=120)
        assert one.returncode == SHORT, err
    assert snapshot(brief) == snapshot(alone)


@pytest.mark.slow
def test_publishing_at_once_ends_with_everything_there(tmp_path: Path) -> None:
    """Each run sweeps what it takes for another's leavings: so they take turns."""
    output = Output(tmp_path / "published", tmp_path, "a build")

    def publishing(turn: int) -> None:
        texts = {
            f"head-{number}.html": f"{number % (turn % 3 + 1)}"
            for number in range(20)
            if number % 5 or turn % 2
        }
        publish(output, {name: text.encode() for name, text in texts.items()})

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(publishing, range(24)))
    publishing(25)
    assert len(list(output.folder.iterdir())) == 20


@pytest.mark.slow
def test_a_run_that_never_ends_publishing_is_told(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("brightcanvas.pipeline.publishing.TIMEOUT", 0.1)
    (small.parent / ".bright-canvas").mkdir()
    with FileLock(small.parent / ".bright-canvas/publishing.lock"):
        ran = call("build", small)
    assert (ran.status, "Another run" in ran.err) == (4, True)
    assert not (small.parent / "published").exists()
    assert call("build", small).status == 0


@pytest.mark.slow
def test_nothing_heavy_is_loaded_where_nothing_has_changed(small: Path) -> None:
    first = spawn("build", small)
    program = (
        "import sys\nfrom brightcanvas.cli.main import main\n"
        f"status = main(['build', {str(small)!r}])\n"
        "assert not {'numpy', 'PIL', 'pydantic', 'rich'} & set(sys.modules)\nsys.exit(status)\n"
    )
    again = subprocess.run(
        [sys.executable, "-c", program], capture_output=True, encoding="utf-8", check=False
    )
    assert (again.returncode, again.stdout) == (0, first.out), again.stderr


@pytest.mark.slow
@pytest.mark.parametrize("what", ["brief", "source", "output", "output gone"])
def test_every_change_is_noticed(small: Path, what: str) -> None:
    first = call("build", small)
    asset = next((small.parent / "published").glob("*.jpg"))
    if what == "brief":
        small.write_text(small.read_text().replace("300px", "301px"))
    elif what == "source":
        time.sleep(0.01)
        Image.fromarray(noise(600, 400, seed=3)).save(small.parent / "picture.jpg")
    elif what == "output":
        asset.write_bytes(asset.read_bytes()[:-1] + b"x")
    else:
        asset.unlink()
    again = call("build", small)
    if what == "output":
        assert (again.status, asset.name in again.err) == (2, True)
    else:
        assert again.status == 0
        assert (again.out == first.out) == (what == "output gone")


@pytest.mark.slow
def test_the_store_is_told_cleared_and_bounded(small: Path) -> None:
    call("build", small)
    told = call("store", small, "--json").facts
    assert told["results"] > 5
    assert call("store", small, "--clear").status == 0
    assert call("store", small, "--json").facts["bytes"] == 0
    assert call("build", small).status == 0
    assert call("store", small, "--json").facts["bytes"] == told["bytes"]
    small.write_text('[site]\nroom = "1kB"\n' + small.read_text().replace("300px", "280px"))
    call("build", small)
    kept = Store(small.parent / ".bright-canvas")
    small.write_text(small.read_text().replace("280px", "240px"))
    before = {path.name for path in kept.entries()}
    call("build", small)
    assert not before <= {path.name for path in kept.entries()}


def key_of(number: int) -> str:
    return f"{number:064x}"


def test_a_store_without_room_keeps_what_this_run_used(tmp_path: Path) -> None:
    old = Store(tmp_path)
    old.keep(key_of(1), b"x" * 1000)
    new = Store(tmp_path)
    new.keep(key_of(2), b"y" * 1000)
    new.trim(1500)
    assert new.find(key_of(1)) is None
    assert new.find(key_of(2)) is not None


def test_what_was_used_longest_ago_goes_first(tmp_path: Path) -> None:
    keys = [key_of(number) for number in range(3)]
    old = Store(tmp_path)
    for number, key in enumerate(keys):
        old.keep(key, b"x" * 1000)
        os.utime(next(path for path in old.entries() if path.name == key), (number, number))
    assert Store(tmp_path).find(keys[0]) is not None
    Store(tmp_path).trim(2200)
    assert [Store(tmp_path).find(key) is not None for key in keys] == [True, False, True]


@pytest.mark.slow
def test_a_damaged_entry_of_the_store_is_made_again(small: Path) -> None:
    call("build", small)
    before, store = snapshot(small), Store(small.parent / ".bright-canvas")
    entries = sorted(store.entries())
    for number, path in enumerate(entries):
        content = bytearray(path.read_bytes())
        if number % 3 == 0:
            content[len(content) // 2] ^= 0xFF
        elif number % 3 == 1:
            del content[len(content) // 2 :]
        else:  # another one's content
            content = bytearray(entries[number - 1].read_bytes())
        path.write_bytes(content)
    (small.parent / ".bright-canvas" / "last-build-brief.json").unlink()
    assert call("build", small).status == 0
    assert snapshot(small) == before


@pytest.mark.slow
@pytest.mark.parametrize("damage", ["gone", "flipped", "foreign", "empty", "garbage"])
def test_no_single_result_that_is_lost_changes_what_is_published(
    tmp_path: Path, damage: str
) -> None:
    save_noise(tmp_path / "a.jpg", 64, 40)
    brief = write_brief(tmp_path, BRIEF.split('[[backdrop]]\nsource = "b')[0])
    assert call("build", brief).status == SHORT
    before, store = snapshot(brief), Store(tmp_path / ".bright-canvas")
    entries, told = sorted(store.entries()), 0
    contents = [path.read_bytes() for path in entries]
    for number, (path, content) in enumerate(zip(entries, contents, strict=True)):
        middle = len(content) // 2
        damaged = {
            "flipped": content[:middle] + bytes([content[middle] ^ 4]) + content[middle + 1 :],
            "foreign": contents[number - 1],
            "garbage": bytes(range(256)) * 8,
        }
        path.write_bytes(damaged.get(damage, b""))
        if damage == "gone":
            path.unlink()
        (tmp_path / ".bright-canvas/last-build-brief.json").unlink()
        ran = call("build", brief)
        assert (ran.status, snapshot(brief)) == (SHORT, before)
        told += "damaged, and made again" in ran.out
    assert bool(told) == (damage != "gone")


@pytest.mark.slow
def test_watching_builds_again_after_each_change(small: Path) -> None:
    command = [sys.executable, "-m", "brightcanvas", "build", str(small), "--watch"]
    running = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    assert running.stderr is not None
    try:
        assert b"Watching" in running.stderr.readline()
        sheet = small.parent / "published" / "backdrops.css"
        assert "min-height: 300px" in sheet.read_text()
        small.write_text(small.read_text().replace('"300px"', '"300px'))
        assert b"Changed: brief.toml" in running.stderr.readline()
        assert b"not valid TOML" in running.stderr.readline()
        assert b"Watching" in running.stderr.readline()
        small.write_text(small.read_text().replace('"300px', '"260px"'))
        assert b"Changed: brief.toml" in running.stderr.readline()
        assert b"Watching" in running.stderr.readline()
        assert "min-height: 260px" in sheet.read_text()
    finally:
        running.kill()
        running.communicate()


@pytest.mark.slow
def test_a_copied_folder_is_built_for_itself(small: Path, tmp_path: Path) -> None:
    assert call("build", small).status == 0
    copy = tmp_path / "copy"
    copy.mkdir()
    for name in ("brief.toml", "picture.jpg"):
        shutil.copy(small.parent / name, copy)
    shutil.copytree(small.parent / ".bright-canvas", copy / ".bright-canvas")
    assert call("build", copy / "brief.toml").status == 0
    assert (copy / "published/backdrops.css").is_file()
