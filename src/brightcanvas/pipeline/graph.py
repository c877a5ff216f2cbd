"""Carrying out a graph of tasks: what is kept is found, the rest is made, each once.

A task is handed to a worker when all of its inputs are there, so nothing that runs ever waits
for another task. Tasks of one source follow each other, large ones first: what is left at
the end is short. Tasks of the next source begin while the last ones of this are still under way.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, wait
from typing import Any, TypeVar, cast

from brightcanvas.pipeline.executors import Executor
from brightcanvas.pipeline.result_store import Store, packed, unpacked
from brightcanvas.tasks.cache_keys import key_of
from brightcanvas.tasks.task import AnyTask, Task

R = TypeVar("R")


class Results:
    """What came of tasks."""

    def __init__(self) -> None:
        self._found: dict[AnyTask, Any] = {}

    def __contains__(self, task: AnyTask) -> bool:
        return task in self._found

    def __getitem__(self, task: Task[R]) -> R:
        """The result of a task that was carried out."""
        return cast("R", self._found[task])

    def __setitem__(self, task: Task[R], result: R) -> None:
        self._found[task] = result

    def of(self, tasks: Iterable[AnyTask]) -> dict[AnyTask, Any]:
        """Those of some tasks."""
        return {task: self._found[task] for task in tasks}


class Pipeline:
    """Carries out tasks for one build, and knows the results so far."""

    def __init__(
        self, store: Store, executor: Executor, done: Callable[[str], None] = lambda _: None
    ) -> None:
        self.store = store
        self.results = Results()
        self._executor = executor
        self._done = done

    def run(self, tasks: Iterable[AnyTask]) -> Results:
        """Carry out tasks, and all that they need; the results hold earlier ones too.

        Raises:
            BrightCanvasError: the first that a task raised; what was made until then is kept.
        """
        missing = self._missing(tasks)
        if missing:
            _Run(missing, self).finish()
        return self.results

    def known(self, task: Task[R]) -> R | None:
        """The result of a task, if it is kept; nothing is made."""
        if task not in self.results and not self._find(task):
            return None
        return self.results[task]

    def _missing(self, tasks: Iterable[AnyTask]) -> list[AnyTask]:
        """What has to be made, each after all that it needs."""
        missing: dict[AnyTask, None] = {}

        def visit(task: AnyTask) -> None:
            if task in missing or task in self.results:
                return
            if self._find(task):
                self._tell(task)
                return
            for one in task.needs:
                visit(one)
            missing[task] = None

        for task in tasks:
            visit(task)
        return list(missing)

    def _find(self, task: AnyTask) -> bool:
        kept = self.store.find(key_of(task))
        if kept is None:
            return False
        try:
            self.results[task] = unpacked(task.result_type, kept)
        except ValueError:
            return False
        return True

    def submit(self, task: AnyTask) -> Future[Any]:
        """Hand a task to a worker; all that it needs is there."""
        return self._executor.submit(task, self.results.of(task.needs))

    def finished(self, task: AnyTask, result: object) -> None:
        """Keep a result, and tell that it is there."""
        self.store.keep(key_of(task), packed(result))
        self.results[task] = result
        self._tell(task)

    def _tell(self, task: AnyTask) -> None:
        if task.label:
            self._done(task.label)

    @property
    def slots(self) -> int:
        """Tasks that are under way at once."""
        return self._executor.slots

    @property
    def room(self) -> float:
        """Px of results that are worked on at once; a larger one is worked on alone."""
        return self._executor.room


class _Run:
    """One run over tasks that have to be made."""

    def __init__(self, tasks: list[AnyTask], pipeline: Pipeline) -> None:
        self._pipeline = pipeline
        self._order = _ranks(tasks)
        self._open = {
            task: {one for one in task.needs if one not in pipeline.results} for task in tasks
        }
        self._waited_for = _waiting(self._open)
        self._ready = [(self._order[task], task) for task, needs in self._open.items() if not needs]
        heapq.heapify(self._ready)
        self._under_way: dict[Future[Any], AnyTask] = {}

    def finish(self) -> None:
        try:
            while self._ready or self._under_way:
                self._hand_out()
                done, _ = wait(self._under_way, return_when=FIRST_COMPLETED)
                for future in done:
                    self._take(future)
        except BaseException:
            for future in self._under_way:
                future.cancel()
            raise

    def _hand_out(self) -> None:
        while self._ready and len(self._under_way) < self._pipeline.slots:
            task = self._ready[0][1]
            if self._under_way and not self._has_room(task):
                return
            heapq.heappop(self._ready)
            self._under_way[self._pipeline.submit(task)] = task

    def _has_room(self, task: AnyTask) -> bool:
        taken = sum(one.room for one in self._under_way.values())
        return taken + task.room <= self._pipeline.room

    def _take(self, future: Future[Any]) -> None:
        task = self._under_way.pop(future)
        self._pipeline.finished(task, future.result())
        for other in self._waited_for.get(task, ()):
            self._open[other].discard(task)
            if not self._open[other]:
                heapq.heappush(self._ready, (self._order[other], other))


def _ranks(tasks: Iterable[AnyTask]) -> Mapping[AnyTask, tuple[int, int, int]]:
    """Group by group, large ones first; no two alike."""
    groups: dict[str, int] = {}
    return {
        task: (groups.setdefault(task.group, len(groups)), -task.room, number)
        for number, task in enumerate(tasks)
    }


def _waiting(needs: Mapping[AnyTask, Iterable[AnyTask]]) -> Mapping[AnyTask, list[AnyTask]]:
    waiting: dict[AnyTask, list[AnyTask]] = {}
    for task, others in needs.items():
        for one in others:
            waiting.setdefault(one, []).append(task)
    return waiting
