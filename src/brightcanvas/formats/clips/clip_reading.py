"""Reading clips: facts of the container and of its picture track, and single frames."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import Colorspace

from brightcanvas.formats.bits import Bits
from brightcanvas.formats.clips import hdr
from brightcanvas.formats.codec_libraries import explained
from brightcanvas.formats.kinds import AVI, MATROSKA, MOV, MP4, WEBM, Head
from brightcanvas.formats.loaded import kind_of_file, opened_file
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Size, plain_number
from brightcanvas.values.raster import Raster

LEVELS_VP9 = (
    (10, 36_864, 829_440),
    (11, 73_728, 2_764_800),
    (20, 122_880, 4_608_000),
    (21, 245_760, 9_216_000),
    (30, 552_960, 20_736_000),
    (31, 983_040, 36_864_000),
    (40, 2_228_224, 83_558_400),
    (41, 2_228_224, 160_432_128),
    (50, 8_912_896, 311_951_360),
    (51, 8_912_896, 588_251_136),
)
"""Level, most samples of a frame, most samples a second (VP9 levels, WebM project)."""


def codec_name(stream: av.VideoStream) -> str:
    """Such as ``avc1.4D401F``; the codec's plain name where no parameter is defined for it."""
    name = stream.codec_context.codec.canonical_name
    extra = stream.codec_context.extradata or b""
    if name == "h264" and len(extra) > 3 and extra[0] == 1:
        return f"avc1.{extra[1:4].hex().upper()}"
    if name == "av1" and len(extra) > 3 and extra[0] & 0x80:
        return av1_name(extra)
    if name == "vp9":
        return vp9_name(stream.width, stream.height, float(stream.average_rate or 30))
    return str(name)


def av1_name(box: bytes) -> str:
    """Of an ``av1C`` box (AV1 in ISOBMFF, sections 2.3 and 5): profile, level, tier, depth."""
    bits = Bits(box[1:4])
    profile, level = bits.read(3), bits.read(5)
    tier, high, twelve = bits.read(1), bits.read(1), bits.read(1)
    depth = 12 if twelve else 10 if high else 8
    return f"av01.{profile}.{level:02d}{'H' if tier else 'M'}.{depth:02d}"


def vp9_name(width: int, height: int, rate: float) -> str:
    """Profile 0 and 8 bit, with the least level that holds the size and the rate.

    Args:
        width: of the frames, px.
        height: of the frames, px.
        rate: frames a second.
    """
    samples = width * height
    fitting = (
        level
        for level, most, each_second in LEVELS_VP9
        if samples <= most and samples * rate <= each_second
    )
    return f"vp09.00.{next(fitting, 52)}.08"


_HD_HEIGHT = 720
"""Frames from this height on are in BT.709 where the stream doesn't say, as players assume."""

FALLBACK_RATE = Fraction(25)
"""Frames a second where a stream doesn't say."""

FASTEST = Fraction(240)
"""A stated rate above this is a container's time base and not a rate."""

_DEMUXERS = {MP4: "mov", MOV: "mov", WEBM: "matroska", MATROSKA: "matroska", AVI: "avi"}
"""What the library calls the readers of the kinds of clips."""

BUFFER = 1 << 18
"""Bytes that are read at once."""

Codes = np.ndarray[tuple[int, ...], np.dtype[np.uint8]]


@dataclass(frozen=True)
class ClipFacts:
    """What a clip is, before it is read through."""

    size: Size
    """Upright and of square px, in px."""
    seconds: float
    rate: Fraction
    """Frames a second, nominally."""
    codec: str
    """Its name and, where the stream tells, the codecs parameter of RFC 6381."""
    bytes: int
    track_bytes: int
    """Of its picture track, about."""
    has_sound: bool
    bits: int
    """Of each sample."""
    is_hdr: bool
    is_interlaced: bool
    rotation: int
    """Degrees by which the stored frames are turned to stand upright."""
    has_alpha: bool
    """Whether it is transparent in part; what is published of it isn't."""
    pixel_shape: Fraction
    """Width of a stored px by its height; frames are handed out in square ones."""


@contextmanager
def opened(path: Path) -> Iterator[tuple[av.container.InputContainer, av.VideoStream]]:
    """The container and its first picture track that is more than a cover picture.

    The library gets the open file and its kind: by a name it might go to the network, and by
    the content it might take a list of other files for a clip.

    Raises:
        SourceError: it is damaged, or nothing in it moves.
    """
    with explained(str(path), "clip"), opened_file(path) as file:
        demuxer = _DEMUXERS.get(kind_of_file(file, path))
        if demuxer is None:
            raise SourceError(f"{path}: this is no clip.")
        with av.open(file, "r", format=demuxer, buffer_size=BUFFER) as container:
            tracks = [one for one in container.streams.video if not _is_cover(one)]
            if not tracks:
                raise SourceError(f"{path}: there is no moving picture in this clip.")
            tracks[0].thread_type = "AUTO"
            yield container, tracks[0]


def _is_cover(stream: av.VideoStream) -> bool:
    """A still picture that players show as a cover."""
    return bool(stream.disposition & av.stream.Disposition.attached_pic)


def read_clip_head(path: Path) -> Head:
    """Size and length of a clip."""
    facts = read_facts(path)
    return Head(facts.size, seconds=facts.seconds)


