"""Parts and sizes by what they save; notes for windows that next to nobody has; drafts."""

from __future__ import annotations

import itertools
import json
import math
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brightcanvas.brief.brief import Breakpoint
from brightcanvas.colour.resample import Reducible, resize
from brightcanvas.framing.size_variants import (
    CLASSES,
    Demand,
    SizeVariant,
    class_of,
    exact_bytes,
    rung_for,
    shortfall_of,
    sizes_for,
    worst_excess,
)
from brightcanvas.framing.stages import Element, ScreenClass, Stage, stage_of, standard_screens
from brightcanvas.framing.usual_screens import USUAL_SCREENS, quantile, usual_in
from brightcanvas.framing.weights import Places, Weights
from brightcanvas.plan.parting import NOTICED, Cost, parted, round_between, ways_to_part
from brightcanvas.plan.ways import Way, few_enough
from brightcanvas.values.conditions import Condition
from brightcanvas.values.element_boxes import parse_height
from brightcanvas.values.geometry import Orientation, Rect, Size, Span
from brightcanvas.values.layers import Contain, Cover, Exact, Fit
from brightcanvas.values.screens import Screen

from .conftest import assets_of, call, plan_of, save_noise, write_brief
from .test_quality import photograph
from .test_rules import matches

DESK = Breakpoint("desk", Condition())


def stage(height: str = "300px", widths: Span | None = None) -> Stage:
    region = ScreenClass("one", widths or Span(320, 2560), Span(300, 1400))
    found = stage_of(Span(0, 9999), Element(parse_height(height)), (region,))
    assert found is not None
    return found


def screen(width: float, density: float, share: float, height: float = 700) -> Screen:
    return Screen("screen", Size(width, height), density, share)


screens = st.lists(
    st.builds(
        screen,
        st.sampled_from([360.0, 400.0, 800.0, 1300.0, 1900.0, 2500.0]),
        st.sampled_from([1.0, 1.5, 2.0, 3.0]),
        st.floats(0.01, 0.5),
    ),
    min_size=1,
    max_size=6,
)


def test_the_usual_screens_are_a_whole() -> None:
    assert sum(one.share for one in USUAL_SCREENS) == pytest.approx(1, abs=0.001)
    windows = standard_screens(2560)
    for one in USUAL_SCREENS:
        assert any(
            kind.widths.low <= one.viewport.width <= kind.widths.high
            and kind.heights.low <= one.viewport.height <= kind.heights.high
            for kind in windows
        ), f"{one} is no window that is reckoned with"


@given(st.lists(st.tuples(st.floats(1, 100), st.floats(0.01, 1)), min_size=1), st.floats(0.01, 1))
def test_a_quantile_serves_its_part_and_no_lesser_value_does(
    pairs: list[tuple[float, float]], part: float
) -> None:
    found, total = quantile(pairs, part), sum(share for _, share in pairs)
    assert sum(share for value, share in pairs if value <= found) >= part * total - 1e-5
    assert sum(share for value, share in pairs if value < found) < part * total + 1e-5


def test_the_size_that_browsers_take_is_the_least_that_is_dense_enough() -> None:
    size_variants = [SizeVariant(100, 50, 1, 1.0), SizeVariant(200, 100, 2, 2.0)]
    taken = [rung_for(size_variants, density).label for density in (0.5, 1, 1.1, 2, 2.6, 4)]
    assert taken == [1, 1, 2, 2, 2, 2]


def ways_to_share(usual: tuple[Screen, ...]) -> list[tuple[tuple[int, ...], ...]]:
    """Every way to part the classes that somebody is in into runs, written anew."""
    present = sorted({class_of(one.density) for one in usual})
    ways = []
    for cuts in itertools.product((False, True), repeat=len(present) - 1):
        runs = [[present[0]]]
        for one, is_cut in zip(present[1:], cuts, strict=True):
            if is_cut:
                runs.append([one])
            else:
                runs[-1].append(one)
        ways.append(tuple(tuple(run) for run in runs))
    return ways


