"""The key of a task: the hash of everything that decides its result, versions of code included.

That is: all of its fields (those of other tasks by their own keys), the code of every module of
ours that its own module leads to, and the versions of the libraries and codecs that these
use. Nothing of it is written by hand, so a changed function can't find an old result; comments,
docstrings and layout change nothing.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import math
import re
import sys
from collections.abc import Iterator
from enum import Enum
from fractions import Fraction
from functools import cache, lru_cache
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from types import CodeType
from typing import Any

from brightcanvas.tasks.task import Task
from brightcanvas.values.version import ROOT

OURS = "brightcanvas"

_IMPORT = re.compile(
    r"^[ \t]*(?:from[ \t]+([\w.]+)[ \t]+import[ \t]+(\([^)]*\)|[^\n]+)|import[ \t]+([\w.]+))",
    re.MULTILINE,
)

WITHOUT_DOCSTRINGS = 2
"""A level of optimizing of Python's compiler."""

DISTRIBUTIONS = {"PIL": "pillow", "resvg_py": "resvg-py"}
"""Packages that are installed under another name than they are imported by."""


@cache
def version_of(module: str) -> str:
    """A digest of a module of ours, of all of ours that it leads to, and of their libraries.

    Args:
        module: its full name. Imports inside functions count as well.
    """
    told = "\n".join(f"{name} {_text(name)}" for name in sorted(reached_from(module)))
    return hashlib.sha256(told.encode()).hexdigest()


def reached_from(module: str) -> set[str]:
    """A module's name, and those of all modules of ours and libraries that it leads to."""
    reached, open_ends = set[str](), [module]
    while open_ends:
        name = open_ends.pop()
        if name not in reached:
            reached.add(name)
            open_ends += _imported(name) if name.startswith(OURS) else ()
    return reached


@cache
def _text(name: str) -> str:
    """A digest of what a module of ours does; of a library its version."""
    if not name.startswith(OURS):
        return _library_version(name)
    code = compile(_source(name), name, "exec", dont_inherit=True, optimize=WITHOUT_DOCSTRINGS)
    return hashlib.sha256("\n".join(_parts(code)).encode()).hexdigest()


def _parts(code: CodeType) -> Iterator[str]:
    """All that decides what code does: not where its lines are, nor what is said of it."""
    names = (code.co_names, code.co_varnames, code.co_freevars, code.co_cellvars)
    yield f"{code.co_name} {code.co_flags} {code.co_argcount} {code.co_kwonlyargcount} {names}"
    yield code.co_code.hex()
    yield code.co_exceptiontable.hex()
    for one in code.co_consts:
        yield from _parts(one) if isinstance(one, CodeType) else (_constant_text(one),)


def _constant_text(constant: object) -> str:
    """A constant as text, sets in an order of their own."""
    if isinstance(constant, frozenset):
        return f"{{{', '.join(sorted(map(_constant_text, constant)))}}}"
    return repr(constant)


def _source(name: str) -> str:
    place = _place(name)
    return place.read_text(encoding="utf-8") if place else ""


@cache
def _imported(name: str) -> tuple[str, ...]:
    """What a module imports; a package that is imported itself may find all of its modules."""
    place = _place(name)
    inside = place.parent.glob("*.py") if place and place.name == "__init__.py" else ()
    found = [f"{name}.{one.stem}" for one in inside if one.stem != "__init__"]
    return tuple(dict.fromkeys([*found, *_imports_in(_source(name))]))


def _imports_in(text: str) -> Iterator[str]:
    """The modules that a text imports: ours, and libraries by their first name."""
    for found in _IMPORT.finditer(text):
        module, names = found[1] or found[3], found[2] or ""
        if not module.startswith(OURS):
            top = module.partition(".")[0]
            if top not in sys.stdlib_module_names and top:
                yield top
            continue
        inner = [f"{module}.{one}" for one in re.findall(r"\w+", names)]
        modules = [one for one in inner if _place(one)]
        yield from modules or [module]


def _place(name: str) -> Path | None:
    """The file of a module of ours; None where the name is of something in a module."""
    place = ROOT.joinpath(*name.split(".")[1:])
    for one in (place.with_suffix(".py"), place / "__init__.py"):
        if one.is_file():
            return one
    return None


def _library_version(name: str) -> str:
    try:
        return version(DISTRIBUTIONS.get(name, name))
    except PackageNotFoundError:
        return "unknown"


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
