"""The pictures that a ``background-image`` fetches."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from brightcanvas.css.computed_lengths import resolution
from brightcanvas.css.srcset import Candidate, chosen, known_type
from brightcanvas.values.environments import Environment
from brightcanvas.values.layers import GRADIENTS
from brightcanvas.values.lengths import NotALengthError, Token, bare, split
from brightcanvas.values.page_text import component_values

SETS = ("image-set", "-webkit-image-set")

DRAWING = "image/svg+xml"


class InvalidLayerError(ValueError):
    """What a browser doesn't understand: it drops the whole declaration."""


def pictures(value: Sequence[Any], environment: Environment) -> list[str]:
    """The URLs that a valid value fetches, one for each of its layers at most.

    Raises:
        InvalidLayerError: the value is none, so that an earlier declaration counts.
    """
    return [
        url for part in split(value, ",") if (url := _layer(bare(part), environment)) is not None
    ]


def _layer(tokens: list[Any], environment: Environment) -> str | None:
    if len(tokens) != 1:
        raise InvalidLayerError
    token = tokens[0]
    if token.type == "ident" and token.lower_value == "none":
        return None
    if token.type == "function" and token.lower_name in GRADIENTS and bare(token.arguments):
        return None
    return _picture(token, environment)


def _picture(token: Token, environment: Environment) -> str | None:
    url = url_of(token)
    if url is not None:
        return url or None
    if token.type == "function" and _knows_set(token.lower_name, environment):
        return _from_set(token.arguments, environment)
    raise InvalidLayerError


def _knows_set(name: str, environment: Environment) -> bool:
    knows = (
        environment.knows.prefixed_sets if name.startswith("-webkit-") else environment.knows.sets
    )
    return name in SETS and knows


def url_of(token: Token) -> str | None:
    """What stands in ``url()``, with or without quotes; None for anything else."""
    if token.type == "url":
        return str(token.value)
    if token.type == "function" and token.lower_name == "url":
        inner = bare(token.arguments)
        if inner and inner[0].type == "string":
            return str(inner[0].value)
    return None


def _from_set(arguments: Sequence[Any], environment: Environment) -> str | None:
    """The option of an ``image-set`` (CSS Images 4, section 2.4), as browsers take it.

    A type that is unknown rules an option out; among the others density decides, and of equal
    densities the first one in the list.
    """
    options = [_option(bare(part), environment) for part in split(arguments, ",")]
    known = [one for one in options if one is not None]
    return chosen(known, environment.density)


def _option(tokens: list[Any], environment: Environment) -> Candidate | None:
    if not tokens:
        raise InvalidLayerError
    first = tokens[0]
    url = str(first.value) if first.type == "string" else url_of(first)
    if url is None and not (first.type == "function" and first.lower_name in GRADIENTS):
        raise InvalidLayerError
    density, media_type = 1.0, ""
    seen: set[str] = set()
    for token in tokens[1:]:
        kind = "type" if token.type == "function" and token.lower_name == "type" else "density"
        if kind in seen:
            raise InvalidLayerError
        seen.add(kind)
        if kind == "type" and not environment.knows.typed_sets:
            raise InvalidLayerError
        if kind == "type":
            media_type = _type_named(token)
        else:
            density = _density(token)
    is_known = known_type(media_type, environment) and _is_taken(media_type, environment)
    return Candidate(url or "", density) if is_known else None


def _is_taken(media_type: str, environment: Environment) -> bool:
    return environment.drawings_in_sets or media_type.strip().lower() != DRAWING


def _type_named(token: Token) -> str:
    inner = bare(token.arguments)
    if len(inner) != 1 or inner[0].type != "string":
        raise InvalidLayerError
    return str(inner[0].value)


def _density(token: Token) -> float:
    try:
        density = resolution(token)
    except NotALengthError as error:
        raise InvalidLayerError from error
    if density <= 0:
        raise InvalidLayerError
    return density


def parsed(text: str) -> list[Any]:
    """A value's tokens."""
    return component_values(text)
