"""Tasks, their keys, the graph that carries them out, and everybody who can do so."""

from __future__ import annotations

import dataclasses
import os
import threading
import time
from concurrent.futures import Future
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any, ClassVar

import pytest

from brightcanvas.brief.loading import load_brief
from brightcanvas.formats.survey import survey
from brightcanvas.pipeline.building import build
from brightcanvas.pipeline.executors import (
    Cluster,
    Executor,
    Given,
    Processes,
    SerialExecutor,
    Threads,
)
from brightcanvas.pipeline.graph import Pipeline
from brightcanvas.pipeline.result_store import Store, packed, unpacked
from brightcanvas.quality.metric import Score, Viewing
from brightcanvas.quality.pictures.lightest import PictureTarget
from brightcanvas.tasks import cache_keys
from brightcanvas.tasks.cache_keys import key_of
from brightcanvas.tasks.looking_tasks import TellContent
from brightcanvas.tasks.picture_tasks import MadeFile, MadePicture, MakePicture
from brightcanvas.tasks.sources import PreparedSource, Source
from brightcanvas.tasks.task import Inputs, Task
from brightcanvas.values.colours import Colour, Tone
from brightcanvas.values.errors import MachineError, SourceError
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect

from .clusters import running, started
from .conftest import SHORT, call, save_noise, write_brief

TWO_SOURCES = """\
[[backdrop]]
source = "a.jpg"
element = ".a"
height = "300px"
[backdrop.copy]
box = [0.1, 0.1, 0.6, 0.5]
colour = "#ffffff"
size = 18
[backdrop.scrim]
least = true
[[backdrop]]
source = "b.png"
element = ".b"
height = "200px"
"""


def two_sources(folder: Path) -> Path:
    folder.mkdir()
    save_noise(folder / "a.jpg", 240, 160)
    save_noise(folder / "b.png", 120, 80)
    return write_brief(folder, TWO_SOURCES)


@dataclass(frozen=True)
class Add(Task[int]):
    """A small task: the sum of a number and of what others gave."""

    number: int
    others: tuple[Add, ...] = ()
    note: str = field(default="", compare=False)
    size: int = 0
    result_type: ClassVar[type] = int

    @property
    def room(self) -> int:
        return self.size

    @property
    def label(self) -> str:
        return f"sum {self.number}"

    def run(self, inputs: Inputs) -> int:
        return self.number + sum(inputs.of(one) for one in self.others)


@dataclass(frozen=True)
class Die(Task[int]):
    """Ends the process that runs it, as often as the file says."""

    lives: Path = field(compare=False)
    result_type: ClassVar[type] = int

    def run(self, inputs: Inputs) -> int:  # noqa: ARG002
        left = int(self.lives.read_text())
        if left:
            self.lives.write_text(str(left - 1))
            os._exit(9)
        return 7


@dataclass(frozen=True)
class Sleep(Task[int]):
    """Takes its time."""

    seconds: float
    result_type: ClassVar[type] = int

    def run(self, inputs: Inputs) -> int:  # noqa: ARG002
        time.sleep(self.seconds)
        return 1


def make_picture(folder: Path) -> MakePicture:
    facts = survey(save_noise(folder / "picture.jpg"))
    source = PreparedSource.of(facts, None, PreparedSource(Source.of(facts)).preparation)
    wanted = PictureTarget(0.95, (FileFormat.AVIF, FileFormat.JPEG))
    area = Rect(0, 0, 600, 400)
    return MakePicture(source, TellContent(source), area, 300, 200, Viewing(), wanted)


def test_every_field_of_a_task_is_in_its_key(tmp_path: Path) -> None:
    task = make_picture(tmp_path)
    source = task.source.source
    changed = [
        replace(task, area=Rect(0, 0, 600, 399)),
        replace(task, width=301),
        replace(task, height=201),
        replace(task, viewing=Viewing(1.5)),
        replace(task, viewing=Viewing(1, Colour(0, 0, 0, 0.5))),
        replace(task, wanted=replace(task.wanted, target=0.951)),
        replace(task, wanted=replace(task.wanted, lifts=(("AVIF", 1.0),))),
        replace(task, tone=Tone(fade=0.1)),
        replace(task, css_px=2.0),
        replace(task, source=replace(task.source, second=1.0)),
        replace(task, source=replace(task.source, source=replace(source, digest="0" * 64))),
        replace(task, content=TellContent(replace(task.source, second=1.0))),
    ]
    named = {one.name for one in dataclasses.fields(task)}
    assert named == {"source", "content", "area", "width", "height", "viewing", "wanted", "tone",
                     "css_px"}  # fmt: skip
    assert len({key_of(one) for one in (task, *changed)}) == len(changed) + 1


