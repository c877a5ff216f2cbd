"""Clips whose truth is known: what is found in them is what was put there."""

from __future__ import annotations

import struct
import subprocess
import sys
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from brightcanvas.analysis.flashes import flashes
from brightcanvas.analysis.loops import best_loop, reduced
from brightcanvas.analysis.stills import StillWish, best_stills
from brightcanvas.formats.clip_files import decoded
from brightcanvas.formats.clips import read_facts
from brightcanvas.formats.moments import FrameReading, moments
from brightcanvas.values.errors import SourceError
from brightcanvas.values.geometry import Rect

from .clips import RATE, SIZE, codes, jump_of, panned, scene, write
from .conftest import call


@pytest.mark.slow
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
    assert best.marks.figure > 0.5


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


@pytest.mark.slow
@pytest.mark.parametrize(("lead", "round_"), [(17, 48), (40, 60)])
def test_a_hidden_loop_is_found_where_it_is(tmp_path: Path, lead: int, round_: int) -> None:
    """The clip goes once round within a longer way that never comes back otherwise."""
    circle, before, after = scene(4), scene(5), scene(6)
    pictures = [panned(before, number / 400) for number in range(lead)]
    pictures += [panned(circle, number / round_) for number in range(round_ + 1)]
    pictures += [panned(after, number / 400) for number in range(20)]
    path = write(tmp_path / "hidden.mp4", map(codes, pictures))
    facts = read_facts(path)
    found = best_loop(reduced(path, facts, 0, facts.seconds))
    assert round((found.end - found.begin) * RATE) == round_
    assert lead <= round(found.begin * RATE) <= lead + 1
    assert found.is_seamless
    assert found.fade == 0


@pytest.mark.slow
def test_without_a_loop_the_end_fades_into_the_beginning(tmp_path: Path) -> None:
    pictures = [
        codes(panned(scene(7), number / 300) * (0.4 + number / 160)) for number in range(72)
    ]
    path = write(tmp_path / "way.mp4", pictures)
    facts = read_facts(path)
    found = best_loop(reduced(path, facts, 0, facts.seconds))
    assert found.before > 2 > found.jump
    assert found.fade == pytest.approx(0.6, abs=0.05)
    assert found.begin == pytest.approx(0.6, abs=0.05)


@pytest.mark.slow
def test_a_perfect_loop_is_left_as_it_is(tmp_path: Path) -> None:
    pictures = [codes(panned(scene(8), number / 64)) for number in range(64)]
    path = write(tmp_path / "round.mp4", pictures)
    facts = read_facts(path)
    found = best_loop(reduced(path, facts, 0, facts.seconds))
    assert (found.begin, found.fade) == (0, 0)
    assert found.end == pytest.approx(64 / RATE)
    assert jump_of(pictures) < 1.5


def blinking(
    times_a_second: float, area: float, colours: tuple[float, ...] = (0.2, 0.9)
) -> list[tuple[float, NDArray[np.uint8]]]:
    """Three seconds in which a part of the picture changes to and fro."""
    frames = []
    for number in range(90):
        picture = np.full((36, 64, 3), 0.3)
        phase = int(number / 30 * times_a_second * 2) % 2
        picture[:, : round(64 * area)] = colours[phase]
        frames.append((number / 30, codes(picture)))
    return frames


def test_flashes_are_counted() -> None:
    assert flashes(blinking(2, 1)).most == 2
    assert flashes(blinking(2, 1)).is_safe
    assert 5 <= flashes(blinking(5, 1)).most <= 6
    assert not flashes(blinking(5, 1)).is_safe


def test_small_or_weak_changes_are_no_flashes() -> None:
    assert flashes(blinking(6, 0.05)).most == 0
    assert flashes(blinking(6, 1, (0.5, 0.55))).most == 0
    assert flashes(blinking(6, 1, (0.96, 1.0))).most == 0


def test_flashes_of_saturated_red_count_though_they_are_dark() -> None:
    red, black = np.array([0.55, 0, 0]), np.zeros(3)
    frames = []
    for number in range(60):
        picture = np.zeros((36, 64, 3)) + (red if number // 3 % 2 else black)
        frames.append((number / 30, codes(picture)))
    assert not flashes(frames).is_safe


def test_the_worst_second_is_told() -> None:
    calm = [(number / 30, codes(np.full((36, 64, 3), 0.4))) for number in range(60)]
    later = [(2 + second, picture) for second, picture in blinking(5, 1)]
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


def test_hdr_is_brought_into_range(tmp_path: Path) -> None:
    """Diffuse white of a PQ clip (203 cd/m2) ends up light, and brighter light lighter still."""
    levels = [0.0, 0.3, 0.58, 0.75, 1.0]
    picture = np.repeat(np.array(levels), 40)[None, :, None] * np.ones((96, 1, 3))
    path = write_hdr(tmp_path / "hdr.mp4", picture)
    assert read_facts(path).is_hdr
    shown = next(moments(path, FrameReading())).pixels[48, 20::40, 1].astype(int)
    assert list(shown) == sorted(shown)
    assert shown[0] < 6
    assert 215 <= shown[2] <= 245
    assert shown[4] >= 252


def write_hdr(path: Path, picture: NDArray[np.floating]) -> Path:
    """A clip of 10 bit PQ codes in BT.2020."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=RATE)
        stream.width, stream.height = picture.shape[1], picture.shape[0]
        stream.pix_fmt = "yuv420p10le"
        context = stream.codec_context
        context.color_trc, context.color_primaries, context.colorspace = 16, 9, 9
        for _ in range(6):
            wide = (picture * 65535).astype(np.uint16)
            frame = av.VideoFrame.from_ndarray(wide, format="rgb48le")
            made = frame.reformat(format="yuv420p10le", dst_colorspace=9)
            made.color_trc, made.color_primaries, made.colorspace = 16, 9, 9
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


WATCHED = """
import resource, sys
from pathlib import Path
from brightcanvas.analysis.stills import StillWish, best_stills
from brightcanvas.formats.clip_files import decoded
from brightcanvas.formats.clips import read_facts
from brightcanvas.formats.moments import FrameReading, moments
path = Path(sys.argv[1])
best_stills(path, read_facts(path), StillWish())
sum(1 for _ in moments(path, FrameReading(planar=True, size=(640, 360))))
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
        assert sheet.size == (1280, 800)
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
    assert len(clip["files"]) == 3
    for file in clip["files"]:
        assert file["bytes"] < clip["bytes_before"]
        assert file["score"] > 0.93
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
    pictures = [panned(scene(20), number / 300) * (0.4 + number / 160) for number in range(72)]
    path = write(tmp_path / "way.mp4", map(codes, pictures))
    ran = call("transcode", path, "--into", tmp_path, "--codecs", "h264", "--json")
    clip = ran.facts["clips"][0]
    assert clip["loop"]["fade"] > 0.3
    assert clip["loop"]["jump"]["before"] > 2 > clip["loop"]["jump"]["after"]
    assert clip["brightness"] == sorted(clip["brightness"]), "it gets lighter second by second"
    assert len(clip["brightness"]) == 3
    before = jump_of([codes(one) for one in pictures])
    frames = [one for _, one in decoded(Path(clip["files"][0]["file"]).read_bytes())]
    assert jump_of(frames) < 2.5 < before


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
