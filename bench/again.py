"""What the second round costs: nothing changed, one subject of fifty moved, and a draft.

Times are whole processes, turn by turn with the floor: starting Python with NumPy imported.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image

ROUNDS = 7
BACKDROPS = 50
SUBJECT = "subject = { point = [0.5, 0.5] }"
MOVED = "subject = { point = [0.1, 0.5] }"


def seconds(*command: str) -> float:
    """How long a process takes."""
    begin = time.perf_counter()
    ran = subprocess.run(command, check=False, stdout=subprocess.DEVNULL)
    if ran.returncode not in (0, 1):  # a promise of these made-up pictures may be broken
        raise SystemExit(ran.returncode)
    return time.perf_counter() - begin


def set_up(folder: Path) -> Path:
    """A brief of fifty backdrops, each with a source of its own."""
    rng = np.random.default_rng(3)
    entries = []
    for number in range(BACKDROPS):
        coarse = Image.fromarray(rng.integers(0, 256, (12, 18, 3), np.uint8))
        coarse.resize((360, 240), Image.Resampling.BICUBIC).save(folder / f"{number}.png")
        entries.append(
            f'[[backdrop]]\nname = "n{number}"\nsource = "{number}.png"\nelement = "#n{number}"\n'
            f'height = "200px"\n{SUBJECT}\n'
        )
    brief = folder / "brief.toml"
    brief.write_text("\n".join(entries), encoding="utf-8")
    return brief


def files(folder: Path) -> dict[str, int]:
    """The published pictures, with their times of change."""
    found = (folder / "published").glob("n*")
    return {path.name: path.stat().st_mtime_ns for path in found}


LARGE = (5120, 2880)
DRAFTS = 5
BRIEF = """[[backdrop]]
source = "large.jpg"
element = ".a"
height = "80svh"
subject = {{ box = [{left:g}, 0.3, {right:g}, 0.7] }}
"""


def drafts() -> None:
    """Print how long a draft takes after a save, of a source that was seen once before."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        rng = np.random.default_rng(4)
        coarse = Image.fromarray(rng.integers(0, 256, (72, 128, 3), np.uint8))
        coarse.resize(LARGE, Image.Resampling.BICUBIC).save(folder / "large.jpg", quality=90)
        brief = folder / "brief.toml"
        command = (sys.executable, "-m", "brightcanvas", "build", str(brief))
        took = []
        for turn in range(DRAFTS + 1):
            save(brief, turn)
            took.append(seconds(*command, "--draft"))
        print(
            f"a draft of {LARGE[0] * LARGE[1] / 1e6:.0f} megapixels: the first {took[0]:.1f} s;"
            f" as a process of its own {told(took[1:])}; {told(watched(command, brief))} from"
            " saving the brief while build --watch runs; bar: 1.5 s"
        )


def save(brief: Path, turn: int) -> None:
    """The subject somewhere else each time."""
    left = 0.2 + 0.03 * turn
    brief.write_text(BRIEF.format(left=left, right=left + 0.1), encoding="utf-8")


def watched(command: tuple[str, ...], brief: Path) -> list[float]:
    """How long after each save a draft is there."""
    drafted, built = (brief.parent / one / "ledger.json" for one in DRAFT_AND_FINAL)
    took = []
    with subprocess.Popen([*command, "--watch"], stdout=subprocess.DEVNULL) as watching:
        wait_for(built, 0)
        for turn in range(DRAFTS):
            time.sleep(1)  # the watch settles
            times = [one.stat().st_mtime_ns for one in (drafted, built)]
            begin = time.perf_counter()
            save(brief, DRAFTS + 1 + turn)
            wait_for(drafted, times[0])
            took.append(time.perf_counter() - begin)
            wait_for(built, times[1])
        watching.terminate()
    return took


DRAFT_AND_FINAL = "published-draft", "published"


def wait_for(path: Path, since: int) -> None:
    """Until a file is newer than a time in ns."""
    while not path.is_file() or path.stat().st_mtime_ns <= since:
        time.sleep(0.02)


def told(took: list[float]) -> str:
    """The middle of some times, the least and the most."""
    return f"{statistics.median(took):.2f} s ({min(took):.2f} to {max(took):.2f})"


def main() -> None:
    """Print the ratio, what a moved subject made anew, and the time of a draft."""
    drafts()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        brief = set_up(folder)
        build = (sys.executable, "-m", "brightcanvas", "build", str(brief))
        first = seconds(*build)
        time.sleep(2.1)  # so that the files are older than the file system's clock is coarse
        seconds(*build)
        pairs = [
            (seconds(*build), seconds(sys.executable, "-c", "import numpy")) for _ in range(ROUNDS)
        ]
        ratios = sorted(mine / floor for mine, floor in pairs)
        print(
            f"nothing changed: {statistics.median(mine for mine, _ in pairs) * 1000:.0f} ms,"
            f" {statistics.median(ratios):.2f} times starting Python with NumPy"
            f" ({ratios[0]:.2f} to {ratios[-1]:.2f}); the first run took {first:.1f} s"
        )
        before = files(folder)
        text = brief.read_text(encoding="utf-8")
        brief.write_text(text.replace(SUBJECT, MOVED, 1), encoding="utf-8")
        moved = seconds(*build)
        after = files(folder)
        anew = sorted(name for name, changed in after.items() if before.get(name) != changed)
        kinds = {name.partition("-")[0] for name in anew}
        print(
            f"one subject of {BACKDROPS} moved: {moved:.1f} s, {len(anew)} of {len(after)}"
            f" pictures made anew, of {', '.join(sorted(kinds)) or 'none'}"
        )


if __name__ == "__main__":
    main()
