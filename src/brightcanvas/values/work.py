"""Long work: who is told how far it is, and what is left when it is stopped.

Work goes on in several threads, and neither its results nor its tasks know of anybody who
watches: so there is one place for the whole process.
"""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
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
