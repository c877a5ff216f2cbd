"""SVG drawings without what nobody sees: metadata, editors' data, scripts, outside references.

What is rendered stays the same, as browsers render a drawing in a background (SVG 2, section
2.2: "secure static mode", where scripts don't run and nothing outside is fetched).
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from xml.etree import ElementTree

import defusedxml
from defusedxml.ElementTree import fromstring

from brightcanvas.formats.codec_libraries import explained
from brightcanvas.values.errors import SourceError

SVG = "http://www.w3.org/2000/svg"
XLINK = "http://www.w3.org/1999/xlink"
XML = "http://www.w3.org/XML/1998/namespace"

LARGEST = 20_000_000
"""Bytes; a drawing beyond that is no decoration."""

SHOWN = 2560 * 2
"""Px across at which rounding must not be seen."""

FINEST = 512
"""Parts of a px that an edge may move by: below half a step of its colour."""

HUGE = 1e9
"""Units that no side of a drawing has."""

DEEPEST = 50
"""Elements within each other: renderers run out of small stacks not far beyond."""

_DROPPED = ("metadata", "script", "handler", "listener", "desc", "foreignObject")
_TEXT = ("text", "tspan", "textPath", "style", "title")
_NUMBERS = frozenset((
    "d", "points", "transform", "gradientTransform", "patternTransform", "x", "y", "x1", "y1",
    "x2", "y2", "cx", "cy", "r", "rx", "ry", "fx", "fy", "width", "height", "dx", "dy", "offset",
    "stroke-width", "stroke-dasharray", "stroke-dashoffset", "font-size",
))  # fmt: skip
_NUMBER = re.compile(r"-?(?:\d+\.\d*|\.\d+)(?:[eE][-+]?\d+)?")
_PICTURE_DATA = re.compile(r"\s*data:image/(png|jpeg|gif|webp|avif)\b", re.IGNORECASE)
_URL = re.compile(r"url\(\s*(['\"]?)(.*?)\1\s*\)", re.IGNORECASE)
_IMPORT = re.compile(r"@import[^;]*;?", re.IGNORECASE)

Element = ElementTree.Element


def cleaned(content: bytes, name: str) -> bytes:
    """The drawing without what is not rendered; see ``cleaned_root``."""
    return as_file(cleaned_root(content, name))


def as_file(root: Element) -> bytes:
    """A drawing as the content of a file."""
    ElementTree.register_namespace("", SVG)
    ElementTree.register_namespace("xlink", XLINK)
    written = bytes(ElementTree.tostring(root, encoding="utf-8"))
    return written.replace(b" />", b"/>")  # in texts and attributes the last sign is escaped


def cleaned_root(content: bytes, name: str) -> Element:
    """The drawing's outermost element, without what is not rendered in it.

    Args:
        content: of the SVG file.
        name: of the file, for messages.

    Raises:
        SourceError: it is damaged, too large, or declares entities of its own.
    """
    if len(content) > LARGEST:
        raise SourceError(f"{name}: {len(content) / 1e6:.0f} MB are too much for a drawing.")
    with explained(name, "drawing"):
        root = _parsed(content, name)
    if root.tag != f"{{{SVG}}}svg":
        raise SourceError(f"{name}: this is XML, but no SVG drawing.")
    _check_depth(root, name)
    _clean(root, _decimals(root))
    return root


def _parsed(content: bytes, name: str) -> Element:
    try:
        parsed: Element = fromstring(content, forbid_dtd=False, forbid_entities=True)
    except defusedxml.DefusedXmlException as error:
        raise SourceError(
            f"{name}: it declares entities of its own, which can hide anything. Save it as"
            " plain SVG."
        ) from error
    return parsed


def _check_depth(root: Element, name: str) -> None:
    level, depth = [root], 0
    while level:
        level, depth = [child for one in level for child in one], depth + 1
        if depth > DEEPEST:
            raise SourceError(f"{name}: it is nested more than {DEEPEST} deep. Simplify it.")


def _decimals(root: Element) -> int:
    """Digits after the point that are needed so that rounding is not seen."""
    extent = _extent(root)
    return max(1, math.ceil(math.log10(SHOWN * FINEST / extent)))


def view_box(root: Element) -> tuple[float, float, float, float] | None:
    """Left, top, width and height of what a drawing shows, in its own units, if it says so."""
    try:
        left, top, width, height = map(float, root.get("viewBox", "").replace(",", " ").split())
    except ValueError:
        return None
    is_usable = all(map(math.isfinite, (left, top))) and 0 < width < HUGE and 0 < height < HUGE
    return (left, top, width, height) if is_usable else None


def _extent(root: Element) -> float:
    """The drawing's longer side in its own units."""
    box = view_box(root)
    if box:
        return max(box[2], box[3], 1e-3)
    sides = [re.match(r"\d+\.?\d*|\.\d+", root.get(side, "")) for side in ("width", "height")]
    return min(max([*(float(side.group()) for side in sides if side), 1.0]), HUGE)