@pytest.mark.slow
@given(screens, st.floats(10, 3000), st.floats(1e4, 3e5), st.floats(0.5, 1))
@settings(max_examples=150)
def test_no_cheaper_choice_of_sizes_exists(
    usual: list[Screen], price: float, base: float, growth: float
) -> None:
    demand = Demand(
        Size(4000, 3000), stage(), Cover(), tuple(usual),
        weights=Weights(base, growth, -0.5),
    )  # fmt: skip
    found = sizes_for(demand, price)
    tried = []
    for way in ways_to_share(demand.usual):
        total, size_variants = 0.0, []
        for run in way:
            own = tuple(one for one in usual if class_of(one.density) in run)
            one = replace(demand, usual=own, bound=math.inf)
            alone = sizes_for(one, math.inf)
            if len(alone.size_variants) > 1:  # parting it further is another way
                break
            size_variants.append(replace(alone.size_variants[0], label=run[-1]))
            total += alone.load + price
        else:
            rising = all(a.width < b.width for a, b in itertools.pairwise(size_variants))
            if rising and worst_excess(demand, size_variants)[0] <= demand.bound:
                tried.append(total)
    assert all(found.cost(price) <= total + 1e-6 for total in tried)


@given(screens)
@settings(max_examples=80)
def test_every_usual_screen_has_px_enough_and_every_window_no_file_beyond_the_bound(
    usual: list[Screen],
) -> None:
    demand = Demand(Size(9000, 6000), stage(), Cover(), tuple(usual))
    sizes = sizes_for(demand, 300)
    for one in usual:
        needed = demand.drawn(one.viewport) * min(one.density, demand.densest)
        assert rung_for(sizes.size_variants, one.density).width >= 0.75 * needed - 1
    factor, viewport_box, density = worst_excess(demand, sizes.size_variants)
    for corner in demand.stage.corners:
        for each in CLASSES:
            exact = demand.bytes(demand.needed(corner.box) * min(each, 2), min(each, 2))
            size_variant = rung_for(sizes.size_variants, each)
            assert demand.bytes(size_variant.width, size_variant.density) <= factor * exact * (
                1 + 1e-9
            )
    assert density in CLASSES
    assert viewport_box in demand.stage.corners


@pytest.mark.parametrize(("fit", "largest"), [(Cover(), 1600), (Contain(), 600), (Exact(240), 480)])
def test_the_size_has_what_its_screens_show(fit: Fit, largest: int) -> None:
    demand = Demand(Size(4000, 4000), stage(), fit, (screen(800, 2, 1),))
    assert [size_variant.width for size_variant in sizes_for(demand, 300).size_variants] == [
        largest
    ]


def test_a_size_is_never_larger_than_its_source_and_says_so() -> None:
    demand = Demand(Size(700, 400), stage(), Cover(), (screen(800, 2, 1),))
    size_variants = sizes_for(demand, 300).size_variants
    assert [size_variant.width for size_variant in size_variants] == [700]
    short = shortfall_of(demand, size_variants)
    assert short is not None
    assert short.needed_width == 1600


def test_an_exact_file_shows_no_more_than_its_box() -> None:
    demand = Demand(Size(4000, 1000), stage("600px"), Cover(), (screen(400, 1, 1),))
    drawn = 600 * 4.0
    whole = demand.bytes(drawn, 1.0)
    assert exact_bytes(demand, demand.usual[0]) == pytest.approx(whole * 400 / drawn)


def test_edges_between_parts_are_round_and_lie_between() -> None:
    for low, high in ((1536, 1707), (430, 740), (1101, 1102), (999, 1001)):
        edge = round_between(low, high)
        assert low < edge <= high
        assert edge == int(edge)
    assert round_between(1536, 1707) == 1600


def table_of_costs(data: st.DataObject) -> Any:
    """Any cost at all for each part, remembered."""
    known: dict[Breakpoint, Cost] = {}

    def cost(part: Breakpoint) -> Cost:
        if part not in known:
            lost = data.draw(st.sampled_from([0.0, 0.0, 0.02, 0.3]))
            missed = data.draw(st.sampled_from([0.0, 9.0]))
            known[part] = Cost(data.draw(st.floats(0, 100)), missed, lost)
        return known[part]

    return cost


