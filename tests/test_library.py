"""The library: its names, its functions, and that it leaves the process as it was."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import warnings
from pathlib import Path

import pytest
from PIL import Image, ImageFile

import brightcanvas
from brightcanvas.formats.switches import our_switches

from .conftest import noise, save_noise, write_brief

NAMES = [
    "Brief", "BriefError", "BrightCanvasError", "Compressed", "Crop", "Inspected", "MachineError",
    "Outcome", "Plan", "Rehearsed", "SourceError", "State", "Suggestion", "Transcoded", "Verdict",
    "build", "check", "compress", "crop", "inspect", "load_brief", "plan_brief", "rehearse",
    "suggest_subject", "transcode",
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
