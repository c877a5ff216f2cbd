"""The codec libraries: their switches, and their errors as one clear message.

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

from brightcanvas.values.errors import BrightCanvasError, SourceError


@contextmanager
def explained(name: str, what: str = "file") -> Iterator[None]:
    """While a codec is at work on a source.

    Args:
        name: of the source, for messages.
        what: it is: ``file``, ``clip``, ``drawing``.

    Raises:
        SourceError: instead of anything that the codec raised; codecs raise all there is.
    """
    try:
        yield
    except BrightCanvasError:
        raise
    except MemoryError as error:
        raise SourceError(f"{name}: too large for this machine's memory.") from error
    except Exception as error:
        why = " ".join(str(error).split())[:200] or type(error).__name__
        raise SourceError(
            f"{name}: the {what} is damaged or cut short ({why}). Save or upload it again."
        ) from error


def know_heic(name: str) -> None:
    """Have the codec library read HEIC, by a decoder that not everybody needs.

    Args:
        name: of the source, for messages.

    Raises:
        SourceError: the decoder isn't installed.
    """
    try:
        from pillow_heif import register_heif_opener
    except ImportError as error:
        raise SourceError(
            f"{name}: HEIC pictures need a decoder of their own:"
            " pip install 'brightcanvas[heic]'. Or save it as JPEG or TIFF."
        ) from error
    register_heif_opener(thumbnails=False)


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
