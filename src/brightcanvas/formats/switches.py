"""Switches of libraries that hold for a whole process, set only while our own calls are under way.

The first call that begins sets them, and the last one that ends sets them back: calls of several
threads overlap, and each would else restore what another one had set.
"""

from __future__ import annotations

import os
import warnings
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from threading import Lock

from PIL import Image, ImageFile


class _Switches:
    """How many calls are under way, and what has to be set back after the last of them."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._calls = 0
        self._before = ExitStack()

    def begin(self) -> None:
        with self._lock:
            if self._calls == 0:
                self._set()
            self._calls += 1

    def end(self) -> None:
        with self._lock:
            self._calls -= 1
            if self._calls == 0:
                self._before.close()

    def _set(self) -> None:
        before = self._before
        before.enter_context(warnings.catch_warnings())
        warnings.simplefilter("ignore")
        before.callback(setattr, Image, "MAX_IMAGE_PIXELS", Image.MAX_IMAGE_PIXELS)
        Image.MAX_IMAGE_PIXELS = None
        truncated = ImageFile.LOAD_TRUNCATED_IMAGES
        before.callback(setattr, ImageFile, "LOAD_TRUNCATED_IMAGES", truncated)
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        if "SVT_LOG" not in os.environ:
            os.environ["SVT_LOG"] = "0"
            before.callback(os.environ.pop, "SVT_LOG", None)


_SWITCHES = _Switches()


@contextmanager
def our_switches() -> Iterator[None]:
    """While this is open, Pillow has no limit of px and no warnings, and encoders are silent.

    The limit on px is ours (see ``survey``), stated in our own message.
    """
    _SWITCHES.begin()
    try:
        yield
    finally:
        _SWITCHES.end()
