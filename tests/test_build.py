"""Whole builds: what is published, what is kept, what is never touched."""

from __future__ import annotations

import hashlib
import io
import json
import shutil
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from brightcanvas.cli.declarations import COMMANDS
from brightcanvas.values.files import write_whole

from .conftest import SMALL_BRIEF, Demo, assets_of, call, noise, save_noise, spawn, write_brief


def snapshot(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir()}


@pytest.mark.slow
def test_the_demo_builds_and_names_the_page_to_open(demo: Demo) -> None:
    assert demo.ran.status == 0, demo.ran.err
    assert demo.ran.err == ""
    assert "try-it.html\n" in demo.ran.out
    for word in ("mill-at-dusk", "phone 360@3x", "+ clip", "No promise is broken"):
        assert word in demo.ran.out
    assert len(demo.ran.out.splitlines()) <= 24, "a build tells itself on one screen"
    told = call("build", demo.folder / "brief.toml", "--all")
    assert told.status == 0
    for word in ("mill-at-dusk on .arrival", "clip, 3 s, 72 frames", "handheld, to 639 px"):
        assert word in told.out


def test_the_ledger_lists_every_file_as_it_is(demo: Demo) -> None:
    listed = {entry["file"]: entry for entry in demo.ledger["files"]}
    found = snapshot(demo.published)
    assert set(found) == {*listed, "ledger.json"}
    for name, entry in listed.items():
        assert entry["bytes"] == len(found[name])
        assert entry["sha256"] == hashlib.sha256(found[name]).hexdigest()


def test_every_asset_is_what_the_ledger_says(demo: Demo) -> None:
    formats = {"image/avif": "AVIF", "image/webp": "WEBP", "image/jpeg": "JPEG", "image/png": "PNG"}
    assets = [
        asset
        for backdrop in demo.ledger["backdrops"]
        for shown in backdrop["breakpoints"]
        for asset in assets_of(shown)
    ]
    assert len(assets) > 30
    assert len({one["file"] for one in assets}) <= 40
    pictures = [one for one in assets if one["format"] != "image/svg+xml"]
    assert 0 < len(assets) - len(pictures) < 10
    for asset in pictures:
        with Image.open(demo.published / asset["file"]) as image:
            assert image.size == (asset["width"], asset["height"])
            assert image.format == formats[asset["format"]]
            assert "exif" not in image.info
            assert "icc_profile" not in image.info


def test_formats_follow_the_content(demo: Demo) -> None:
    oldest = {
        backdrop["name"]: backdrop["breakpoints"][-1]["oldest"]["format"]
        for backdrop in demo.ledger["backdrops"]
    }
    assert oldest["mill-at-dusk"] == "image/jpeg"
    assert oldest["dykes"] == "image/svg+xml"


