"""One-off compression, drawings, animations, and what a host makes of our files."""

from __future__ import annotations

import io
import json
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from brightcanvas.demo.host import host
from brightcanvas.formats.drawings.drawing_cleaning import cleaned, rounded
from brightcanvas.formats.loaded import load
from brightcanvas.formats.pictures.picture_writing import bare
from brightcanvas.formats.pictures.prior_compressions import past_of
from brightcanvas.values.errors import SourceError
from brightcanvas.values.targets import LEVELS

from .conftest import Demo, Ran, call, noise, save_noise, write_brief
from .test_quality import SOURCES, photograph


@pytest.fixture
def photo(tmp_path: Path) -> Path:
    path = tmp_path / "photo.jpg"
    exif = Image.Exif()
    exif[0x010E] = "holiday"
    Image.fromarray(photograph(width=600).pixels).save(path, quality=95, exif=exif)
    return path


def files(*arguments: str | Path) -> Any:
    ran = call("compress", *arguments, "--json")
    assert ran.status == 0, ran.err
    return ran.facts["files"]


def test_a_picture_gets_lighter_beside_its_source(photo: Path) -> None:
    before = photo.read_bytes()
    (made,) = files(photo)
    output = Path(made["output"])
    assert photo.read_bytes() == before
    assert output.name == "photo-light.jpg"
    assert made["bytes_after"] == output.stat().st_size < 0.6 * len(before)
    assert LEVELS["everyday"] - 0.002 <= made["score"] <= LEVELS["everyday"] + 0.012
    with Image.open(output) as image:
        assert image.size == (600, 400)
        assert not image.getexif()
    again = call("compress", photo)
    assert (again.status, "is there already" in again.err) == (2, True)


@pytest.mark.slow
def test_several_formats_go_into_a_folder_and_the_table_sums_up(
    photo: Path, tmp_path: Path
) -> None:
    ran = call("compress", photo, "--formats", "avif,webp,jpeg", "--into", tmp_path / "light")
    assert ran.status == 0
    assert "1 file:" in ran.out
    sizes = [(tmp_path / "light" / f"photo.{e}").stat().st_size for e in ("avif", "webp", "jpg")]
    assert sizes == sorted(sizes)


def test_a_budget_is_kept_or_told(photo: Path, tmp_path: Path) -> None:
    (made,) = files(photo, "--budget", "9kB")
    assert 8000 < made["bytes_after"] <= 9000
    ran = call("compress", photo, "--budget", "300", "--into", tmp_path / "x")
    assert (ran.status, "so few bytes" in ran.out) == (1, True)
    assert not (tmp_path / "x").exists()


def test_nothing_is_compressed_twice(photo: Path) -> None:
    assert call("compress", photo, "--replace").status == 0
    once = photo.read_bytes()
    (made,) = files(photo, "--replace")
    assert "left alone" in made["told"]
    assert photo.read_bytes() == once


def test_one_broken_file_stops_no_other(photo: Path, tmp_path: Path) -> None:
    broken = tmp_path / "broken.jpg"
    broken.write_bytes(photo.read_bytes()[:900])
    ran = call("compress", broken, photo, tmp_path / "none.png")
    assert ran.status == 3
    assert "broken.jpg: the file is damaged" in ran.err
    assert (tmp_path / "photo-light.jpg").exists()


@pytest.mark.slow
def test_an_animation_becomes_one_that_is_lighter(tmp_path: Path) -> None:
    base = photograph(width=200).pixels
    frames = [Image.fromarray(np.roll(base, 9 * step, 1)) for step in range(6)]
    source = tmp_path / "a.gif"
    frames[0].save(source, save_all=True, append_images=frames[1:], duration=80, loop=0)
    (made,) = files(source)
    with Image.open(made["output"]) as image:
        assert (image.format, image.n_frames) == ("WEBP", 6)  # type: ignore[attr-defined]
    assert made["bytes_after"] < 0.5 * made["bytes_before"]


