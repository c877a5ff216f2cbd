"""What holds for each element in one window: winners, inherited values, pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import tinycss2
from tinycss2.ast import FunctionBlock

from brightcanvas.css.layer_lists import SETS, InvalidLayerError, pictures, url_of
from brightcanvas.css.media_queries import matches
from brightcanvas.css.selectors import NEVER_SHOWN, Declared, Element
from brightcanvas.values.environments import Environment
from brightcanvas.values.layers import GRADIENTS
from brightcanvas.values.lengths import Token, bare, is_word, split
from brightcanvas.values.page_text import joined

DEEPEST_VAR = 20
MOST_TOKENS = 2000
"""Of a value with all that is put in for its variables."""

NO_CONTENT = ("", "none", "normal")

LISTED = ("list-style-image", "list-style")
OF_BOX = (
    ("border-image-source", "border-image"),
    ("mask-image", "mask", "-webkit-mask-image", "-webkit-mask"),
)
"""Further properties that fetch pictures, each by its longhand and its shorthand."""


BACKGROUNDS = ("background-image", "background")

PAINTING = frozenset((*BACKGROUNDS, *(name for names in OF_BOX for name in names), "content"))
"""The properties that fetch pictures for the element that they are declared for."""


class Styles:
    """The declarations that hold in one window."""

    def __init__(
        self, declared: Callable[[Element, str], Sequence[Declared]], environment: Environment
    ) -> None:
        self.environment = environment
        self._declared = declared
        self._media: dict[str, bool] = {}
        self._held: dict[tuple[int, str], dict[str, list[Declared]]] = {}
        self._shown: dict[int, bool] = {}

    def holding(self, element: Element, pseudo: str = "") -> dict[str, list[Declared]]:
        """By property, the declarations that apply, the winner last."""
        key = (id(element.etree_element), pseudo)
        found = self._held.get(key)
        if found is None:
            found = self._held[key] = {}
            for one in self._declared(element, pseudo):
                if all(map(self._matches, one.media)):
                    found.setdefault(one.name, []).append(one)
        return found

    def _matches(self, media: str) -> bool:
        known = self._media.get(media)
        if known is None:
            known = self._media[media] = matches(media, self.environment)
        return known

    def winner_of(
        self, element: Element, names: Sequence[str], pseudo: str = ""
    ) -> Declared | None:
        """The declaration that wins among a longhand and the shorthands that set it too."""
        held = self.holding(element, pseudo)
        last = [held[name][-1] for name in names if name in held]
        return max(last, key=lambda one: one.rank) if last else None

    def value(self, element: Element, names: Sequence[str], pseudo: str = "") -> list[Any]:
        """The tokens that the winner says, without variables; none where nothing is said."""
        found = self.winner_of(element, names, pseudo)
        if found is None:
            return []
        try:
            return list(self._without_variables(found.value, element, 0, [0]))
        except InvalidLayerError:
            return []

    def word(self, element: Element, name: str, pseudo: str = "") -> str:
        """What a property of one word says; empty where nothing is said."""
        held = self.holding(element, pseudo).get(name)
        return str(tinycss2.serialize(held[-1].value)).strip().lower() if held else ""

    def inherited(self, element: Element, names: Sequence[str]) -> list[Any]:
        """What an inherited property says of an element, or of one round it."""
        for one in (element, *reversed(element.ancestors)):
            found = self.value(one, names)
            if found and not is_word(found, ("inherit", "unset")):
                return found
        return []

    def backgrounds(self, element: Element, pseudo: str = "") -> list[str]:
        """The URLs of the pictures that an element's background fetches."""
        winner = self.winner(element, pseudo)
        return winner[1] if winner else []

    def winner(self, element: Element, pseudo: str = "") -> tuple[Declared, list[str]] | None:
        """The declaration of the background that wins, and the URLs of its pictures."""
        return self._pictured(element, BACKGROUNDS, pseudo)

    def _pictured(
        self, element: Element, names: Sequence[str], pseudo: str
    ) -> tuple[Declared, list[str]] | None:
        """The winner that can be understood among a longhand and its shorthand."""
        held = self.holding(element, pseudo)
        listed = [one for name in names if name in held for one in held[name]]
        for one in sorted(listed, key=lambda one: one.rank, reverse=True):
            try:
                value = list(self._without_variables(one.value, element, 0, [0]))
                found = _images(one.name, value, self.environment)
            except InvalidLayerError:
                continue
            return one, [joined(one.base, url) for url in found]
        return None

    def further_pictures(self, element: Element, pseudo: str = "") -> list[str]:
        """The URLs that other properties than backgrounds fetch for an element that is shown."""
        found = []
        for names in OF_BOX:
            if self.holding(element, pseudo).keys() & set(names):
                winner = self._pictured(element, names, pseudo)
                found += winner[1] if winner else []
        if self.holding(element, pseudo).get("content"):
            found += self._content_pictures(element, pseudo)
        return found

    def _content_pictures(self, element: Element, pseudo: str) -> list[str]:
        """Of ``content``: a picture in it is fetched beside any text."""
        winner = self.holding(element, pseudo)["content"][-1]
        value = self.value(element, ("content",), pseudo)
        found = []
        for token in value:
            if token.type == "function" and token.lower_name in SETS:
                found += _silent(token, self.environment)
            elif url := url_of(token):
                found.append(url)
        return [joined(winner.base, url) for url in found]

    def list_picture(self, element: Element) -> str | None:
        """The URL of the picture before a list's item (``list-style-image`` is inherited)."""
        for one in (element, *reversed(element.ancestors)):
            found = self._pictured(one, LISTED, "")
            if found:
                return found[1][0] if found[1] else None
        return None

    def has_content(self, element: Element, pseudo: str) -> bool:
        """Whether a ``::before`` or ``::after`` is made at all."""
        return self.word(element, "content", pseudo) not in NO_CONTENT

    def _without_variables(
        self, value: Sequence[Any], element: Element, depth: int, count: list[int]
    ) -> Iterator[Any]:
        """With ``var()`` replaced, as CSS Custom Properties 1, section 3, has it.

        What becomes longer than anybody wrote is invalid, as browsers have it too (section 3.3).
        """
        for token in value:
            count[0] += 1
            if count[0] > MOST_TOKENS:
                raise InvalidLayerError
            if token.type == "function" and token.lower_name == "var" and depth < DEEPEST_VAR:
                found = self._variable(token.arguments, element)
                yield from self._without_variables(found, element, depth + 1, count)
            elif token.type == "function" and depth < DEEPEST_VAR and "var(" in token.serialize():
                inner = list(self._without_variables(token.arguments, element, depth + 1, count))
                yield FunctionBlock(token.source_line, token.source_column, token.name, inner)
            else:
                yield token

    def _variable(self, arguments: Sequence[Any], element: Element) -> Sequence[Any]:
        name, *rest = split(arguments, ",")
        wanted = bare(name)[0].value if bare(name) else ""
        for one in (element, *reversed(element.ancestors)):
            said = self.holding(one).get(wanted)
            if said:
                return said[-1].value
        return rest[0] if rest else ()

    def is_shown(self, element: Element) -> bool:
        """Whether neither it nor anything round it is taken away by ``display: none``."""
        key = id(element.etree_element)
        if key not in self._shown:
            own = self._displays(element)
            parent = element.parent
            self._shown[key] = own and (parent is None or self.is_shown(parent))
        return self._shown[key]

    def _displays(self, element: Element) -> bool:
        node = element.etree_element
        said = self.word(element, "display")
        if said:
            return said != "none" and not _is_closed(node)
        by_itself = node.tag in NEVER_SHOWN or node.get("hidden") is not None
        return not by_itself and not _is_closed(node)


