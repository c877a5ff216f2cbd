"""The arithmetic of the page for adjusting against the core's: in a runner, and in a browser."""

from __future__ import annotations

import json
import random
import shutil
import subprocess
from collections.abc import Callable
from typing import Any

import pytest

from brightcanvas.adjusting.adjust_page import part_of_page
from brightcanvas.adjusting.scene import element_facts, order_facts
from brightcanvas.browsers.chromium import chromium_window
from brightcanvas.framing.compromise import CutOrder, frame
from brightcanvas.framing.cuts import Closeness
from brightcanvas.framing.stages import Element, ScreenClass, Stage
from brightcanvas.framing.wishes import CutWish
from brightcanvas.values.element_boxes import padding_height, parse_height, parse_width
from brightcanvas.values.environments import Environment
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.words import bytes_text

from .browsing import CHROMIUM

Run = Callable[[str, str], Any]
"""The value of an expression after a part of the page's script."""

NODE = shutil.which("node")


def in_node(part: str, expression: str) -> Any:
    """Without a page: what needs none is pure."""
    if not NODE:
        pytest.skip("no JavaScript runner here")
    script = f"globalThis.innerWidth = 1280;\n{part_of_page(part)}"
    program = f"{script}\nprocess.stdout.write(JSON.stringify({expression}))"
    ran = subprocess.run([NODE, "-"], input=program, capture_output=True, text=True, check=True)
    return json.loads(ran.stdout)


def in_chromium(part: str, expression: str) -> Any:
    with chromium_window() as window:
        window.resize(Environment(1280, 800))
        window.open("about:blank")
        return window.evaluate(f"eval({json.dumps(part_of_page(part) + ';' + expression)})")


RUNNERS = [
    in_node,
    pytest.param(in_chromium, marks=[pytest.mark.browser, pytest.mark.slow, pytest.mark.skipif(
        not CHROMIUM, reason="no Chromium here"
    )]),
]  # fmt: skip


def random_area(by: random.Random, size: Size) -> Rect:
    if by.random() < 0.3:
        x, y = by.uniform(0, size.width), by.uniform(0, size.height)
        return Rect(x, y, x, y)
    across, down = by.uniform(0.05, 0.8) * size.width, by.uniform(0.05, 0.8) * size.height
    left, top = by.uniform(0, size.width - across), by.uniform(0, size.height - down)
    return Rect(left, top, left + across, top + down)


def random_order(by: random.Random) -> CutOrder:
    source = by.choice([Size(6000, 4000), Size(2400, 3600), Size(1920, 1080)])
    low = by.uniform(0.3, 2.5)
    high = low * by.uniform(1, 4)
    copy = random_area(by, Size(1, 1)) if by.random() < 0.5 else None
    subjects = tuple(random_area(by, source) for _ in range(by.choice([1, 1, 2])))
    wish = CutWish(source, Span(low, high), subjects, copy, by.choice([0.0, 0.0, 0.06]))
    usual = sorted(by.uniform(low, high) for _ in range(2))
    return CutOrder(
        wish,
        by.choice([0.0, 60.0]),
        by.choice(list(Closeness)),
        by.choice([None, Size(900, 500)]),
        by.choice([None, by.uniform(low, high)]),
        by.choice([None, Span(*usual)]),
    )


@pytest.mark.parametrize("run", RUNNERS)
def test_cuts_are_the_cores_in_a_thousand_cases(run: Run) -> None:
    by = random.Random(17)
    stage = Stage(Element(), (ScreenClass("any", Span(320, 400), Span(500, 600)),))
    orders = [random_order(by) for _ in range(1000)]
    asked = json.dumps([order_facts(one, stage) for one in orders])
    told = run("geometry.js", f"{asked}.map(geometry.frame)")
    gave_way = 0
    for order, found in zip(orders, told, strict=True):
        wanted = frame(order)
        area, position = wanted.cut.area, wanted.cut.position
        edges = (area.left, area.top, area.right, area.bottom)
        assert found["area"] == pytest.approx(edges, abs=1e-3), order
        assert found["position"] == pytest.approx((position.x, position.y), abs=1e-6), order
        gave_way += bool(wanted.gave_way)
    assert 200 < gave_way < 950, "both kinds are among them"


@pytest.mark.parametrize("run", RUNNERS)
def test_boxes_are_the_cores(run: Run) -> None:
    by = random.Random(4)
    heights = ["420px", "60svh", "16/9", "max(420px, 70svh)", "clamp(10rem, 40vw + 20px, 80vh)",
               "calc(30vh * 1.5)"]  # fmt: skip
    widths = ["100%", "60%", "min(60%, 1200px)"]
    paddings = ["", "96px 5vw", "clamp(2rem, 50vw, 60rem)", "40%"]
    elements = [
        Element(
            parse_height(by.choice(heights)), parse_width(by.choice(widths)),
            by.choice([0.0, 80.0]), padding_height(by.choice(paddings)),
            by.choice([0.0, 120.0]), by.random() < 0.2,
        )
        for _ in range(300)
    ]  # fmt: skip
    windows = [(by.uniform(320, 2560), by.uniform(260, 1440)) for _ in elements]
    asked = [[element_facts(one), at] for one, at in zip(elements, windows, strict=True)]
    told = run("geometry.js", f"{json.dumps(asked)}.map(([e, w]) => geometry.box(e, w, true))")
    for element, at, found in zip(elements, windows, told, strict=True):
        box = element.box(Size(*at), grown=True)
        assert found == pytest.approx((box.width, box.height)), element


@pytest.mark.parametrize("run", RUNNERS)
def test_bytes_are_told_as_everywhere(run: Run) -> None:
    amounts = [0, 1, 912, 999, 1000, 1049, 48_230, 99_949, 99_951, 100_000, 133_400, 999_499,
               999_500, 1_000_000, 1_349_000, 25_000_000]  # fmt: skip
    assert run("tiles.js", f"{amounts}.map(tiles.kilo)") == [bytes_text(one) for one in amounts]