@pytest.mark.slow
def test_flat_art_gets_few_colours_for_browsers_of_any_age(tmp_path: Path) -> None:
    colours = np.array([[200, 30, 40], [240, 240, 230], [20, 60, 120]], np.uint8)
    stripes = colours[(np.arange(600) // 37 + np.arange(400)[:, None] // 23) % 3]
    Image.fromarray(stripes).save(tmp_path / "picture.png")
    brief = write_brief(tmp_path, SMALL_BRIEF.replace("picture.jpg", "picture.png"))
    assert call("build", brief).status == 0
    oldest = max((tmp_path / "published").glob("*.png"), key=lambda path: path.stat().st_size)
    with Image.open(oldest) as image:
        assert image.mode == "P"


def test_no_newer_format_is_heavier_than_an_older_file_as_large(demo: Demo) -> None:
    for backdrop in demo.ledger["backdrops"]:
        for shown in backdrop["breakpoints"]:
            for one in (asset for size in shown["sizes"] for asset in size["assets"]):
                oldest = shown["oldest"]
                assert one["bytes"] <= oldest["bytes"] or one["width"] > oldest["width"]


@pytest.mark.slow
def test_a_published_picture_shows_its_cut_of_the_source(tmp_path: Path) -> None:
    picture = np.zeros((400, 1200, 3), np.uint8)
    picture[:, 900:1000] = (250, 120, 0)  # the subject, far right
    picture[:, :, 2] = np.linspace(40, 90, 1200).astype(np.uint8)
    Image.fromarray(picture).save(tmp_path / "wide.png")
    brief = write_brief(
        tmp_path,
        '[[backdrop]]\nname = "w"\nsource = "wide.png"\nelement = "p"\nheight = "1/1"\n'
        "subject = { box = [0.75, 0, 0.8333, 1] }\n",
    )
    ran = call("build", brief, "--json")
    assert ran.status == 0
    shown = ran.facts["backdrops"][0]["breakpoints"][-1]
    left, top, right, bottom = shown["picture"]["cut"]
    assert (round(right - left), round(bottom - top)) == (400, 400)
    assert left <= 900
    assert right >= 1000
    oldest = shown["oldest"]["file"]
    with Image.open(tmp_path / "published" / oldest) as image:
        orange = np.asarray(image.convert("RGB"))[:, :, 0] > 125
    columns = np.flatnonzero(orange.any(axis=0))
    scale = orange.shape[1] / 400
    assert abs(columns[0] - (900 - left) * scale) <= 1
    assert abs(columns[-1] - (999 - left) * scale) <= 1


@pytest.mark.slow
def test_metadata_is_dropped_and_transparency_kept(tmp_path: Path) -> None:
    image = Image.new("RGBA", (900, 900), (200, 30, 30, 255))
    image.paste((0, 0, 0, 0), (0, 0, 450, 900))
    exif = Image.Exif()
    exif[0x010F] = "Camera"
    image.save(tmp_path / "badge.png", exif=exif)
    brief = write_brief(tmp_path, '[[backdrop]]\nsource = "badge.png"\nelement = "p"\n')
    facts = call("build", brief, "--json").facts
    for asset in assets_of(facts["backdrops"][0]["breakpoints"][0]):
        content = (tmp_path / "published" / asset["file"]).read_bytes()
        assert b"Camera" not in content
        with Image.open(io.BytesIO(content)) as made:
            assert made.convert("RGBA").getpixel((1, 1))[3] < 8  # type: ignore[index]
    assert facts["backdrops"][0]["breakpoints"][0]["behind"] == "#c81e1e"


@pytest.mark.slow
def test_a_second_run_changes_and_encodes_nothing(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert call("build", small).status == 0
    before = snapshot(small.parent / "published")
    times = {p: p.stat().st_mtime_ns for p in (small.parent / "published").iterdir()}

    def refuse(*_: object) -> None:
        raise AssertionError("nothing has changed: there is nothing to do")

    for work in (
        "picture_tasks.search",
        "weigh_pictures.weighed",
        "sources.picture_of",
        "copy.judge",
    ):
        monkeypatch.setattr(f"brightcanvas.tasks.{work}", refuse)
    (small.parent / ".bright-canvas" / "last-build-brief.json").unlink()
    assert call("build", small).status == 0
    assert snapshot(small.parent / "published") == before
    changed = [p.name for p, time in times.items() if p.stat().st_mtime_ns != time]
    assert changed in ([], ["ledger.json"])


@pytest.mark.slow
def test_only_what_is_outdated_is_swept(small: Path) -> None:
    output = small.parent / "published"
    call("build", small)
    first = set(snapshot(output))
    (output / "notes.txt").write_text("mine")
    edited = next(output.glob("*.jpg"))
    edited.write_bytes(edited.read_bytes() + b"edited by hand")
    Image.fromarray(noise(600, 400, seed=1)).save(small.parent / "picture.jpg")
    assert call("build", small).status == 0
    second = set(snapshot(output))
    listed = {entry["file"] for entry in json.loads((output / "ledger.json").read_text())["files"]}
    assert second == listed | {"ledger.json", "notes.txt", edited.name}
    assert not {name for name in first if name.endswith(".avif")} & second


@pytest.mark.slow
def test_a_file_of_someone_else_in_the_way_stops_everything(small: Path) -> None:
    output = small.parent / "published"
    output.mkdir()
    (output / "backdrops.css").write_text("mine")
    ran = call("build", small)
    assert ran.status == 2
    assert "was not made by the build of brief.toml, or was changed since" in ran.err
    assert snapshot(output) == {"backdrops.css": b"mine"}


@pytest.mark.slow
def test_a_run_that_was_cut_off_while_publishing_goes_on(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    call("build", small)
    small.write_text(small.read_text().replace("300px", "280px"))
    with monkeypatch.context() as patch:
        patch.setattr("brightcanvas.pipeline.publishing.write_whole", cut_off_at_the_ledger)
        assert call("build", small).status == 130
    assert call("build", small).status == 0
    after = snapshot(small.parent / "published")
    shutil.rmtree(small.parent / "published")
    assert call("build", small).status == 0
    assert snapshot(small.parent / "published") == after


def cut_off_at_the_ledger(path: Path, content: bytes, aside: str) -> None:
    if path.name == "ledger.json":
        raise KeyboardInterrupt
    write_whole(path, content, aside)


@pytest.mark.slow
def test_a_broken_promise_is_told_with_its_worst_window(tmp_path: Path) -> None:
    save_noise(tmp_path / "picture.jpg", 900, 600)
    brief = write_brief(
        tmp_path,
        '[[backdrop]]\nname = "long"\nsource = "picture.jpg"\nelement = "p"\nheight = "80svh"\n'
        "subject = { box = [0.1, 0.4, 0.9, 0.6] }\n",
    )
    ran = call("plan", brief)
    assert ran.status == 1
    assert "BROKEN in view: long, handheld: worst at a window of 320 x 960" in ran.out
    assert "it would hold with a subject's box 34 % as large" in ran.out
    assert call("build", brief, "--json").status == 1


def test_plan_writes_nothing_and_says_what_would_be_made(small: Path) -> None:
    before = sorted(small.parent.rglob("*"))
    ran = call("plan", small)
    assert ran.status == 0
    for told in ("picture on .top", "narrow, to 599 px", "Nothing was written."):
        assert told in ran.out
    assert "last saved at a JPEG quality of about 75" in ran.out
    assert sorted(small.parent.rglob("*")) == before


@pytest.mark.slow
def test_help_and_version_load_nothing_heavy() -> None:
    code = (
        "import sys\nfrom brightcanvas.cli.declarations import COMMANDS\n"
        "from brightcanvas.cli.main import main\n"
        "for one in ([], *([each.name] for each in COMMANDS)):\n"
        "    try: main([*one, '--help'])\n    except SystemExit: pass\n"
        "heavy = {'numpy', 'PIL', 'av', 'pydantic', 'rich', 'jinja2', 'lxml'} & set(sys.modules)\n"
        "sys.exit(str(heavy) if heavy else 0)"
    )
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr
    assert "Start here:" in ran.stdout
    assert ran.stdout.count("Examples:") == len(COMMANDS)
    assert spawn("--version").out.startswith("bright-canvas ")
    assert spawn().status == 2
    assert spawn("biuld").status == 2


def test_without_a_word_it_says_where_to_begin(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    assert "bright-canvas demo" in call().out
    for name in ("about us.html", "DSC_1.JPG", "sails.mp4"):
        (tmp_path / name).touch()
    told = call().out
    for step in ("begin 'about us.html'", "compress DSC_1.JPG", "transcode sails.mp4", "--help"):
        assert f"bright-canvas {step} " in told
    assert "demo" not in told
    (tmp_path / "brief.toml").touch()
    assert "bright-canvas build " in call().out
    assert max(map(len, call().out.splitlines())) <= 80


@pytest.mark.parametrize(("word", "told"), [
    ("biuld", "did you mean build? Such as: bright-canvas build"), ("start", "did you mean begin?"),
    ("check", "did you mean inspect?"), ("xyz", "All commands: bright-canvas --help"),
])  # fmt: skip
def test_a_wrong_word_for_a_command(word: str, told: str) -> None:
    ran = call(word)
    assert (ran.status, told in ran.err) == (2, True), ran.err


@pytest.mark.slow
def test_a_folder_that_may_not_be_written_is_told(small: Path) -> None:
    (small.parent / "published").write_text("a file")
    ran = call("build", small)
    assert ran.status == 2
    assert "is a file: name another 'output'" in ran.err
    (small.parent / ".bright-canvas").rename(small.parent / "gone")
    (small.parent / ".bright-canvas").write_text("a file")
    ran = call("build", small)
    assert ran.status == 4
    assert "is no folder, but Bright Canvas keeps its own things there" in ran.err


def test_the_demo_keeps_what_was_changed_and_refuses_other_folders(tmp_path: Path) -> None:
    (tmp_path / "letters").mkdir()
    (tmp_path / "letters" / "a.txt").write_text("private")
    ran = call("demo", tmp_path / "letters")
    assert ran.status == 2
    assert "holds other things" in ran.err
    (tmp_path / "mine").mkdir()
    brief = write_brief(tmp_path / "mine", '[[backdrop]]\nelement = "p"\nplain = true\n')
    assert call("demo", tmp_path / "mine").status == 0
    assert "plain = true" in brief.read_text()


@pytest.mark.slow
@pytest.mark.parametrize(
    ("width", "height", "keys"),
    [
        (1, 1, ""),
        (4000, 40, "subject = { point = [0.9, 0.5] }\n"),
        (40, 4000, 'height = "16/9"\n'),
        (300, 200, 'height = "100/1"\n'),
        (300, 200, 'height = "1px"\n'),
        (300, 200, 'height = "1/100"\ncloseness = "close"\n'),
        (300, 200, "copy = { box = [0, 0, 1, 1], clear_of_subject = true }\n"),
        (300, 200, 'size = "5px"\nrepeat = "repeat"\nwhole_motifs = true\n'),
        (3, 2, 'repeat = "repeat"\nseamless = true\nsize = "contain"\n'),
    ],
)
def test_extreme_shapes_are_built_all_the_same(
    tmp_path: Path, width: int, height: int, keys: str
) -> None:
    save_noise(tmp_path / "a.png", width, height)
    brief = write_brief(tmp_path, f'[[backdrop]]\nsource = "a.png"\nelement = "p"\n{keys}')
    ran = call("build", brief, "--json")
    assert ran.status in (0, 1), ran.err
    for shown in ran.facts["backdrops"][0]["breakpoints"]:
        for asset in assets_of(shown):
            assert 1 <= asset["width"] <= width
            assert asset["height"] >= 1


@pytest.mark.slow
def test_the_source_that_serves_best_is_picked(tmp_path: Path) -> None:
    save_noise(tmp_path / "wide.jpg", 1800, 600)
    save_noise(tmp_path / "tall.jpg", 700, 1400)
    save_noise(tmp_path / "small.jpg", 350, 700)
    brief = write_brief(
        tmp_path,
        '[[backdrop]]\nname = "b"\nelement = "p"\nheight = "3/1"\npick_from = [\n'
        '  { source = "wide.jpg", subject = { box = [0.1, 0.1, 0.9, 0.9] } },\n'
        '  { source = "small.jpg" },\n'
        '  { source = "tall.jpg", subject = { box = [0.2, 0.3, 0.8, 0.7] } },\n]\n'
        '[backdrop.at.handheld]\nheight = "1/2"\n',
    )
    ran = call("plan", brief, "--json")
    assert ran.status == 0
    shown = ran.facts["backdrops"][0]["breakpoints"]
    picked = {one["name"]: one["picture"]["source"] for one in shown}
    assert picked == {"handheld": "tall.jpg", "midsize": "wide.jpg", "desk": "wide.jpg"}


def test_named_screens_replace_the_built_in_ones(small: Path) -> None:
    small.write_text(
        '[[screen]]\nname = "kiosk"\nwidths = [1080, 1080]\nheights = [1920, 1920]\n'
        '[[breakpoint]]\nname = "all"\n'
        '[[backdrop]]\nsource = "picture.jpg"\nelement = "p"\nheight = "50svh"\n'
    )
    stage = call("plan", small, "--json").facts["backdrops"][0]["breakpoints"][0]["picture"][
        "stage"
    ]
    assert stage["narrowest"] == stage["widest"]
    assert stage["widest"]["box"] == [1080, 960]
