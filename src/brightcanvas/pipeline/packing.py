"""Results as bytes for the store, and back again by their declared types.

Nothing in a store is ever run: a folder that somebody sent us may hold anything. So a result is
JSON with its files' bytes behind it, and is rebuilt only as the type that is expected.
"""

from __future__ import annotations

import dataclasses
import json
import types
from collections.abc import Sequence
from enum import Enum
from fractions import Fraction
from functools import cache
from typing import Any, Union, get_args, get_origin, get_type_hints

LENGTH = 8
"""Bytes of the length that stands first."""


def packed(value: object) -> bytes:
    """A result of plain data: dataclasses, tuples, enums, numbers, text, bytes."""
    blobs: list[bytes] = []
    plain = _plain(value, blobs)
    head = json.dumps({"value": plain, "blobs": [len(one) for one in blobs]}).encode()
    return len(head).to_bytes(LENGTH, "big") + head + b"".join(blobs)


def unpacked(kind: Any, content: bytes) -> Any:  # noqa: ANN401 - what ``kind`` says
    """The result of that type which ``packed`` gave.

    Raises:
        ValueError: it is none of that type.
    """
    end = LENGTH + int.from_bytes(content[:LENGTH], "big")
    try:
        head = json.loads(content[LENGTH:end])
        return _restored(kind, head["value"], _split(content[end:], head["blobs"]))
    except (KeyError, TypeError, IndexError, AttributeError) as error:
        raise ValueError(f"no {kind} is kept there") from error


def _split(content: bytes, lengths: Sequence[int]) -> list[bytes]:
    found, begin = [], 0
    for length in lengths:
        found.append(content[begin : begin + length])
        begin += length
    return found


def _plain(value: object, blobs: list[bytes]) -> object:
    if isinstance(value, bytes):
        blobs.append(value)
        return len(blobs) - 1
    if isinstance(value, Enum):
        return value.name
    if isinstance(value, Fraction):
        return [value.numerator, value.denominator]
    if isinstance(value, tuple):
        return [_plain(one, blobs) for one in value]
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        names = [one.name for one in dataclasses.fields(value)]
        return {name: _plain(getattr(value, name), blobs) for name in names}
    if value is None or isinstance(value, (bool, int, float, str)):
        return value
    raise TypeError(f"{type(value).__name__} can't be kept")


def _restored(kind: Any, plain: Any, blobs: Sequence[bytes]) -> Any:  # noqa: ANN401
    if get_origin(kind) in (Union, types.UnionType):
        [inner] = [one for one in get_args(kind) if one is not type(None)]
        return None if plain is None else _restored(inner, plain, blobs)
    if get_origin(kind) is tuple:
        return _tuple(get_args(kind), plain, blobs)
    if kind is bytes:
        return blobs[plain]
    if kind is Fraction:
        return Fraction(*plain)
    if issubclass(kind, Enum):
        return kind[plain]
    return (
        _of_fields(kind, plain, blobs) if dataclasses.is_dataclass(kind) else _simple(kind, plain)
    )


def _of_fields(kind: Any, plain: Any, blobs: Sequence[bytes]) -> Any:  # noqa: ANN401
    hints = _hints(kind)
    return kind(**{name: _restored(hints[name], one, blobs) for name, one in plain.items()})


def _tuple(kinds: tuple[Any, ...], plain: Any, blobs: Sequence[bytes]) -> tuple[Any, ...]:  # noqa: ANN401
    if kinds[-1] is Ellipsis:
        return tuple(_restored(kinds[0], one, blobs) for one in plain)
    return tuple(_restored(kind, one, blobs) for kind, one in zip(kinds, plain, strict=True))


def _simple(kind: type, plain: object) -> object:
    """A number that is a float stays one, written as 1 or not."""
    if kind is float and isinstance(plain, int):
        return float(plain)
    if isinstance(plain, kind):
        return plain
    raise ValueError(f"{plain!r} is no {kind.__name__}")


@cache
def _hints(kind: type) -> dict[str, Any]:
    # Without the class's own names: a property that is called ``bytes`` is no type.
    return get_type_hints(kind, localns={})
