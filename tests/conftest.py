"""What the tests share: calling the program, made-up pictures, one build of the demo."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from filelock import FileLock
from hypothesis import settings
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.brief.loading import load_brief
from brightcanvas.cli.main import main
from brightcanvas.pipeline.building import plan_as_built
from brightcanvas.plan.planned import Plan
from brightcanvas.values.errors import ExitStatus
from brightcanvas.values.files import LARGEST_SOURCE

settings.register_profile("ours", deadline=None)  # a crowded machine is no fault
settings.load_profile("ours")


@dataclass(frozen=True)
class Ran:
    """What a run of the program came to."""

    status: int
    out: str
    err: str

    @property
    def facts(self) -> Any:
        return json.loads(self.out)


Call = Callable[..., Ran]


def call(*arguments: str | Path) -> Ran:
    """Run the program inside this process."""
    out, err = io.StringIO(), io.StringIO()
    try:
        status = main([str(argument) for argument in arguments], out, err)
    except SystemExit as stop:  # argparse ends the program itself
        status = int(stop.code or 0)
    assert "Traceback" not in err.getvalue()
    assert status != ExitStatus.OUR_FAULT, err.getvalue()
    return Ran(status, out.getvalue(), err.getvalue())


def spawn(*arguments: str | Path, folder: Path | None = None) -> Ran:
    """Run the installed program as its own process."""
    command = [sys.executable, "-m", "brightcanvas", *map(str, arguments)]
    ran = subprocess.run(
        command, cwd=folder, capture_output=True, encoding="utf-8", timeout=800, check=False
    )
    return Ran(ran.returncode, ran.stdout, ran.stderr)


def noise(width: int, height: int, channels: int = 3, seed: int = 0) -> NDArray[np.uint8]:
    """A picture with detail at all sizes, so that nothing about it is flat."""
    rng = np.random.default_rng(seed)
    total = np.zeros((height, width, channels))
    for step in (1, 4, 16, 64):
        small = rng.random((height // step + 2, width // step + 2, channels))
        total += np.repeat(np.repeat(small, step, 0), step, 1)[:height, :width]
    low, high = total.min(), total.max()
    return np.asarray((total - low) / max(high - low, 1e-9) * 255, np.uint8)


def save_noise(path: Path, width: int = 600, height: int = 400, **options: Any) -> Path:
    Image.fromarray(noise(width, height)).save(path, **options)
    return path


def write_brief(folder: Path, text: str) -> Path:
    path = folder / "brief.toml"
    path.write_text(text, encoding="utf-8")
    return path


def plan_of(path: Path) -> Plan:
    """The plan by which a brief was built."""
    return plan_as_built(load_brief(path), LARGEST_SOURCE)


def assets_of(part: Any) -> list[Any]:
    """Every file that a ledger lists for a part of a backdrop, each once."""
    listed = [asset for size in part["sizes"] for asset in size["assets"]]
    listed += [part["oldest"]] if part["oldest"] else []
    return list({asset["file"]: asset for asset in listed}.values())


def wait(found: Callable[[], Any], patience: float = 40.0) -> Any:
    """What comes at last."""
    until = time.monotonic() + patience
    while time.monotonic() < until:
        if now := found():
            return now
        time.sleep(0.05)
    raise AssertionError("it never came")


def parts_of(ledger: Any, name: str) -> list[Any]:
    """All parts of a backdrop, as a ledger has them."""
    return list(next(one for one in ledger["backdrops"] if one["name"] == name)["breakpoints"])


BUILT = {"demo", "elements", "folder", "ledger", "site", "apache", "fen", "browser", "asked"}
"""Fixtures that build something, or start a browser or a server."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What needs something built is slow, whoever happens to build it first."""
    for item in items:
        if BUILT & set(getattr(item, "fixturenames", ())):
            item.add_marker(pytest.mark.slow)


SMALL_BRIEF = """\
[[breakpoint]]
name = "narrow"
below = 600
[[breakpoint]]
name = "wide"

[[backdrop]]
source = "picture.jpg"
element = ".top"
first_view = true
height = "300px"
"""


SHORT = ExitStatus.PROMISE_BROKEN
"""Of pictures so small that they are quick to make, and that no page should show."""


@pytest.fixture
def small(tmp_path: Path) -> Path:
    """A folder with a picture and the brief for it; the path of the brief."""
    save_noise(tmp_path / "picture.jpg", 450, 300)
    return write_brief(tmp_path, SMALL_BRIEF)


@dataclass(frozen=True)
class Demo:
    """The built demo."""

    folder: Path
    ran: Ran

    @property
    def published(self) -> Path:
        return self.folder / "published"

    @property
    def ledger(self) -> Any:
        return json.loads((self.published / "ledger.json").read_text(encoding="utf-8"))


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Demo:
    """The demo, built once for all tests of all workers by the program as its own process."""
    own = tmp_path_factory.getbasetemp()
    shared = own if worker_id == "master" else own.parent
    shared = Path(os.environ.get("DEMO_FOLDER", shared))  # of several runs in a row
    folder, told = shared / "demo/marrowfen-mill", shared / "demo.json"
    with FileLock(shared / "demo.lock"):
        if not told.exists():
            told.write_text(json.dumps(asdict(spawn("demo", folder))), encoding="utf-8")
    return Demo(folder, Ran(**json.loads(told.read_text(encoding="utf-8"))))
