"""How soon the page of ``bright-canvas adjust`` follows, proves, and shows a draft.

    python -m bench.adjusting              the demo, and pictures that the repository draws
    python -m bench.adjusting FOLDER       every picture in a folder

Each picture gets the brief that a newcomer writes: source, element, a subject, copy on it. The
subject is dragged about in a real Chromium (it needs chromedriver and Selenium), and clocks in the
page tell: how long it works on each move of the pointer (handlers, geometry, styles, layout and
painting of the frame: below 16.7 ms nothing is lost at 60 frames a second), and from the move
until that frame was drawn, with the wait for its turn; from the last move until the proof stands
there; from the answer that the brief is saved until the draft is known.
"""

from __future__ import annotations

import json
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from scenery.variants import variants
from selenium.webdriver import Chrome
from selenium.webdriver.common.action_chains import ActionChains
from tests.chromedriver import end, started

from brightcanvas.browsers.chromium import SWITCHES
from brightcanvas.demo.setup import set_up

CLOCKS = """
globalThis.clocks = { work: [], pointer: [], proof: [], draft: [] };
let handled = 0, began = 0;
addEventListener("pointermove", () => { handled = performance.now() - began; });
let moved = 0, saved = 0, drafts = "", frame = false;
addEventListener("pointermove", (event) => {
  if (!event.buttons) return;
  moved = began = performance.now();
  if (frame) return;
  frame = true;
  const channel = new MessageChannel();
  channel.port1.onmessage = () => {
    frame = false;
    clocks.pointer.push(performance.now() - event.timeStamp);
    clocks.work.push(handled + performance.now() - turn);
  };
  let turn = 0;
  requestAnimationFrame(() => {
    turn = performance.now();
    channel.port2.postMessage(0);
  });
}, true);
new MutationObserver((all) => {
  const isProof = all.some((one) => [...one.addedNodes].some((node) =>
    node.matches?.(".first, .card") && node.querySelector(".proof")));
  if (isProof && moved) { clocks.proof.push(performance.now() - moved); moved = 0; }
}).observe(document, { childList: true, subtree: true });
const ask = fetch;
globalThis.fetch = async (what, how) => {
  const answer = await ask(what, how);
  if (what === "save") saved = performance.now();
  if (what === "drafts") {
    const text = await answer.clone().text();
    if (text !== drafts && saved) { clocks.draft.push(performance.now() - saved); saved = 0; }
    drafts = text;
  }
  return answer;
};
"""

NEWCOMER = """\
[[backdrop]]
source = "{name}"
element = ".top"
subject = {{ box = [0.55, 0.3, 0.7, 0.55] }}
copy = {{ box = [0.06, 0.3, 0.45, 0.7], colour = "white", size = 40 }}
scrim = {{ least = true }}
"""

DRAGS, MOVES = 4, 40


@contextmanager
def page_of(brief: Path) -> Iterator[str]:
    """The address of a brief's page, while it is served."""
    command = [sys.executable, "-m", "brightcanvas", "adjust", str(brief), "--no-open", "--json"]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    ) as running:
        assert running.stdout
        told = ""
        while not told.rstrip().endswith("}"):
            told += running.stdout.readline()
        yield json.loads(told)["address"]
        running.terminate()


def clocks(driver: Chrome, address: str) -> dict[str, list[float]]:
    """Drag the subject about, several times; what the clocks tell, in milliseconds."""
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": CLOCKS})
    driver.get(address)
    until = time.monotonic() + 60
    while not driver.execute_script("return document.querySelectorAll('.tile').length"):
        assert time.monotonic() < until, "the page never came"
        time.sleep(0.2)
    time.sleep(6)  # trials and the first draft, which are not what is measured
    for number in range(DRAGS):
        one = driver.find_element("css selector", ".source .subject")
        way = ActionChains(driver, duration=16).click_and_hold(one)
        sign = 1 if number % 2 else -1
        for step in range(MOVES):
            way.move_by_offset(sign * 2, (1, -1)[step % 2])
        way.perform()
        time.sleep(1.0)  # the pointer rests, and the proof comes
        ActionChains(driver).release().perform()
        time.sleep(5.0)  # the draft comes
    found: dict[str, list[float]] = driver.execute_script("return clocks")
    return found


def told(name: str, found: dict[str, list[float]]) -> str:
    """One line."""
    parts = [f"{name:28}"]
    for what, share in (("work", 0.95), ("pointer", 0.95), ("proof", 0.5), ("draft", 0.5)):
        values = sorted(found[what])
        value = values[min(int(len(values) * share), len(values) - 1)] if values else float("nan")
        parts.append(f"{what} {value:6.0f} ms, most {max(values, default=float('nan')):6.0f}")
    return "   ".join(parts)


def briefs(folder: Path) -> Iterator[tuple[str, Path]]:
    """A brief for each picture."""
    if len(sys.argv) == 1:
        yield "the demo's mill", set_up(folder / "demo")
        pictures = variants(folder)
    else:
        pictures = (one for one in sorted(Path(sys.argv[1]).iterdir()) if one.is_file())
    for picture in pictures:
        place = folder / f"brief-{picture.stem}"
        place.mkdir()
        shutil.copy(picture, place / picture.name)
        brief = place / "brief.toml"
        brief.write_text(NEWCOMER.format(name=picture.name), encoding="utf-8")
        yield picture.name, brief


def main() -> None:
    """Print a line for each picture."""
    chromium, driver = shutil.which("chromium"), shutil.which("chromedriver")
    if not (chromium and driver):
        raise SystemExit("no Chromium with chromedriver here")
    medians: dict[str, list[float]] = {"work": [], "pointer": [], "proof": [], "draft": []}
    with tempfile.TemporaryDirectory() as folder:
        for name, brief in briefs(Path(folder)):
            browser = started(chromium, driver, [*SWITCHES, "--window-size=1280,900"], 60)
            try:
                with page_of(brief) as address:
                    found = clocks(browser, address)
            finally:
                end(browser)
            print(told(name, found), flush=True)
            for what, values in found.items():
                medians[what] += values
    print(
        *(f"{what}: median {statistics.median(values):.0f} ms" for what, values in medians.items())
    )


if __name__ == "__main__":
    main()
