"""What was made, in words for people."""

from __future__ import annotations

from brightcanvas.values.legible import Scrim


def scrim_text(scrim: Scrim) -> str:
    """A scrim in words: ``a 38 % dark scrim on the left``."""
    colour = scrim.colour
    is_grey = colour.red == colour.green == colour.blue
    tone = ("dark" if colour.red < 0.5 else "light") if is_grey else colour.css
    place = {"left": " on the left", "right": " on the right", "top": " above", "bottom": " below"}
    kind = "scrim of fine lines" if scrim.lines else "scrim"
    return f"a {scrim.strength:.1%} {tone} {kind}{place.get(scrim.side or '', '')}".replace(
        "%", " %"
    )
