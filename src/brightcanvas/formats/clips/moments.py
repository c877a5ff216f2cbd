"""Clips frame by frame: a stream that takes no more memory for a longer clip."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import Enum
from fractions import Fraction
from pathlib import Path

import av
import av.error
import numpy as np
from av.filter import Graph

from brightcanvas.formats.clips import hdr
from brightcanvas.formats.clips.clip_reading import (
    SQUARE,
    Codes,
    matrix_of,
    opened,
    pixel_shape,
    pixels_of,
    seek,
    shown_size,
    start_of,
)
from brightcanvas.values.geometry import Rect, Size

DEINTERLACER = "bwdif"


class Pace(Enum):
    """Which frames are decoded; fewer are quicker."""

    EVERY = "DEFAULT"
    STRIDES = "NONREF"
    """Those that others build on: about every second to fourth one."""
    KEYS = "NONKEY"
    """Key frames, which need no others."""


class PixelFormat(Enum):
    """Codes of frames."""

    SRGB = "rgb24"
    """Shape (height, width, 3)."""
    PLANAR = "yuv420p"
    """YCbCr 4:2:0 in BT.709 for a codec, shape (height * 3 / 2, width)."""
    GREY = "gray16le"
    """Luma of 65535, shape (height, width): for differences smaller than a code of 255."""


@dataclass(frozen=True)
class FrameReading:
    """How a clip is read."""

    size: tuple[int, int] | None = None
    """Width and height, upright, of what is handed out; None: as it is."""
    area: Rect | None = None
    """What is cut out of it first, upright, in px; None: nothing is cut off."""
    begin: float = 0.0
    """Second from which frames are handed out, the one shown then being the first."""
    pace: Pace = Pace.EVERY
    """Which frames are decoded."""
    kind: PixelFormat = PixelFormat.SRGB
    """Which codes are handed out."""


@dataclass(frozen=True, eq=False)
class ClipFrame:
    """One frame."""

    second: float
    """From the clip's beginning."""
    pixels: Codes


def moments(path: Path, reading: FrameReading) -> Iterator[ClipFrame]:
    """The frames of a clip in their order; where its data break off they end.

    Raises:
        SourceError: not even the head can be read.
    """
    with opened(path) as (container, stream):
        seek(container, stream, reading.begin)
        stream.codec_context.skip_frame = reading.pace.value
        begin, held = start_of(stream), None
        shape = _Shaper(reading, pixel_shape(stream))
        for frame in _whole_frames(container, stream):
            second = (frame.time or begin) - begin
            if second > reading.begin + 1e-6:
                if held is not None:
                    yield ClipFrame(max(held.time - begin, 0.0), shape.of(held))
                    held = None
                yield ClipFrame(second, shape.of(frame))
            else:
                held = frame
        if held is not None:
            yield ClipFrame(max(held.time - begin, 0.0), shape.of(held))


def _whole_frames(
    container: av.container.InputContainer, stream: av.VideoStream
) -> Iterator[av.VideoFrame]:
    """Frames up to the first place where the data are damaged, standing still where interlaced."""
    progressive = _Progressive()
    try:
        for frame in container.decode(stream):
            if not frame.is_corrupt:
                yield from progressive.of(frame)
    except (av.error.FFmpegError, EOFError):
        pass
    yield from progressive.rest()


class _Progressive:
    """Makes whole frames of interlaced ones; others it leaves alone."""

    def __init__(self) -> None:
        self._graph: Graph | None = None

    def of(self, frame: av.VideoFrame) -> Iterator[av.VideoFrame]:
        """What becomes of a frame, perhaps only when the next one is there."""
        if self._graph is None and not frame.interlaced_frame:
            yield frame
            return
        if self._graph is None:
            self._graph = _deinterlacing(frame)
        self._graph.push(frame)
        yield from self._pulled()

    def rest(self) -> Iterator[av.VideoFrame]:
        """What is still held back."""
        if self._graph is not None:
            self._graph.push(None)
            yield from self._pulled()

    def _pulled(self) -> Iterator[av.VideoFrame]:
        while self._graph is not None:
            try:
                yield self._graph.vpull()
            except (av.error.BlockingIOError, av.error.EOFError):
                return


def _deinterlacing(frame: av.VideoFrame) -> Graph:
    graph = Graph()
    source = graph.add_buffer(
        width=frame.width, height=frame.height, format=frame.format, time_base=frame.time_base
    )
    graph.link_nodes(source, graph.add(DEINTERLACER, "mode=send_frame"), graph.add("buffersink"))
    graph.configure()
    return graph


