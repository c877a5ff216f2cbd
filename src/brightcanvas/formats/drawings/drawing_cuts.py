"""Drawings as sources: their size, a cut of one as a drawing, and their pixels.

Drawings have no pixels of their own. They count as if their longer side had LONGER px, more
than any screen shows; in these px they are cut, like pictures.
"""

from __future__ import annotations

import io
import os
import re
import subprocess
import sys
from importlib.metadata import version
from pathlib import Path
from threading import Lock
from xml.etree import ElementTree

from PIL import Image

from brightcanvas.formats.codec_libraries import explained, our_switches
from brightcanvas.formats.drawings.drawing_cleaning import (
    DEEPEST,
    HUGE,
    SVG,
    Element,
    as_file,
    cleaned_root,
    view_box,
)
from brightcanvas.formats.drawings.renderer import REFUSED
from brightcanvas.formats.kinds import Head
from brightcanvas.formats.loaded import Loaded
from brightcanvas.values.errors import MachineError, SourceError
from brightcanvas.values.geometry import Rect, Size

SECONDS = "BRIGHT_CANVAS_DRAWING_SECONDS"
MEGABYTES = "BRIGHT_CANVAS_DRAWING_MB"
LIMITS = {SECONDS: 30.0, MEGABYTES: 1000.0}
"""What a drawing may take, by the variables of the environment that say otherwise."""

_RENDERER = Path(__file__).with_name("renderer.py")

_ONE_BY_ONE = Lock()
"""Each may take a lot of memory."""


def rendered(content: bytes, name: str, across: int | None = None) -> Image.Image:
    """The pixels of a drawing that states its size in px, or so many px across.

    Args:
        content: of the drawing's file.
        name: of it, for messages.
        across: px.

    Raises:
        SourceError: it can't be rendered, or takes more time or memory than it may.
        MachineError: no process can be begun.
    """
    seconds, megabytes = _limit(SECONDS), _limit(MEGABYTES)
    command = [sys.executable, "-P", str(_RENDERER), str(across or 0), f"{megabytes * 1e6:.0f}"]
    try:
        with _ONE_BY_ONE:
            ran = subprocess.run(
                command, input=content, capture_output=True, timeout=seconds, check=False
            )
    except subprocess.TimeoutExpired as error:
        raise _over(name, f"{seconds:g} s", SECONDS, seconds) from error
    except OSError as error:
        raise MachineError(f"The renderer can't be started: {error.strerror or error}.") from error
    if ran.returncode == REFUSED:
        why = " ".join(ran.stdout.decode("utf-8", "replace").split())[:200]
        raise SourceError(f"{name}: the drawing can't be rendered ({why}).")
    if ran.returncode:
        raise _over(name, f"{megabytes:g} MB of memory", MEGABYTES, megabytes)
    with explained(name, "drawing"), our_switches():
        return Image.open(io.BytesIO(ran.stdout)).convert("RGBA")


def _limit(variable: str) -> float:
    try:
        stated = float(os.environ.get(variable, ""))
    except ValueError:
        stated = 0.0
    return stated if 0 < stated < 1e9 else LIMITS[variable]


def _over(name: str, what: str, variable: str, limit: float) -> SourceError:
    return SourceError(
        f"{name}: rendering it takes more than {what}. Simplify it, save it as a PNG, or allow"
        f" more: {variable}={limit * 4:g}"
    )


LONGER = 6000
"""Px of a drawing's longer side."""

MOST_ELEMENTS = 200_000
"""Elements with all that is drawn again by reference: hostile drawings multiply without end."""

