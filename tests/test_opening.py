"""Everything that is written opens in a real Chromium, and cleaned drawings look the same."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from brightcanvas.formats.drawings.drawing_cleaning import cleaned

from .browsing import CHROMIUM, DRIVER, Browser, serving
from .conftest import Demo, assets_of
from .test_compress import DRAWING

pytestmark = [
    pytest.mark.browser,
    pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here"),
]

LOADED = """(async () => {{
  const sizes = {{}};
  for (const name of {names}) {{
    const picture = new Image();
    picture.src = name;
    try {{ await picture.decode(); }} catch {{ }}
    sizes[name] = [picture.naturalWidth, picture.naturalHeight];
  }}
  return sizes;
}})()"""


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    browser = Browser()
    yield browser
    browser.close()


@pytest.mark.slow
def test_every_file_of_the_demo_opens(demo: Demo, browser: Browser) -> None:
    assets = {
        asset["file"]: [asset["width"], asset["height"]]
        for backdrop in demo.ledger["backdrops"]
        for shown in backdrop["breakpoints"]
        for asset in assets_of(shown)
    }
    with serving(demo.published) as site:
        browser.open(f"{site.address}/markup.html", 400, 300)
        found = browser.evaluate(LOADED.format(names=list(assets)))
    assert found == assets


@pytest.mark.slow
@pytest.mark.parametrize("density", [1, 2, 3])
def test_a_cleaned_drawing_is_rendered_alike(
    tmp_path: Path, browser: Browser, density: int
) -> None:
    # In a background nothing is fetched from outside: Chromium draws a broken picture instead.
    drawing = "\n".join(line for line in DRAWING.splitlines() if "<image" not in line)
    (tmp_path / "before.svg").write_text(drawing)
    (tmp_path / "after.svg").write_bytes(cleaned(drawing.encode(), "before.svg"))
    shots = []
    with serving(tmp_path) as site:
        for name in ("before", "after"):
            page = f'<body style="margin:0"><img src="{name}.svg" width="800">'
            (tmp_path / f"{name}.html").write_text(page)
            browser.open(f"{site.address}/{name}.html", 820, 420, density)
            shots.append(browser.settled())
    assert shots[0].std() > 10
    assert (shots[0] == shots[1]).all()
