"""Writing clips: frames in, the bytes of one file out, without sound and without metadata."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Iterable, Mapping
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import av.error
import numpy as np
from av.video.reformatter import Colorspace

from brightcanvas.formats.clip_codecs import clip_codec_of
from brightcanvas.formats.clip_codecs.codec import ClipCodec
from brightcanvas.formats.clips import Codes, codes_of
from brightcanvas.formats.codec_names import codec_name
from brightcanvas.formats.switches import our_switches
from brightcanvas.values.clip_formats import ClipEncoding, ClipFormat
from brightcanvas.values.errors import MachineError

BT709 = 1
"""Of the matrix, the primaries and the transfer curve (ITU-T H.273)."""

LIMITED = 1
"""Range of codes that every player expects."""

KEY_SECONDS = 4
"""Seconds between key frames: a clip that is played from its start needs few."""


def write_clip(
    frames: Iterable[Codes], size: tuple[int, int], rate: Fraction, encoding: ClipEncoding
) -> bytes:
    """The frames as a file.

    Args:
        frames: YCbCr 4:2:0 in BT.709, each of shape (height * 3 / 2, width).
        size: width and height, both even.
        rate: frames a second.
        encoding: how they are encoded.

    Raises:
        MachineError: the encoder doesn't take them.
    """
    with (
        our_switches(),
        tempfile.TemporaryDirectory() as folder,
    ):  # an index at the front is moved there last
        path = Path(folder) / f"clip.{encoding.format.ending}"
        try:
            _write(path, frames, size, rate, encoding)
        except av.error.FFmpegError as error:
            told = f"{encoding.format.label} can't be written in {size[0]} x {size[1]} px"
            raise MachineError(f"{told}: {error.strerror}.") from error
        return path.read_bytes()


def _write(
    path: Path,
    frames: Iterable[Codes],
    size: tuple[int, int],
    rate: Fraction,
    encoding: ClipEncoding,
) -> None:
    codec = clip_codec_of(encoding.format)
    options = dict(codec.container_options)
    with av.open(str(path), "w", format=codec.container, options=options) as container:
        stream = cast(
            av.VideoStream,
            container.add_stream(
                codec.encoder, rate=rate, options=dict(_options(codec, encoding.quality, rate))
            ),
        )
        _describe(stream, size, rate)
        for number, codes in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(codes, format="yuv420p")
            frame.pts, frame.time_base = number, 1 / rate
            frame.colorspace, frame.color_range = BT709, LIMITED
            frame.color_primaries = frame.color_trc = BT709
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def encoder_version(kind: ClipFormat) -> str:
    """The encoder and its library's version: other versions may give other bytes."""
    return f"{clip_codec_of(kind).encoder} {av.library_versions['libavcodec']}"


def _describe(stream: av.VideoStream, size: tuple[int, int], rate: Fraction) -> None:
    stream.width, stream.height = size
    stream.pix_fmt = "yuv420p"
    stream.time_base = 1 / rate
    context = stream.codec_context
    context.colorspace, context.color_range = BT709, LIMITED
    context.color_primaries = context.color_trc = BT709


def _options(codec: ClipCodec, quality: int, rate: Fraction) -> Mapping[str, str]:
    return codec.options(quality, max(1, round(KEY_SECONDS * rate)))


def codecs_of(content: bytes) -> str:
    """The codecs parameter of a written file, read from its own stream."""
    with av.open(io.BytesIO(content)) as container:
        return codec_name(container.streams.video[0])


def decoded(content: bytes) -> Iterable[tuple[float, Codes]]:
    """Every frame of a written file: its second and its sRGB codes."""
    with cast(av.container.InputContainer, av.open(io.BytesIO(content))) as container:
        for frame in container.decode(container.streams.video[0]):
            yield (
                frame.time or 0.0,
                codes_of(frame.reformat(format="rgb24", src_colorspace=Colorspace.ITU709)),
            )


def srgb_of(planar: Codes) -> Codes:
    """SRGB codes of YCbCr 4:2:0 in BT.709, as a player would show them."""
    frame = av.VideoFrame.from_ndarray(planar, format="yuv420p")
    return codes_of(frame.reformat(format="rgb24", src_colorspace=Colorspace.ITU709))


def planar_of(pixels: Codes) -> Codes:
    """YCbCr 4:2:0 in BT.709 of sRGB codes; both sides even."""
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgb24")
    return codes_of(frame.reformat(format="yuv420p", dst_colorspace=Colorspace.ITU709))
