"""Long work: who does it, who is told how far it is, and what is left when it is stopped.

Work goes on in several threads, and neither its results nor its tasks know of anybody who
watches: so there is one place for the whole process.
"""

from __future__ import annotations

import math
import os
import re
import shutil
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TypeVar

R = TypeVar("R")

LOOK_EVERY = 0.1
"""Seconds between two looks at whether somebody wants to stop."""


@dataclass(frozen=True)
class FramesDone:
    """How far the encode of a clip is."""

    name: str
    done: int
    total: int


Told = Callable[[int], None]
"""Somebody who is told how many steps are done."""


def nobody(_: int) -> None:
    """Where nobody wants to know."""


@dataclass(frozen=True)
class Watcher:
    """Whom a build tells how far it is."""

    starts: Callable[[int], None] = lambda count: None  # noqa: ARG005
    """Called once with the number of files to come."""
    done: Callable[[str], None] = lambda name: None  # noqa: ARG005
    """Called after each of them with what it was; from several threads."""


_listeners: list[Callable[[FramesDone], None]] = []
_scratch: set[str] = set()


@contextmanager
def listening(listener: Callable[[FramesDone], None]) -> Iterator[None]:
    """Tell somebody of each frame, from whatever thread."""
    _listeners.append(listener)
    try:
        yield
    finally:
        _listeners.remove(listener)


def frame_done(step: FramesDone) -> None:
    """Tell of a frame."""
    for listener in tuple(_listeners):
        listener(step)


def tidy() -> None:
    """Remove the folders of files that are under way: the process ends, whatever goes on in it."""
    for folder in tuple(_scratch):
        shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def scratch() -> Iterator[Path]:
    """A folder for files that are under way."""
    with TemporaryDirectory() as name:
        _scratch.add(name)
        try:
            yield Path(name)
        finally:
            _scratch.discard(name)


def interruptible(work: Callable[[], R]) -> R:
    """Do something in a thread, so that a key that means to stop is heard at once.

    A codec that is asked for its last frames gives no sign for seconds.
    """
    pool = ThreadPoolExecutor(1)
    future: Future[R] = pool.submit(work)
    try:
        while not future.done():
            time.sleep(LOOK_EVERY)
        return future.result()
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


WANTED = (
    "threads, processes, a number of processes, or a scheduler's address such as tcp://host:8786"
)

_ADDRESS = re.compile(r"(tcp|tls)://[^\s/]+:[0-9]+")


@dataclass(frozen=True)
class Workers:
    """Who does the slow work."""

    kind: str
    """``threads``, ``processes`` or ``cluster``."""
    count: int | None = None
    """Of processes; None: as many as there are cores."""
    address: str = ""
    """Of a cluster's scheduler."""


THREADS = Workers("threads")


def parse_workers(text: str) -> Workers:
    """Read ``threads``, ``processes``, ``4`` or ``tcp://host:8786``; ValueError otherwise."""
    if text in ("threads", "processes"):
        return Workers(text)
    if re.fullmatch("[1-9][0-9]{0,2}", text):
        return Workers("processes", int(text))
    if _ADDRESS.fullmatch(text):
        return Workers("cluster", address=text)
    raise ValueError(f"{text!r}: {WANTED}")


QUOTAS = (Path("/sys/fs/cgroup/cpu.max"), Path("/sys/fs/cgroup/cpu/cpu.cfs_quota_us"))
"""Where Linux tells how much of its cores a container may use, of both kinds."""

PERIOD = 100_000
"""Microseconds in which a quota of the older kind counts, unless somebody has changed that."""


def cores() -> int:
    """The cores that this process may use: fewer than there are, where somebody set a limit."""
    allowed = getattr(os, "sched_getaffinity", None)
    count = len(allowed(0)) if allowed else os.cpu_count() or 1
    return max(1, round(min(count, _quota())))


def _quota() -> float:
    """Cores' worth of time; infinite where nothing is stated."""
    for path in QUOTAS:
        with suppress(OSError, ValueError):
            most, *period = (float(one) for one in path.read_text("ascii").split())
            return most / (period[0] if period else PERIOD) if most > 0 else math.inf
    return math.inf
