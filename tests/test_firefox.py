"""What a second browser fetches: Firefox, without a driver, by the log of the server."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import time
from pathlib import Path
from typing import Any

import pytest

from .browsing import Site
from .conftest import Demo
from .test_rules import file_at

FIREFOX = shutil.which("firefox-esr") or shutil.which("firefox")
BACKDROPS = ("mill-at-dusk", "bakery", "woven-reed", "dykes", "turning-sails")
PROBE = """<script>fetch(`/window?${innerWidth}x${innerHeight}@${devicePixelRatio}`);
addEventListener("load", () => scrollTo(0, document.body.scrollHeight));</script>"""
"""Tells the window's size, and goes to where the clip is in view."""
TIMEOUT = 25

pytestmark = [
    pytest.mark.browser,
    pytest.mark.skipif(not FIREFOX, reason="no Firefox here"),
]


@pytest.fixture(scope="module")
def site(demo: Demo, tmp_path_factory: pytest.TempPathFactory) -> Site:
    """The demo, with a line in its page that tells the window's size."""
    folder = tmp_path_factory.mktemp("firefox") / "site"
    shutil.copytree(demo.published, folder)
    page = folder / "try-it.html"
    page.write_text(page.read_text("utf-8").replace("</body>", f"{PROBE}</body>"), "utf-8")
    return Site(folder)


def visit(site: Site, profile: Path, width: int, *settings: str) -> tuple[Any, list[str]]:
    """Load the page in a window; the window's size as told, and the files asked for."""
    profile.mkdir()
    (profile / "user.js").write_text("\n".join(settings), encoding="utf-8")
    site.requested.clear()
    command = [
        str(FIREFOX), "--headless", "--no-remote", "--profile", str(profile),
        f"{site.address}/try-it.html",
    ]  # fmt: skip
    size = {"MOZ_HEADLESS_WIDTH": str(width), "MOZ_HEADLESS_HEIGHT": "900"}
    quiet = subprocess.DEVNULL
    with subprocess.Popen(command, stdout=quiet, stderr=quiet, env=os.environ | size) as run:
        until = time.monotonic() + TIMEOUT
        while time.monotonic() < until and not any("window?" in one for one in site.requested):
            time.sleep(0.2)
        time.sleep(3)  # for clips, which start after the page has loaded
        run.terminate()
    told = next(one for one in site.requested if "window?" in one)
    window = [float(part) for part in re.findall(r"[\d.]+", told)]
    names = [Path(one).name for one in site.requested]
    return window, [
        one for one in names if one.endswith((".avif", ".webp", ".jpg", ".svg", ".webm", ".mp4"))
    ]


def expected(ledger: Any, width: float, height: float, density: float) -> set[str]:
    found = {file_at(ledger, name, width, height, density) for name in BACKDROPS}
    return {file for file in found if file}


def best_clip(ledger: Any, width: float) -> set[str]:
    sails = next(one for one in ledger["backdrops"] if one["name"] == "turning-sails")
    wide = [one for one in sails["breakpoints"] if one["widths"][0] <= width]
    clip = wide[-1]["clip"]
    return {clip["assets"][0]["file"]} if clip else set()


@pytest.mark.slow
@pytest.mark.parametrize("width", [520, 1200])
def test_each_window_fetches_its_own_files(
    demo: Demo, site: Site, tmp_path: Path, width: int
) -> None:
    size, fetched = visit(site, tmp_path / "profile", width)
    assert size[0] == width
    clips = best_clip(demo.ledger, width)
    assert bool(clips) == (width > 800)
    assert set(fetched) == expected(demo.ledger, *size) | clips
    pictures = [one for one in fetched if not one.endswith((".webm", ".mp4"))]
    assert len(pictures) == len(set(pictures)), "each once"


@pytest.mark.slow
def test_less_motion_means_not_one_byte_of_the_clip(demo: Demo, site: Site, tmp_path: Path) -> None:
    setting = 'user_pref("ui.prefersReducedMotion", 1);'
    size, fetched = visit(site, tmp_path / "profile", 1200, setting)
    assert set(fetched) == expected(demo.ledger, *size)