@pytest.mark.slow
@given(screens, st.sampled_from([None, 1, 2, 3]), st.data())
@settings(max_examples=80)
def test_no_way_to_part_keeps_more_or_is_cheaper(
    usual: list[Screen], most: int | None, data: st.DataObject
) -> None:
    cost = table_of_costs(data)
    found = parted(DESK, usual, most, cost)
    assert most is None or len(found.parts) <= most
    for way in ways_to_part(DESK, usual):
        if most is None or len(way) <= most:
            costs = [cost(part) for part in way]
            total = sum(one.bytes for one in costs) + max(one.missed for one in costs)
            lost = sum(one.lost for one in costs) - sum(cost(part).lost for part in found.parts)
            assert lost > -NOTICED - 1e-9
            assert found.cost <= total + 1e-9 or lost > 0


def test_what_no_cut_keeps_costs_no_bytes(tmp_path: Path) -> None:
    """A flower that fills the picture: laptops get a file of their own size all the same."""
    save_noise(tmp_path / "a.jpg", 2560, 1600)
    flower = BRIEF.replace("0.3, 0.3, 0.42, 0.7", "0.36, 0.18, 1, 0.97")
    plan = plan_of(write_brief(tmp_path, flower))
    views = [view for view in plan.backdrops[0].views if view.picture]
    [laptops] = [view for view in views if view.slot.breakpoint.widths.clamp(1440) == 1440]
    assert laptops.picture is not None
    assert "subject" in laptops.picture.framed.gave_way
    assert rung_for(laptops.picture.size_variants, 1).width < 1600


@given(screens, st.floats(1, 3000), st.floats(1, 2000))
@settings(max_examples=80)
def test_every_way_to_part_puts_each_window_into_one_part(
    usual: list[Screen], width: float, height: float
) -> None:
    shape = Orientation.LANDSCAPE if width > height else Orientation.PORTRAIT
    for way in ways_to_part(DESK, usual):
        holding = [
            part
            for part in way
            if part.widths.low <= width < part.widths.high and part.orientation in (None, shape)
        ]
        assert len(holding) == 1
    assert len(usual_in(usual, DESK.widths, None)) == len(usual)


BRIEF = """\
[[backdrop]]
name = "mill"
source = "a.jpg"
element = ".mill"
subject = { box = [0.3, 0.3, 0.42, 0.7] }
height = "80svh"
first_view = true
"""


ways_of_one = st.lists(st.tuples(st.integers(1, 6), st.floats(0, 1e5)), min_size=1, max_size=4)


@given(st.lists(ways_of_one, min_size=1, max_size=4), st.integers(1, 20))
def test_no_lighter_choice_of_ways_has_so_few_files(
    table: list[list[tuple[int, float]]], most: int
) -> None:
    choices = [[Way((), None, *one) for one in ways] for ways in table]
    chosen = few_enough(choices, most)
    files, load = sum(one.files for one in chosen), sum(one.load for one in chosen)
    every = [
        (sum(one[0] for one in picked), sum(one[1] for one in picked))
        for picked in itertools.product(*table)
    ]
    within = [one for one in every if one[0] <= most]
    if within:
        assert files <= most
        assert load == pytest.approx(min(one[1] for one in within))
    else:
        assert files == min(one[0] for one in every)


@given(
    st.lists(st.lists(st.integers(0, 9), min_size=3, max_size=3), min_size=2, max_size=4),
    st.tuples(*[st.integers(0, 12)] * 4),
)
def test_bytes_lie_where_they_were_found(
    cells: list[list[int]], corners: tuple[int, int, int, int]
) -> None:
    """An area has the bytes of the cells that it covers, and its part of those at its edges."""
    if not any(map(any, cells)):
        return
    table = np.array(cells, float)
    sums = np.pad(np.cumsum(np.cumsum(table, 0), 1), ((1, 0), (1, 0))) / table.sum()
    places = Places(tuple(map(tuple, sums.tolist())))
    left, right = sorted(corners[:2])
    top, bottom = sorted(corners[2:])
    fine = np.kron(table, np.ones((12, 12)))[: 12 * len(cells), :]
    fine = fine[:, :36] / fine.sum()
    rows = slice(top * len(cells), bottom * len(cells))
    window = fine[rows, 3 * left : 3 * right]
    area = Rect(left / 12, top / 12, right / 12, bottom / 12)
    assert places.share(area) == pytest.approx(window.sum(), abs=1e-9)


