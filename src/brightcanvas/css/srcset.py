"""Which of several files a browser takes, by the densities that they are offered for.

How: HTML, section 4.8.4.2 leaves the choice to browsers, and so does CSS Images 4, section 2.4.
Measured in two browsers, they take the smallest that is dense enough, and else the densest;
of equals the first one.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import tinycss2

from brightcanvas.css.computed_lengths import length
from brightcanvas.css.media_queries import decide
from brightcanvas.values.environments import Environment
from brightcanvas.values.lengths import NotALengthError, bare, split
from brightcanvas.values.page_text import component_values

SPACES = " \t\n\f\r"


@dataclass(frozen=True)
class Candidate:
    """A file that is offered for a density."""

    url: str
    density: float


def chosen(candidates: Sequence[Candidate], density: float) -> str | None:
    """The URL that is fetched; None where nothing is on offer."""
    if not candidates:
        return None
    enough = [one for one in candidates if one.density >= density]
    if enough:
        return min(enough, key=lambda one: one.density).url
    return max(candidates, key=lambda one: one.density).url


@dataclass(frozen=True)
class _Described:
    url: str
    width: int | None = None
    density: float | None = None


def from_srcset(
    srcset: str, sizes: str, fallback: str, environment: Environment
) -> list[Candidate]:
    """What an ``img`` or a ``source`` offers (HTML, section 4.8.4.3).

    Args:
        srcset: of the element, or ``imagesrcset`` of a hint.
        sizes: of the element, or ``imagesizes``.
        fallback: ``src`` or ``href``; it counts as a 1x candidate where ``srcset`` has none.
        environment: for whom.
    """
    described = list(_parsed(srcset))
    has_widths = any(one.width is not None for one in described)
    if fallback and not has_widths and not any(_one_x(one) for one in described):
        described.append(_Described(fallback))
    across = slot_width(sizes, environment) if has_widths else 0.0
    candidates: dict[float, Candidate] = {}
    for one in described:
        density = one.width / across if one.width is not None and across else one.density
        density = float("inf") if one.width is not None and not across else density
        density = 1.0 if density is None else density
        candidates.setdefault(density, Candidate(one.url, density))
    return list(candidates.values())


def _one_x(one: _Described) -> bool:
    return one.width is None and one.density in (None, 1.0)


def _parsed(srcset: str) -> Iterator[_Described]:
    """Candidates one by one; those with descriptors that make no sense are left out."""
    at, end = 0, len(srcset)
    while at < end:
        while at < end and srcset[at] in SPACES + ",":
            at += 1
        start = at
        while at < end and srcset[at] not in SPACES:
            at += 1
        url = srcset[start:at]
        if not url:
            return
        descriptors: list[str] = []
        if url.endswith(","):
            url = url.rstrip(",")
        else:
            descriptors, at = _descriptors(srcset, at)
        found = _described(url, descriptors)
        if found:
            yield found


def _descriptors(srcset: str, at: int) -> tuple[list[str], int]:
    """The words up to the next comma that stands in no parentheses, and where that is."""
    words, depth, current = [], 0, ""
    while at < len(srcset):
        sign = srcset[at]
        at += 1
        if sign == "," and not depth:
            break
        depth += {"(": 1, ")": -1 if depth else 0}.get(sign, 0)
        if sign in SPACES and not depth:
            words.append(current)
            current = ""
        else:
            current += sign
    return [word for word in [*words, current] if word], at


def _described(url: str, descriptors: list[str]) -> _Described | None:
    width: int | None = None
    density: float | None = None
    heights = 0
    for one in descriptors:
        kind, amount = one[-1], one[:-1]
        if kind == "w" and width is None and density is None and _is_whole(amount):
            width = int(amount)
        elif kind == "x" and width is None and density is None and not heights:
            density = _float(amount)
            if density is None or density < 0:
                return None
        elif kind == "h" and not heights and density is None and _is_whole(amount):
            heights = int(amount)
        else:
            return None
    is_whole = (width is None or width > 0) and not (heights and width is None)
    return _Described(url, width, density) if is_whole else None


MOST_DIGITS = 9


def _is_whole(text: str) -> bool:
    """Whether it is a whole number of px that a picture could have."""
    return text.isascii() and text.isdecimal() and len(text) <= MOST_DIGITS


def _float(text: str) -> float | None:
    """A floating-point number as HTML has it: no sign ``+``, no words."""
    if not text or text[0] == "+" or set(text) - set("0123456789.eE+-") or text[-1] == ".":
        return None
    try:
        return float(text)
    except ValueError:
        return None


def slot_width(sizes: str, environment: Environment) -> float:
    """CSS px that ``sizes`` says the picture takes up; 100vw where it says nothing usable."""
    for part in split(component_values(sizes), ","):
        tokens = bare(part)
        if not tokens:
            continue
        try:
            across = length(tokens[-1], environment)
        except NotALengthError:
            continue
        condition = tinycss2.serialize(part[: part.index(tokens[-1])]).strip()
        if across >= 0 and (not condition or decide(condition, environment) is True):
            return across
    return environment.width


def known_type(media_type: str, environment: Environment) -> bool:
    """Whether a ``type`` leads to a fetch: empty, or a picture type that the browser knows."""
    plain = media_type.split(";", maxsplit=1)[0].strip().lower()
    return not media_type or (plain in environment.types and ";" not in media_type)
