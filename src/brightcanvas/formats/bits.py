"""Reading bits: plain ones, and VP8's arithmetic ones."""

from __future__ import annotations


class Bits:
    """Bits of a byte string, the highest of each byte first."""

    def __init__(self, content: bytes) -> None:
        self._content = content
        self._at = 0

    def read(self, count: int) -> int:
        """An unsigned number of so many bits; EOFError beyond the end."""
        value = 0
        for _ in range(count):
            if self._at >> 3 >= len(self._content):
                raise EOFError("the header ends too early")
            bit = self._content[self._at >> 3] >> (7 - (self._at & 7)) & 1
            value = value << 1 | bit
            self._at += 1
        return value

    def flag(self) -> bool:
        """One bit."""
        return bool(self.read(1))


class EvenBools:
    """VP8's boolean decoder at even odds (RFC 6386, section 7.3)."""

    def __init__(self, content: bytes) -> None:
        self._bits = Bits(content)
        self._value = self._bits.read(16)
        self._range = 255
        self._left = 8

    def flag(self) -> bool:
        """One bit."""
        split = 1 + (self._range - 1 >> 1)
        bit = self._value >= split << 8
        self._range = self._range - split if bit else split
        self._value -= split << 8 if bit else 0
        while self._range < 128:
            self._range <<= 1
            self._value = self._value << 1 | self._bits.read(1)
        return bit

    def read(self, count: int) -> int:
        """An unsigned number of so many bits."""
        value = 0
        for _ in range(count):
            value = value << 1 | self.flag()
        return value

    def optional(self, count: int) -> int:
        """A signed number behind a flag that says whether it is there; 0 where it is not."""
        if not self.flag():
            return 0
        value = self.read(count)
        return -value if self.flag() else value
