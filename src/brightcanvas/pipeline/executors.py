"""Who carries tasks out: this thread, threads, processes, or workers elsewhere (see ``cluster``).

All give the very same bytes. Threads are the usual choice: codecs and numerics let go of the
interpreter's lock while they work, and sources are decoded once for all.
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Mapping
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, replace
from threading import Lock
from types import TracebackType
from typing import Any, Protocol

from brightcanvas.tasks.sources import Desk
from brightcanvas.tasks.task import AnyTask, Inputs
from brightcanvas.values.errors import MachineError

ROOM = 10_000_000
"""Px of results that are worked on at once on one machine."""

LIVES = 3
"""How often a task is begun whose worker dies."""

Given = Mapping[AnyTask, Any]


class Executor(Protocol):
    """Somebody who carries out tasks."""

    @property
    def slots(self) -> int:
        """Tasks that it works on at once."""

    @property
    def room(self) -> float:
        """Px of results that it works on at once."""

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Begin a task with the results of all that it needs."""

    def close(self) -> None:
        """Begin nothing more, and let go of the workers."""


class Closing:
    """Executors are closed at the end of a ``with``."""

    def __enter__(self) -> Any:  # noqa: ANN401 - itself
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Nothing to let go of."""


class Here(Closing):
    """One task after another, in this very thread."""

    slots = 1
    room: float = ROOM

    def __init__(self) -> None:
        self._desk = Desk()

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Carry it out at once."""
        future: Future[Any] = Future()
        try:
            future.set_result(task.run(Inputs(given, self._desk)))
        except Exception as error:
            future.set_exception(error)
        return future


class Threads(Closing):
    """As many threads as there are cores."""

    room: float = ROOM

    def __init__(self, count: int | None = None) -> None:
        self.slots = count or os.cpu_count() or 1
        self._pool = ThreadPoolExecutor(self.slots)
        self._desk = Desk()

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Begin it in a thread that is free."""
        return self._pool.submit(task.run, Inputs(given, self._desk))

    def close(self) -> None:
        """What is under way goes on in the background, and its result is dropped."""
        self._pool.shutdown(wait=False, cancel_futures=True)


@dataclass(frozen=True)
class _Begun:
    """A task that a process works on."""

    task: AnyTask
    given: tuple[tuple[AnyTask, Any], ...]
    outer: Future[Any]
    """What the asker waits for, however many processes it takes."""
    lives: int
    """How often it may still be begun."""


class Processes(Closing):
    """Processes, each in a pool of its own: one that dies takes nothing with it but its task."""

    room: float = ROOM

    def __init__(self, count: int | None = None) -> None:
        self.slots = count or os.cpu_count() or 1
        self._idle = [_new_pool() for _ in range(self.slots)]
        self._lock = Lock()
        self._busy: set[ProcessPoolExecutor] = set()

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Begin it in a process that is free."""
        begun = _Begun(task, tuple(given.items()), Future(), LIVES)
        self._begin(begun)
        return begun.outer

    def _begin(self, begun: _Begun) -> None:
        with self._lock:
            pool = self._idle.pop()
            self._busy.add(pool)
        inner = pool.submit(run_in_worker, begun.task, begun.given)
        inner.add_done_callback(lambda done: self._ended(done, pool, begun))

    def _ended(self, inner: Future[Any], pool: ProcessPoolExecutor, begun: _Begun) -> None:
        if inner.cancelled():
            begun.outer.cancel()
            return
        error = inner.exception()
        died = isinstance(error, BrokenProcessPool)
        with self._lock:
            self._busy.discard(pool)
            self._idle.append(_new_pool() if died else pool)
        if died and begun.lives > 1:
            self._begin(replace(begun, lives=begun.lives - 1))
        elif error:
            begun.outer.set_exception(MachineError(died_text(begun.task)) if died else error)
        else:
            begun.outer.set_result(inner.result())

    def close(self) -> None:
        """Begin nothing more; the processes end when what they do is done."""
        with self._lock:
            for pool in (*self._idle, *self._busy):
                pool.shutdown(wait=False, cancel_futures=True)


def died_text(task: AnyTask) -> str:
    """What is told where a task's workers die again and again."""
    return (
        f"The worker that made {task.label or type(task).__name__} ended {LIVES} times in a row:"
        " its memory may be full. Try a smaller source, or fewer workers."
    )


def _new_pool() -> ProcessPoolExecutor:
    """Of one process, begun afresh: a forked one would inherit threads' locks."""
    return ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))


_desk = Desk()
"""Of this process, where it is a worker's."""


def run_in_worker(task: AnyTask, given: tuple[tuple[AnyTask, Any], ...]) -> Any:  # noqa: ANN401
    """Carry out a task in a worker process, which keeps its sources at hand from task to task."""
    return task.run(Inputs(dict(given), _desk))
