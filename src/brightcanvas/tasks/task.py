"""What every task is: fields, inputs among them, and a pure ``run``."""

from __future__ import annotations

import dataclasses
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from typing import Any, ClassVar, Generic, TypeVar, cast

from brightcanvas.tasks.sources import PreparedSource, Source, SourceCache

R_co = TypeVar("R_co", covariant=True)
R = TypeVar("R")


class Task(ABC, Generic[R_co]):
    """One piece of slow work; derived classes are frozen dataclasses of plain data and tasks.

    Fields that say ``compare=False`` don't count: a path is only where the content is found.
    """

    result_type: ClassVar[Any]
    """Of what ``run`` gives, as ``packing`` restores it; it has to be plain data too."""

    @abstractmethod
    def run(self, inputs: Inputs) -> R_co:
        """The result, decided by the fields and the inputs alone."""

    @property
    def codecs(self) -> tuple[str, ...]:
        """The versions of the codecs that it uses, where they decide the result."""
        return ()

    @property
    def label(self) -> str:
        """What is told when it is done; empty: nothing."""
        return ""

    @property
    def room(self) -> int:
        """Px that it holds in memory beside its source, about."""
        return 0

    @property
    def group(self) -> str:
        """Tasks of one source share what is in memory: they are best done one after another."""
        return next(_digests_in(self), "")

    @property
    def needs(self) -> tuple[Task[Any], ...]:
        """The tasks among the fields."""
        return tuple(dict.fromkeys(_tasks_in([getattr(self, name) for name in _counted(self)])))


AnyTask = Task[Any]


class Inputs:
    """What a task is given to run: the results of those that it needs, and decoded sources."""

    def __init__(self, results: Mapping[Task[Any], Any], desk: SourceCache) -> None:
        self._results = results
        self.desk = desk

    def of(self, task: Task[R]) -> R:
        """The result of one of the task's own inputs."""
        return cast("R", self._results[task])


def _digests_in(value: Any) -> Iterator[str]:  # noqa: ANN401 - any field
    """Of the sources among the fields of a task and of those that it needs."""
    if isinstance(value, Source):
        yield value.digest
    elif isinstance(value, (Task, PreparedSource)):
        for name in _counted(value):
            yield from _digests_in(getattr(value, name))


def _counted(value: Any) -> Iterator[str]:  # noqa: ANN401 - any dataclass
    return (field.name for field in dataclasses.fields(value) if field.compare)


def _tasks_in(value: object) -> Iterator[Task[Any]]:
    if isinstance(value, Task):
        yield value
    elif isinstance(value, (tuple, list)):
        for one in value:
            yield from _tasks_in(one)