def test_where_a_source_is_and_how_a_number_is_written_are_not_in_its_key(tmp_path: Path) -> None:
    task = make_picture(tmp_path)
    moved = replace(task.source.source, path=tmp_path / "elsewhere.jpg")
    assert key_of(replace(task, source=replace(task.source, source=moved))) == key_of(task)
    cache_keys.key_of.cache_clear()
    whole, fractional = Rect(0, 0, 600, 400), Rect(0.0, 0.0, 600.0, 400.0)
    first = key_of(replace(task, area=whole))
    cache_keys.key_of.cache_clear()
    assert key_of(replace(task, area=fractional)) == first


def test_inputs_keys_and_codec_versions_are_in_a_key(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert key_of(Add(1, (Add(2),))) != key_of(Add(1, (Add(3),)))
    assert key_of(Add(1, note="a")) == key_of(Add(1, note="b"))
    task = make_picture(tmp_path)
    before = key_of(task)
    cache_keys.key_of.cache_clear()
    monkeypatch.setattr(
        "brightcanvas.tasks.picture_tasks.codec_version", lambda one: f"{one} of late"
    )
    assert key_of(task) != before


@pytest.mark.parametrize(
    ("added", "is_new"),
    [
        ("\nMOST_OF_ALL = 3\n", True),
        ("\ndef _unused() -> int:\n    return 3\n", True),
        ("# edited", False),
        ("\n\n# a line further down\n", False),
    ],
)
def test_changed_code_changes_the_keys_of_all_that_leads_to_it(
    added: str, *, is_new: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    pictures, looking = "brightcanvas.tasks.picture_tasks", "brightcanvas.tasks.looking_tasks"
    before = cache_keys.version_of(pictures), cache_keys.version_of(looking)
    source = cache_keys._source

    def edited(name: str) -> str:
        """With something at its end, and another docstring."""
        text = source(name)
        return text.replace('"""', '"""More: ', 1) + added if name == SEARCH else text

    monkeypatch.setattr(cache_keys, "_source", edited)
    for cached in CACHED:
        cached.cache_clear()
    try:
        assert (cache_keys.version_of(pictures) != before[0]) == is_new
        assert cache_keys.version_of(looking) == before[1]
    finally:
        for cached in CACHED:
            cached.cache_clear()


SEARCH = "brightcanvas.quality.search"
CACHED = (cache_keys.version_of, cache_keys._text, cache_keys._imported)


def test_a_version_counts_lazy_imports_and_libraries() -> None:
    found = set(cache_keys._imported("brightcanvas.tasks.sources"))
    assert {
        "brightcanvas.formats.clips.clip_reading",
        "brightcanvas.formats.pictures.picture_reading",
    } <= found
    assert "numpy" in cache_keys._imported("brightcanvas.colour.resample")
    reached = cache_keys.reached_from("brightcanvas.tasks.picture_tasks")
    assert {"brightcanvas.quality.search", "PIL", "numpy"} <= reached
    rooms = {name.split(".")[1] for name in reached if name.startswith("brightcanvas.")}
    assert not rooms & {"cli", "pipeline", "delivery", "promises", "reports"}


def test_results_are_restored_as_what_they_were() -> None:
    encoding = Encoding(FileFormat.AVIF, quality=40, hasty=True)
    file = MadeFile(encoding, Score(0.95, 0.9, (0.25, 1.0)), b"\x00bytes\xff", (3, 4))
    made = MadePicture((file, replace(file, content=b"")), Colour(0.1, 0.2, 1))
    again = unpacked(MadePicture, packed(made))
    assert again == made
    assert isinstance(again.average.blue, float)
    assert unpacked(tuple[Fraction, ...], packed((Fraction(1, 3),))) == (Fraction(1, 3),)
    assert unpacked(Score | None, packed(None)) is None
    for kind, content in ((MadePicture, packed(3)), (int, packed("3")), (Score, packed(None))):
        with pytest.raises(ValueError, match=r"is kept there|is no"):
            unpacked(kind, content)


def test_each_task_is_made_once_and_after_its_inputs(tmp_path: Path) -> None:
    shared = Add(1)
    top = Add(10, (Add(2, (shared,)), Add(3, (shared,)), shared))
    told: list[str] = []
    with Threads(3) as threads:
        results = Pipeline(Store(tmp_path), threads, told.append).run([top, shared, top])
    assert results[top] == 10 + (2 + 1) + (3 + 1) + 1
    assert sorted(told) == ["sum 1", "sum 10", "sum 2", "sum 3"]
    assert told[0] == "sum 1"
    assert told[-1] == "sum 10"


class Refusing:
    """An executor to which nothing may come."""

    slots = 1
    room = 1.0

    def submit(self, task: Task[Any], given: Given) -> Future[Any]:  # noqa: ARG002
        raise AssertionError(f"{task} is kept already")

    def close(self) -> None: ...


def test_what_is_kept_is_found_without_its_inputs(tmp_path: Path) -> None:
    top = Add(10, (Add(2, (Add(1),)),))
    Pipeline(Store(tmp_path), SerialExecutor()).run([top])
    store = Store(tmp_path)
    (tmp_path / "made" / key_of(Add(1))[:2] / key_of(Add(1))).unlink()
    assert Pipeline(store, Refusing()).run([top])[top] == 13


def test_a_failure_ends_the_run_and_keeps_what_was_made(tmp_path: Path) -> None:
    picture = make_picture(tmp_path)
    save_noise(picture.source.source.path, 90, 60)
    pipeline = Pipeline(Store(tmp_path / "store"), SerialExecutor())
    with pytest.raises(SourceError, match="was changed while it was used"):
        pipeline.run([Add(1), picture, Add(2)])
    assert pipeline.known(Add(1)) == 1
    assert Pipeline(Store(tmp_path / "store"), Refusing()).known(Add(1)) == 1


class Counting:
    """Threads that note how much is worked on at once."""

    def __init__(self) -> None:
        self._threads = Threads(4)
        self.slots, self.room = 4, 100.0
        self.most, self._now, self._lock = 0, 0, threading.Lock()
        self.alone: list[int] = []

    def submit(self, task: Task[Any], given: Given) -> Future[Any]:
        with self._lock:
            self._now += task.room
            self.most = max(self.most, self._now)
            if task.room > self.room:
                self.alone.append(self._now - task.room)
        future = self._threads.submit(task, given)
        future.add_done_callback(lambda _: self._ended(task.room))
        return future

    def _ended(self, amount: int) -> None:
        time.sleep(0.002)
        with self._lock:
            self._now -= amount

    def close(self) -> None:
        self._threads.close()


def test_no_more_is_worked_on_at_once_than_there_is_room_for(tmp_path: Path) -> None:
    counting = Counting()
    sizes = [30, 60, 250, 10, 90, 40, 30, 30, 101]
    tasks = [Add(number, size=size) for number, size in enumerate(sizes)]
    results = Pipeline(Store(tmp_path), counting).run(tasks)
    counting.close()
    assert [results[task] for task in tasks] == list(range(len(sizes)))
    assert counting.alone == [0, 0]
    assert counting.most <= 250


@pytest.mark.slow
def test_a_worker_that_dies_costs_only_its_task(tmp_path: Path) -> None:
    lives = tmp_path / "lives"
    lives.write_text("1")
    with Processes(2) as processes:
        pipeline = Pipeline(Store(tmp_path), processes)
        results = pipeline.run([Die(lives), *(Add(number) for number in range(6))])
        assert results[Die(lives)] == 7
        assert [results[Add(number)] for number in range(6)] == list(range(6))
        lives.write_text("5")
        other = Pipeline(Store(tmp_path / "other"), processes)
        with pytest.raises(MachineError, match="ended 3 times in a row"):
            other.run([Die(lives)])
    assert lives.read_text() == "2"


def test_a_cluster_s_worker_that_dies_costs_only_its_task(tmp_path: Path) -> None:
    lives = tmp_path / "lives"
    lives.write_text("1")
    with running(2) as address, Cluster(address) as cluster:
        pipeline = Pipeline(Store(tmp_path), cluster)
        results = pipeline.run([Die(lives), *(Add(number) for number in range(4))])
    assert results[Die(lives)] == 7
    assert [results[Add(number)] for number in range(4)] == list(range(4))
    assert lives.read_text() == "0"


def published(brief: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in (brief.parent / "published").iterdir()}


def built(folder: Path, executor: Executor) -> dict[str, bytes]:
    brief = two_sources(folder)
    assert build(load_brief(brief), executor=executor).published
    executor.close()
    return published(brief)


@pytest.mark.slow
def test_everybody_makes_the_very_same_files(tmp_path: Path) -> None:
    wanted = built(tmp_path / "here", SerialExecutor())
    assert len(wanted) > 10
    assert built(tmp_path / "threads", Threads(2)) == wanted
    assert built(tmp_path / "processes", Processes(2)) == wanted
    with running(2) as address:
        assert built(tmp_path / "cluster", Cluster(address)) == wanted
        brief = two_sources(tmp_path / "called")
        ran = call("build", brief, "--workers", address)
        assert ran.status == SHORT, ran.err
        assert published(brief) == wanted
    brief = two_sources(tmp_path / "processes called")
    assert call("build", brief, "--workers", "processes").status == SHORT
    assert published(brief) == wanted


@pytest.mark.slow
def test_a_cluster_that_is_not_there_is_told(small: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("brightcanvas.pipeline.executors.TIMEOUT", 1)
    ran = call("build", small, "--workers", "tcp://127.0.0.1:1")
    assert "No scheduler with a worker answers at tcp://127.0.0.1:1" in ran.err
    assert ran.status == 4
    assert not (small.parent / "published").exists()


@pytest.mark.slow
def test_a_scheduler_that_dies_ends_the_build_and_keeps_what_is_done(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("brightcanvas.pipeline.executors.LOST_AFTER", 1)
    with started(1) as (address, process), Cluster(address) as cluster:
        pipeline = Pipeline(Store(tmp_path), cluster)
        pipeline.run([Add(1)])
        threading.Timer(1, process.kill).start()
        began = time.monotonic()
        with pytest.raises(MachineError, match=rf"The scheduler at {address} is gone"):
            pipeline.run([Add(2), Sleep(60)])
    assert time.monotonic() - began < 20
    assert Pipeline(Store(tmp_path), SerialExecutor()).run([Add(1)])[Add(1)] == 1


@pytest.mark.slow
@pytest.mark.parametrize(("package", "says"), [("numpy", r"has \d\S+ of"), ("mill", "hasn't")])
def test_a_worker_of_another_version_is_named(
    monkeypatch: pytest.MonkeyPatch, package: str, says: str
) -> None:
    monkeypatch.setattr("brightcanvas.pipeline.executors.PACKAGE", package)
    told = pytest.raises(MachineError, match=f"The worker 0 at .* {says} bright-canvas")
    with running(1) as address, told:
        Cluster(address)


@pytest.mark.parametrize("workers", ["many", "0", "http://host:1"])
def test_workers_that_can_not_be_are_told(small: Path, workers: str) -> None:
    ran = call("build", small, "--workers", workers)
    assert ran.status == 2
    assert f"'{workers}': threads, processes, a number of processes, or" in ran.err


@pytest.mark.slow
def test_the_brief_may_name_the_workers(small: Path) -> None:
    small.write_text('[site]\nworkers = "processes"\n' + small.read_text())
    assert call("build", small).status == 0
    small.write_text(small.read_text().replace("processes", "elsewhere"))
    ran = call("build", small)
    assert (ran.status, "workers" in ran.err) == (2, True)


@pytest.mark.slow
def test_a_damaged_result_is_told_once(small: Path) -> None:
    call("build", small)
    store = Store(small.parent / ".bright-canvas")
    before = published(small)
    largest = max(store.entries(), key=lambda path: path.stat().st_size)
    content = bytearray(largest.read_bytes())
    content[-1] ^= 0xFF
    largest.write_bytes(content)
    small.write_text(small.read_text() + "\n")
    ran = call("build", small)
    assert ran.out.count("1 kept result was damaged, and made again") == 1, ran.out
    assert published(small) == before
    small.write_text(small.read_text() + "\n")
    assert "was damaged" not in call("build", small).out
