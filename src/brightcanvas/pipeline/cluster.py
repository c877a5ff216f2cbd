"""Workers elsewhere: a scheduler of Dask, to which any number of machines may belong.

Each worker has to find the sources under the same paths (a shared folder), and has to have
this very version installed: the scheduler's machine makes the keys.
"""

from __future__ import annotations

import math
import time
from concurrent.futures import Future
from typing import Any

from brightcanvas.pipeline.executors import Closing, Given, died_text, run_in_worker
from brightcanvas.tasks.keys import key_of
from brightcanvas.tasks.task import AnyTask
from brightcanvas.values.errors import BriefError, MachineError

PATIENCE = 20
"""Seconds to wait for the scheduler, and for its first worker."""

ASK_EVERY = 5.0
"""Seconds after which the scheduler is asked again for its workers."""

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
        self._asked, self._slots = -math.inf, AHEAD
        try:
            self._client = Client(address, timeout=PATIENCE, set_as_default=False)
            self._client.wait_for_workers(1, timeout=PATIENCE)
        except (OSError, ValueError, TimeoutError) as error:
            raise MachineError(
                f"No scheduler with a worker answers at {address}: {error}."
            ) from error

    @property
    def slots(self) -> int:
        """A few for each thread of all workers that are there now; they may come and go."""
        now = time.monotonic()
        if now >= self._asked + ASK_EVERY:
            threads = sum(self._client.nthreads().values())
            self._asked, self._slots = now, AHEAD * max(1, int(threads))
        return self._slots

    def submit(self, task: AnyTask, given: Given) -> Future[Any]:
        """Begin it on a worker; where one dies, the scheduler gives its tasks to others."""
        outer: Future[Any] = Future()
        inner = self._client.submit(
            run_in_worker, task, tuple(given.items()), key=f"{type(task).__name__}-{key_of(task)}"
        )
        inner.add_done_callback(lambda done: _passed_on(done, task, outer))
        return outer

    def close(self) -> None:
        """Leave the scheduler; it goes on without us."""
        self._client.close()


def _passed_on(inner: Any, task: AnyTask, outer: Future[Any]) -> None:  # noqa: ANN401 - Dask's
    from distributed import KilledWorker

    if inner.cancelled():
        outer.cancel()
        return
    error = inner.exception()
    if isinstance(error, KilledWorker):
        outer.set_exception(MachineError(died_text(task)))
    elif error:
        outer.set_exception(error)
    else:
        outer.set_result(inner.result())
