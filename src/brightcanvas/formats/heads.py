"""What the head of a source file tells."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.values.geometry import Size


@dataclass(frozen=True)
class Head:
    """Facts that need no pixels."""

    size: Size
    has_alpha: bool = False
    jpeg_quality: int | None = None
    seconds: float | None = None
