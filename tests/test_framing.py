"""The geometry, held against brute force."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brightcanvas.basics.fits import Contain, Cover, Exact
from brightcanvas.basics.heights import parse_height
from brightcanvas.basics.shapes import Point, Rect, Size, Span
from brightcanvas.framing.cuts import cut_at_position, cut_for_cover
from brightcanvas.framing.rungs import rungs_for
from brightcanvas.framing.stages import Element, ScreenClass, stage_of, standard_screens
from brightcanvas.framing.windows import visible_window

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
@settings(max_examples=400)
def test_the_subject_is_in_view_in_every_box_wherever_that_can_be(
    width: float, height: float, share: Rect, span: Span
) -> None:
    source = Size(width, height)
    subject = share.scaled(source)
    cut = cut_for_cover(source, span, subject)
    holds = all(cut.seen_at(a).contains(subject, 1e-6 * max(width, height)) for a in steps(span))
    assert holds == some_cut_holds(source, span, subject)


def steps(span: Span, count: int = 25) -> list[float]:
    return [span.low * (span.high / span.low) ** (i / (count - 1)) for i in range(count)]


def some_cut_holds(source: Size, span: Span, subject: Rect) -> bool:
    """Brute force over the aspects of a cut; the larger the cut, the more it can show."""
    slack = 1 + 1e-9
    for aspect in [*steps(span), span.clamp(source.aspect)]:
        cut = Size(
            min(source.width, source.height * aspect), min(source.height, source.width / aspect)
        )
        across = min(min(cut.width, cut.height * a) for a in steps(span))
        down = min(min(cut.height, cut.width / a) for a in steps(span))
        if subject.width <= across * slack and subject.height <= down * slack:
            return True
    return False


@given(lengths, lengths, subjects(), aspect_spans())
def test_no_pixel_of_a_cut_is_never_shown(
    width: float, height: float, share: Rect, span: Span
) -> None:
    source = Size(width, height)
    cut = cut_for_cover(source, span, share.scaled(source))
    seen = [cut.seen_at(a) for a in [*steps(span), span.clamp(source.aspect)]]
    slack = 1e-6 * max(width, height)
    assert Rect(0, 0, width, height).contains(cut.area, slack)
    for axis in (("left", "right"), ("top", "bottom")):
        shown = max(getattr(r, axis[1]) - getattr(r, axis[0]) for r in seen)
        assert math.isclose(
            shown, getattr(cut.area, axis[1]) - getattr(cut.area, axis[0]), rel_tol=1e-6
        )


@given(lengths, lengths, subjects(), aspect_spans())
def test_the_subject_keeps_its_place_where_nothing_forces_it(
    width: float, height: float, share: Rect, span: Span
) -> None:
    source, centre = Size(width, height), share.centre
    point = Rect(centre.x, centre.y, centre.x, centre.y).scaled(source)
    cut = cut_for_cover(source, span, point)
    for aspect in (span.low, span.high):
        window = cut.seen_at(aspect)
        place = (point.left - window.left) / window.width
        assert math.isclose(place, centre.x, abs_tol=1e-6)


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
    stage = stage_of(wanted, Element(parse_height(height)), [region])
    assert stage is not None
    viewport = Size(
        wanted.low + across * (wanted.high - 0.02 - wanted.low), 300 + down * (1440 - 300)
    )
    aspect = stage.element.box(viewport).aspect
    assert stage.aspects.low * (1 - 1e-9) <= aspect <= stage.aspects.high * (1 + 1e-9)


def test_a_fixed_background_is_sized_to_the_viewport() -> None:
    element = Element(parse_height("200px"), fixed=True)
    assert element.box(Size(800, 600)) == Size(800, 600)


def test_no_stage_where_no_screen_is() -> None:
    assert stage_of(Span(0, 300), Element(), standard_screens(2560)) is None


@pytest.mark.parametrize(
    ("fit", "expected"),
    [(Cover(), [800, 1600]), (Contain(), [300, 600]), (Exact(240), [240, 480])],
)
def test_rungs_have_the_pixels_that_the_largest_box_shows(
    fit: Cover | Contain | Exact, expected: list[int]
) -> None:
    region = ScreenClass("one", Span(320, 800), Span(300, 300))
    stage = stage_of(Span(0, 800.02), Element(parse_height("300px")), [region])
    assert stage is not None
    assert [rung.width for rung in rungs_for(Size(4000, 4000), stage, fit)] == expected


def test_a_rung_is_never_larger_than_its_source_and_says_so() -> None:
    region = ScreenClass("one", Span(320, 800), Span(300, 300))
    stage = stage_of(Span(0, 800.02), Element(parse_height("300px")), [region])
    assert stage is not None
    (rung,) = rungs_for(Size(700, 400), stage, Cover())
    assert (rung.width, rung.densities) == (700, Span(0, math.inf))
    assert rung.shortfall is not None
    assert rung.shortfall.needed_width == 1600


@pytest.mark.parametrize(
    "text", ["", "0px", "80", "80 svh px", "max(1px", "calc(1px, 2px)", "0/9", "clamp(1px, 2px)",
             "max(16/9, 2px)", "url(x)", "-5px"],
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
    ],
)
def test_heights_come_out_as_css_computes_them(text: str, pixels: float, older: str) -> None:
    rule = parse_height(text)
    assert rule.pixels(Size(1000, 800), 1000) == pixels
    assert rule.css(modern=False) == older
