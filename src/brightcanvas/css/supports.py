"""What ``@supports`` asks for (CSS Conditional Rules 3, section 4), as browsers in use answer."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from brightcanvas.css.selectors import compiled
from brightcanvas.values.css_text import component_values
from brightcanvas.values.lengths import bare

Truth = bool | None
"""None: one browser says yes, another one no."""

NEVER = ("-ms-", "-o-", "-khtml-", "-moz-appearance", "-webkit-touch-callout")
"""How names begin that no browser knows which takes its pictures from here."""

SOME = ("-moz-", "-webkit-hyphens", "-apple-")


def supports(condition: str) -> Truth:
    """Whether browsers of the range have what is asked for; a property without a prefix they do."""
    return _condition(bare(component_values(condition)))


def _condition(tokens: Sequence[Any]) -> Truth:
    if not tokens:
        return False
    if _is_word(tokens[0], "not"):
        inner = _condition(tokens[1:])
        return None if inner is None else not inner
    truths = [_one(token) for token in tokens[::2]]
    if any(_is_word(token, "or") for token in tokens[1::2]):
        return True if True in truths else None if None in truths else False
    return False if False in truths else None if None in truths else True


def _is_word(token: Any, word: str) -> bool:  # noqa: ANN401
    return bool(token.type == "ident" and token.lower_value == word)


def _one(token: Any) -> Truth:  # noqa: ANN401
    if token.type == "function":
        return _function(token)
    if token.type != "() block":
        return False
    inner = bare(token.content)
    if inner and (inner[0].type in ("() block", "function") or _is_word(inner[0], "not")):
        return _condition(inner)
    return _declaration("".join(one.serialize() for one in token.content).strip().lower())


def _function(token: Any) -> Truth:  # noqa: ANN401
    if token.lower_name != "selector":
        return bool(token.lower_name.startswith("font-"))
    asked = "".join(one.serialize() for one in token.arguments)
    return True if compiled(asked) is not None else None


def _declaration(text: str) -> Truth:
    name, colon, value = text.partition(":")
    if not colon or not value.strip():
        return False
    parts = [name.strip(), *re.findall(r"-\w+-[\w-]+", value)]
    if any(part.startswith(NEVER) for part in parts):
        return False
    return None if any(part.startswith(SOME) for part in parts) else True
