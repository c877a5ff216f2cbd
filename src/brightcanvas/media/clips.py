"""Reading clips: facts of the container, and the frame at a given time."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
import av.error
import numpy as np
from av.video.reformatter import Colorspace

from brightcanvas.basics.errors import SourceError
from brightcanvas.basics.raster import Raster
from brightcanvas.basics.shapes import Size, plain_number
from brightcanvas.media.heads import Head

_HD_HEIGHT = 720
"""Frames from this height on are in BT.709 where the stream doesn't say, as players assume."""


@contextmanager
def _opened(path: Path) -> Iterator[tuple[av.container.InputContainer, av.VideoStream]]:
    try:
        with av.open(str(path)) as container:
            if not container.streams.video:
                raise SourceError(f"{path}: there is no picture track in this clip.")
            yield container, container.streams.video[0]
    except (av.error.FFmpegError, ValueError, EOFError) as error:
        raise SourceError(
            f"{path}: the clip is damaged or cut short ({error}). Save or upload it again."
        ) from error


def read_head(path: Path) -> Head:
    """Size and length of a clip."""
    with _opened(path) as (container, stream):
        frame = next(container.decode(stream), None)
        if frame is None:
            raise SourceError(f"{path}: not one frame of this clip can be read.")
        return Head(_upright_size(frame), seconds=_length(container, stream))


def _length(container: av.container.InputContainer, stream: av.VideoStream) -> float | None:
    if stream.duration is not None and stream.time_base is not None:
        return float(stream.duration * stream.time_base)
    return container.duration / av.time_base if container.duration is not None else None


def _upright_size(frame: av.VideoFrame) -> Size:
    turned = frame.rotation % 180 != 0
    return Size(frame.height, frame.width) if turned else Size(frame.width, frame.height)


def read_frame(path: Path, second: float) -> Raster:
    """The frame that is shown at ``second`` of the clip, upright, in sRGB.

    Raises:
        SourceError: the clip is damaged, or shorter than that.
    """
    with _opened(path) as (container, stream):
        length = _length(container, stream)
        frame = _frame_at(container, stream, second)
        if frame is None or (length is not None and second > length):
            told = (
                f"only {plain_number(round(length, 2))} s long" if length else "shorter than that"
            )
            raise SourceError(
                f"{path}: poster_at = {plain_number(second)}, but the clip is {told}."
            )
        return Raster(_pixels(frame))


def _frame_at(
    container: av.container.InputContainer, stream: av.VideoStream, second: float
) -> av.VideoFrame | None:
    """The last frame that starts at or before ``second``."""
    if stream.time_base is None:
        return next(container.decode(stream), None)
    begin = float((stream.start_time or 0) * stream.time_base)
    container.seek(int((begin + second) / stream.time_base), stream=stream, backward=True)
    shown = None
    for frame in container.decode(stream):
        if shown is not None and frame.time is not None and frame.time > begin + second + 1e-6:
            break
        shown = frame
    return shown


def _pixels(frame: av.VideoFrame) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    unstated = frame.colorspace in (Colorspace.DEFAULT, 2)
    matrix = Colorspace.ITU709 if unstated and frame.height >= _HD_HEIGHT else None
    pixels = frame.reformat(format="rgb24", src_colorspace=matrix).to_ndarray()
    return np.ascontiguousarray(np.rot90(pixels, frame.rotation // 90 % 4))
