"""Writing clips: frames in, the bytes of one file out, without sound and without metadata."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import av.error
import numpy as np
from av.video.reformatter import Colorspace, Interpolation
from numpy.typing import NDArray

from brightcanvas.formats.clips.clip_codecs import ClipCodec, clip_codec_of
from brightcanvas.formats.clips.clip_reading import Codes, codec_name, codes_of, opened
from brightcanvas.formats.codec_libraries import our_switches
from brightcanvas.values.errors import MachineError
from brightcanvas.values.file_formats import ClipEncoding, ClipFormat
from brightcanvas.values.work import scratch

BT709 = 1
"""Of the matrix, the primaries and the transfer curve (ITU-T H.273)."""

LIMITED = 1
"""Range of codes that every player expects."""

THOUSANDTH = Fraction(1, 1000)

KEY_SECONDS = 4
"""Seconds between key frames: a clip that is played from its start needs few."""


@dataclass(frozen=True)
class Beat:
    """When frames are shown."""

    rate: Fraction
    """Frames a second; in the mean where there are stamps."""
    stamps: tuple[int, ...] = ()
    """Thousandths of a second of each frame and of the end; empty: the rate is steady."""


def write_clip(
    frames: Iterable[Codes], size: tuple[int, int], beat: Beat, encoding: ClipEncoding
) -> bytes:
    """The frames as a file.

    Args:
        frames: YCbCr 4:2:0 in BT.709, each of shape (height * 3 / 2, width).
        size: width and height, both even.
        beat: when they are shown.
        encoding: how they are encoded.

    Raises:
        MachineError: the encoder doesn't take them.
    """
    with our_switches(), scratch() as folder:  # an index at the front is moved there last
        path = folder / f"clip.{encoding.format.ending}"
        try:
            _write(path, frames, size, beat, encoding)
        except av.error.FFmpegError as error:
            told = f"{encoding.format.label} can't be written in {size[0]} x {size[1]} px"
            raise MachineError(f"{told}: {error.strerror}.") from error
        return path.read_bytes()


def _write(
    path: Path,
    frames: Iterable[Codes],
    size: tuple[int, int],
    beat: Beat,
    encoding: ClipEncoding,
) -> None:
    codec = clip_codec_of(encoding.format)
    options = dict(codec.container_options)
    with av.open(str(path), "w", format=codec.container, options=options) as container:
        stream = cast(
            av.VideoStream,
            container.add_stream(
                codec.encoder,
                rate=beat.rate,
                options=dict(_options(codec, encoding.quality, beat.rate)),
            ),
        )
        _describe(stream, size, beat)
        for number, codes in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(codes, format="yuv420p")
            _put_in_time(frame, number, beat)
            frame.colorspace, frame.color_range = BT709, LIMITED
            frame.color_primaries = frame.color_trc = BT709
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def _put_in_time(frame: av.VideoFrame, number: int, beat: Beat) -> None:
    frame.pts, frame.time_base = number, 1 / beat.rate
    if beat.stamps:
        begin, end = beat.stamps[number : number + 2]
        frame.pts, frame.duration, frame.time_base = begin, end - begin, THOUSANDTH


def encoder_version(kind: ClipFormat) -> str:
    """The encoder and its library's version: other versions may give other bytes."""
    return f"{clip_codec_of(kind).encoder} {av.library_versions['libavcodec']}"


def _describe(stream: av.VideoStream, size: tuple[int, int], beat: Beat) -> None:
    stream.width, stream.height = size
    stream.pix_fmt = "yuv420p"
    context = stream.codec_context
    stream.time_base = context.time_base = THOUSANDTH if beat.stamps else 1 / beat.rate
    context.colorspace, context.color_range = BT709, LIMITED
    context.color_primaries = context.color_trc = BT709


def _options(codec: ClipCodec, quality: int, rate: Fraction) -> Mapping[str, str]:
    return codec.options(quality, max(1, round(KEY_SECONDS * rate)))


def codecs_of(content: bytes) -> str:
    """The codecs parameter of a written file, read from its own stream."""
    with av.open(io.BytesIO(content)) as container:
        return codec_name(container.streams.video[0])


def own_track(path: Path, kind: ClipFormat) -> bytes:
    """The picture track of a clip as it is, by itself, in the container of a format.

    Args:
        path: of a clip whose track is in that format.
        kind: the format.
    """
    codec = clip_codec_of(kind)
    with scratch() as folder, opened(path) as (source, track):
        place = folder / f"clip.{kind.ending}"
        options = dict(codec.container_options)
        with av.open(str(place), "w", format=codec.container, options=options) as container:
            stream = container.add_stream_from_template(track)
            stream.metadata.clear()
            for packet in source.demux(track):
                if packet.dts is not None:
                    packet.stream = stream
                    container.mux(packet)
        return place.read_bytes()


def decoded(content: bytes) -> Iterable[tuple[float, Codes]]:
    """Every frame of a written file: its second and its sRGB codes."""
    return ((frame.time or 0.0, shown_of(frame)) for frame in decoded_frames(content))


def decoded_frames(content: bytes) -> Iterator[av.VideoFrame]:
    """Every frame of a written file."""
    with cast(av.container.InputContainer, av.open(io.BytesIO(content))) as container:
        container.streams.video[0].thread_type = "AUTO"
        yield from container.decode(container.streams.video[0])


def shown_of(frame: av.VideoFrame, size: tuple[int, int] | None = None) -> Codes:
    """SRGB codes of a decoded frame, as a player shows it; scaled by areas to another size."""
    width, height = size or (None, None)
    shown = frame.reformat(
        width, height, "rgb24", src_colorspace=Colorspace.ITU709,
        interpolation=Interpolation.AREA if size else None,
    )  # fmt: skip
    return codes_of(shown)


def luma_shown(frame: av.VideoFrame) -> NDArray[np.float32]:
    """Luma codes of all px of a decoded frame, as the codec gives them."""
    planar = frame.to_ndarray(format="yuv420p")
    return np.asarray(planar[: frame.height], np.float32)


def srgb_of(planar: Codes) -> Codes:
    """SRGB codes of YCbCr 4:2:0 in BT.709, as a player would show them."""
    frame = av.VideoFrame.from_ndarray(planar, format="yuv420p")
    return codes_of(frame.reformat(format="rgb24", src_colorspace=Colorspace.ITU709))


def planar_of(pixels: Codes) -> Codes:
    """YCbCr 4:2:0 in BT.709 of sRGB codes; both sides even."""
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgb24")
    return codes_of(frame.reformat(format="yuv420p", dst_colorspace=Colorspace.ITU709))
