"""The layers of a background, as CSS writes them, with a word where our picture goes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import tinycss2

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
