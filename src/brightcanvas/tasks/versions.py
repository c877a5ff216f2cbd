"""Versions of code, read off the code itself."""

from __future__ import annotations

import hashlib
import re
import sys
from collections.abc import Iterator
from functools import cache
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path

from brightcanvas.values.version import ROOT

OURS = "brightcanvas"

_IMPORT = re.compile(
    r"^[ \t]*(?:from[ \t]+([\w.]+)[ \t]+import[ \t]+(\([^)]*\)|[^\n]+)|import[ \t]+([\w.]+))",
    re.MULTILINE,
)

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
    """A digest of a module of ours; of a library its version."""
    if not name.startswith(OURS):
        return _library_version(name)
    return hashlib.sha256(_source(name).encode()).hexdigest()


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
