"""Files of boxes (ISO 14496-12): each begins with its length."""

from __future__ import annotations

HEAD = 8
"""Bytes of a box's length and type."""


def boxes_are_whole(content: bytes) -> bool:
    """Whether the outermost boxes end where the file does, or before."""
    at = 0
    while at + HEAD <= len(content):
        length = int.from_bytes(content[at : at + 4], "big")
        if length == 1:
            length = int.from_bytes(content[at + HEAD : at + 2 * HEAD], "big")
        if length == 0:  # as far as the file goes
            return True
        if length < HEAD:
            return False
        at += length
    return at <= len(content)
