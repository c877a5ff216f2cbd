"""Media conditions: parsed and decided as Media Queries 4 and 5 say.

A part that no browser could understand is neither true nor false (section 3.2 of level 4): its
negation isn't true either, and a query that comes to it doesn't match.
"""

from __future__ import annotations

import math
import operator
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any

import tinycss2

from brightcanvas.css.computed_lengths import length, number, resolution
from brightcanvas.values.environments import AXES, MEDIUM, Environment, FeatureSupport
from brightcanvas.values.lengths import NotALengthError, Token, bare, split
from brightcanvas.values.page_text import component_values, exceeds_limits

Truth = bool | None
"""None: unknown."""

Test = Callable[[Environment], Truth]

_RESERVED = ("not", "and", "or", "only", "layer")


class MalformedError(ValueError):
    """A query that can't be parsed; browsers read it as ``not all``."""


def matches(condition: str, environment: Environment) -> bool:
    """Whether a list of media queries, as in ``@media`` or ``media=""``, matches."""
    tests = _tests(condition)
    return not tests or any(test(environment) is True for test in tests)


def decide(condition: str, environment: Environment) -> Truth:
    """A single media condition, as before a length in ``sizes``: no list, no media type."""
    tokens = bare(component_values(condition))
    try:
        return _condition(tokens, allows_or=True)(environment)
    except MalformedError:
        return None


@lru_cache(maxsize=4096)
def _tests(condition: str) -> tuple[Test, ...]:
    if exceeds_limits(condition):
        return (lambda _: False,)
    tokens = tinycss2.parse_component_value_list(condition)
    if not bare(tokens):
        return ()
    return tuple(_query_or_none(part) for part in split(tokens, ","))


def _query_or_none(tokens: Sequence[Any]) -> Test:
    try:
        return _query(list(tokens))
    except MalformedError:
        return lambda _: False


def _query(spaced: list[Any]) -> Test:
    tokens = bare(spaced)
    if not tokens or any(one.type == "error" for one in tokens):
        raise MalformedError
    prefix = _word(tokens[0])
    at = 1 if prefix in ("not", "only") and len(tokens) > 1 and _is_type(tokens[1]) else 0
    if not _is_type(tokens[at]):
        return _condition(tokens, allows_or=True)
    medium = _word(tokens[at])
    rest = tokens[at + 1 :]
    if rest and (_word(rest[0]) != "and" or len(rest) == 1):
        raise MalformedError
    further = _condition(rest[1:], allows_or=False) if rest else _always
    is_negated = at == 1 and prefix == "not"

    def test(environment: Environment) -> Truth:
        fits = medium in ("all", environment.word(MEDIUM))
        found = further(environment) if fits else False
        return _not(found) if is_negated else found

    return test


def _always(_: Environment) -> Truth:
    return True


def _word(token: Token) -> str:
    return str(token.lower_value) if token.type == "ident" else ""


def _is_type(token: Token) -> bool:
    return token.type == "ident" and _word(token) not in _RESERVED


def _not(truth: Truth) -> Truth:
    return None if truth is None else not truth


def _condition(tokens: list[Any], *, allows_or: bool) -> Test:
    """Parts in parentheses, joined by one kind of word (section 3)."""
    if not tokens:
        raise MalformedError
    if _word(tokens[0]) == "not":
        if len(tokens) != 2:
            raise MalformedError
        inner = _in_parentheses(tokens[1])
        return _newer(lambda environment: _not(inner(environment)))
    tests = [_in_parentheses(one) for one in tokens[::2]]
    words = {_word(one) for one in tokens[1::2]}
    if len(tokens) % 2 == 0 or len(words) > 1 or not words <= {"and", "or"}:
        raise MalformedError
    if "or" in words:
        if not allows_or:
            raise MalformedError
        return _newer(lambda environment: _any_of([test(environment) for test in tests]))
    return lambda environment: _not(_any_of([_not(test(environment)) for test in tests]))


