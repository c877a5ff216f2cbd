"""Who does the slow work, as people write it."""

from __future__ import annotations

import re
from dataclasses import dataclass

WANTED = (
    "threads, processes, a number of processes, or a scheduler's address such as tcp://host:8786"
)

_ADDRESS = re.compile(r"(tcp|tls)://[^\s/]+:[0-9]+")


@dataclass(frozen=True)
class Workers:
    """Who does the slow work."""

    kind: str
    """``threads``, ``processes`` or ``cluster``."""
    count: int | None = None
    """Of processes; None: as many as there are cores."""
    address: str = ""
    """Of a cluster's scheduler."""


THREADS = Workers("threads")


def parse_workers(text: str) -> Workers:
    """Read ``threads``, ``processes``, ``4`` or ``tcp://host:8786``; ValueError otherwise."""
    if text in ("threads", "processes"):
        return Workers(text)
    if re.fullmatch("[1-9][0-9]{0,2}", text):
        return Workers("processes", int(text))
    if _ADDRESS.fullmatch(text):
        return Workers("cluster", address=text)
    raise ValueError(f"{text!r}: {WANTED}")
