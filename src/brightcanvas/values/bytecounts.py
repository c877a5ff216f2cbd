"""Numbers of bytes as people write them."""

from __future__ import annotations

import re

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
