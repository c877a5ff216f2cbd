"""What shows a large picture on a page and isn't drafted: named, with the reason and what to do."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from brightcanvas.measuring.pictures import BACKGROUND, IMG, LargePicture
from brightcanvas.page.folder import HOST


@dataclass(frozen=True)
class LeftOut:
    """An element that shows a picture and isn't drafted."""

    name: str
    """As people would name it."""
    reason: str
    """With what to do."""


def others_left_out(
    pictures: Iterable[LargePicture], known: AbstractSet[tuple[str, str]]
) -> Iterator[LeftOut]:
    """What a browser showed beside the backgrounds of style sheets, each once.

    Args:
        pictures: that a browser showed.
        known: what is told already: places, each with its pseudo-element, and names, each with a
            URL, for scripts move things.
    """
    told: set[tuple[str, tuple[str, ...]]] = set()
    for one in pictures:
        key = (one.name, one.files)
        is_known = (one.path, one.pseudo) in known or {(one.name, url) for url in one.files} & known
        if is_known or key in told or not _is_backdrop(one):
            continue
        told.add(key)
        yield LeftOut(one.name, _reason(one))


def _is_backdrop(one: LargePicture) -> bool:
    """Whether it lies behind content; a picture of the text does not."""
    return one.kind != IMG or one.fills or one.has_text


def _reason(one: LargePicture) -> str:
    names = ", ".join(dict.fromkeys(_name(url) for url in one.files[:3]))
    if one.kind == BACKGROUND:
        return f"a script shows {names}: write a [[backdrop]] with its element by hand"
    if one.kind == IMG:
        return f"an img shows {names}: to fill the box behind it, form = 'element' by hand"
    return f"a clip, {names}: write a [[backdrop]] with source and [backdrop.clip] by hand"


def _name(url: str) -> str:
    parts = urlsplit(url)
    here = f"{parts.scheme}://{parts.netloc}" == HOST
    return unquote(parts.path).rpartition("/")[2] if here else url
