"""The geometry, held against brute force."""

from __future__ import annotations

import math

import pytest
from bench.framing import compare, holds_everywhere
from hypothesis import given
from hypothesis import strategies as st

from brightcanvas.framing.compromise import CutOrder, frame, other_source, smaller_subject
from brightcanvas.framing.cuts import (
    LATTICE,
    Closeness,
    cut_at_position,
    find_cut,
    scaled_wish,
    visible_window,
)
from brightcanvas.framing.stages import Element, ScreenClass, stage_of, standard_screens
from brightcanvas.framing.wishes import CutWish
from brightcanvas.values.element_boxes import padding_height, parse_height, parse_width
from brightcanvas.values.geometry import Point, Rect, Size, Span

lengths = st.floats(10, 6000)
fractions = st.floats(0, 1)
aspects = st.floats(0.2, 6)


@st.composite
def subjects(draw: st.DrawFn) -> Rect:
    xs = sorted((draw(fractions), draw(fractions)))
    ys = sorted((draw(fractions), draw(fractions)))
    return Rect(xs[0], ys[0], xs[1], ys[1])


@st.composite
def aspect_spans(draw: st.DrawFn) -> Span:
    return Span(*sorted((draw(aspects), draw(aspects))))


def drawn_rect(cut: Size, position: Point, box: Size) -> Rect:
    """The visible part, the way a browser draws: scale up, offset by percentages."""
    scale = max(box.width / cut.width, box.height / cut.height)
    left = position.x * (box.width - cut.width * scale)
    top = position.y * (box.height - cut.height * scale)
    return Rect(-left / scale, -top / scale, (box.width - left) / scale, (box.height - top) / scale)


@pytest.mark.slow
@given(lengths, lengths, fractions, fractions, lengths, aspects)
def test_visible_window_is_what_a_browser_draws(
    width: float, height: float, x: float, y: float, box_width: float, aspect: float
) -> None:
    cut, position = Size(width, height), Point(x, y)
    ours = visible_window(cut, position, aspect)
    theirs = drawn_rect(cut, position, Size(box_width, box_width / aspect))
    for edge in ("left", "top", "right", "bottom"):
        assert math.isclose(
            getattr(ours, edge), getattr(theirs, edge), abs_tol=1e-6 * max(width, height)
        )


@given(lengths, lengths, subjects(), aspect_spans())
def test_the_subject_keeps_its_place_where_nothing_forces_it(
    width: float, height: float, share: Rect, span: Span
) -> None:
    source, centre = Size(width, height), share.centre
    point = Rect(centre.x, centre.y, centre.x, centre.y).scaled(source)
    cut = find_cut(CutWish(source, span, (point,)), Closeness.WIDE)
    assert cut is not None
    for aspect in (span.low, span.high):
        window = cut.seen_at(aspect)
        place = (point.left - window.left) / window.width
        assert math.isclose(place, centre.x, abs_tol=width / LATTICE / window.width)


def test_a_stated_position_is_kept() -> None:
    cut = cut_at_position(Size(3000, 1000), Span(0.5, 1), Point(1, 0))
    assert cut.area == Rect(2000, 0, 3000, 1000)
    assert cut.position == Point(1, 0)


@given(
    st.sampled_from(
        ["300px", "70svh", "16/9", "max(420px, 70svh)", "min(90svh, 40vw)", "50svh + 80px"]
    ),
    st.tuples(st.floats(320, 2000), st.floats(1, 1500)),
    fractions,
    fractions,
)
def test_no_box_of_a_stage_is_beyond_its_extremes(
    height: str, widths: tuple[float, float], across: float, down: float
) -> None:
    region = ScreenClass("any", Span(320, 3500), Span(300, 1440))
    wanted = Span(widths[0], widths[0] + widths[1])
    stage = stage_of(wanted, Element(parse_height(height)), (region,))
    assert stage is not None
    viewport = Size(
        wanted.low + across * (wanted.high - 0.02 - wanted.low), 300 + down * (1440 - 300)
    )
    aspect = stage.element.box(viewport).aspect
    assert stage.aspects.low * (1 - 1e-9) <= aspect <= stage.aspects.high * (1 + 1e-9)


@given(st.floats(320, 2560), st.floats(300, 1440), st.sampled_from([False, True]))
def test_extremes_hold_with_growth_drift_and_a_greatest_width(
    width: float,
    height: float,
    grown: bool,  # noqa: FBT001 - drawn by name
) -> None:
    element = Element(
        parse_height("max(300px, 40vw)"),
        parse_width("min(60%, 900px)"),
        growth=150,
        drift=80,
        padding=padding_height("4vw 0 30vh 0"),
    )
    region = ScreenClass("any", Span(320, 2560), Span(300, 1440))
    stage = stage_of(Span(320, 2561), element, (region,))
    assert stage is not None
    box = element.box(Size(width, height), grown=grown)
    assert box.width == min(0.6 * width, 900)
    assert stage.aspects.low * (1 - 1e-9) <= box.aspect <= stage.aspects.high * (1 + 1e-9)
    assert stage.hidden >= 80 / box.height * (1 - 1e-9)


@pytest.mark.slow
def test_cuts_agree_with_brute_force() -> None:
    score = compare(2500, seed=2)
    assert score.held > 800
    assert (score.broken, score.missed, score.wasteful) == (0, 0, 0)


def order(subject: Rect, copy: Rect | None = None, *, margin: float = 0.0) -> CutOrder:
    return CutOrder(CutWish(Size(3000, 2000), Span(0.5, 3), (subject,), copy), margin)


