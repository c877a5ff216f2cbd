"""What one case is, and what came of it."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Case:
    """Files in a folder of their own, and a call of the program there."""

    name: str
    files: Mapping[str, bytes]
    call: Sequence[str]
    fault: str = ""
    """``kill``, ``full`` or ``denied``: what happens at a file event; empty: nothing."""
    event: int = 0
    """Which file event it happens at."""
    statuses: frozenset[int] = frozenset({0, 1, 2, 3, 4})
    env: Mapping[str, str] = field(default_factory=dict)
    odd: Mapping[str, str] = field(default_factory=dict)
    """Names in whose place something stands that is no file: its kind."""
    driver: str = ""
    """A module that is run in place of the program."""
    listens: bool = False
    """Whether canaries listen, whose addresses stand for ``@DOOR@`` and ``@FAR@`` in its files."""


Make = Callable[[random.Random], Case]
"""A case by chance."""

BRIEF = """\
[[backdrop]]
source = "{source}"
element = ".a"
height = "90px"
"""


def brief(source: str, more: str = "") -> bytes:
    """The smallest brief of a source."""
    return (more + BRIEF.format(source=source)).encode()


def mutated(content: bytes, by: random.Random) -> bytes:
    """A file with some of its bytes changed, lost, doubled, or cut off."""
    out = bytearray(content)
    for _ in range(by.choice((1, 1, 2, 5, 30))):
        if not out:
            break
        at = by.randrange(min(len(out), by.choice((40, 400, len(out)))))
        length = by.choice((1, 1, 2, 4, 16, 300))
        how = by.randrange(6)
        if how == 0:
            out[at] ^= 1 << by.randrange(8)
        elif how == 1:
            out[at : at + length] = by.randbytes(length)
        elif how == 2:
            del out[at : at + length]
        elif how == 3:
            out[at:at] = out[at : at + length] * by.choice((1, 3, 100))
        elif how == 4:
            out[at : at + length] = by.choice((b"\xff", b"\x00", b"\x7f")) * length
        elif by.random() < 0.3:
            del out[at:]
    return bytes(out)
