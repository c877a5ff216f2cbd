"""Clips whose truth is known: what is found in them is what was put there."""

from __future__ import annotations

import os
import signal
import struct
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from brightcanvas.analysis.flashes import flashes, remedies_for
from brightcanvas.analysis.loops import BACK, FADED, ONCE, SEEN, Loop, LoopWish, loop_of
from brightcanvas.analysis.motion import reduced
from brightcanvas.analysis.stills import StillWish, best_stills
from brightcanvas.analysis.timing import ClipTiming, Run
from brightcanvas.formats.clips.clip_reading import read_facts
from brightcanvas.formats.clips.clip_writing import Beat, decoded, planar_of, write_clip
from brightcanvas.formats.clips.hdr import HLG, PQ
from brightcanvas.formats.clips.moments import FrameReading, PixelFormat, moments
from brightcanvas.terminal.phrases import clip_text
from brightcanvas.values.errors import SourceError
from brightcanvas.values.file_formats import ClipEncoding, ClipFormat
from brightcanvas.values.geometry import Rect

from .clips import RATE, SIZE, Codes, codes, jump_of, panned, scene, write
from .conftest import call


@pytest.mark.slow
@pytest.mark.slow
@pytest.mark.parametrize("kind", ClipFormat)
def test_the_same_frames_are_the_same_file_every_time(kind: ClipFormat) -> None:
    """On other threads and in used memory too: a name with a digest must not change by itself."""
    picture = scene(3, (320, 192))
    turned = (ndimage.rotate(picture, 2 * number, reshape=False, order=1, mode="reflect")
              for number in range(32))  # fmt: skip
    frames = [planar_of(codes(frame)) for frame in turned]

    def written(_: int) -> bytes:
        return write_clip(frames, (320, 192), Beat(Fraction(24)), ClipEncoding(kind, 27))

    with ThreadPoolExecutor(3) as threads:
        assert len(set(threads.map(written, range(12)))) == 1


def test_the_still_is_the_sharp_well_lit_frame_outside_fades_and_cuts(tmp_path: Path) -> None:
    dull, good = scene(1), scene(2)
    pictures: list[NDArray[np.floating]] = []
    for number in range(96):
        if number < 24:  # a fade in from black
            pictures.append(dull * number / 24)
        elif number < 48:  # out of focus
            pictures.append(ndimage.gaussian_filter(good, (4, 4, 0)))
        elif number < 60:  # one scene dissolves into the other
            share = (number - 48) / 12
            pictures.append(dull * (1 - share) + good * share)
        elif number < 80:  # the good part
            pictures.append(good)
        else:  # washed out
            pictures.append(0.85 + 0.15 * good)
    path = write(tmp_path / "mixed.mp4", map(codes, pictures))
    best = best_stills(path, read_facts(path), StillWish())[0]
    assert 61 / RATE <= best.second < 79 / RATE
    assert not best.marks.is_dull


@pytest.mark.slow
def test_the_still_heeds_where_the_copy_lies(tmp_path: Path) -> None:
    busy, calm = scene(3), np.full_like(scene(3), 0.5)
    left = np.concatenate([calm[:, :96], busy[:, 96:]], axis=1)
    right = np.concatenate([busy[:, :96], calm[:, 96:]], axis=1)
    path = write(tmp_path / "two.mp4", map(codes, [left] * 24 + [right] * 24))
    facts = read_facts(path)
    on_the_left = best_stills(path, facts, StillWish(copy=Rect(0, 0, 0.45, 1)))[0]
    on_the_right = best_stills(path, facts, StillWish(copy=Rect(0.55, 0, 1, 1)))[0]
    assert on_the_left.second < 1 <= on_the_right.second


def loop_in(path: Path, seam: str = "find") -> Loop:
    """What is played of a whole clip."""
    facts = read_facts(path)
    wish = LoopWish(0, facts.seconds, seam, is_round=True)
    return loop_of(reduced(path, facts, 0, facts.seconds), facts, wish)


