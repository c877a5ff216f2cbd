"""Workers elsewhere: a scheduler of Dask, to which any number of machines may belong.

Each worker has to find the sources under the same paths (a shared folder), and has to have
this very version installed: the scheduler's machine makes the keys.
"""

from __future__ import annotations

import importlib.metadata
import math
import threading
import time
from collections.abc import Iterator
from concurrent.futures import CancelledError, Future, InvalidStateError
from contextlib import contextmanager, suppress
from typing import Any

from brightcanvas.pipeline.executors import Closing, Given, died_text, run_in_worker
from brightcanvas.tasks.keys import key_of
from brightcanvas.tasks.task import AnyTask
from brightcanvas.values.errors import BriefError, MachineError
from brightcanvas.values.version import VERSION

PARTING = 5.0
"""Seconds to take leave of it."""

PATIENCE = 20
"""Seconds to wait for the scheduler, and for its first worker."""

ASK_EVERY = 5.0
"""Seconds after which the scheduler is asked again for its workers."""

LOST_AFTER = 10.0
"""Seconds for which a scheduler may be silent; one that is started again takes less."""

PACKAGE = "brightcanvas"

AHEAD = 2
"""Tasks that are handed out for each thread: the next one is there when one is done."""


class Cluster(Closing):
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
            self._client = Client(address, timeout=PATIENCE, set_as_default=False)
            self._client.wait_for_workers(1, timeout=PATIENCE)
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
