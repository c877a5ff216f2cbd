"""Sources of every sort: what can be read comes out right, what can't is refused clearly."""

from __future__ import annotations

import io
import os
import struct
import sys
import zlib
from fractions import Fraction
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image, ImageCms

from brightcanvas.formats.clips.clip_reading import read_frame
from brightcanvas.formats.pictures.picture_reading import read_picture
from brightcanvas.formats.survey import survey
from brightcanvas.values.errors import ExitStatus, SourceError

from .conftest import call, noise, save_noise, write_brief

RED, GREEN, BLUE, WHITE = (255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 255, 255)


def quarters(width: int = 64, height: int = 32) -> Image.Image:
    """Red and green above, blue and white below."""
    image = Image.new("RGB", (width, height), RED)
    image.paste(GREEN, (width // 2, 0, width, height // 2))
    image.paste(BLUE, (0, height // 2, width // 2, height))
    image.paste(WHITE, (width // 2, height // 2, width, height))
    return image


def corners(path: Path, tolerance: int = 40) -> list[str]:
    """The colours near the four corners, by name, row by row."""
    pixels = read_picture(path).pixels[..., :3].astype(int)
    height, width = pixels.shape[:2]
    spots = [(height // 8, width // 8), (height // 8, -width // 8)]
    spots += [(-height // 8, width // 8), (-height // 8, -width // 8)]
    names = {"red": RED, "green": GREEN, "blue": BLUE, "white": WHITE}
    return [
        next(n for n, c in names.items() if np.abs(pixels[spot] - c).max() <= tolerance)
        for spot in spots
    ]


@pytest.mark.parametrize("name", ["a.jpg", "a.png", "a.webp", "a.avif", "a.gif", "a.tif"])
def test_every_format_is_read(tmp_path: Path, name: str) -> None:
    quarters().save(tmp_path / name, quality=95)
    assert corners(tmp_path / name) == ["red", "green", "blue", "white"]
    assert str(survey(tmp_path / name).size) == "64 x 32"


@pytest.mark.parametrize("mode", ["P", "CMYK", "RGBA", "RGB", "LAB"])
def test_every_mode_is_read(tmp_path: Path, mode: str) -> None:
    path = tmp_path / {"CMYK": "a.jpg", "LAB": "a.tif"}.get(mode, "a.png")
    quarters().convert(mode).save(path)
    assert corners(path) == ["red", "green", "blue", "white"]


@pytest.mark.parametrize("mode", ["L", "LA", "1", "I;16"])
def test_grey_of_every_depth_is_read(tmp_path: Path, mode: str) -> None:
    ramp = np.linspace(0, 1, 64)[None, :].repeat(8, 0)
    if mode == "I;16":
        image = Image.fromarray((ramp * 65535).astype(np.uint16))
    else:
        image = Image.fromarray((ramp * 255).astype(np.uint8)).convert(mode)
    image.save(tmp_path / "a.png")
    pixels = read_picture(tmp_path / "a.png").pixels
    assert pixels.shape == (8, 64, 3)
    wanted = ramp * 255 if mode != "1" else pixels[..., 0]
    assert np.abs(pixels[..., 0] - wanted).max() <= 1


@pytest.mark.parametrize("order", "<>")
@pytest.mark.parametrize("colours", ["grey", "RGB", "RGBA"])
def test_sixteen_bits_of_a_tiff_are_scaled_and_not_clipped(
    tmp_path: Path, order: str, colours: str
) -> None:
    channels = {"grey": 1, "RGB": 3, "RGBA": 4}[colours]
    values = np.linspace(0, 65535, 16 * 8 * channels).reshape(8, 16, channels)
    (tmp_path / "a.tif").write_bytes(sixteen_bit_tiff(values.astype(f"{order}u2"), order))
    pixels = read_picture(tmp_path / "a.tif").pixels
    assert np.abs(pixels - values / 257).max() <= 1.0


def test_a_cmyk_tiff_is_read_by_its_profile_or_without(tmp_path: Path) -> None:
    quarters().convert("CMYK").save(tmp_path / "a.tif", compression="tiff_lzw")
    assert corners(tmp_path / "a.tif") == ["red", "green", "blue", "white"]


def test_the_first_page_of_a_document_is_taken_and_told(tmp_path: Path) -> None:
    pages = [quarters(1600, 900), Image.new("RGB", (1600, 900), BLUE)]
    pages[0].save(tmp_path / "a.tif", save_all=True, append_images=pages[1:])
    assert corners(tmp_path / "a.tif")[0] == "red"
    brief = write_brief(tmp_path, '[[backdrop]]\nsource = "a.tif"\nelement = "p"\n')
    ran = call("plan", brief)
    assert ran.status == 0, ran.err
    assert "the first of its 2 pages" in ran.out
    (made,) = call("compress", tmp_path / "a.tif", "--json").facts["files"]
    assert Path(made["output"]).suffix in (".png", ".webp")
    assert made["told"] == "the first of its 2 pages"
    assert corners(Path(made["output"]))[0] == "red", "pages are no frames of an animation"


def test_fractions_are_no_codes(tmp_path: Path) -> None:
    Image.fromarray(np.full((8, 8), 0.5, np.float32)).save(tmp_path / "a.tif")
    with pytest.raises(SourceError, match="Save it with 8 or 16 bits"):
        survey(tmp_path / "a.tif")


def sixteen_bit_tiff(values: np.ndarray[Any, Any], order: str) -> bytes:
    """TIFF 6.0, section 2: one strip; the codec library writes only grey in 16 bits."""
    height, width, channels = values.shape
    entries = {
        256: (width,), 257: (height,), 258: (16,) * channels, 259: (1,),
        262: (2 if channels > 1 else 1,), 273: (0,), 277: (channels,), 278: (height,),
        279: (values.nbytes,), **({338: (2,)} if channels == 4 else {}),
    }  # fmt: skip
    behind = 8 + 2 + 12 * len(entries) + 4
    long_ones = {tag: told for tag, told in entries.items() if len(told) > 1}
    entries[273] = (behind + sum(4 * len(told) for told in long_ones.values()),)
    table, further = b"", b""
    for tag, told in entries.items():
        raw = struct.pack(f"{order}{len(told)}I", *told)
        place = struct.pack(f"{order}I", behind + len(further)) if len(told) > 1 else raw
        table += struct.pack(f"{order}HHI", tag, 4, len(told)) + place
        further += raw if len(told) > 1 else b""
    start = (b"II*\0" if order == "<" else b"MM\0*") + struct.pack(f"{order}IH", 8, len(entries))
    return start + table + bytes(4) + further + values.tobytes()


class TestHeic:
    """Photographs as phones keep them; the decoder is an extra."""

    @pytest.fixture(autouse=True)
    def heif(self) -> Any:
        """The extra, which can write such files too."""
        return pytest.importorskip("pillow_heif", reason="no decoder of HEIC is installed")

    def test_it_is_read_upright(self, tmp_path: Path, heif: Any) -> None:
        """A phone held upright keeps its picture on its side, with a note how to turn it."""
        exif = Image.Exif()
        exif[0x0112] = 6
        turned = quarters().transpose(Image.Transpose.ROTATE_90)
        file = heif.from_pillow(turned)
        file.save(tmp_path / "a.heic", quality=95, exif=exif.tobytes())
        assert (tmp_path / "a.heic").read_bytes()[4:12] == b"ftypheic"
        assert corners(tmp_path / "a.heic") == ["red", "green", "blue", "white"]
        assert str(survey(tmp_path / "a.heic").size) == "64 x 32"

    def test_its_wide_gamut_is_brought_into_srgb(self, tmp_path: Path, heif: Any) -> None:
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        swapped = profile.replace(b"rXYZ", b"tmp.").replace(b"gXYZ", b"rXYZ")
        file = heif.from_pillow(quarters())
        file.save(tmp_path / "a.heic", quality=95, icc_profile=swapped.replace(b"tmp.", b"gXYZ"))
        assert corners(tmp_path / "a.heic")[:2] == ["green", "red"]

    def test_ten_bits_are_read(self, tmp_path: Path, heif: Any) -> None:
        ramp = np.linspace(0, 65535, 64 * 32 * 3).astype(np.uint16)
        file = heif.from_bytes("RGB;16", (64, 32), ramp.tobytes())
        file.save(tmp_path / "a.heic", quality=-1)
        pixels = read_picture(tmp_path / "a.heic").pixels
        assert np.abs(pixels - ramp.reshape(32, 64, 3) / 257).mean() <= 2

    def test_a_site_is_built_of_one(self, tmp_path: Path, heif: Any) -> None:
        heif.from_pillow(Image.fromarray(noise(1600, 900))).save(tmp_path / "a.heic", quality=90)
        brief = write_brief(tmp_path, '[[backdrop]]\nsource = "a.heic"\nelement = "p"\n')
        ran = call("build", brief)
        assert ran.status == 0, ran.err
        assert {one.suffix for one in (tmp_path / "published").glob("*.*")} >= {".avif", ".jpg"}

    def test_a_damaged_one_is_told(self, tmp_path: Path, heif: Any) -> None:
        heif.from_pillow(quarters()).save(tmp_path / "whole.heic")
        content = (tmp_path / "whole.heic").read_bytes()
        (tmp_path / "a.heic").write_bytes(content[: len(content) // 2])
        with pytest.raises(SourceError, match=r"a\.heic: the file is damaged or cut short"):
            read_picture(tmp_path / "a.heic")


def test_a_missing_decoder_is_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "pillow_heif", None)
    (tmp_path / "a.heic").write_bytes(b"\0\0\0\x18ftypheic\0\0\0\0mif1heic")
    with pytest.raises(SourceError, match=r"pip install 'brightcanvas\[heic\]'"):
        survey(tmp_path / "a.heic")


def test_the_first_frame_of_a_moving_gif_is_taken(tmp_path: Path) -> None:
    frames = [quarters(), Image.new("RGB", (64, 32), BLUE)]
    frames[0].save(tmp_path / "a.gif", save_all=True, append_images=frames[1:])
    assert corners(tmp_path / "a.gif")[0] == "red"


@pytest.mark.parametrize("orientation", range(1, 9))
def test_pictures_come_out_upright(tmp_path: Path, orientation: int) -> None:
    turns = {1: None, 2: 0, 3: 3, 4: 1, 5: 5, 6: 2, 7: 6, 8: 4}
    undo = turns[orientation]
    image = quarters() if undo is None else quarters().transpose(Image.Transpose(undo))
    exif = Image.Exif()
    exif[0x0112] = orientation
    image.save(tmp_path / "a.jpg", quality=95, subsampling=0, exif=exif)
    assert corners(tmp_path / "a.jpg") == ["red", "green", "blue", "white"]
    assert str(survey(tmp_path / "a.jpg").size) == "64 x 32"


def test_embedded_profiles_are_turned_into_srgb(tmp_path: Path) -> None:
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    quarters().save(tmp_path / "same.png", icc_profile=lab)
    assert corners(tmp_path / "same.png", 2) == ["red", "green", "blue", "white"]
    # The same profile with red and green primaries swapped: red codes mean green light.
    swapped = lab.replace(b"rXYZ", b"tmp.").replace(b"gXYZ", b"rXYZ").replace(b"tmp.", b"gXYZ")
    quarters().save(tmp_path / "swapped.png", icc_profile=swapped)
    assert corners(tmp_path / "swapped.png")[:2] == ["green", "red"]
    quarters().save(tmp_path / "broken.png", icc_profile=b"no profile at all")
    assert corners(tmp_path / "broken.png", 2) == ["red", "green", "blue", "white"]


def test_alpha_that_hides_nothing_is_dropped(tmp_path: Path) -> None:
    quarters().convert("RGBA").save(tmp_path / "a.png")
    assert not read_picture(tmp_path / "a.png").has_alpha


@pytest.mark.slow
@pytest.mark.parametrize("quality", [30, 60, 75, 90, 97])
def test_how_hard_a_jpeg_was_compressed_is_estimated(tmp_path: Path, quality: int) -> None:
    path = save_noise(tmp_path / "a.jpg", quality=quality)
    estimate = survey(path).jpeg_quality
    assert estimate is not None
    assert abs(estimate - quality) <= 2


def write_clip(path: Path, *, codec: str, seconds: int = 2) -> Path:
    """A clip whose frames get brighter, 10 a second; its left half stays black."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=10)
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height, stream.pix_fmt = 64, 32, "yuv420p"
        stream.time_base = Fraction(1, 10)
        for number in range(10 * seconds):
            pixels = np.zeros((32, 64, 3), np.uint8)
            pixels[:, 32:] = 40 + 10 * number
            container.mux(stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24")))
        container.mux(stream.encode(None))
    return path


@pytest.mark.slow
@pytest.mark.parametrize(
    ("name", "codec"), [("a.mp4", "libx264"), ("a.mov", "libx264"), ("a.webm", "libvpx-vp9")]
)
def test_the_frame_at_a_time_is_taken(tmp_path: Path, name: str, codec: str) -> None:
    path = write_clip(tmp_path / name, codec=codec)
    for second, value in ((0.0, 40), (0.55, 90), (1.9, 230)):
        assert abs(int(read_frame(path, second).pixels[16, 48, 0]) - value) <= 6
    with pytest.raises(SourceError, match="only 2 s long"):
        read_frame(path, 3)


def test_a_clip_filmed_sideways_comes_out_upright(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "a.mp4", codec="libx264")
    one, minus, zero = b"\0\1\0\0", b"\xff\xff\0\0", b"\0\0\0\0"
    content = path.read_bytes()
    track = content.index(b"tkhd")
    before, after = content[:track], content[track:]
    straight, turned = (one + zero * 3 + one), (zero + one + zero + minus + zero)
    path.write_bytes(before + after.replace(straight, turned, 1))
    pixels = read_frame(path, 1).pixels  # a quarter turn clockwise: left becomes top
    assert pixels.shape == (64, 32, 3)
    assert pixels[10, 16, 0] < 20
    assert pixels[54, 16, 0] > 120
    assert str(survey(path).size) == "32 x 64"


def damaged(tmp_path: Path) -> dict[str, Path]:
    """One file for each way in which a source can be wrong."""
    picture = save_noise(tmp_path / "good.jpg").read_bytes()
    png = io.BytesIO()
    Image.fromarray(noise(200, 200)).save(png, "PNG")
    clip = write_clip(tmp_path / "good.mp4", codec="libx264").read_bytes()
    contents = {
        "empty.jpg": b"",
        "cut-short.jpg": picture[: len(picture) // 2],
        "cut-short.png": png.getvalue()[: len(png.getvalue()) // 3],
        "head-only.png": png.getvalue()[:40],
        "flipped.png": png.getvalue()[:100] + b"\xff" * 200 + png.getvalue()[300:],
        "text.jpg": b"just some words",
        "page.png": b"<!doctype html><title>404</title>",
        "drawing.svg": b'<svg xmlns="http://www.w3.org/2000/svg"><g',
        "page.svg": b"<!DOCTYPE html><title>404</title><svg></svg>",
        "paper.jpg": b"%PDF-1.7 ...",
        "phone.heic": b"\0\0\0\x18ftypheic\0\0\0\0mif1heic",
        "cut-short.mp4": clip[: len(clip) // 3],
        "noise.webp": b"RIFF\x10\0\0\0WEBPVP8 " + bytes(range(200)),
    }
    for name, content in contents.items():
        (tmp_path / name).write_bytes(content)
    return {name: tmp_path / name for name in contents}


WHY = {
    "empty.jpg": "the file is empty",
    "text.jpg": "this is no picture or clip",
    "page.png": "this is a text file",
    "drawing.svg": "the drawing is damaged",
    "page.svg": "this is a text file",
    "paper.jpg": "PDF document",
    "phone.heic": "damaged or cut short" if find_spec("pillow_heif") else "a decoder of their own",
}


@pytest.mark.slow
def test_what_cannot_be_used_is_refused_with_the_reason(tmp_path: Path) -> None:
    for name, path in damaged(tmp_path).items():
        text = f'[[backdrop]]\nsource = "{name}"\nelement = "p"\n'
        ran = call("build", write_brief(tmp_path, text))
        assert ran.status == 3, name
        assert f"{path}: " in ran.err
        assert WHY.get(name, "damaged or cut short") in ran.err, name
        assert not (tmp_path / "published").exists(), name


def test_several_bad_sources_are_all_named(tmp_path: Path) -> None:
    text = '[[backdrop]]\nsource = "none.jpg"\nelement = "p"\n'
    text += text.replace("none", "nothing").replace('"p"', '"b"')
    ran = call("plan", write_brief(tmp_path, text), "--json")
    assert ran.status == 3
    assert ran.facts["status"] == 3
    assert len(ran.facts["errors"]) == 2
    assert all("there is no such file" in line for line in ran.facts["errors"])


def test_a_folder_is_no_source(tmp_path: Path) -> None:
    (tmp_path / "pictures").mkdir()
    text = '[[backdrop]]\nsource = "pictures"\nelement = "p"\n'
    ran = call("plan", write_brief(tmp_path, text))
    assert "this is a folder" in ran.err
    assert ran.status == 3 or os.name == "nt"


@pytest.mark.slow
def test_the_pixel_limit_is_stated_and_adjustable(tmp_path: Path) -> None:
    save_noise(tmp_path / "picture.png", 1200, 1000)
    brief = write_brief(tmp_path, '[[backdrop]]\nsource = "picture.png"\nelement = "p"\n')
    ran = call("plan", brief, "--largest-source", "1")
    assert ran.status == 3
    assert "1200 x 1000 px are 1.2 megapixels, more than the limit of 1." in ran.err
    assert call("plan", brief, "--largest-source", "2").status == 0


def test_a_bomb_is_refused_before_it_is_decoded(tmp_path: Path) -> None:
    head = b"IHDR" + struct.pack(">IIBBBBB", 60_000, 60_000, 8, 2, 0, 0, 0)
    chunk = struct.pack(">I", 13) + head + struct.pack(">I", zlib.crc32(head))
    data = b"IDAT" + zlib.compress(bytes(1000))
    chunk += struct.pack(">I", len(data) - 4) + data + struct.pack(">I", zlib.crc32(data))
    (tmp_path / "bomb.png").write_bytes(b"\x89PNG\r\n\x1a\n" + chunk)
    brief = write_brief(tmp_path, '[[backdrop]]\nsource = "bomb.png"\nelement = "p"\n')
    ran = call("build", brief)
    assert ran.status == 3
    assert "3600 megapixels" in ran.err


def cut_files(folder: Path) -> dict[str, Path]:
    """Pictures of every format, saved whole and then cut short."""
    image = Image.fromarray(noise(120, 80))
    thumbnail = io.BytesIO()
    image.resize((30, 20)).save(thumbnail, "JPEG")
    found = {}
    for ending in ("jpg", "png", "webp", "avif"):
        path = folder / f"cut.{ending}"
        image.save(path)
        content = path.read_bytes()
        if ending == "jpg":  # with a whole thumbnail in its notes
            note = thumbnail.getvalue()
            segment = b"\xff\xe5" + (len(note) + 2).to_bytes(2, "big") + note
            content = content[:2] + segment + content[2:]
            path.write_bytes(content)
        brief = write_brief(folder, f'[[backdrop]]\nsource = "{path.name}"\nelement = ".a"\n')
        assert call("plan", brief).status < ExitStatus.BRIEF_WRONG, "it is whole"
        path.write_bytes(content[: len(content) - 40])
        found[ending] = path
    return found


@pytest.mark.slow
def test_a_plan_refuses_a_source_that_is_cut_short(tmp_path: Path) -> None:
    for path in cut_files(tmp_path).values():
        brief = write_brief(tmp_path, f'[[backdrop]]\nsource = "{path.name}"\nelement = ".a"\n')
        ran = call("plan", brief)
        assert (ran.status, "damaged or cut short" in ran.err) == (3, True), path