def _clean(element: Element, decimals: int) -> None:
    _clean_attributes(element, decimals)
    keeps_text = _local(element) in _TEXT
    if not keeps_text:
        element.text = None
    elif _local(element) == "style":
        element.text = _safe_style(element.text or "")
    for child in list(element):
        if _is_dropped(child):
            _remove(element, child)
            continue
        if not keeps_text:
            child.tail = None
        _clean(child, decimals)


def _remove(parent: Element, child: Element) -> None:
    """Take a child away, but not the text behind it."""
    place = list(parent).index(child)
    text = child.tail if child.tail and child.tail.strip() else None
    if text and place:
        before = parent[place - 1]
        before.tail = (before.tail or "") + text
    elif text:
        parent.text = (parent.text or "") + text
    parent.remove(child)


def _local(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _is_dropped(element: Element) -> bool:
    is_foreign = not isinstance(element.tag, str) or not element.tag.startswith(f"{{{SVG}}}")
    name = _local(element)
    changes_link = name in ("set", "animate") and "href" in element.get("attributeName", "")
    return is_foreign or name in _DROPPED or changes_link


def _clean_attributes(element: Element, decimals: int) -> None:
    kept = dict(_kept_attributes(element))
    element.attrib.clear()
    for name, value in kept.items():
        local = name.rpartition("}")[2]
        if local == "style":
            value = _safe_style(value)
        if local in _NUMBERS:
            # Relative steps add up, so they get more digits.
            extra = 2 if local == "d" or "ransform" in local else 0
            value = rounded(value, decimals + extra)
        element.set(name, value)


def _kept_attributes(element: Element) -> Iterator[tuple[str, str]]:
    for name, value in element.attrib.items():
        space, _, local = name[1:].rpartition("}") if name.startswith("{") else ("", "", name)
        if space not in ("", XLINK, XML) or local.lower().startswith("on"):
            continue
        if local == "href" and not _stays_inside(value):
            continue
        if space == XLINK and local != "href":
            continue
        if "url(" in value.lower() and local != "style" and _safe_style(value) != value:
            continue
        yield name, value


def _stays_inside(link: str) -> bool:
    return link.strip().startswith("#") or bool(_PICTURE_DATA.match(link))


_PREFIXED = re.compile(r"(?<![\w-])-[a-z]\w*-[\w-]+\s*:[^;}]*;?", re.IGNORECASE)
"""Properties with an editor's or a browser's prefix: the standard ones draw."""


def _safe_style(text: str) -> str:
    """Style rules without anything that is fetched from outside, or that editors noted."""

    def inside(found: re.Match[str]) -> str:
        return found.group() if _stays_inside(found.group(2)) else "none"

    text = _URL.sub(inside, _IMPORT.sub("", text))
    return _PREFIXED.sub("", text)


def rounded(text: str, decimals: int) -> str:
    """Every number in a text with at most so many digits after its point."""
    parts: list[str] = []
    end = 0
    for found in _NUMBER.finditer(text):
        parts.append(text[end : found.start()])
        number = _short(found.group(), decimals)
        before = text[found.start() - 1 : found.start()]
        if found.group().startswith("-") and not number.startswith("-") and before not in " ,(":
            parts.append(" ")
        parts.append(number)
        end = found.end()
        follows = text[end : end + 1]
        if follows == "." and "." not in number:
            parts.append(" ")
    return "".join([*parts, text[end:]])


def _short(number: str, decimals: int) -> str:
    value = round(float(number), decimals)
    plain = f"{value:.{decimals}f}".rstrip("0").rstrip(".")
    plain = "0" if plain in ("-0", "") else plain
    return min(plain.replace("0.", ".", 1) if abs(value) < 1 else plain, number, key=len)