@pytest.mark.slow
def test_each_still_shows_something_else(tmp_path: Path) -> None:
    """Of three scenes there are three stills, and black is none."""
    scenes = [scene(51), scene(52) * 0.9, scene(53)]
    pictures = [codes(one) for one in scenes for _ in range(30)]
    path = write(tmp_path / "three.mp4", [codes(scene(51) * 0)] * 12 + pictures)
    found = best_stills(path, read_facts(path), StillWish(), 6)
    places = sorted(int((one.second - 0.5) * RATE // 30) for one in found)
    assert places == [0, 1, 2]
    assert not found[0].marks.is_dull


@pytest.mark.slow
def test_a_dull_clip_is_called_dull(tmp_path: Path) -> None:
    fog = 0.5 + 0.02 * scene(54)
    path = write(tmp_path / "fog.mp4", [codes(fog)] * 24)
    ran = call("poster", path)
    assert ran.status == 0
    assert "Even the best one is dull" in ran.out


@pytest.mark.slow
@pytest.mark.parametrize(("lead", "round_"), [(17, 48), (40, 60)])
def test_a_hidden_loop_is_found_where_it_is(tmp_path: Path, lead: int, round_: int) -> None:
    """The clip goes once round within a longer way that never comes back otherwise."""
    circle, before, after = scene(4), scene(5), scene(6)
    pictures = [panned(before, number / 400) for number in range(lead)]
    pictures += [panned(circle, number / round_) for number in range(round_ + 1)]
    pictures += [panned(after, number / 400) for number in range(20)]
    path = write(tmp_path / "hidden.mp4", map(codes, pictures))
    found = loop_in(path)
    assert round((found.end - found.begin) * RATE) == round_
    assert lead <= round(found.begin * RATE) <= lead + 1
    assert found.jump < SEEN
    assert found.fade == 0


def brightening(number: int) -> Codes:
    """A soft scene in which the light comes up: nothing in it has an outline to be seen twice."""
    soft = ndimage.gaussian_filter(scene(7), (14, 14, 0))
    return codes(panned(soft, number / 300) * (0.4 + number / 160))


@pytest.mark.slow
def test_without_a_loop_the_end_fades_into_the_beginning(tmp_path: Path) -> None:
    path = write(tmp_path / "way.mp4", map(brightening, range(72)))
    found = loop_in(path)
    assert found.before > 1.5 > found.jump
    assert found.way == FADED
    assert 0.5 < found.fade < 0.8
    assert found.begin >= found.fade - 0.05


@pytest.mark.slow
def test_what_would_be_seen_twice_is_not_faded(tmp_path: Path) -> None:
    """A camera that goes along plays forth and back; what crosses a still scene plays once."""
    wide = scene(55, (600, 108), coarse=3)
    pan = [codes(wide[:, 4 * number : 4 * number + 192]) for number in range(96)]
    back = loop_in(write(tmp_path / "pan.mp4", pan))
    assert back.way == BACK
    assert "two pictures at once" in back.why
    still = scene(56)

    def crossing(number: int) -> Codes:
        picture = still.copy()
        for row in range(4):
            place = (number * 2 + row * 47) % 190
            picture[row * 27 : row * 27 + 24, max(0, place - 20) : place] = (
                0.02 if row % 2 else 0.98
            )
        return codes(picture)

    once = loop_in(write(tmp_path / "crossing.mp4", map(crossing, range(61))))
    assert once.way == ONCE
    assert "one way only" in once.why
    assert loop_in(tmp_path / "crossing.mp4", "fade").way == FADED


@pytest.mark.slow
def test_a_clip_goes_forth_and_back_in_its_file(tmp_path: Path) -> None:
    wide = scene(57, (500, 108), coarse=3)
    pan = [codes(wide[:, 3 * number : 3 * number + 192]) for number in range(72)]
    path = write(tmp_path / "pan.mp4", pan)
    ran = call(
        "transcode", path, "--codecs", "h264", "--seam", "back", "--into", tmp_path / "b", "--json"
    )
    [clip] = ran.facts["clips"]
    assert clip["loop"]["way"] == "back"
    [file] = clip["files"]
    frames = [one.astype(float) for _, one in decoded(Path(file["file"]).read_bytes())]
    assert len(frames) == file["frames"]
    for number in range(1, len(frames) // 2):
        assert np.abs(frames[number] - frames[-number]).mean() < 6
    assert jump_of([one.astype(np.uint8) for one in frames]) < 1.5


def jump_in(path: Path) -> float:
    """From a file's last frame to its first, in median steps, by all px of its luma."""
    with av.open(str(path)) as container:
        frames = [one.to_ndarray(format="gray").astype(float) for one in container.decode(video=0)]
    steps = [np.sqrt(np.mean((b - a) ** 2)) for a, b in pairwise(frames)]
    over = float(np.sqrt(np.mean((frames[-1] - frames[0]) ** 2)))
    return over / float(np.median(steps))


@pytest.mark.slow
def test_a_jump_is_told_as_the_file_has_it(tmp_path: Path) -> None:
    """Of a clip that jumps and is left as it is; by the frames that are decoded from each file."""
    pictures = [codes(panned(scene(58), number / 300)) for number in range(48)]
    path = write(tmp_path / "jumps.mp4", pictures)
    ran = call("transcode", path, "--seam", "leave", "--into", tmp_path / "j", "--json")
    [clip] = ran.facts["clips"]
    measured = [jump_in(Path(file["file"])) for file in clip["files"]]
    assert clip["loop"]["jump"]["after"] == pytest.approx(max(measured), rel=0.2)
    assert clip["loop"]["jump"]["after"] > 1.5


@pytest.mark.slow
def test_a_perfect_loop_is_left_as_it_is(tmp_path: Path) -> None:
    pictures = [codes(panned(scene(8), number / 64)) for number in range(64)]
    path = write(tmp_path / "round.mp4", pictures)
    found = loop_in(path)
    assert (found.begin, found.fade) == (0, 0)
    assert found.end == pytest.approx(64 / RATE)
    assert jump_of(pictures) < 1.5


def blinking(
    times_a_second: float,
    area: float,
    colours: tuple[object, object] = (0.2, 0.9),
    size: tuple[int, int] = (96, 54),
) -> list[tuple[float, Codes]]:
    """Three seconds in which a box, of a share of a third of the picture each way, blinks."""
    frames, (width, height) = [], size
    across, down = (round(side / 3 * area**0.5) for side in size)
    for number in range(90):
        picture = np.full((height, width, 3), 0.3)
        phase = int(number / 30 * times_a_second * 2) % 2
        picture[10 : 10 + down, 20 : 20 + across] = colours[phase]
        frames.append((number / 30, codes(picture)))
    return frames


ALL = 9.0


def test_flashes_are_counted() -> None:
    assert flashes(blinking(2, ALL)).most == 2
    assert flashes(blinking(3, ALL)).is_safe
    assert 4 <= flashes(blinking(4.4, ALL)).most <= 5
    assert not flashes(blinking(4.4, ALL)).is_safe


@pytest.mark.parametrize(("area", "counts"), [(0.2, False), (0.32, True)])
def test_a_quarter_of_ten_degrees_is_what_counts(area: float, *, counts: bool) -> None:
    """341 x 256 px of 1024 x 768: a third of the screen each way."""
    assert flashes(blinking(6, area)).is_safe is not counts


def of_light(luminance: float) -> float:
    """The sRGB value, 0..1, of a relative luminance of grey."""
    return float(1.055 * luminance ** (1 / 2.4) - 0.055)


@pytest.mark.parametrize(
    ("low", "high", "counts"),
    [(0.3, 0.39, False), (0.3, 0.42, True), (0.82, 0.97, False), (0.78, 0.9, True)],
)
def test_a_tenth_of_luminance_is_what_counts(low: float, high: float, *, counts: bool) -> None:
    """The darker side being below 0.8."""
    found = flashes(blinking(6, ALL, (of_light(low), of_light(high))))
    assert found.is_safe is not counts


@pytest.mark.parametrize(
    ("one", "other", "counts"),
    [
        ((0.5, 0, 0), (0, 0, 0), True),  # a saturated red, too dark for a general flash
        ((0.5, 0.3, 0.3), (0.46, 0.3, 0.3), False),  # a pale red
        ((0.06, 0, 0), (0, 0, 0), False),  # a red that nobody sees
        ((0.55, 0, 0), (0.5, 0.02, 0.02), False),  # red to red
    ],
)
def test_saturated_red_counts_by_its_colour(
    one: tuple[float, ...], other: tuple[float, ...], *, counts: bool
) -> None:
    assert flashes(blinking(6, ALL, (one, other))).is_safe is not counts


def test_what_moves_across_is_no_flash() -> None:
    """Each place changes there and back a few times, never together with a large area."""
    frames = []
    for number in range(90):
        picture = np.full((54, 96, 3), 0.2)
        left = number * 5 % 140 - 20
        picture[:, max(0, left) : max(0, left + 16)] = 0.9
        frames.append((number / 30, codes(picture)))
    assert flashes(frames).is_safe


def test_each_remedy_against_flashes_was_tried() -> None:
    calm = [(number / 30, codes(np.full((54, 96, 3), 0.3))) for number in range(75)]
    frames = calm + [(2.5 + second, picture) for second, picture in blinking(5, ALL)]
    found = remedies_for(frames)
    assert found.speed
    assert flashes([(second / found.speed, one) for second, one in frames]).is_safe
    assert found.stretch
    begin, end = found.stretch
    assert end - begin > 1.5
    assert flashes([one for one in frames if begin <= one[0] <= end]).is_safe
    assert found.fade
    mixed = [
        (
            second,
            (one * (1 - found.fade) + np.array(found.fade_to) * 255 * found.fade).astype(np.uint8),
        )
        for second, one in frames
    ]
    assert flashes(mixed).is_safe


def test_the_worst_second_is_told() -> None:
    calm = [(number / 30, codes(np.full((54, 96, 3), 0.3))) for number in range(60)]
    later = [(2 + second, picture) for second, picture in blinking(5, ALL)]
    assert flashes(calm + later).second == pytest.approx(2, abs=0.2)


@pytest.mark.parametrize(
    ("ending", "codec", "pix_fmt"),
    [
        ("mp4", "libx264", "yuv420p"),
        ("mov", "libx264", "yuv422p10le"),
        ("mkv", "libx264", "yuv420p"),
        ("webm", "libvpx-vp9", "yuv420p"),
        ("avi", "mpeg4", "yuv420p"),
    ],
)
def test_containers_and_codecs_are_read(
    tmp_path: Path, ending: str, codec: str, pix_fmt: str
) -> None:
    picture = scene(9, (102, 58))
    path = write(tmp_path / f"clip.{ending}", [codes(picture)] * 12, codec=codec, pix_fmt=pix_fmt)
    facts = read_facts(path)
    frames = list(moments(path, FrameReading()))
    assert (facts.size.width, facts.size.height) == (102, 58)
    assert len(frames) == 12
    assert facts.bits == (10 if "10" in pix_fmt else 8)
    assert np.abs(frames[6].pixels.astype(float) - codes(picture)).mean() < 8


def test_uneven_time_stamps_are_kept(tmp_path: Path) -> None:
    stamps = [0, 40, 90, 300, 320, 600, 1000]
    path = write(
        tmp_path / "uneven.mkv", [codes(scene(10))] * 7, times=lambda number: stamps[number]
    )
    seconds = [round(one.second * 1000) for one in moments(path, FrameReading())]
    assert seconds == stamps


@pytest.mark.slow
def test_of_a_damaged_tail_the_whole_frames_are_used(tmp_path: Path) -> None:
    pictures = [codes(panned(scene(11), number / 48)) for number in range(48)]
    path = write(tmp_path / "whole.mkv", pictures)
    content = path.read_bytes()
    cut = tmp_path / "cut.mkv"
    cut.write_bytes(content[: len(content) * 2 // 3])
    frames = list(moments(cut, FrameReading()))
    assert 12 <= len(frames) < 48
    assert np.abs(frames[10].pixels.astype(float) - pictures[10]).mean() < 8


def test_what_is_no_clip_is_refused_with_a_reason(tmp_path: Path) -> None:
    path = tmp_path / "noise.mp4"
    path.write_bytes(bytes(range(256)) * 40)
    with pytest.raises(SourceError, match="noise"):
        read_facts(path)


def test_a_part_is_cut_out_and_scaled(tmp_path: Path) -> None:
    picture = codes(scene(12))
    path = write(tmp_path / "part.mp4", [picture] * 4)
    area = Rect(40, 20, 140, 80)
    part = next(moments(path, FrameReading(area=area, size=(100, 60))))
    wanted = picture[20:80, 40:140].astype(float)
    assert part.pixels.shape == wanted.shape
    assert np.abs(part.pixels - wanted).mean() < 6
    assert SIZE == (192, 108)


@pytest.mark.parametrize(("curve", "white"), [(PQ, 2), (HLG, 3)])
def test_hdr_is_brought_into_range(tmp_path: Path, curve: int, white: int) -> None:
    """Diffuse white (203 cd/m2) ends up light, and brighter light lighter still."""
    levels = [0.0, 0.3, 0.58, 0.75, 1.0]
    picture = np.repeat(np.array(levels), 40)[None, :, None] * np.ones((96, 1, 3))
    path = write_hdr(tmp_path / "hdr.mp4", picture, curve)
    assert read_facts(path).is_hdr
    shown = next(moments(path, FrameReading())).pixels[48, 20::40, 1].astype(int)
    assert list(shown) == sorted(shown)
    assert shown[0] < 6
    assert 215 <= shown[white] <= 245
    assert shown[4] >= 252


def write_hdr(path: Path, picture: NDArray[np.floating], curve: int) -> Path:
    """A clip of 10 bit codes of a curve in BT.2020."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=RATE)
        stream.width, stream.height = picture.shape[1], picture.shape[0]
        stream.pix_fmt = "yuv420p10le"
        context = stream.codec_context
        context.color_trc, context.color_primaries, context.colorspace = curve, 9, 9
        for _ in range(6):
            wide = (picture * 65535).astype(np.uint16)
            frame = av.VideoFrame.from_ndarray(wide, format="rgb48le")
            made = frame.reformat(format="yuv420p10le", dst_colorspace=9)
            made.color_trc, made.color_primaries, made.colorspace = curve, 9, 9
            container.mux(stream.encode(made))
        container.mux(stream.encode(None))
    return path


def test_interlaced_frames_are_made_whole(tmp_path: Path) -> None:
    """Each line pair shows two moments; afterwards no frame has the comb between them."""
    upright = np.repeat(scene(23)[54:55], 108, axis=0)

    def woven(number: int) -> NDArray[np.uint8]:
        frame = codes(panned(upright, number * 0.08))
        frame[1::2] = codes(panned(upright, number * 0.08 + 0.04))[1::2]
        return frame

    options = {"crf": "10", "x264-params": "tff=1"}
    path = write(tmp_path / "combed.mp4", map(woven, range(8)), options=options)
    assert read_facts(path).is_interlaced
    shown = [one.pixels.astype(float) for one in moments(path, FrameReading())]
    assert len(shown) == 8

    def comb(pixels: NDArray[np.floating]) -> float:
        return float(np.abs(pixels[1:-1] - (pixels[:-2] + pixels[2:]) / 2).mean())

    assert comb(shown[4]) < 0.3 * comb(woven(4).astype(float))


def test_a_turned_clip_stands_upright(tmp_path: Path) -> None:
    picture = codes(scene(13, (120, 64)))
    path = write(tmp_path / "lying.mp4", [picture] * 4)
    turned = tmp_path / "turned.mp4"
    content = bytearray(path.read_bytes())
    matrix = struct.pack(">9i", 0, 1 << 16, 0, -(1 << 16), 0, 0, 0, 0, 1 << 30)
    at = content.index(b"tkhd") + 4 + 40
    content[at : at + 36] = matrix
    turned.write_bytes(content)
    facts = read_facts(turned)
    assert (facts.size.width, facts.size.height) == (64, 120)
    shown = next(moments(turned, FrameReading())).pixels
    assert np.abs(shown.astype(float) - np.rot90(picture, -1)).mean() < 8
    cut = FrameReading(area=Rect(0, 0, 64, 60), size=(64, 60))
    upper = next(moments(turned, cut)).pixels
    assert np.abs(upper.astype(float) - np.rot90(picture, -1)[:60]).mean() < 8


def disc_in(pixels: Codes) -> tuple[int, int]:
    """Width and height of the light disc of a frame, px."""
    light = pixels[..., 1] > 128
    return int(light.any(axis=0).sum()), int(light.any(axis=1).sum())


def squeezed_disc(path: Path, shape: Fraction) -> Path:
    """Half a second of a disc of 96 px in a frame of 192 x 144, stored in px of another shape."""
    y, x = np.mgrid[:144, :192]
    disc = np.where((x - 90) ** 2 + (y - 72) ** 2 < 48**2, 0.9, 0.1)
    wide, high = min(1.0, float(1 / shape)), min(1.0, float(shape))
    stored = ndimage.zoom(disc, (high, wide), order=1, grid_mode=True, mode="nearest")
    light = (np.repeat(codes(stored * 1)[..., None], 3, axis=2) for _ in range(12))
    return write(path, light, pixel_shape=shape)


@pytest.mark.parametrize("shape", [Fraction(4, 3), Fraction(3, 4), Fraction(16, 11)])
def test_discs_are_round_whatever_shape_px_have(tmp_path: Path, shape: Fraction) -> None:
    path = squeezed_disc(tmp_path / "disc.mp4", shape)
    facts = read_facts(path)
    assert facts.size.width == pytest.approx(192, abs=2)
    assert facts.size.height == pytest.approx(144, abs=2)
    readings = [FrameReading(), FrameReading(area=Rect(30, 12, 150, 132), size=(120, 120))]
    for reading in readings:
        wide, high = disc_in(next(moments(path, reading)).pixels)
        assert wide == pytest.approx(96, abs=3)
        assert high == pytest.approx(96, abs=3)
    planar = next(moments(path, FrameReading(kind=PixelFormat.PLANAR, size=(96, 72)))).pixels
    assert disc_in(planar[:72, :, None].repeat(3, axis=2)) == pytest.approx((48, 48), abs=2)


def test_transparency_is_told(tmp_path: Path) -> None:
    pictures = [codes(scene(9))] * 3
    for pix_fmt in ("argb", "rgb24"):
        path = write(tmp_path / f"{pix_fmt}.mov", pictures, codec="qtrle", pix_fmt=pix_fmt)
        facts = read_facts(path)
        assert facts.has_alpha is (pix_fmt == "argb")
        assert ("transparent in part (left out)" in clip_text(facts)) is facts.has_alpha


@pytest.mark.slow
def test_discs_are_round_in_what_is_published(tmp_path: Path) -> None:
    path = squeezed_disc(tmp_path / "disc.mp4", Fraction(4, 3))
    assert call("poster", path, "--at", "0.2", "--output", tmp_path / "still.png").status == 0
    with Image.open(tmp_path / "still.png") as still:
        assert disc_in(np.asarray(still.convert("RGB"))) == pytest.approx((96, 96), abs=3)
    ran = call("transcode", path, "--codecs", "h264", "--into", tmp_path / "out")
    assert "px of 4:3 (made square)" in ran.out
    [made] = (tmp_path / "out").glob("*.mp4")
    _, shown = next(iter(decoded(made.read_bytes())))
    assert disc_in(shown) == pytest.approx((96, 96), abs=3)
    assert read_facts(made).pixel_shape == 1


@pytest.mark.slow
def test_memory_does_not_grow_with_a_clip(tmp_path: Path) -> None:
    """Ten times the frames take no more than a little more memory."""
    picture = codes(scene(14, (640, 360)))
    peaks = []
    for count in (40, 400):
        path = write(tmp_path / f"{count}.mp4", (picture for _ in range(count)))
        command = [sys.executable, "-c", WATCHED, str(path)]
        told = subprocess.run(command, capture_output=True, text=True, check=True).stdout
        peaks.append(int(told))
    assert peaks[1] < 1.25 * peaks[0]


@pytest.mark.parametrize("kind", list(ClipFormat))
def test_the_same_frames_make_the_very_same_file(kind: ClipFormat) -> None:
    """A host's caches, and people's, go by its name, which goes by its bytes."""
    frames = [codes(scene(seed, (320, 180))) for seed in range(3)]
    first, second = (
        write_clip(map(planar, frames), (320, 180), Beat(Fraction(RATE)), ClipEncoding(kind, 40))
        for _ in range(2)
    )
    assert first == second


def planar(picture: Codes) -> Codes:
    """SRGB codes as a codec wants them."""
    frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
    return np.asarray(frame.reformat(format="yuv420p").to_ndarray(), np.uint8)


WATCHED = """
import resource, sys
from pathlib import Path
from brightcanvas.analysis.timing import ClipTiming, Run
from brightcanvas.analysis.stills import StillWish, best_stills
from brightcanvas.formats.clips.clip_writing import decoded
from brightcanvas.formats.clips.clip_reading import read_facts
from brightcanvas.formats.clips.moments import FrameReading, PixelFormat, moments
path = Path(sys.argv[1])
best_stills(path, read_facts(path), StillWish())
sum(1 for _ in moments(path, FrameReading(kind=PixelFormat.PLANAR, size=(640, 360))))
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


@pytest.mark.slow
def test_poster_chooses_and_writes_a_still(tmp_path: Path) -> None:
    shares = [min(number / 24, 1.0) for number in range(48)]
    path = write(tmp_path / "mill.mp4", (codes(scene(15) * share) for share in shares))
    ran = call("poster", path, "--sheet", tmp_path / "sheet.png", "--json")
    assert ran.status == 0
    assert ran.facts["stills"][0]["second"] >= 0.8
    with Image.open(tmp_path / "mill-poster.jpg") as still:
        assert still.size == SIZE
        assert np.abs(np.asarray(still).astype(float) - codes(scene(15))).mean() < 12
    with Image.open(tmp_path / "sheet.png") as sheet:
        drawn = np.asarray(sheet.convert("L")) < 250
        assert sheet.size == (1280, 487)
        assert drawn.any(axis=1).mean() > 0.75, "as high as its pictures need"
        assert drawn.mean() > 0.5
    assert call("poster", path).status == 2, "what is there is not overwritten"


def test_poster_takes_the_frame_asked_for(tmp_path: Path) -> None:
    pictures = [scene(16), scene(17)]
    path = write(tmp_path / "two.mp4", map(codes, [pictures[0]] * 24 + [pictures[1]] * 24))
    assert call("poster", path, "--at", "1.5", "--output", tmp_path / "second.png").status == 0
    with Image.open(tmp_path / "second.png") as still:
        apart = [np.abs(np.asarray(still.convert("RGB")) - codes(one).astype(float)).mean()
                 for one in pictures]  # fmt: skip
    assert apart[1] < apart[0] / 2


@pytest.mark.slow
def test_transcode_makes_every_format_light_and_true(tmp_path: Path) -> None:
    pictures = [panned(scene(18, (322, 182)), number / 60) for number in range(60)]
    path = write(tmp_path / "round.mov", map(codes, pictures))
    ran = call(
        "transcode", path, "--into", tmp_path / "light", "--codecs", "av1,vp9,h264", "--json"
    )
    assert ran.status == 0, ran.err
    clip = ran.facts["clips"][0]
    assert clip["loop"]["fade"] == 0
    assert len(clip["files"]) + len(clip["left_out"]) == 3
    assert [one["bytes"] for one in clip["files"]] == sorted(one["bytes"] for one in clip["files"])
    for file in clip["files"]:
        assert file["bytes"] < clip["bytes_before"]
        assert file["score"] >= 0.925
        frames = list(decoded(Path(file["file"]).read_bytes()))
        assert len(frames) == file["frames"] == 60
        assert np.abs(frames[30][1].astype(float) - codes(pictures[30])).mean() < 14
    assert call("transcode", path, "--into", tmp_path / "light").status == 2


@pytest.mark.slow
def test_transcode_keeps_to_a_budget_a_rate_and_a_stretch(tmp_path: Path) -> None:
    pictures = (panned(scene(19), number / 90) for number in range(96))
    path = write(tmp_path / "long.mp4", map(codes, pictures), rate=48)
    ran = call(
        "transcode", path, "--into", tmp_path, "--codecs", "h264", "--most", "20kB",
        "--begin", "0.5", "--end", "1.5", "--once", "--most-rate", "24", "--json",
    )  # fmt: skip
    file = ran.facts["clips"][0]["files"][0]
    assert ran.status == 0
    assert file["bytes"] <= 20_000
    assert file["frames"] == 24


@pytest.mark.slow
def test_transcode_fades_where_nothing_matches(tmp_path: Path) -> None:
    """After the fade the seam is no larger than the clip's own steps."""
    pictures = [brightening(number) for number in range(72)]
    path = write(tmp_path / "way.mp4", pictures)
    ran = call("transcode", path, "--into", tmp_path, "--codecs", "h264", "--json")
    clip = ran.facts["clips"][0]
    assert clip["loop"]["fade"] > 0.3
    assert clip["loop"]["jump"]["before"] > 1.5 > clip["loop"]["jump"]["after"]
    assert clip["brightness"] == sorted(clip["brightness"]), "it gets lighter second by second"
    assert len(clip["brightness"]) == 3
    frames = [one for _, one in decoded(Path(clip["files"][0]["file"]).read_bytes())]
    assert jump_of(frames) < 1.5 < jump_of(pictures)


def grainy(number: int) -> Codes:
    """Night: dark, and a sensor at its limit."""
    grain = np.random.default_rng(number).normal(0, 0.03, (180, 320, 1))
    return codes(lit(number) + grain)


def lit(number: int) -> NDArray[np.float32]:
    """A still scene in which one thing moves."""
    picture = 0.3 * scene(61, (320, 180)) + 0.12
    left = 2 * (number % 60)
    picture[60:120, left : left + 40] = 0.5
    return picture


@pytest.mark.slow
def test_grain_is_taken_out_and_told(tmp_path: Path) -> None:
    """Where it was kept a file weighs many times as much; the picture below stays as it was."""
    path = write(tmp_path / "night.mp4", map(grainy, range(60)), options={"crf": "12"})
    clips = {
        grain: call(
            "transcode",
            path,
            "--codecs",
            "h264",
            "--grain",
            grain,
            "--into",
            tmp_path / grain,
            "--json",
        ).facts["clips"][0]
        for grain in ("smooth", "keep")
    }
    assert 4 < clips["smooth"]["grain"] < 10
    assert clips["keep"]["grain"] == 0
    smooth, kept = (clips[grain]["files"][0] for grain in ("smooth", "keep"))
    assert smooth["bytes"] < 0.4 * kept["bytes"]
    frames = [one for _, one in decoded(Path(smooth["file"]).read_bytes())]
    truth = codes(lit(30)).astype(float)
    off = min(float(np.abs(one - truth).mean()) for one in frames)
    assert off < 0.6 * np.abs(grainy(30).astype(float) - truth).mean()


@pytest.mark.slow
def test_no_file_is_heavier_than_its_source(tmp_path: Path) -> None:
    """One that is light already is left alone, but for its sound and what it says of itself."""
    soft = ndimage.gaussian_filter(scene(62, (320, 180)), (9, 9, 0))
    pictures = [codes(panned(soft, number / 480)) for number in range(48)]
    light = write(tmp_path / "light.mp4", pictures, options={"crf": "42"})
    ran = call("transcode", light, "--into", tmp_path / "out", "--json")
    [clip] = ran.facts["clips"]
    assert all(one["bytes"] <= clip["bytes_before"] for one in clip["files"])
    assert clip["files"][-1]["is_source"]
    shown, source = (
        [one.pixels for one in moments(path, FrameReading())]
        for path in (Path(clip["files"][-1]["file"]), light)
    )
    assert all(np.array_equal(a, b) for a, b in zip(shown, source, strict=True))
    told = call("transcode", light, "--into", tmp_path / "again").out
    assert "light already" in told


@pytest.mark.slow
def test_a_budget_is_spent(tmp_path: Path) -> None:
    """85 % of it at least where the score needs more; what would help is told with its bytes."""
    pictures = [panned(scene(63, (320, 180)), number / 90) for number in range(90)]
    path = write(tmp_path / "much.mp4", map(codes, pictures))
    free = call("transcode", path, "--codecs", "h264", "--into", tmp_path / "free", "--json")
    most = free.facts["clips"][0]["files"][0]["bytes"] // 3
    ran = call(
        "transcode",
        path,
        "--codecs",
        "h264",
        "--most",
        f"{most}B",
        "--into",
        tmp_path / "few",
        "--json",
    )
    [clip] = ran.facts["clips"]
    assert 0.85 * most <= clip["files"][0]["bytes"] <= most
    assert clip["files"][0]["score"] < 0.925
    offers = {one["change"]: one for one in clip["offers"]}
    assert {"as it is", "length"} <= set(offers)
    assert offers["as it is"]["bytes"] == pytest.approx(3 * most, rel=0.35)
    assert offers["length"]["bytes"] <= most


@pytest.mark.slow
def test_an_upright_clip_keeps_its_px(tmp_path: Path) -> None:
    pictures = [codes(panned(scene(64, (720, 1280)), number / 12)) for number in range(12)]
    path = write(tmp_path / "phone.mp4", pictures)
    ran = call("transcode", path, "--codecs", "h264", "--into", tmp_path / "out", "--json")
    assert ran.facts["clips"][0]["files"][0]["size"] == [720, 1280]


@pytest.mark.slow
def test_uneven_frames_keep_their_own_time(tmp_path: Path) -> None:
    """A recording without a steady rate is published without one."""
    stamps = [number * 33 + 12 * (number % 3 == 1) for number in range(45)]
    pictures = [codes(panned(scene(65), number / 60)) for number in range(45)]
    path = write(tmp_path / "uneven.mp4", pictures, times=lambda number: stamps[number], rate=30)
    ran = call(
        "transcode", path, "--once", "--most-rate", "60", "--into", tmp_path / "out", "--json"
    )
    for file in ran.facts["clips"][0]["files"]:
        shown = [round(one * 1000) for one, _ in decoded(Path(file["file"]).read_bytes())]
        assert shown == pytest.approx(stamps, abs=1)


@pytest.mark.parametrize(
    ("content", "status"),
    [(b"", 3), (b"no clip at all", 3), (b"\x00\x00\x00\x18ftypmp42" + bytes(400), 3)],
)
def test_what_cannot_be_read_is_told(tmp_path: Path, content: bytes, status: int) -> None:
    path = tmp_path / "it's\nodd.mp4"
    path.write_bytes(content)
    for command in ("poster", "transcode"):
        ran = call(command, path)
        assert ran.status == status
        assert "odd.mp4" in ran.err


def _hears_keys() -> None:
    """What is started in the background ignores the key, and so does all that it starts."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


@pytest.mark.slow
@pytest.mark.alone
@pytest.mark.skipif(os.name == "nt", reason="another way to stop a program there")
@pytest.mark.parametrize("command", ["transcode", "build"])
def test_a_key_stops_it_within_a_second(tmp_path: Path, command: str) -> None:
    """Wherever a codec is; nothing half made is left, here or in the folder for scratch files."""
    still = scene(71, (1280, 720))
    wave = (codes(panned(still, number / 200)) for number in range(70))
    path = write(tmp_path / "long.mp4", wave, options={"crf": "16", "preset": "ultrafast"})
    (tmp_path / "brief.toml").write_text(
        '[[backdrop]]\nname = "l"\nsource = "long.mp4"\nelement = ".l"\n[backdrop.clip]\n',
        encoding="utf-8",
    )
    given = [path, "--into", tmp_path / "out"] if command == "transcode" else ["brief.toml"]
    scratch = tmp_path / "scratch"
    scratch.mkdir()
    for seconds in (3.0, 8.0):
        with subprocess.Popen(
            [sys.executable, "-m", "brightcanvas", command, *map(str, given)],
            cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, encoding="utf-8",
            env=os.environ | {"TMPDIR": str(scratch)}, preexec_fn=_hears_keys,
        ) as run:  # fmt: skip
            time.sleep(seconds)
            assert run.poll() is None, "it was done before it could be stopped"
            run.send_signal(signal.SIGINT)
            begin = time.monotonic()
            _, told = run.communicate(timeout=60)
        assert time.monotonic() - begin < 1
        assert run.returncode == 130
        assert told.splitlines()[-1].startswith("bright-canvas: Stopped")
        assert "Traceback" not in told
        assert not list(tmp_path.glob("out/*"))
        assert not (tmp_path / "published").exists()
        assert not list(scratch.iterdir())


@pytest.mark.slow
@pytest.mark.parametrize("seam", ["find", "fade", "back"])
@pytest.mark.parametrize(
    ("frames", "size"), [(1, (64, 36)), (2, (64, 36)), (5, (64, 36)), (20, (64, 16))]
)
def test_few_frames_and_few_px_are_clips_too(
    tmp_path: Path, seam: str, frames: int, size: tuple[int, int]
) -> None:
    still = np.linspace(0, 0.8, size[0] * size[1] * 3).reshape(size[1], size[0], 3)
    path = write(tmp_path / "few.mp4", [codes(still + one / 99) for one in range(frames)])
    given = ("--seam", seam, "--codecs", "h264", "--into", tmp_path / "out", "--json")
    ran = call("transcode", path, *given)
    assert ran.status == 0, ran.err
    assert ran.facts["clips"][0]["files"][0]["frames"] >= 1


@pytest.mark.slow
def test_what_plays_once_does_so_with_its_own_track_too(tmp_path: Path) -> None:
    soft = ndimage.gaussian_filter(scene(62, (320, 180)), (9, 9, 0))
    pictures = [codes(panned(soft, number / 480)) for number in range(48)]
    write(tmp_path / "light.mp4", pictures, options={"crf": "44"})
    (tmp_path / "brief.toml").write_text(
        '[[backdrop]]\nname = "l"\nsource = "light.mp4"\nelement = ".l"\nheight = "56.25vw"\n'
        '[backdrop.clip]\nplays = "once"\n',
        encoding="utf-8",
    )
    assert call("build", tmp_path / "brief.toml").status == 0
    markup = (tmp_path / "published/markup.html").read_text(encoding="utf-8")
    assert "<video" in markup
    assert " loop " not in markup


def test_a_stretch_is_told_in_seconds_of_the_source() -> None:
    """Also of a round that begins elsewhere, and of none that goes over its seam or back."""
    forth = tuple(2 + one / 10 for one in range(20))
    turned = ClipTiming((Run(forth[10:]), Run(forth[:10])), Fraction(10))
    assert turned.in_source(0.1, 0.8) == pytest.approx((3.1, 3.8))
    assert turned.in_source(2.1, 2.8) == pytest.approx((3.1, 3.8))
    assert turned.in_source(1.2, 1.9) == pytest.approx((2.2, 2.9))
    assert turned.in_source(0.5, 1.5) is None
    assert ClipTiming((Run(forth[::-1]),), Fraction(10)).in_source(0.2, 1.0) is None
