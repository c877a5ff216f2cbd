"""Choices among words, and amounts of bytes in words."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from typing import TypeVar

T = TypeVar("T")


def one_of(word: str, known: Collection[str]) -> str:
    """The word, if it is a known one; ValueError otherwise."""
    if word not in known:
        raise ValueError(f"{word!r}: one of {', '.join(known)} is wanted")
    return word


def some_of(words: Sequence[str], known: Mapping[str, T]) -> tuple[T, ...]:
    """What the words mean, each once; ValueError where one means nothing."""
    return tuple(known[one_of(word, known)] for word in dict.fromkeys(words))


_UNITS = {"": 1, "b": 1, "kb": 1000, "mb": 1_000_000}


def parse_bytes(text: str) -> int:
    """Read ``80kB``, ``1.5 MB`` or ``81920``; ValueError otherwise. A kB is 1000 bytes."""
    found = re.fullmatch(r"([0-9]+(?:\.[0-9]+)?)\s*([a-z]*)", text.strip().lower())
    if not found or found.group(2) not in _UNITS:
        raise ValueError("a number of bytes such as 80kB or 1.5MB")
    amount = round(float(found.group(1)) * _UNITS[found.group(2)])
    if not 0 < amount < 10**10:
        raise ValueError("a number of bytes above 0, such as 80kB")
    return amount


def bytes_text(amount: float) -> str:
    """A number of bytes: ``912 B``, ``48.2 kB``, ``133 kB``, ``1.3 MB``; a kB is 1000 bytes."""
    if amount < 1000:
        return f"{amount:.0f} B"
    if amount < 999_500:
        kilobytes = amount / 1000
        return f"{kilobytes:.1f} kB" if kilobytes < 100 else f"{kilobytes:.0f} kB"
    return f"{amount / 1e6:.1f} MB"