DRAWING = """\
<?xml version="1.0" encoding="UTF-8"?>
<!-- made with care -->
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"
  xmlns:editor="http://editor.example/own" width="400" height="200"
  viewBox="0 0 200 100" editor:version="1.2" onload="alert(1)">
 <metadata>who and when</metadata>
 <script>alert(2)</script>
 <style>@import url(http://host.example/a.css);
 .s { stroke: #246; -editor-font-specification: x; fill: url(#g) }</style>
 <defs><linearGradient id="g"><stop offset="0" stop-color="#fc6"/>
  <stop offset="1.00000000" stop-color="#c36"/></linearGradient></defs>
 <path class="s" editor:label="x" d="M10.1234567891,20.98765432 c 3.33333333333,-10.000000001
  20.77777777,5.000000001 30.2500000001,2 a 12.123456789 9 30 0 1 40.5,20.75
  l-5.5.25.123456789-3z"/>
 <g transform="translate(100.00000001 10.5555555555)"><circle cx="30" cy="30.123456789" r="20"/></g>
 <text x="5" y="95" font-size="8">grown <tspan fill="red">and</tspan> ground</text>
 <image xlink:href="http://host.example/p.png" width="9" height="9"/>
 <a xlink:href="javascript:alert(3)"><rect x="150" y="5" width="10" height="10"/></a>
</svg>
"""


def test_a_drawing_is_cleaned(tmp_path: Path) -> None:
    source = tmp_path / "map.svg"
    source.write_text(DRAWING)
    (made,) = files(source)
    clean = Path(made["output"]).read_text()
    for gone in ("alert", "editor", "metadata", "host.example", "<!--", "98765432", "onload"):
        assert gone not in clean
    for kept in ("url(#g)", "grown ", "<tspan", "viewBox"):
        assert kept in clean
    assert len(clean) < 0.75 * len(DRAWING)
    assert cleaned(clean.encode(), "again").decode() == clean


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("<svg", "damaged"),
        (
            '<!DOCTYPE s [<!ENTITY e "x">]><svg xmlns="http://www.w3.org/2000/svg">&e;</svg>',
            "entit",
        ),
        ("<svg/>", "no SVG"),
        ('<svg xmlns="http://www.w3.org/2000/svg">' + "<g>" * 3000, "damaged"),
    ],
)
def test_hostile_drawings_are_refused(content: str, says: str) -> None:
    with pytest.raises(SourceError, match=says):
        cleaned(content.encode(), "x.svg")


@pytest.mark.slow
@settings(max_examples=200)
@given(st.lists(st.floats(-1e4, 1e4).map(lambda value: f"{value:.9f}"), min_size=1, max_size=8))
def test_rounding_keeps_numbers_apart(numbers: list[str]) -> None:
    # As editors write them: a minus sign or a second point parts numbers as a blank does.
    text = "".join(
        part if part.startswith("-") or not i else f" {part}" for i, part in enumerate(numbers)
    )
    import re

    short = re.findall(r"-?(?:\d+\.?\d*|\.\d+)", rounded(text, 3))
    assert len(short) == len(numbers)
    for one, other in zip(short, numbers, strict=True):
        assert abs(float(one) - float(other)) <= 0.000501


@pytest.mark.parametrize("codec", ["JPEG", "WEBP", "AVIF"])
@pytest.mark.parametrize("quality", [30, 60, 85])
def test_how_hard_a_file_was_compressed_is_told(codec: str, quality: int) -> None:
    out = io.BytesIO()
    Image.fromarray(photograph(width=400).pixels).save(out, codec, quality=quality)
    found = past_of(out.getvalue(), "x").quality
    assert found == pytest.approx(quality, abs=1 if codec == "JPEG" else 10)


@pytest.mark.slow
def test_pixels_tell_of_a_jpeg_that_they_were() -> None:
    picture = Image.fromarray(photograph(width=640).pixels)
    for quality in (40, 70):
        was, now = io.BytesIO(), io.BytesIO()
        picture.save(was, "JPEG", quality=quality)
        Image.open(was).save(now, "PNG")
        past = past_of(now.getvalue(), "x")
        assert past.from_pixels
        assert past.quality == pytest.approx(quality, abs=4)
    plain = io.BytesIO()
    picture.save(plain, "PNG")
    assert past_of(plain.getvalue(), "x").quality is None