def read_facts(path: Path) -> ClipFacts:
    """Everything that the head and the first frame of a clip tell.

    Raises:
        SourceError: it can't be read.
    """
    with opened(path) as (container, stream):
        frame = next(container.decode(stream), None)
        if frame is None:
            raise SourceError(f"{path}: not one frame of this clip can be read.")
        return ClipFacts(
            size=_upright_size(frame, pixel_shape(stream)),
            seconds=length_of(container, stream) or 0.0,
            rate=_rate(stream),
            codec=codec_name(stream),
            bytes=path.stat().st_size,
            track_bytes=_track_bytes(path, container, stream),
            has_sound=bool(container.streams.audio),
            bits=max(part.bits for part in frame.format.components),
            is_hdr=hdr.is_hdr(frame),
            is_interlaced=frame.interlaced_frame,
            rotation=frame.rotation % 360,
            has_alpha=_has_alpha(stream, frame),
            pixel_shape=pixel_shape(stream),
        )


def _track_bytes(path: Path, container: av.container.InputContainer, stream: av.VideoStream) -> int:
    """All of the file without sound; else by the rate that the track states."""
    size = path.stat().st_size
    seconds = length_of(container, stream)
    if not container.streams.audio or not stream.bit_rate or not seconds:
        return size
    return min(size, int(stream.bit_rate * seconds / 8))


def _rate(stream: av.VideoStream) -> Fraction:
    for rate in (stream.average_rate, stream.guessed_rate):
        if rate and 0 < rate <= FASTEST:
            return Fraction(rate)
    return FALLBACK_RATE


def length_of(container: av.container.InputContainer, stream: av.VideoStream) -> float | None:
    """Seconds, as the head says."""
    if stream.duration is not None and stream.time_base is not None:
        return float(stream.duration * stream.time_base)
    return container.duration / av.time_base if container.duration is not None else None


def start_of(stream: av.VideoStream) -> float:
    """The time stamp of the beginning, in seconds."""
    return float((stream.start_time or 0) * stream.time_base) if stream.time_base else 0.0


def _has_alpha(stream: av.VideoStream, frame: av.VideoFrame) -> bool:
    """In its frames, or beside them, as WebM has it (``AlphaMode`` of its track)."""
    beside = stream.metadata.get("alpha_mode", "0") == "1"
    return beside or any(part.is_alpha for part in frame.format.components)


SLIMMEST, SQUARE = Fraction(1, 4), Fraction(1)
"""Shapes of px; a slimmer one, or one four times as wide as high, is a mistake of the file."""


def pixel_shape(stream: av.VideoStream) -> Fraction:
    """Width of a px by its height as it is shown (the sample aspect ratio of ITU-T H.273)."""
    shape = Fraction(stream.sample_aspect_ratio or SQUARE)
    return shape if SLIMMEST <= shape <= 1 / SLIMMEST else SQUARE


def shown_size(frame: av.VideoFrame, shape: Fraction) -> tuple[int, int]:
    """Width and height in square px, not turned: the shorter of two sides is made longer.

    Args:
        frame: as it is stored.
        shape: of its px; see ``pixel_shape``.
    """
    if shape >= 1:
        return round(frame.width * shape), frame.height
    return frame.width, round(frame.height / shape)


def _upright_size(frame: av.VideoFrame, shape: Fraction) -> Size:
    width, height = shown_size(frame, shape)
    return Size(height, width) if frame.rotation % 180 else Size(width, height)


def read_frame(path: Path, second: float) -> Raster:
    """The frame that is shown at ``second`` of the clip, upright, in sRGB.

    Raises:
        SourceError: the clip is damaged, or shorter than that.
    """
    with opened(path) as (container, stream):
        length = length_of(container, stream)
        frame = _frame_at(container, stream, second)
        if frame is None or (length is not None and second > length):
            told = (
                f"only {plain_number(round(length, 2))} s long" if length else "shorter than that"
            )
            raise SourceError(
                f"{path}: poster_at = {plain_number(second)}, but the clip is {told}."
            )
        return Raster(pixels_of(frame, *shown_size(frame, pixel_shape(stream))))


def _frame_at(
    container: av.container.InputContainer, stream: av.VideoStream, second: float
) -> av.VideoFrame | None:
    """The last frame that starts at or before ``second``."""
    seek(container, stream, second)
    begin = start_of(stream)
    shown = None
    for frame in container.decode(stream):
        if shown is not None and frame.time is not None and frame.time > begin + second + 1e-6:
            break
        shown = frame
    return shown


def seek(container: av.container.InputContainer, stream: av.VideoStream, second: float) -> None:
    """Go to the last key frame at or before a second of the clip."""
    if stream.time_base is not None and second > 0:
        place = int((start_of(stream) + second) / stream.time_base)
        container.seek(place, stream=stream, backward=True)


def pixels_of(frame: av.VideoFrame, width: int, height: int) -> Codes:
    """A frame's sRGB codes, upright, (height, width, 3); scaled to a size before it is turned."""
    if hdr.is_hdr(frame):
        pixels = hdr.to_srgb(frame, width, height)
    else:
        matrix = matrix_of(frame)
        scaled = frame.reformat(width, height, format="rgb24", src_colorspace=matrix)
        pixels = codes_of(scaled)
    return np.ascontiguousarray(np.rot90(pixels, frame.rotation // 90 % 4))


def codes_of(frame: av.VideoFrame) -> Codes:
    """A frame's codes as they are, of one byte each."""
    return np.asarray(frame.to_ndarray(), np.uint8)


def matrix_of(frame: av.VideoFrame) -> Colorspace | None:
    """The colour matrix to assume where the stream doesn't say; None where it does."""
    unstated = frame.colorspace in (Colorspace.DEFAULT, 2)
    return Colorspace.ITU709 if unstated and frame.height >= _HD_HEIGHT else None
