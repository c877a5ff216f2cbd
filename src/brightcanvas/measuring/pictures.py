"""What of a page's window shows a large picture or clip, asked of a real browser."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from brightcanvas.browsers.window import Window
from brightcanvas.values.geometry import Rect

BACKGROUND, IMG, VIDEO = "background", "img", "video"


@dataclass(frozen=True)
class LargePicture:
    """An element that shows one, across much of the window."""

    kind: str
    """``background``, ``img`` or ``video``."""
    name: str
    """As people would name it."""
    path: str
    """A selector for the very place at which it stands."""
    pseudo: str
    """``before``, ``after``, or empty."""
    files: tuple[str, ...]
    """URLs, as of a page that is still on the disk."""
    box: Rect
    """Of the page, CSS px."""
    fills: bool
    """Of an ``img``: whether it is fitted to a box, or placed out of the text's flow."""
    has_text: bool
    """Whether text lies above it."""


@cache
def _script() -> str:
    return files("brightcanvas.measuring").joinpath("pictures.js").read_text("utf-8")


def large_pictures(window: Window) -> list[LargePicture]:
    """All of a window, in the page's order."""
    return [_picture(one) for one in window.evaluate(f"({_script()})()") or []]


def _picture(found: Mapping[str, Any]) -> LargePicture:
    left, top, right, bottom = found["box"]
    return LargePicture(
        found["kind"], found["name"], found["path"], found.get("pseudo", ""),
        tuple(found["files"]), Rect(left, top, max(left, right), max(top, bottom)),
        bool(found.get("fills", False)), bool(found.get("hasText", False)),
    )  # fmt: skip
