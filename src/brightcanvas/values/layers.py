"""The layers of a background, and how large a picture is in its element."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import tinycss2

from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.lengths import bare, split

PICTURE = "picture"
"""Stands for our picture."""

GRADIENTS = tuple(
    prefix + kind
    for prefix in ("", "repeating-", "-webkit-", "-webkit-repeating-")
    for kind in ("linear-gradient", "radial-gradient", "conic-gradient")
)

_WANTED = "gradients and one 'picture', as in linear-gradient(#0008, #0000), picture"
MOST_LETTERS = 4000


def check_layers(text: str) -> str:
    """The text, if it is a list of gradients with one picture; ValueError says what is wanted."""
    if len(text) > MOST_LETTERS:
        raise ValueError(_WANTED)
    listed = [bare(one) for one in split(tinycss2.parse_component_value_list(text), ",")]
    if not all(_is_layer(one) for one in listed) or sum(map(_is_picture, listed)) != 1:
        raise ValueError(_WANTED)
    return text


def with_picture(layers: str, picture: str, others: str = "") -> str:
    """A list of values for the layers, as of ``background-image``.

    Args:
        layers: as ``check_layers`` takes them.
        picture: the value that takes the word's place.
        others: the value of all other layers; empty: they stay as they are.
    """
    listed = split(tinycss2.parse_component_value_list(layers), ",")
    return ", ".join(
        picture if _is_picture(bare(one)) else others or str(tinycss2.serialize(one)).strip()
        for one in listed
    )


def _is_picture(layer: Sequence[Any]) -> bool:
    return len(layer) == 1 and layer[0].type == "ident" and layer[0].lower_value == PICTURE


def _is_layer(layer: Sequence[Any]) -> bool:
    """A picture, nothing, or a gradient without anything in it that would be fetched."""
    if len(layer) != 1:
        return False
    [one] = layer
    if one.type == "ident":
        return str(one.lower_value) in (PICTURE, "none")
    return one.type == "function" and one.lower_name in GRADIENTS and _is_plain(one.arguments)


def _is_plain(tokens: Sequence[Any]) -> bool:
    """Nothing that could leave the value, or name a file."""
    return all(
        one.type not in ("error", "url", "{} block", "string", "literal")
        or (one.type == "literal" and one.value in (",", "/"))
        for one in tokens
    ) and all(_is_plain(one.arguments) for one in tokens if one.type == "function")


class Fit(Protocol):
    """A rule for the width at which a picture is drawn."""

    @property
    def css(self) -> str:
        """The value of ``background-size``."""

    def drawn_width(self, aspect: float, box: Size) -> float:
        """How wide a picture of ``aspect`` is drawn in ``box``, in the box's unit."""


@dataclass(frozen=True)
class Cover:
    """Fill the box; what overhangs is cut off."""

    css: str = "cover"

    def drawn_width(self, aspect: float, box: Size) -> float:
        """See Fit."""
        return max(box.width, box.height * aspect)


@dataclass(frozen=True)
class Contain:
    """Show all of the picture, as large as the box allows."""

    css: str = "contain"

    def drawn_width(self, aspect: float, box: Size) -> float:
        """See Fit."""
        return min(box.width, box.height * aspect)


@dataclass(frozen=True)
class Exact:
    """Always the same width in CSS px, as the tiles of a pattern have it."""

    width: float

    @property
    def css(self) -> str:
        """See Fit."""
        return f"{plain_number(self.width)}px"

    def drawn_width(self, aspect: float, box: Size) -> float:  # noqa: ARG002
        """See Fit."""
        return self.width


@dataclass(frozen=True)
class Rounded:
    """About that width in CSS px, stretched or squeezed so that whole tiles fill the box.

    ``background-repeat: round`` (CSS Backgrounds 3, section 3.4): from two tiles side by side
    on, a tile grows to at most 1.25 times its width.
    """

    width: float

    @property
    def css(self) -> str:
        """See Fit."""
        return f"{plain_number(self.width)}px"

    def drawn_width(self, aspect: float, box: Size) -> float:  # noqa: ARG002
        """See Fit."""
        return self.width * 1.25


def parse_fit(text: str) -> Fit:
    """Read ``cover``, ``contain`` or a width such as ``240px``; ValueError otherwise."""
    word = text.strip().lower()
    if word in ("cover", "contain"):
        return Cover() if word == "cover" else Contain()
    match = re.fullmatch(r"(\d{1,6}(?:\.\d{1,9})?)px", word)
    if match is None or float(match[1]) <= 0:
        raise ValueError("cover, contain or a width such as 240px")
    return Exact(float(match[1]))
