"""Whatever a codec library raises becomes one clear message, here and nowhere else."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

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
