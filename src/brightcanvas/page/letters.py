"""How large letters are in one window, as far as style sheets say."""

from __future__ import annotations

from brightcanvas.css.declared import Element
from brightcanvas.css.lengths import length
from brightcanvas.css.styles import Styles
from brightcanvas.values.lengths import EM, NotALengthError, bare

BY_ITSELF = {"h1": 2.0, "h2": 1.5, "h3": 1.17, "h5": 0.83, "h6": 0.67, "small": 0.83}
"""Times the letters round it: what browsers make of an element of itself (HTML, section 15.3.7)."""


def size_of(element: Element, styles: Styles) -> float:
    """CSS px; what is said in words alone is taken to be as around it."""
    outer = element.parent
    around = size_of(outer, styles) if outer is not None else EM
    said = bare(styles.value(element, ("font-size", "font")))
    for token in said:
        if token.type == "percentage":
            return around * float(token.value) / 100
        if token.type == "dimension" and token.lower_unit == "em":
            return around * float(token.value)
        if token.type in ("dimension", "function"):
            try:
                return length(token, styles.viewer)
            except NotALengthError:
                continue
    return around if said else around * BY_ITSELF.get(element.etree_element.tag, 1.0)
