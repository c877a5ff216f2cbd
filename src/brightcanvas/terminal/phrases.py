"""Numbers and ranges as designers say them."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from brightcanvas.values.geometry import Orientation, Size, plain_number
from brightcanvas.values.words import bytes_text

if TYPE_CHECKING:
    from brightcanvas.brief.brief import Breakpoint
    from brightcanvas.formats.clips.clip_reading import ClipFacts


def breakpoint_text(breakpoint_: Breakpoint) -> str:
    """A breakpoint with its widths: ``handheld, to 639 px``, ``desk, from 1100 px``."""
    span = breakpoint_.widths
    low = plain_number(span.low)
    if span.high == math.inf:
        told = f"from {low} px" if span.low else "every width"
    else:
        last = math.ceil(span.high) - 1
        told = f"{low} to {last} px" if span.low else f"to {last} px"
    held = {Orientation.PORTRAIT: ", upright", Orientation.LANDSCAPE: ", on its side"}
    way = held[breakpoint_.orientation] if breakpoint_.orientation else ""
    return f"{breakpoint_.name}, {told}{way}"


def box(size: Size) -> str:
    """A size in whole px."""
    return f"{round(size.width)} x {round(size.height)}"


def clip_text(facts: ClipFacts) -> str:
    """A clip in a few words."""
    told = f"{box(facts.size)} px, {facts.seconds:.2f} s, {float(facts.rate):g} frames a second"
    told += f", {facts.codec}, {bytes_text(facts.bytes)}"
    shape = facts.pixel_shape
    extras = {
        "with sound (left out)": facts.has_sound,
        "transparent in part (left out)": facts.has_alpha,
        f"{facts.bits} bit": facts.bits > 8,
        "HDR (brought into sRGB)": facts.is_hdr,
        "interlaced (made whole)": facts.is_interlaced,
        f"turned by {facts.rotation} degrees": facts.rotation != 0,
        f"px of {shape.numerator}:{shape.denominator} (made square)": shape != 1,
    }
    return ", ".join([told, *(word for word, holds in extras.items() if holds)])