def _any_of(truths: list[Truth]) -> Truth:
    if True in truths:
        return True
    return None if None in truths else False


def _unknown(_: Environment) -> Truth:
    return None


def _in_parentheses(token: Token) -> Test:
    if token.type == "function":
        return _unknown
    if token.type != "() block":
        raise MalformedError
    content = bare(token.content)
    if any(one.type == "error" for one in content):
        raise MalformedError
    try:
        return _condition(content, allows_or=True)
    except MalformedError:
        return _feature([one for one in token.content if one.type != "comment"])


def _feature(spaced: list[Any]) -> Test:
    """``name``, ``name: value``, or one of the range forms (section 2.4)."""
    tokens = bare(spaced)
    if len(tokens) == 1 and tokens[0].type == "ident":
        return _boolean(_word(tokens[0]))
    if len(tokens) > 2 and tokens[0].type == "ident" and _is_mark(tokens[1], ":"):
        return _plain(_word(tokens[0]), tokens[2:])
    return _ranged(spaced)


def _is_mark(token: Token, mark: str) -> bool:
    return bool(token.type == "literal" and token.value == mark)


Read = Callable[[list[Any], Environment], float]
"""A value that stands there."""


def _one(read: Callable[[Any, Environment], float]) -> Read:
    def one(tokens: list[Any], environment: Environment) -> float:
        if len(tokens) != 1:
            raise NotALengthError
        return read(tokens[0], environment)

    return one


def _ratio(tokens: list[Any], _: Environment) -> float:
    """As in ``16/9``; a number alone is that number to one (CSS Values 4, section 5.7)."""
    parts = split(tokens, "/")
    if not 1 <= len(parts) <= 2 or any(len(part) != 1 for part in parts):
        raise NotALengthError
    values = [number(part[0]) for part in parts]
    if any(value < 0 for value in values):
        raise NotALengthError
    below = values[1] if len(values) == 2 else 1.0
    return values[0] / below if below else float("inf")


def _whole(token: Token, _: Environment) -> float:
    value = number(token)
    if not math.isfinite(value) or value != int(value):
        raise NotALengthError
    return value


def _at_least_none(token: Token, _: Environment) -> float:
    value = resolution(token)
    if value < 0:
        raise NotALengthError
    return value


Ranged = tuple[Read, Callable[[Environment], float]]

_LENGTH = _one(length)
_RANGED: dict[str, Ranged] = {
    "width": (_LENGTH, lambda environment: environment.width),
    "height": (_LENGTH, lambda environment: environment.height),
    "device-width": (_LENGTH, lambda environment: environment.width),
    "device-height": (_LENGTH, lambda environment: environment.height),
    "aspect-ratio": (_ratio, lambda environment: environment.width / environment.height),
    "device-aspect-ratio": (_ratio, lambda environment: environment.width / environment.height),
    "resolution": (_one(_at_least_none), lambda environment: environment.density),
    "-webkit-device-pixel-ratio": (_one(lambda token, _: number(token)), lambda v: v.density),
    "color": (_one(_whole), lambda _: 8.0),
    "color-index": (_one(_whole), lambda _: 0.0),
    "monochrome": (_one(_whole), lambda _: 0.0),
}
"""Features with an order: how a value is read, and the viewer's. The device's own size is
taken to be the window's: it is not for choosing files."""

_PREFIXED = "-webkit-"


def _bound(name: str) -> tuple[str, Callable[[float, float], bool] | None]:
    """The feature that ``min-`` or ``max-`` stands before, and what it asks for."""
    start = _PREFIXED if name.startswith(_PREFIXED) else ""
    rest = name.removeprefix(start)
    for prefix, relation in (("min-", operator.ge), ("max-", operator.le)):
        if rest.startswith(prefix):
            return start + rest.removeprefix(prefix), relation
    return name, None


def _boolean(name: str) -> Test:
    if name in _RANGED:
        return lambda environment: _RANGED[name][1](environment) != 0
    if name == "orientation":
        return _always
    if name == "grid":
        return lambda _: False

    def test(environment: Environment) -> Truth:
        word = environment.word(name) if name != MEDIUM else None
        return None if word is None else word not in ("none", "no-preference")

    return test


