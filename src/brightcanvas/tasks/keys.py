"""The key of a task: the hash of everything that decides its result.

That is: all of its fields (those of other tasks by their own keys), the text of every module of
ours that its own module leads to, and the versions of the libraries and codecs that these
use. Nothing of it is written by hand, so a changed function can't find an old result. The price:
a changed comment makes work again that would have come out the same.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import math
from enum import Enum
from fractions import Fraction
from functools import lru_cache
from typing import Any

from brightcanvas.tasks.task import Task
from brightcanvas.tasks.versions import version_of


@lru_cache(maxsize=100_000)
def key_of(task: Task[Any]) -> str:
    """The key of a task, in hex.

    Raises:
        TypeError: a field holds what has no one way to be written.
    """
    parts = [version_of(type(task).__module__), list(task.codecs), *_fields(task)]
    return hashlib.sha256(json.dumps(parts).encode()).hexdigest()


def _fields(value: Any) -> list[object]:  # noqa: ANN401 - any dataclass
    """Its class and its fields, one way for values that are equal."""
    fields = [one.name for one in dataclasses.fields(value) if one.compare]
    return [type(value).__qualname__, *([name, _told(getattr(value, name))] for name in fields)]


def _told(value: object) -> object:
    if value is None or isinstance(value, (bool, str)):
        return value
    if isinstance(value, (int, float)):
        return _number(value)
    if isinstance(value, Task):
        return {"task": key_of(value)}
    if isinstance(value, Enum):
        return [type(value).__qualname__, value.name]
    if isinstance(value, Fraction):
        return ["/", value.numerator, value.denominator]
    if isinstance(value, (tuple, list)):
        return [_told(one) for one in value]
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return _fields(value)
    raise TypeError(f"{type(value).__name__} in a task's fields has no key")


def _number(value: float) -> float | int | str:
    """600 and 600.0 are the same width."""
    if not math.isfinite(value):
        return str(value)
    return int(value) if value == int(value) else value
