"""Lines to a host, told by their figures."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import Enum

from brightcanvas.values.geometry import plain_number


@dataclass(frozen=True)
class NetworkProfile:
    """A line without losses, and without the slow start of its connections."""

    rate: float
    """Bits a second, from the host."""
    round_trip: float
    """Seconds from asking to the first byte of the answer, on an open connection."""

    @property
    def name(self) -> str:
        """By its figures."""
        mega = self.rate >= 1e6
        amount = plain_number(round(self.rate / (1e6 if mega else 1e3), 2))
        unit = "Mbit/s" if mega else "kbit/s"
        return f"{amount} {unit}, {plain_number(round(self.round_trip * 1000, 1))} ms"

    def seconds(self, amount: float) -> float:
        """How long so many bytes take when nothing else is on the line."""
        return amount * 8 / self.rate


LINES = (NetworkProfile(400e3, 0.4), NetworkProfile(1.6e6, 0.15), NetworkProfile(10e6, 0.04))
"""A poor one, a middling one and a good one."""

_LINE = re.compile(r"([\d.]+) ?(k|m)bit(?:/s)?, ?([\d.]+) ?ms", re.IGNORECASE)


def line_of(text: str) -> NetworkProfile | None:
    """A line from figures such as ``1.6Mbit/s,150ms``; None where they are none."""
    match = _LINE.fullmatch(text.strip())
    if match is None or match[1].count(".") > 1 or match[3].count(".") > 1:
        return None
    rate = float(match[1]) * (1e6 if match[2].lower() == "m" else 1e3)
    trip = float(match[3]) / 1000
    return NetworkProfile(rate, trip) if 1e3 <= rate <= 1e11 and trip <= 60 else None


class Protocol(Enum):
    """How pages and files come."""

    HTTP1 = "HTTP/1.1"
    HTTP2 = "HTTP/2"


PROTOCOLS = {"1.1": Protocol.HTTP1, "2": Protocol.HTTP2}
"""By the numbers that people use."""