@pytest.mark.slow
def test_a_breakpoint_is_parted_where_that_saves_bytes_and_says_so(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 2400, 1350)
    ran = call("plan", write_brief(tmp_path, BRIEF))
    assert "midsize in 2 parts: saves the average visit" in ran.out
    assert "midsize, 640 to 1099 px, upright" in ran.out
    facts = call("plan", tmp_path / "brief.toml", "--json").facts
    cuts = {
        f"{one['name']} {one['part']}": one["picture"]["cut"]
        for one in facts["backdrops"][0]["breakpoints"]
    }
    phone = next(cut for name, cut in cuts.items() if name.startswith("handheld"))
    assert (phone[2] - phone[0]) / (phone[3] - phone[1]) < 0.8, "upright phones get an upright cut"
    for word, count in (("parts = 1", 3), ('files = "few"', 5)):
        text = f"[site]\n{word}\n{BRIEF}"
        facts = call("plan", write_brief(tmp_path, text), "--json").facts
        assert len(facts["backdrops"][0]["breakpoints"]) <= count


def test_a_word_says_how_many_files(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 2400, 1350)
    counts = []
    for word in ("few", "balanced", "tight"):
        brief = write_brief(tmp_path, f'[site]\nfiles = "{word}"\n{BRIEF}')
        facts = call("plan", brief, "--json").facts["backdrops"][0]
        counts.append(sum(len(one["sizes"]) + 1 for one in facts["breakpoints"]))
    assert counts[0] < counts[1] <= counts[2]


@pytest.mark.slow
def test_a_phone_gets_an_upright_cut_at_a_fraction_of_the_bytes(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 2400, 1350)
    ran = call("build", write_brief(tmp_path, BRIEF), "--json")
    assert ran.status == 0, ran.err
    parts = ran.facts["backdrops"][0]["breakpoints"]
    files = {one["file"] for part in parts for one in assets_of(part)}
    assert len(files) <= 14
    phone = next(one for one in parts if matches(one["condition"], 390, 844))
    wide = next(one for one in parts if matches(one["condition"], 1440, 900))
    loads = [one["sizes"][0]["assets"][0]["bytes"] for one in (phone, wide)]
    assert loads[0] < 0.8 * loads[1]
    for part in parts:
        for one in assets_of(part):
            assert one["score"] >= 0.955 - 0.002


@pytest.mark.slow
def test_a_promise_that_fails_where_nobody_is_is_a_note_unless_strict(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 1600, 900)
    keys = BRIEF.replace("0.3, 0.3, 0.42, 0.7", "0.3, 0.25, 0.42, 0.75")
    ran = call("plan", write_brief(tmp_path, keys), "--json")
    assert ran.status == 0
    rare = [one for one in ran.facts["promises"] if one["is_rare"] and one["promise"] == "in view"]
    assert rare
    assert all(one["holds"] and "the usual screens show all of it" in one["says"] for one in rare)
    assert "first lost at a window of" in rare[0]["says"]
    assert "note   in view" in call("plan", tmp_path / "brief.toml").out
    strict = call("plan", write_brief(tmp_path, f"[site]\nstrict = true\n{keys}"))
    assert strict.status == 1
    assert "BROKEN in view" in strict.out


def test_screens_with_a_share_replace_the_usual_ones(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 2400, 1350)
    kiosk = (
        '[[screen]]\nname = "kiosk"\nwidths = [1080, 1080]\nheights = [1900, 1920]\n'
        "density = 1\nshare = 90\n"
        '[[screen]]\nname = "wall"\nwidths = [1200, 2000]\nheights = [600, 900]\n'
        '[[breakpoint]]\nname = "all"\n'
    )
    facts = call("plan", write_brief(tmp_path, kiosk + BRIEF), "--json").facts
    parts = facts["backdrops"][0]["breakpoints"]
    tall = next(one for one in parts if one["part"] in ("", "upright"))
    left, top, right, bottom = tall["picture"]["cut"]
    assert (right - left) / (bottom - top) == pytest.approx(1080 / (0.8 * 1910), rel=0.05)


