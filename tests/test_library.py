"""The library: its names, its functions, and that it leaves the process as it was."""

from __future__ import annotations

import ast
import os
import re
import subprocess
import sys
import threading
import tomllib
import warnings
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image, ImageFile

import brightcanvas
from brightcanvas.formats.codec_libraries import our_switches

from .clips import SIZE, codes, scene, write
from .conftest import noise, save_noise, write_brief

ROOT = Path(__file__).parent.parent

NAMES = [
    "Brief",
    "BriefError",
    "BrightCanvasError",
    "BuildDraft",
    "ChosenStill",
    "Compressed",
    "Crop",
    "FirstBrief",
    "HostedFile",
    "Inspected",
    "Integration",
    "MachineError",
    "MeasuredFiles",
    "Outcome",
    "PageHits",
    "Plan",
    "Rehearsed",
    "SourceError",
    "State",
    "Suggestion",
    "Transcoded",
    "Verdict",
    "WrittenProof",
    "begin",
    "build",
    "check",
    "compress",
    "crop",
    "draft",
    "hits",
    "insert",
    "inspect",
    "load_brief",
    "measure",
    "plan_brief",
    "poster",
    "rehearse",
    "served",
    "sheet",
    "suggest_subject",
    "transcode",
]  # fmt: skip


def test_the_public_names_are_these() -> None:
    assert sorted(brightcanvas.__all__) == NAMES
    for name in NAMES:
        found = getattr(brightcanvas, name)
        assert found.__doc__, name
        assert found.__name__ == name
    assert set(NAMES) <= set(dir(brightcanvas))
    with pytest.raises(AttributeError, match="offers no bild"):
        _ = brightcanvas.bild


def test_importing_it_loads_nothing_heavy() -> None:
    program = (
        "import sys, brightcanvas\n"
        "assert not {'numpy', 'PIL', 'pydantic', 'rich', 'argparse'} & set(sys.modules)\n"
        "brightcanvas.load_brief, brightcanvas.Outcome\n"
    )
    ran = subprocess.run([sys.executable, "-c", program], capture_output=True, check=False)
    assert ran.returncode == 0, ran.stderr