@pytest.mark.parametrize("ending", ["jpg", "png", "webp"])
def test_stripping_keeps_every_pixel(tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"a.{ending}"
    exif = Image.Exif()
    exif[0x010E] = "secret place"
    picture = Image.fromarray(noise(90, 60))
    picture.save(path, exif=exif)
    content = bare(load(path))
    assert content is not None
    assert b"secret place" not in content
    with Image.open(path) as before, Image.open(io.BytesIO(content)) as after:
        assert (np.asarray(before) == np.asarray(after)).all()


@pytest.mark.slow
def test_a_source_that_is_light_enough_is_shipped_as_it_is(tmp_path: Path) -> None:
    Image.fromarray(photograph(width=320).pixels).save(tmp_path / "a.jpg", quality=90)
    assert call("compress", tmp_path / "a.jpg", "--replace").status == 0
    brief = write_brief(
        tmp_path,
        '[site]\nwidest = 320\n[[breakpoint]]\nname = "all"\n[[screen]]\nname = "one"\n'
        'widths = [320, 320]\nheights = [500, 500]\n[[backdrop]]\nsource = "a.jpg"\n'
        'element = "p"\nformats = ["jpeg"]\nsize = "contain"\nheight = "213px"\n',
    )
    facts = call("build", brief, "--json").facts
    (asset,) = facts["backdrops"][0]["breakpoints"][0]["sizes"][0]["assets"]
    assert asset["settings"] == "the source's own file"
    assert (tmp_path / "published" / asset["file"]).read_bytes() == bare(load(tmp_path / "a.jpg"))


@pytest.mark.slow
def test_a_host_that_compresses_again_is_found_out(demo: Demo, tmp_path: Path) -> None:
    with host(demo.published, 0, 40) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        names = [one["file"] for one in demo.ledger["files"]]
        urls = [f"http://127.0.0.1:{server.server_port}/{name}" for name in names]
        listed = tmp_path / "urls.txt"
        listed.write_text("\n".join(urls))
        ran = call("served", demo.folder / "brief.toml", "--from", listed, "--json")
        server.shutdown()
    assert ran.status == 1
    states = {one["file"]: one for one in ran.facts["files"]}
    for name, one in states.items():
        if name.endswith((".avif", ".png")):
            assert one["state"] == "ours"
        else:
            assert one["state"] == "compressed again"
            assert one["score"] < 1
            assert "quality about" in one["told"]
    assert min(one["score"] for one in states.values()) < 0.99


@pytest.mark.slow
def test_downloads_are_compared_by_name(small: Path, tmp_path: Path) -> None:
    call("build", small)
    published = small.parent / "published"
    folder = tmp_path / "from-host"
    folder.mkdir()
    assets = sorted(published.glob("*.jpg"))
    Image.open(assets[0]).resize((50, 40)).save(folder / assets[0].name)
    ran = call("served", small, "--from", folder, "--json")
    states = {one["file"]: one["state"] for one in ran.facts["files"]}
    assert states[assets[0].name] == "resized"
    assert states[assets[1].name] == "missing"
    assert call("served", small, "--from", published).status == 0


def budgeted(folder: Path, budget: str) -> Any:
    Image.fromarray(photograph(width=900).pixels).save(folder / "a.png")
    Image.fromarray(photograph("bakery.jpg", 900).pixels).save(folder / "b.png")
    brief = write_brief(
        folder,
        '[site]\nwidest = 640\n[[breakpoint]]\nname = "all"\n'
        '[[backdrop]]\nname = "a"\nsource = "a.png"\nelement = ".a"\nheight = "3/2"\n'
        '[[backdrop]]\nname = "b"\nsource = "b.png"\nelement = ".b"\nheight = "3/1"\n' + budget,
    )
    return call("build", brief, "--json")


@pytest.mark.slow
def test_budgets_bring_all_that_a_screen_loads_down_alike(tmp_path: Path) -> None:
    free = budgeted(tmp_path, "").facts
    ran = budgeted(tmp_path, '[[budget]]\nmost = "14kB"\n')
    assert ran.status == 0, ran.err
    (verdict,) = [one for one in ran.facts["promises"] if one["promise"] == "budget"]
    assert verdict["holds"]
    assert "scores brought down" in verdict["says"]

    def heaviest(facts: Any) -> list[int]:
        return [
            max(size["assets"][0]["bytes"] for part in one["breakpoints"] for size in part["sizes"])
            for one in facts["backdrops"]
        ]

    assert sum(heaviest(ran.facts)) <= 1.05 * 14_000 < sum(heaviest(free))


@pytest.mark.slow
def test_a_budget_is_that_of_a_page(tmp_path: Path) -> None:
    """What lies on other pages doesn't count; what no page lists lies on all of them."""
    alone = [budget_told(budgeted(tmp_path, f'[[budget]]\nmost = "1MB"\nbackdrop = "{name}"\n'))
             for name in "ab"]  # fmt: skip
    budget, pages = '[[budget]]\nmost = "1MB"\n', '[[page]]\nname = "{0}"\nbackdrops = ["{0}"]\n'
    both = budget_told(budgeted(tmp_path, budget))
    parted = budget_told(budgeted(tmp_path, budget + pages.format("a") + pages.format("b")))
    listed = budget_told(budgeted(tmp_path, budget + pages.format("a")))
    assert both == pytest.approx(sum(alone), abs=0.2)
    assert parted == pytest.approx(max(alone), abs=0.1)
    assert listed == pytest.approx(both, abs=0.1)


def budget_told(ran: Ran) -> float:
    """The kB that the worst screen loads."""
    (verdict,) = [one for one in ran.facts["promises"] if one["promise"] == "budget"]
    return float(verdict["says"].split(" kB")[0])


@pytest.mark.slow
def test_a_landscape_twin_has_its_budget_checked(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 900, 600)
    brief = write_brief(tmp_path, """\
[[breakpoint]]
name = "upright"
below = 640
orientation = "portrait"
[[breakpoint]]
name = "sideways"
below = 640
orientation = "landscape"
[[breakpoint]]
name = "wide"
[[backdrop]]
name = "a"
source = "a.jpg"
element = ".a"
[[budget]]
most = "1kB"
breakpoint = "sideways"
""")  # fmt: skip
    ran = call("build", brief, "--json")
    (verdict,) = [one for one in ran.facts["promises"] if one["promise"] == "budget"]
    assert not verdict["holds"]
    assert ran.status == 1


@pytest.mark.slow
def test_a_budget_that_no_quality_fits_comes_with_ways_out(tmp_path: Path) -> None:
    ran = budgeted(tmp_path, '[[budget]]\nmost = "3kB"\nbackdrop = "a"\n')
    assert ran.status == 1
    (verdict,) = [one for one in ran.facts["promises"] if one["promise"] == "budget"]
    assert "soften = 3 } makes it" in verdict["remedy"]
    wrong = budgeted(tmp_path, '[[budget]]\nmost = "3 pounds"\nbreakpoint = "sofa"\n')
    assert wrong.status == 2
    assert "80kB" in wrong.err


@pytest.mark.slow
def test_formats_are_the_users_to_say(small: Path) -> None:
    small.write_text(small.read_text() + 'formats = ["webp", "jpeg"]\n')
    call("build", small)
    endings = {path.suffix for path in (small.parent / "published").iterdir()}
    assert ".avif" not in endings
    assert ".jpg" in endings


def test_demo_sources_keep_their_past(tmp_path: Path) -> None:
    assert past_of((SOURCES / "mill-at-dusk.jpg").read_bytes(), "mill").codec == "JPEG"
    path = save_noise(tmp_path / "n.png", 64, 64)
    assert past_of(path.read_bytes(), "n").quality is None
    assert json.dumps(past_of(path.read_bytes(), "n").text)


@pytest.mark.slow
def test_a_published_file_that_is_gone_is_told(small: Path) -> None:
    call("build", small)
    gone = next((small.parent / "published").glob("*.avif"))
    gone.unlink()
    ran = call("served", small, "--from", small.parent)
    assert (ran.status, f"{gone.name} is gone" in ran.err) == (2, True), ran.err