_UNITS = {"": 1.0, "px": 1.0, "pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0}
"""CSS px (CSS Values 4, section 6.2)."""

_LENGTH = re.compile(r"\s*\+?(\d+\.?\d*|\.\d+)([a-z]*)\s*", re.IGNORECASE)
_REFERENCE = re.compile(r"url\(\s*['\"]?#([^)'\"]+)")
_DEFAULT = Size(300, 150)
"""Of a drawing that says nothing (CSS 2.2, section 10.3.2)."""


def read_drawing_head(file: Loaded) -> Head:
    """The size at which a drawing counts; it may always be transparent."""
    return Head(counted_size(_root(file)), has_alpha=True)


def read_drawing(file: Loaded, across: int | None = None) -> Image.Image:
    """A drawing's pixels, so many px across; None: at the size at which it counts."""
    root = _root(file)
    size = counted_size(root)
    return rendered(_cut(root, Rect(0, 0, size.width, size.height)), file.name, across)


def cut_drawing(file: Loaded, area: Rect, size: tuple[int, int] | None = None) -> bytes:
    """A part of a drawing, cleaned, as a drawing: the content of a file.

    Args:
        file: of the drawing.
        area: in px of the size at which it counts.
        size: that the part states, px; None: its own.
    """
    return _cut(_root(file), area, size)


def renderer_version() -> str:
    """The renderer: other versions may give other pixels."""
    return f"svg {version('resvg-py')}"


def counted_size(root: Element) -> Size:
    """Width and height in whole px, the longer one LONGER."""
    own = _own_size(root)
    return Size(*own.times(LONGER / max(own.width, own.height)).rounded)


def _root(file: Loaded) -> Element:
    root = cleaned_root(file.content, file.name)
    drawn, depth = _drawn(root)
    if drawn > MOST_ELEMENTS or depth > DEEPEST:
        raise SourceError(
            f"{file.name}: by reference it draws more than {MOST_ELEMENTS} elements, or more than"
            f" {DEEPEST} within each other. Simplify it, or save it as a PNG."
        )
    return root


def _own_size(root: Element) -> Size:
    """In CSS px, from its sides or else from its view box (SVG 2, section 8.12)."""
    box = view_box(root)
    width, height = (_length(root.get(side, "")) for side in ("width", "height"))
    if width and height:
        return Size(width, height)
    if box is None:
        return Size(width or _DEFAULT.width, height or _DEFAULT.height)
    if width or height:
        aspect = box[2] / box[3]
        return Size(width or (height or 0) * aspect, height or (width or 0) / aspect)
    return Size(box[2], box[3])


def _length(text: str) -> float | None:
    """A length in CSS px; None where it is none, relative, or nothing."""
    found = _LENGTH.fullmatch(text)
    unit = _UNITS.get(found[2].lower()) if found else None
    length = float(found[1]) * unit if found and unit else 0.0
    return length if 0 < length < HUGE else None


def _cut(root: Element, area: Rect, size: tuple[int, int] | None = None) -> bytes:
    """The drawing within one that shows a part of it."""
    counted = counted_size(root)
    if view_box(root) is None:
        own = _own_size(root)
        root.set("viewBox", f"0 0 {own.width:g} {own.height:g}")
    for name, value in (
        ("x", 0.0),
        ("y", 0.0),
        ("width", counted.width),
        ("height", counted.height),
    ):
        root.set(name, f"{value:g}")
    shown = (area.left, area.top, area.width, area.height)
    width, height = size or area.size.rounded
    outer = ElementTree.Element(
        f"{{{SVG}}}svg",
        {
            "width": str(width),
            "height": str(height),
            "viewBox": " ".join(f"{round(one, 2):g}" for one in shown),
            "preserveAspectRatio": "none",
        },
    )
    outer.append(root)
    return as_file(outer)


def _drawn(root: Element) -> tuple[float, int]:
    """How many elements are drawn, and how many within each other, references followed.

    What refers to itself is not drawn at all; beyond DEEPEST nothing is followed any more.
    """
    named = {one.get("id"): one for one in root.iter() if one.get("id")}
    found: dict[Element, tuple[float, int]] = {}

    def look(element: Element, above: int) -> tuple[float, int]:
        if element in found or above > DEEPEST:
            return found.get(element, (1, 1))
        found[element] = 0, 0
        inner = [*element, *(named[name] for name in _referred(element) if name in named)]
        looks = [look(one, above + 1) for one in inner]
        depth = 1 + max((one[1] for one in looks), default=0)
        found[element] = 1 + sum(one[0] for one in looks), depth
        return found[element]

    return look(root, 0)


def _referred(element: Element) -> list[str]:
    names = []
    for name, value in element.attrib.items():
        if name.rpartition("}")[2] == "href" and value.strip().startswith("#"):
            names.append(value.strip()[1:])
        names += _REFERENCE.findall(value)
    return names
