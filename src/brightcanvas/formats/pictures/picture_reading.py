"""Reading pictures: any mode in, upright sRGB with 8 bits per channel out."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms

from brightcanvas.formats.codec_libraries import explained, know_heic, our_switches
from brightcanvas.formats.codecs.jpeg import quality_of_tables
from brightcanvas.formats.drawings.drawing_cuts import read_drawing, rendered
from brightcanvas.formats.kinds import HEIC, Head, is_drawing
from brightcanvas.formats.loaded import Loaded, load
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Size
from brightcanvas.values.raster import Raster

_EXIF_ORIENTATION = 0x0112
_UPRIGHT = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
"""What turns each EXIF orientation (2 to 8) upright; CIPA DC-008, section 4.6.4."""
_SIDEWAYS = (5, 6, 7, 8)
_SIXTEEN_BIT = ("I", "I;16", "I;16B", "I;16L", "I;16N")


@contextmanager
def opened(file: Loaded) -> Iterator[Image.Image]:
    """A picture, open, but not yet decoded.

    Raises:
        SourceError: instead of whatever the codec library raises here or while this is open.
    """
    if file.kind is HEIC:
        know_heic(file.name)
    with (
        explained(file.name),
        our_switches(),
        Image.open(file.stream(), formats=[file.kind.codec]) as image,
    ):
        if image.mode == "F":
            raise SourceError(
                f"{file.name}: its px are fractions without a stated white (32 bits, floating"
                " point). Save it with 8 or 16 bits a channel."
            )
        yield image


def read_picture_head(file: Loaded) -> Head:
    """Size, alpha and compression of a picture, without decoding it."""
    with opened(file) as image:
        orientation = orientation_of(image)
        width, height = image.size[::-1] if orientation in _SIDEWAYS else image.size
        tables = getattr(image, "quantization", None)
        return Head(
            Size(width, height),
            _may_have_alpha(image),
            quality_of_tables(tables) if tables else None,
            pages=getattr(image, "n_frames", 1) if file.kind.is_paged else 1,
        )


def _may_have_alpha(image: Image.Image) -> bool:
    return image.mode in ("RGBA", "LA", "PA", "RGBa", "La") or "transparency" in image.info


def read_picture(path: Path, across: int | None = None) -> Raster:
    """The picture in a file, see ``picture_of``."""
    return picture_of(load(path), across)


def picture_of(file: Loaded, across: int | None = None) -> Raster:
    """Decode a picture (its first frame): upright, in sRGB, without metadata; render a drawing.

    Args:
        file: of it.
        across: px across at which a drawing is rendered; None: as it counts.

    Raises:
        SourceError: the file is damaged, cut short or of the wrong kind.
    """
    if file.kind.is_drawing:
        return Raster(pixels_of(read_drawing(file, across)))
    if file.kind.is_clip:
        raise SourceError(f"{file.name}: this is a clip, and a picture is wanted.")
    with opened(file) as image:
        turn = _UPRIGHT.get(orientation_of(image))
        image.load()
        straight = _in_srgb(_eight_bit(image))
        return Raster(pixels_of(straight.transpose(turn) if turn is not None else straight))


def decode(content: bytes, across: int | None = None, name: str = "a file of ours") -> Raster:
    """The pixels of a picture that we have encoded ourselves, or of a drawing that we have cut.

    Args:
        content: of the file.
        across: px across at which a drawing is rendered; None: as it counts.
        name: of its source, for messages.
    """
    if is_drawing(content):
        return Raster(pixels_of(rendered(content, name, across)))
    with explained(name), our_switches(), Image.open(io.BytesIO(content)) as image:
        image.load()
        return Raster(pixels_of(_in_srgb(image)))


def resampled(picture: Raster, width: int, height: int) -> Raster:
    """A picture scaled as browsers show one: cubic, on sRGB codes.

    Args:
        picture: of any size.
        width: of the result, px.
        height: of the result, px.
    """
    image = Image.fromarray(picture.pixels)
    return Raster(np.asarray(image.resize((width, height), Image.Resampling.BICUBIC)))


def orientation_of(image: Image.Image) -> int:
    """The EXIF orientation, 1 to 8.

    In a PNG it counts only if it stands before the pixels: asking the library for one
    behind them would decode the whole picture.
    """
    if image.format == "PNG" and "exif" not in image.info:
        return 1
    return int(image.getexif().get(_EXIF_ORIENTATION, 1))


def _eight_bit(image: Image.Image) -> Image.Image:
    """Reduce 16-bit grey, which the library would clip instead of scale."""
    if image.mode not in _SIXTEEN_BIT:
        return image
    values = np.asarray(image).astype(np.uint32).clip(0, 65535)
    reduced = Image.fromarray(((values + 128) // 257).astype(np.uint8))
    reduced.info = dict(image.info)
    return reduced


def _in_srgb(image: Image.Image) -> Image.Image:
    """RGB or RGBA in sRGB, by the embedded profile where there is one that can be read."""
    profile = image.info.get("icc_profile")
    if _may_have_alpha(image):
        whole = image if image.mode == "RGBA" else image.convert("RGBA")
        if not profile:
            return whole
        colours = _converted(whole.convert("RGB"), profile)
        colours.putalpha(whole.getchannel("A"))
        return colours
    plain = image if image.mode in ("RGB", "CMYK", "L") else image.convert("RGB")
    return _converted(plain, profile)


def _converted(image: Image.Image, profile: bytes | None) -> Image.Image:
    if profile:
        try:
            return _by_profile(image, profile)
        except (ImageCms.PyCMSError, OSError, ValueError):
            pass  # a profile for another mode, or a broken one: browsers ignore it too
    return image.convert("RGB")


def _by_profile(image: Image.Image, profile: bytes) -> Image.Image:
    embedded = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    converted = ImageCms.profileToProfile(
        image,
        embedded,
        ImageCms.createProfile("sRGB"),
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        outputMode="RGB",
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )
    assert converted is not None
    return converted


def pixels_of(image: Image.Image) -> np.ndarray[tuple[int, ...], np.dtype[np.uint8]]:
    """The pixels of a decoded picture; alpha that hides nothing is left out."""
    pixels = np.asarray(image)
    if pixels.shape[2] == 4 and (pixels[..., 3] == 255).all():
        return np.ascontiguousarray(pixels[..., :3])
    return pixels
