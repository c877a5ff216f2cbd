"""Choices among words."""

from __future__ import annotations

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