def _is_closed(node: Any) -> bool:  # noqa: ANN401
    return bool(node.tag == "dialog" and node.get("open") is None)


WIDE = ("inherit", "initial", "unset", "revert", "revert-layer")


def _images(name: str, value: Sequence[Any], environment: Environment) -> list[str]:
    tokens = bare(value)
    if not tokens:
        raise InvalidLayerError
    if is_word(tokens, WIDE):
        return []
    if name in ("background-image", "mask-image", "-webkit-mask-image"):
        return pictures(value, environment)
    return [url for part in split(value, ",") for url in _of_shorthand(bare(part), environment)]


def _of_shorthand(tokens: list[Any], environment: Environment) -> list[str]:
    """The picture among a shorthand's other values; at most one for each layer."""
    if not tokens or any(one.type in ("error", "string") for one in tokens):
        raise InvalidLayerError
    images = [one for one in tokens if _is_image(one)]
    if len(images) > 1:
        raise InvalidLayerError
    return pictures(images, environment) if images else []


def _silent(token: Token, environment: Environment) -> list[str]:
    try:
        return pictures([token], environment)
    except InvalidLayerError:
        return []


def _is_image(token: Token) -> bool:
    is_function = token.type == "function" and token.lower_name in (*GRADIENTS, *SETS)
    return is_function or url_of(token) is not None