class _Shaper:
    """Turns, cuts and scales frames as a reading wants them."""

    def __init__(self, reading: FrameReading, pixels: Fraction) -> None:
        self._reading, self._pixels = reading, pixels
        self._graph: Graph | None = None

    def of(self, frame: av.VideoFrame) -> Codes:
        """The codes of a frame."""
        reading = self._reading
        if reading.kind is PixelFormat.SRGB and reading.area is None:
            width, height = shown_size(frame, self._pixels)
            if reading.size:
                width, height = reading.size[::-1] if frame.rotation % 180 else reading.size
            return pixels_of(frame, width, height)
        if hdr.is_hdr(frame):
            shown = shown_size(frame, self._pixels)
            share = _least_share(frame, shown, reading)
            scaled = _as_rgb(frame, shown, share)
            return self._filtered(scaled, SQUARE, _of_share(reading, share))
        return self._filtered(frame, self._pixels, reading)

    def _filtered(self, frame: av.VideoFrame, pixels: Fraction, reading: FrameReading) -> Codes:
        if self._graph is None:
            self._graph = _shaping(frame, pixels, reading)
        self._graph.push(frame)
        shaped = self._graph.vpull().to_ndarray()
        return np.ascontiguousarray(shaped)


def _least_share(frame: av.VideoFrame, shown: tuple[int, int], reading: FrameReading) -> float:
    """Of a frame's px each way that what is wanted of it needs."""
    if reading.size is None:
        return 1.0
    upright = shown[::-1] if frame.rotation % 180 else shown
    area = reading.area or Rect(0, 0, *upright)
    return min(1.0, max(reading.size[0] / area.width, reading.size[1] / area.height))


def _of_share(reading: FrameReading, share: float) -> FrameReading:
    """The same of a frame that was made smaller."""
    return replace(reading, area=reading.area and reading.area.scaled(Size(share, share)))


def _as_rgb(frame: av.VideoFrame, shown: tuple[int, int], share: float) -> av.VideoFrame:
    """A frame in sRGB with a share of its px each way, that keeps its time and stands upright."""
    width, height = (max(2, round(side * share)) for side in shown)
    made = av.VideoFrame.from_ndarray(pixels_of(frame, width, height), format="rgb24")
    made.pts, made.time_base = frame.pts, frame.time_base
    return made


def _shaping(frame: av.VideoFrame, pixels: Fraction, reading: FrameReading) -> Graph:
    """Turn upright, cut, scale, and bring into the wanted kind of codes."""
    graph = Graph()
    node = graph.add_buffer(
        width=frame.width, height=frame.height, format=frame.format, time_base=frame.time_base
    )
    for name, setting in _steps(frame, pixels, reading):
        following = graph.add(name, setting)
        node.link_to(following)
        node = following
    node.link_to(graph.add("buffersink"))
    graph.configure()
    return graph


_TURNS = {
    90: [("transpose", "cclock")],
    180: [("hflip", ""), ("vflip", "")],
    270: [("transpose", "clock")],
}


def _steps(
    frame: av.VideoFrame, pixels: Fraction, reading: FrameReading
) -> Iterator[tuple[str, str]]:
    if pixels != SQUARE:
        width, height = shown_size(frame, pixels)
        yield "scale", f"{width}:{height}:flags=lanczos+accurate_rnd"
    yield from _TURNS.get(frame.rotation % 360, [])
    if reading.area is not None:
        left, top = round(reading.area.left), round(reading.area.top)
        width, height = round(reading.area.width), round(reading.area.height)
        yield "crop", f"{width}:{height}:{left}:{top}:exact=1"
    yield "scale", ":".join(_scaling(frame, reading))
    yield "format", reading.kind.value


def _scaling(frame: av.VideoFrame, reading: FrameReading) -> Iterator[str]:
    if reading.size:
        way = "area" if reading.kind is PixelFormat.GREY else "lanczos"
        yield f"{reading.size[0]}:{reading.size[1]}:flags={way}+accurate_rnd"
    else:
        yield "iw:ih:flags=accurate_rnd"
    is_rgb = frame.format.is_rgb
    if not is_rgb:
        yield f"in_color_matrix={'bt709' if matrix_of(frame) or frame.colorspace == 1 else 'auto'}"
    if reading.kind is PixelFormat.PLANAR:
        yield "out_color_matrix=bt709:out_range=tv"
