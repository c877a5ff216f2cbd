"""What every clip codec is: its encoder, its container, and how its files fare."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from brightcanvas.values.clip_formats import ClipFormat


@dataclass(frozen=True)
class ClipCurve:
    """How a codec's clips usually fare."""

    first: int
    """Quality that is tried first."""
    slope: float
    """By how much the logarithm of the distortion rises for each step of quality."""
    lightens: float
    """By how much the logarithm of the bytes falls for each step."""
    last: int
    """The lowest quality there is."""
    settles: float = 0.0
    """By how much the logarithm of the distortion of a whole clip is above that of its first
    frames, about."""


@dataclass(frozen=True)
class ClipCodec:
    """One format of clips."""

    format: ClipFormat
    encoder: str
    """What the codec library calls it."""
    container: str
    options: Callable[[int, int], Mapping[str, str]]
    """For the encoder, from its quality and the frames between two key frames."""
    curve: ClipCurve
    tracks: tuple[str, ...]
    """How tracks begin to name themselves (RFC 6381) that every player of the format plays."""
    container_options: Mapping[str, str] = field(default_factory=dict)