@pytest.mark.slow
def test_a_nudge_leaves_what_it_does_not_touch(tmp_path: Path) -> None:
    """The subject moves by a hundredth: cuts that still hold stay, and so do their files."""
    save_noise(tmp_path / "a.jpg", 1600, 900)
    first = call("build", write_brief(tmp_path, BRIEF), "--json").facts
    nudged = BRIEF.replace("0.3, 0.3, 0.42, 0.7", "0.31, 0.3, 0.43, 0.7")
    second = call("build", write_brief(tmp_path, nudged), "--json").facts
    before, after = (
        {one["file"] for part in facts["backdrops"][0]["breakpoints"] for one in assets_of(part)}
        for facts in (first, second)
    )
    assert len(before & after) >= len(before) - 4
    subject = second["backdrops"][0]["breakpoints"][0]["picture"]["subjects"][0]
    assert subject[0] == pytest.approx(0.31 * 1600)


@pytest.mark.slow
def test_old_browsers_get_a_right_cut_and_no_browser_a_blank(small: Path) -> None:
    assert call("build", small).status == 0
    css = (small.parent / "published/backdrops.css").read_text("utf-8")
    plain, asked, newer = css.partition("@supports (width: mod(1lh,1px))")
    assert asked
    assert ".avif" in newer
    listed = [line for line in plain.splitlines() if "url(" in line]
    assert listed
    assert all(".jpg" in line for line in listed), "what any browser can read comes first"
    conditions = re.findall(r"@media ([^{]+) {", plain)
    assert set(re.findall(r"@media ([^{]+) {", newer)) <= set(conditions), "of the same windows"


@pytest.mark.slow
def test_one_to_one_is_there_for_those_who_want_it(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 1200, 800)
    text = BRIEF + 'sharp = "one-to-one"\n'
    facts = call("build", write_brief(tmp_path, text), "--json").facts
    for part in facts["backdrops"][0]["breakpoints"]:
        for size in part["sizes"]:
            for asset in size["assets"]:
                if asset != part["oldest"]:
                    assert [asset["width"], asset["height"]] == size["shown"]


@pytest.mark.slow
def test_a_draft_is_marked_and_never_among_the_final_files(tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 480, 270)
    brief = write_brief(tmp_path, BRIEF)
    assert call("build", brief).status == 0
    final = {path.name: path.read_bytes() for path in (tmp_path / "published").iterdir()}
    ran = call("build", brief, "--draft")
    assert ran.status == 0, ran.err
    assert "A draft, in " in ran.out
    assert {p.name: p.read_bytes() for p in (tmp_path / "published").iterdir()} == final
    folder = tmp_path / "published-draft"
    ledger = json.loads((folder / "ledger.json").read_text("utf-8"))
    assert ledger["draft"] is True
    assert json.loads(final["ledger.json"])["draft"] is False
    assert "A draft: quick files for looking" in (folder / "try-it.html").read_text("utf-8")
    made = [one["file"] for one in ledger["files"] if one["file"].endswith(".jpg")]
    assert made
    assert all("-draft-" in name for name in made)
    # The same parts and cuts as the final files: what is looked at is what will be.
    cuts = [
        [one["picture"]["cut"] for one in facts["backdrops"][0]["breakpoints"]]
        for facts in (ledger, json.loads(final["ledger.json"]))
    ]
    assert cuts[0] == cuts[1]


@pytest.mark.slow
def test_a_draft_follows_the_brief_without_reading_the_source_again(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    save_noise(tmp_path / "a.jpg", 1600, 900)
    assert call("build", write_brief(tmp_path, BRIEF), "--draft").status == 0

    def refuse(*_: object) -> None:
        raise AssertionError("the reduced copy is there")

    monkeypatch.setattr("brightcanvas.tasks.sources.picture_of", refuse)
    moved = BRIEF.replace("0.3, 0.3, 0.42, 0.7", "0.6, 0.3, 0.72, 0.7")
    assert call("build", write_brief(tmp_path, moved), "--draft").status == 0


def test_half_the_size_serves_strong_reductions_as_well() -> None:
    picture = photograph(width=1600)
    area = Rect(13.5, 20, 1590, 1000)
    direct = resize(picture, area, 320, 199).pixels.astype(float)
    halved = Reducible(picture).resized(area, 320, 199).pixels
    assert np.abs(direct - halved).mean() < 0.3
    assert np.abs(direct - halved).max() < 12
    near = Reducible(picture).resized(area, 800, 497)
    assert np.array_equal(near.pixels, resize(picture, area, 800, 497).pixels)
