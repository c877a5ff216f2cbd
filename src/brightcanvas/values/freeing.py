"""Giving memory back to the system that nobody uses any more."""

from __future__ import annotations

import ctypes
import sys


def give_back() -> None:
    """Hand back what the C library keeps of freed memory; nothing happens where it can't.

    Linux's keeps freed blocks of up to 32 MB for later, so that what many pictures have left
    behind stands beside the largest one.
    """
    if sys.platform == "linux":
        trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
        if trim is not None:
            trim(0)