def test_the_margin_gives_way_before_the_copy_and_the_subject_last() -> None:
    small, wide = Rect(1800, 500, 2100, 900), Rect(200, 800, 2800, 1200)
    assert frame(order(small, margin=100)).gave_way == ()
    tight = Rect(1500, 500, 2450, 900)  # 950 px of the 1000 that the narrowest box shows
    assert frame(order(tight, margin=100)).gave_way == ("margin",)
    assert frame(order(small, Rect(0, 0, 1, 1))).gave_way == ("copy",)
    lost = frame(order(wide))
    assert lost.gave_way == ("subject",)
    assert 0.37 < lost.share <= 1000 / 2600


def test_the_first_of_several_subjects_is_kept_longest() -> None:
    wish = CutWish(
        Size(3000, 2000), Span(0.5, 3), (Rect(2500, 500, 2700, 900), Rect(100, 500, 300, 900))
    )
    framed = frame(CutOrder(wish))
    assert framed.gave_way == ("subject",)
    assert all(framed.cut.seen_at(a).contains(wish.subjects[0], 1e-6) for a in (0.5, 1, 3))


@pytest.mark.parametrize("copy", [None, Rect(0.05, 0.1, 0.5, 0.9)])
def test_every_way_out_works(copy: Rect | None) -> None:
    wanted = order(Rect(900, 700, 2300, 1300), copy)
    assert find_cut(wanted.wish, Closeness.WIDE) is None
    share = smaller_subject(wanted)
    assert share
    cut = find_cut(scaled_wish(wanted.wish, share), Closeness.WIDE)
    assert cut
    assert holds_everywhere(cut, scaled_wish(wanted.wish, share), 1e-3)
    assert find_cut(scaled_wish(wanted.wish, share * 1.03), Closeness.WIDE) is None
    larger = other_source(order(Rect(900, 700, 2300, 1300)))
    assert larger
    assert larger.height >= 1400 / 0.5 * 0.99  # the narrowest box is half as wide as high


def test_coming_closer_stops_where_pixels_run_short() -> None:
    wanted = CutWish(Size(4000, 3000), Span(0.8, 2), (Rect(2000, 1000, 2300, 1400),))
    areas = [
        find_cut(wanted, closeness, Size(1600, 1500)) for closeness in (
            Closeness.WIDE, Closeness.HALFWAY, Closeness.CLOSE)
    ]  # fmt: skip
    sizes = [cut.area.size for cut in areas if cut]
    assert [size.width for size in sizes] == sorted((s.width for s in sizes), reverse=True)
    assert sizes[0].width == 4000
    assert sizes[2].width >= 1600
    assert sizes[2].height >= 1500 - 1e-6
    assert all(cut and holds_everywhere(cut, wanted, 1e-3) for cut in areas)


def test_a_fixed_background_is_sized_to_the_viewport() -> None:
    element = Element(parse_height("200px"), fixed=True)
    assert element.box(Size(800, 600)) == Size(800, 600)


def test_no_stage_where_no_screen_is() -> None:
    assert stage_of(Span(0, 300), Element(), standard_screens(2560)) is None


@pytest.mark.parametrize(
    "text", ["", "0px", "80", "80 svh px", "max(1px", "calc(1px, 2px)", "0/9", "clamp(1px, 2px)",
             "max(16/9, 2px)", "url(x)", "-5px",
             "calc(100vh - 5px)", "5foo", "50%", "(" * 200 + "5px" + ")" * 200],
)  # fmt: skip
def test_heights_that_make_no_sense_are_refused(text: str) -> None:
    with pytest.raises(ValueError, match=r".+"):
        parse_height(text)


@pytest.mark.parametrize(
    ("text", "pixels", "older"),
    [
        ("80svh", 640, "80vh"),
        ("16/9", 562.5, "16 / 9"),
        ("clamp(300px, 50dvh, 350px)", 350, "max(300px, min(50vh, 350px))"),
        ("calc(50svh + 20px)", 420, "calc(50vh + 20px)"),
        ("30rem", 480, "30rem"),
        ("calc(2 * 10rem + 5vw / 2)", 345, "calc(calc(2 * 10rem) + calc(5vw / 2))"),
    ],
)
def test_heights_come_out_as_css_computes_them(text: str, pixels: float, older: str) -> None:
    rule = parse_height(text)
    assert rule.pixels(Size(1000, 800), 1000) == pixels
    assert rule.css(modern=False) == older


@pytest.mark.parametrize(
    ("text", "at_1000", "at_4000"),
    [
        ("min(50%, 60%)", 500, 2000),
        ("min(900px, 1200px)", 900, 900),
        ("min(1200px, 900px)", 900, 900),
        ("min(60%, 900px)", 600, 900),
        ("min(90%, 60rem, 80vw)", 800, 960),
    ],
)
def test_the_least_of_two_widths_counts(text: str, at_1000: float, at_4000: float) -> None:
    width = parse_width(text)
    assert (width.pixels(1000), width.pixels(4000)) == (at_1000, at_4000)


@pytest.mark.parametrize(
    ("padding", "high"),
    [
        ("300px", 600),
        ("9rem 0 99px", 243),
        ("10% 5vw 50svh", 600),
        ("1em 0 0 9px", 200),
        ("clamp(150px, 20vw, 9rem) 5% max(90px, 10svh)", 250),
        ("", 200),
    ],
)
def test_a_box_is_no_less_high_than_its_padding(padding: str, high: float) -> None:
    element = Element(parse_height("200px"), padding=padding_height(padding))
    assert element.box(Size(1000, 1000)).height == pytest.approx(high)