def _plain(name: str, value: list[Any]) -> Test:
    feature, relation = _bound(name)
    if feature in _RANGED:
        return _compared(feature, relation or operator.eq, value)
    if relation is not None or len(value) != 1:
        return _unknown
    wanted = _word(value[0])
    if name == "grid":
        return lambda _: value[0].type == "number" and value[0].value == 0

    if name == "orientation":
        return _oriented(wanted)
    axis = AXES.get(name)
    if axis is None or name == MEDIUM or wanted not in axis.words:
        return _unknown
    words = axis.words

    def test(environment: Environment) -> Truth:
        word = environment.word(name)
        if word is None:
            return None
        return word == wanted or (axis.climbs and words.index(word) > words.index(wanted))

    return test


def _oriented(wanted: str) -> Test:
    if wanted not in ("portrait", "landscape"):
        return _unknown
    return lambda environment: _orientation(environment) == wanted


def _orientation(environment: Environment) -> str:
    return "portrait" if environment.height >= environment.width else "landscape"


def _compared(feature: str, relation: Callable[[float, float], bool], value: list[Any]) -> Test:
    read, own = _RANGED[feature]
    try:
        small, large = read(value, _SMALL), read(value, _LARGE)
    except NotALengthError:
        return _unknown
    if small != large:
        return lambda environment: relation(own(environment), read(value, environment))
    # nearly always: the value is the same for every window
    if _is_readable(read, value, _OLDER):
        return lambda environment: relation(own(environment), small)
    return lambda environment: (
        relation(own(environment), small) if _is_readable(read, value, environment) else None
    )


def _is_readable(read: Read, value: list[Any], environment: Environment) -> bool:
    try:
        read(value, environment)
    except NotALengthError:
        return False
    return True


_OLDER = Environment(317, 401, knows=FeatureSupport(line_heights=False, remainders=False))
_SMALL, _LARGE = Environment(317, 401), Environment(1913, 1201)
"""Two windows that share neither a side nor an order of them."""


_RELATIONS = {
    "<": operator.lt, "<=": operator.le, ">": operator.gt, ">=": operator.ge, "=": operator.eq,
}  # fmt: skip
_TURNED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "=": "="}


def _ranged(spaced: list[Any]) -> Test:
    """``name < value``, ``value < name``, or ``value < name < value``."""
    parts, marks = _between_marks(spaced)
    names = [_word(part[0]) if len(part) == 1 else "" for part in parts]
    if len(marks) == 1 and names[0] in _RANGED:
        return _compared(names[0], _RELATIONS[marks[0]], parts[1])
    if len(marks) not in (1, 2) or names[1] not in _RANGED:
        return _unknown
    tests = [_compared(names[1], _RELATIONS[_TURNED[marks[0]]], parts[0])]
    if len(marks) == 2:
        if "=" in marks or marks[0][0] != marks[1][0]:
            return _unknown
        tests.append(_compared(names[1], _RELATIONS[marks[1]], parts[2]))
    return _newer(lambda environment: _not(_any_of([_not(test(environment)) for test in tests])))


def _newer(test: Test) -> Test:
    """What older browsers don't understand: neither true nor false for them."""
    return lambda environment: test(environment) if environment.knows.level4 else None


def _between_marks(spaced: list[Any]) -> tuple[list[list[Any]], list[str]]:
    """The values, and the marks between them; ``<`` and ``=`` in one go are one mark."""
    parts: list[list[Any]] = [[]]
    marks: list[str] = []
    joins = False
    for token in spaced:
        mark = token.value if token.type == "literal" else ""
        if mark == "=" and joins:
            marks[-1] += mark
        elif mark in ("<", ">", "="):
            marks.append(mark)
            parts.append([])
        elif token.type != "whitespace":
            parts[-1].append(token)
        joins = mark in ("<", ">")
    return parts, marks
