"""What the page's own ``background-position`` says of where its picture matters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from brightcanvas.css.declared import Element
from brightcanvas.css.styles import Styles
from brightcanvas.values.geometry import Point, Size
from brightcanvas.values.lengths import bare, split

ACROSS = {"left": 0.0, "center": 0.5, "right": 1.0}
DOWN = {"top": 0.0, "center": 0.5, "bottom": 1.0}
MIDDLE = 0.5
NEAR = 0.03
"""Share by which a position may be off the middle and still say nothing."""


def focus_of(styles: Styles, element: Element, picture: Size, box: Size) -> Point | None:
    """The middle of what a box shows of its picture; None where the page states no position.

    Where a page's author moved the picture so that a narrow box shows some part, that part matters.

    Args:
        styles: of the window.
        element: with the picture.
        picture: its size, px.
        box: the element's, CSS px, which the picture covers.
    """
    stated = position_of(styles.value(element, ("background-position", "background")))
    if stated is None or max(abs(stated[0] - MIDDLE), abs(stated[1] - MIDDLE)) < NEAR:
        return None
    across = min(1.0, box.aspect / picture.aspect)
    down = min(1.0, picture.aspect / box.aspect)
    return Point(_middle(stated[0], across), _middle(stated[1], down))


def _middle(position: float, shown: float) -> float:
    """Of the stretch that is shown, in fractions of the picture."""
    return round(min(1.0, max(0.0, position * (1 - shown) + shown / 2)), 3)


def position_of(value: Sequence[Any]) -> tuple[float, float] | None:
    """A position in fractions, as its last layer has it; None for one in px, or for none."""
    layer = split(value, ",")[-1] if value else []
    before_size = split(layer, "/")[0] if layer else []
    words = [one for one in bare(before_size) if _is_part(one)]
    if not words:
        return None
    if len(words) == 1:
        words = [words[0], None]
    first, second = words[0], words[1]
    if _word(first) in ("top", "bottom") or _word(second) in ("left", "right"):
        first, second = second, first
    return _share(first, ACROSS), _share(second, DOWN)


def _is_part(token: Any) -> bool:  # noqa: ANN401
    return token.type == "percentage" or _word(token) in {*ACROSS, *DOWN}


def _word(token: Any) -> str:  # noqa: ANN401
    return str(token.lower_value) if token is not None and token.type == "ident" else ""


def _share(token: Any, words: dict[str, float]) -> float:  # noqa: ANN401
    if token is None:
        return MIDDLE
    if token.type == "percentage":
        return min(1.0, max(0.0, float(token.value) / 100))
    return words.get(_word(token), MIDDLE)
