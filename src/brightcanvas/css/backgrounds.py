"""The layers of a background, with what each of them says of size, position and the rest.

CSS Backgrounds 3: longhands are lists, of which each layer takes its own entry (section 3.10); the
shorthand names them together (section 3.11).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import tinycss2

from brightcanvas.css.layer_lists import SETS, url_of
from brightcanvas.css.selectors import Element
from brightcanvas.css.styles import Styles
from brightcanvas.values.layers import GRADIENTS
from brightcanvas.values.lengths import bare, split
from brightcanvas.values.page_text import component_values

LONGHANDS = ("image", "size", "position", "repeat", "attachment")

INITIAL = {"image": "none", "size": "auto", "position": "0% 0%", "repeat": "repeat",
           "attachment": "scroll"}  # fmt: skip

_REPEATS = ("repeat", "repeat-x", "repeat-y", "no-repeat", "space", "round")
_ATTACHMENTS = ("scroll", "fixed", "local")
_BOXES = ("border-box", "padding-box", "content-box")


@dataclass(frozen=True)
class Layer:
    """One layer, each value as CSS text."""

    image: str
    size: str
    position: str
    repeat: str
    attachment: str

    @property
    def urls(self) -> tuple[str, ...]:
        """Of the files that it may fetch: one, or those of an ``image-set``."""
        return tuple(_urls(component_values(self.image)))


def _urls(tokens: Sequence[Any]) -> list[str]:
    found: list[str] = []
    for one in tokens:
        url = url_of(one)
        if url is not None:
            found += [url] if url else []
        elif one.type == "function" and one.lower_name in SETS:
            found += _urls(one.arguments)
            found += [str(token.value) for token in one.arguments if token.type == "string"]
    return found


def layers_of(said: Mapping[str, str]) -> tuple[Layer, ...]:
    """The layers, from the values of the longhands as CSS text, by their names without prefix."""
    listed = {name: _texts(said.get(name) or INITIAL[name]) for name in LONGHANDS}
    return tuple(
        Layer(image, **{
            name: values[number % len(values)]
            for name, values in listed.items() if name != "image"
        })
        for number, image in enumerate(listed["image"])
    )  # fmt: skip


def _texts(value: str) -> list[str]:
    return [_text(one) for one in split(component_values(value), ",")]


def _text(tokens: Sequence[Any]) -> str:
    return " ".join(str(tinycss2.serialize(tokens)).split())


def declared_layers(styles: Styles, element: Element, pseudo: str = "") -> tuple[Layer, ...]:
    """The layers of an element's background, as the style sheets declare them."""
    said = {}
    for name in LONGHANDS:
        names = (f"background-{name}", "background")
        winner = styles.winner_of(element, names, pseudo)
        value = styles.value(element, names, pseudo)
        is_short = winner is not None and winner.name == "background"
        said[name] = ", ".join(_of_shorthand(value)[name]) if is_short else _text(value)
    return layers_of(said)


def _of_shorthand(value: Sequence[Any]) -> dict[str, list[str]]:
    layers = [_layer_of(bare(one)) for one in split(value, ",")]
    return {name: [one.get(name) or INITIAL[name] for one in layers] for name in LONGHANDS}


def _layer_of(tokens: Sequence[Any]) -> dict[str, str]:
    """What one layer of the shorthand says, by longhand."""
    found: dict[str, list[Any]] = {}
    is_size = False
    for one in tokens:
        if one.type == "literal" and one.value == "/":
            is_size = True
            continue
        name = _longhand(one, is_size=is_size)
        if name:
            found.setdefault(name, []).append(one)
    return {name: " ".join(_text([one]) for one in parts) for name, parts in found.items()}


def _longhand(token: Any, *, is_size: bool) -> str:  # noqa: ANN401
    """Which longhand a value of the shorthand is for; empty: one that is passed over."""
    word = token.lower_value if token.type == "ident" else ""
    is_function = token.type == "function" and token.lower_name in (*GRADIENTS, *SETS)
    if is_function or url_of(token) is not None:
        return "image"
    if word in _REPEATS:
        return "repeat"
    if word in _ATTACHMENTS:
        return "attachment"
    if word in ("cover", "contain", "auto"):
        return "size"
    is_place = word in ("left", "right", "top", "bottom", "center")
    is_length = token.type in ("percentage", "dimension", "number") or (
        token.type == "function" and token.lower_name in ("calc", "min", "max", "clamp")
    )
    return ("size" if is_size else "position") if is_place or is_length else ""
