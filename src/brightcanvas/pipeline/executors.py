"""Who carries tasks out: this thread, threads, processes, or workers elsewhere.

All give the very same bytes. Threads are the usual choice: codecs and numerics let go of the
interpreter's lock while they work, and sources are decoded once for all.

Workers elsewhere belong to a scheduler of Dask. Each has to find the sources under the same paths
(a shared folder), and has to have this very version installed: the scheduler's machine makes the
keys.
"""

from __future__ import annotations

import importlib.metadata
import math
import multiprocessing
import threading
import time
from collections.abc import Iterator, Mapping
from concurrent.futures import (
    CancelledError,
    Future,
    InvalidStateError,
    ProcessPoolExecutor,
    ThreadPoolExecutor,
)
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from threading import Lock
from types import TracebackType
from typing import Any, Protocol

from brightcanvas.tasks.cache_keys import key_of
from brightcanvas.tasks.sources import SourceCache
from brightcanvas.tasks.task import AnyTask, Inputs
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.version import VERSION
from brightcanvas.values.work import Workers, cores

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


class CloseOnExit:
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


class SerialExecutor(CloseOnExit):
    """One task after another, in this very thread."""

    slots = 1
    room: float = ROOM

    def __init__(self) -> None:
        self._desk = SourceCache()

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Carry it out at once."""
        future: Future[Any] = Future()
        try:
            future.set_result(task.run(Inputs(given, self._desk)))
        except Exception as error:
            future.set_exception(error)
        return future


class Threads(CloseOnExit):
    """As many threads as there are cores."""

    room: float = ROOM

    def __init__(self, count: int | None = None) -> None:
        self.slots = count or cores()
        self._pool = ThreadPoolExecutor(self.slots)
        self._desk = SourceCache()

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


class Processes(CloseOnExit):
    """Processes, each in a pool of its own: one that dies takes nothing with it but its task."""

    room: float = ROOM

    def __init__(self, count: int | None = None) -> None:
        self.slots = count or cores()
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


_desk = SourceCache()
"""Of this process, where it is a worker's."""


def run_in_worker(task: AnyTask, given: tuple[tuple[AnyTask, Any], ...]) -> Any:  # noqa: ANN401
    """Carry out a task in a worker process, which keeps its sources at hand from task to task."""
    return task.run(Inputs(dict(given), _desk))


def executor_for(workers: Workers) -> Executor:
    """The workers that are meant; whoever asked closes them.

    Raises:
        BrightCanvasError: there are none under that address.
    """
    if workers.kind == "processes":
        return Processes(workers.count)
    if workers.kind == "cluster":
        return Cluster(workers.address)
    return Threads()


PARTING = 5.0
"""Seconds to take leave of it."""

TIMEOUT = 20
"""Seconds to wait for the scheduler, and for its first worker."""

ASK_EVERY = 5.0
"""Seconds after which the scheduler is asked again for its workers."""

LOST_AFTER = 10.0
"""Seconds for which a scheduler may be silent; one that is started again takes less."""

PACKAGE = "brightcanvas"

AHEAD = 2
"""Tasks that are handed out for each thread: the next one is there when one is done."""


class Cluster(CloseOnExit):
    """The workers of a scheduler."""

    room = float("inf")
    """Each worker has its own memory, and one task for each of its threads."""

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client
        except ImportError as error:
            raise BriefError(
                "Workers elsewhere need the extra 'cluster': pip install 'brightcanvas[cluster]'."
            ) from error
        self._address = address
        self._asked, self._slots = -math.inf, AHEAD
        self._known, self._under_way = frozenset[str](), set[Future[Any]]()
        self._ended = threading.Event()
        try:
            self._client = Client(address, timeout=TIMEOUT, set_as_default=False)
            self._client.wait_for_workers(1, timeout=TIMEOUT)
        except (OSError, ValueError, TimeoutError) as error:
            raise MachineError(
                f"No scheduler with a worker answers at {address}: {error}."
            ) from error
        try:
            self._check_workers()
        except BaseException:
            self.close()
            raise
        threading.Thread(target=self._watch, daemon=True).start()

    @property
    def slots(self) -> int:
        """A few for each thread of all workers that are there now; they may come and go."""
        now = time.monotonic()
        if now >= self._asked + ASK_EVERY:
            self._check_workers()
            with self._asking():
                threads = sum(self._client.nthreads().values())
            self._asked, self._slots = now, AHEAD * max(1, int(threads))
        return self._slots

    def _check_workers(self) -> None:
        """Ask those that are new whether they have this very package.

        Raises:
            MachineError: naming one that hasn't.
        """
        with self._asking():
            workers = self._client.scheduler_info(n_workers=-1)["workers"]
            new = [one for one in workers if one not in self._known]
            ask = importlib.metadata.version  # of the standard library: every worker has it
            found = self._client.run(ask, PACKAGE, workers=new, on_error="return") if new else {}
        for address, version in found.items():
            if version != VERSION:
                name = workers[address].get("name", "")
                has = "hasn't" if isinstance(version, Exception) else f"has {version} of"
                raise MachineError(
                    f"The worker {name} at {address} {has} bright-canvas; {VERSION} builds here:"
                    " install that there, or end that worker."
                )
        self._known |= found.keys()

    @contextmanager
    def _asking(self) -> Iterator[None]:
        """Tell of a scheduler that is gone."""
        try:
            yield
        except (OSError, RuntimeError, TimeoutError, CancelledError) as error:
            raise self._lost() from error

    def _lost(self) -> MachineError:
        return MachineError(
            f"The scheduler at {self._address} is gone; what was made is kept: start it again, and"
            " build once more."
        )

    def _watch(self) -> None:
        """Give up what is under way when the scheduler is silent for too long."""
        heard = time.monotonic()
        while not self._ended.wait(0.5):
            if self._client.status == "running":
                heard = time.monotonic()
            elif self._client.status == "closed" or time.monotonic() > heard + LOST_AFTER:
                for one in tuple(self._under_way):
                    with suppress(InvalidStateError):  # it has ended in this moment
                        one.set_exception(self._lost())

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Begin it on a worker; where one dies, the scheduler gives its tasks to others."""
        outer: Future[Any] = Future()
        self._under_way.add(outer)
        outer.add_done_callback(self._under_way.discard)
        name = f"{type(task).__name__}-{key_of(task)}"
        with self._asking():
            inner = self._client.submit(run_in_worker, task, tuple(given.items()), key=name)
        inner.add_done_callback(lambda done: self._passed_on(done, task, outer))
        return outer

    def close(self) -> None:
        """Leave the scheduler; it goes on without us."""
        self._ended.set()
        self._client.close(timeout=PARTING)

    def _passed_on(self, inner: Any, task: AnyTask, outer: Future[Any]) -> None:  # noqa: ANN401 - Dask's
        from distributed import KilledWorker

        with suppress(InvalidStateError):  # it was given up meanwhile
            if inner.cancelled():  # nobody but a client that has lost its scheduler does that
                outer.set_exception(self._lost())
                return
            error = inner.exception()
            if isinstance(error, KilledWorker):
                outer.set_exception(MachineError(died_text(task)))
            elif error:
                outer.set_exception(error)
            else:
                outer.set_result(inner.result())