@pytest.mark.slow
def test_a_brief_is_planned_checked_built_and_rehearsed(
    small: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    brief = brightcanvas.load_brief(str(small))
    planned = brightcanvas.plan_brief(brief)
    assert {one.promise for one in brightcanvas.check(planned)} >= {"sharp", "lean"}
    assert not (small.parent / "published").exists()
    told: list[str] = []
    counts: list[int] = []
    outcome = brightcanvas.build(brief, workers="threads", starts=counts.append, done=told.append)
    assert outcome.holds
    assert {one.state for one in outcome.verdicts} <= {
        brightcanvas.State.HOLDS, brightcanvas.State.NOTE,
    }  # fmt: skip
    assert len(told) == counts[0] > 3
    assert (small.parent / "published/ledger.json").is_file()
    seen = brightcanvas.rehearse(small.parent / "published/try-it.html", http="2", like="firefox")
    assert all(one.is_clean for one in seen)
    assert capsys.readouterr() == ("", "")


def test_single_files(tmp_path: Path) -> None:
    photo = save_noise(tmp_path / "photo.jpg", 300, 200, quality=97)
    made = brightcanvas.crop(photo, (90, 60), subject=(0.9, 0.1, 0.9, 0.1))
    with Image.open(made.file) as image:
        assert image.size == (90, 60)
    assert made.area.right == 300
    [light] = brightcanvas.compress(photo, formats=["avif"], into=tmp_path / "light")
    assert light.output == tmp_path / "light/photo.avif"
    assert light.after < light.before
    assert 0 <= brightcanvas.suggest_subject(photo).confidence <= 1


@pytest.mark.slow
def test_a_page_is_begun_built_and_inserted(tmp_path: Path) -> None:
    """As the commands do it, here without a browser; what can't be read is told, not dropped."""
    site = tmp_path / "site"
    site.mkdir()
    save_noise(site / "mill.jpg", 1600, 900)
    (site / "index.html").write_text(
        "<!doctype html><html lang=en><head><title>Mill</title>"
        '<meta name="viewport" content="width=device-width">'
        "<style>.hero { height: 60vh; background: url(mill.jpg) center/cover }</style></head>"
        '<body><section class="hero"><h1>Flour</h1></section></body></html>'
    )
    begun = brightcanvas.begin(site, tmp_path / "own/brief.toml", browser="none")
    assert begun.sheet.is_file()
    assert [one.element for one in begun.draft.entries] == [".hero"]
    brief = brightcanvas.load_brief(begun.path)
    assert brightcanvas.draft(brief).page.is_file()
    assert not brightcanvas.hits(site / "index.html", brief).is_built
    outcome = brightcanvas.build(brief)
    done = brightcanvas.insert(site, brief, outcome, into=tmp_path / "copy", browser="none")
    assert done.is_lighter
    assert (done.browser, done.left_out) == ("", ())
    assert "backdrops/" in (tmp_path / "copy/index.html").read_text()
    assert brightcanvas.hits(tmp_path / "copy/index.html", brief).found[0].hits
    with pytest.raises(brightcanvas.BriefError, match="is not overwritten"):
        brightcanvas.begin(site, begun.path, browser="none")
    served = brightcanvas.served(brief, brief.output)
    assert served
    assert all(one.is_ours for one in served)
    proof = brightcanvas.sheet(begun.path, tmp_path / "proof")
    assert proof.bytes == (tmp_path / "proof/proof.html").stat().st_size


def test_pages_that_cannot_be_read_are_told_and_not_dropped(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<!doctype html><title>Mill</title><p>Flour")
    (tmp_path / "long.html").write_text("<p>" + "flour " * 1_000_000)
    found = brightcanvas.inspect(tmp_path)
    assert found.pages == ("index.html",)
    assert len(found.left_out) == 1
    assert "long.html" in found.left_out[0]


def test_what_does_not_go_together_is_told(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match="go together"):
        brightcanvas.begin(tmp_path, picture="mill.jpg")
    brief = write_brief(tmp_path, '[[backdrop]]\nsource = "a.jpg"\nelement = "p"\n')
    with pytest.raises(brightcanvas.BriefError, match="asks for nothing measured"):
        brightcanvas.measure(tmp_path, brief)


@pytest.mark.slow
def test_a_clips_still_is_chosen(tmp_path: Path) -> None:
    frames = (codes(scene(2)) for _ in range(8))
    clip = write(tmp_path / "sails.mp4", frames)
    chosen = brightcanvas.poster(clip, at=0.1, copy=(0, 0, 0.5, 1), sheet=tmp_path / "sheet.png")
    assert chosen.file == tmp_path / "sails-poster.jpg"
    with Image.open(chosen.file) as still, Image.open(tmp_path / "sheet.png") as sheet:
        assert still.size == SIZE
        assert sheet.width == 1280


@pytest.mark.parametrize(
    ("says", "what"),
    [
        ("'avid': one of avif, webp, jpeg, png", {"formats": ["avid"]}),
        ("'best': one of careful", {"quality": "best"}),
    ],
)
def test_words_that_mean_nothing_are_told(tmp_path: Path, says: str, what: dict[str, str]) -> None:
    photo = save_noise(tmp_path / "photo.jpg", 60, 40)
    with pytest.raises(ValueError, match=says):
        brightcanvas.compress(photo, **what)  # type: ignore[arg-type]


def test_what_can_not_be_used_is_told_and_nothing_ends(tmp_path: Path) -> None:
    (tmp_path / "photo.jpg").write_text("no picture")
    with pytest.raises(brightcanvas.SourceError, match="this is no picture"):
        brightcanvas.crop(tmp_path / "photo.jpg", (10, 10))
    with pytest.raises(brightcanvas.BriefError, match="There is no brief"):
        brightcanvas.load_brief(tmp_path / "brief.toml")
    assert issubclass(brightcanvas.SourceError, brightcanvas.BrightCanvasError)


@pytest.mark.slow
def test_switches_of_libraries_are_set_back(tmp_path: Path) -> None:
    """Also where calls of several threads overlap, the first of which ends first."""
    filters, limit = list(warnings.filters), Image.MAX_IMAGE_PIXELS
    ImageFile.LOAD_TRUNCATED_IMAGES = True
    try:
        begun, ended = threading.Event(), threading.Event()

        def first() -> None:
            with our_switches():
                begun.set()
                ended.wait(5)

        other = threading.Thread(target=first)
        other.start()
        begun.wait(5)
        with our_switches():
            ended.set()
            other.join()
            assert Image.MAX_IMAGE_PIXELS is None, "this call is still under way"
            assert ImageFile.LOAD_TRUNCATED_IMAGES is False
        brief = brightcanvas.load_brief(
            write_brief(tmp_path, '[[backdrop]]\nsource = "a.png"\nelement = ".a"\n')
        )
        Image.fromarray(noise(200, 120)).save(tmp_path / "a.png")
        brightcanvas.build(brief)
        assert ImageFile.LOAD_TRUNCATED_IMAGES is True
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = False
    assert list(warnings.filters) == filters
    assert limit == Image.MAX_IMAGE_PIXELS
    assert "SVT_LOG" not in os.environ


INSTALLED_AS = {
    "PIL": "pillow", "pillow_heif": "pillow-heif", "resvg_py": "resvg-py",
    "websocket": "websocket-client", "pydantic_core": "pydantic-core",
}  # fmt: skip
NOT_FROM_THERE = {"gi"}
"""WebKit's bindings, which come with the system."""


def test_what_is_imported_is_declared() -> None:
    """Nothing is there only because something else happens to need it."""
    told = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    extras = (one for name, listed in told["optional-dependencies"].items()
              if name != "dev" for one in listed)  # fmt: skip
    declared = {re.split(r"[<>=]", one)[0] for one in (*told["dependencies"], *extras)}
    imported = {name for path in (ROOT / "src").rglob("*.py") for name in _imported(path)}
    ours = {"brightcanvas", *NOT_FROM_THERE, *sys.stdlib_module_names}
    assert {INSTALLED_AS.get(one, one) for one in imported - ours} == declared


def _imported(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom):
            yield (node.module or "").partition(".")[0]
        elif isinstance(node, ast.Import):
            yield from (one.name.partition(".")[0] for one in node.names)
