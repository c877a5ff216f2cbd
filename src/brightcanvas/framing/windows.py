"""The part of a cut that a box shows under ``cover``.

CSS Backgrounds 3, sections 3.6 (position) and 3.9 (size): the picture is scaled until it
fills the box, and what overhangs is shared out by the position's percentages.
``object-fit: cover`` with ``object-position`` is the same arithmetic.
"""

from __future__ import annotations

from brightcanvas.values.geometry import Point, Rect, Size


def window_size(cut: Size, aspect: float) -> Size:
    """How much of ``cut`` a box of ``aspect`` shows, in the cut's own pixels."""
    return Size(min(cut.width, cut.height * aspect), min(cut.height, cut.width / aspect))


def visible_window(cut: Size, position: Point, aspect: float) -> Rect:
    """Which part of ``cut`` a box of ``aspect`` shows, in the cut's own pixels.

    For one position the windows of all aspects are nested: a narrower box (below the
    cut's own aspect) shows a part of what a wider one shows, and the other way round
    above it. So the narrowest and the widest box decide for all between them.
    """
    window = window_size(cut, aspect)
    left = position.x * (cut.width - window.width)
    top = position.y * (cut.height - window.height)
    return Rect(left, top, left + window.width, top + window.height)
