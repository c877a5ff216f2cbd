"""A brief is changed where it stands; everything else in it stays as it was written."""

from __future__ import annotations

import difflib
import tomllib
from importlib.resources import files
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as some

from brightcanvas.brief.by_breakpoint import written_at
from brightcanvas.brief.loading import entry_of
from brightcanvas.brief.rewriting import Change, rewritten
from brightcanvas.values.errors import BriefError

DEMO_BRIEF = Path(str(files("brightcanvas.demo"))) / "marrowfen-mill/brief.toml"
TEXT = DEMO_BRIEF.read_text("utf-8")
MILL, BAKERY, REED = "mill-at-dusk", "bakery", "woven-reed"

SMALLEST = '[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\n'


def changed(text: str, *changes: Change) -> str:
    after = rewritten(text, entry_of(text.encode(), DEMO_BRIEF), changes)
    entry_of(after.encode(), DEMO_BRIEF)
    return after


def lines(before: str, after: str) -> list[str]:
    """What was taken out and put in."""
    found = difflib.ndiff(before.splitlines(), after.splitlines())
    return [one for one in found if one[0] in "+-"]


def test_one_value_is_one_line() -> None:
    subject = {"box": [0.612345, 0.25, 0.76, 0.46]}
    assert lines(TEXT, changed(TEXT, Change(MILL, "", "subject", subject))) == [
        "- subject = { box = [0.66, 0.25, 0.76, 0.46] }",
        "+ subject = { box = [0.6123, 0.25, 0.76, 0.46] }",
    ]


def test_a_comment_behind_a_value_stays() -> None:
    scrim = {"least": True, "side": "right"}
    after = changed(TEXT, Change(MILL, "", "scrim", scrim))
    [_, now] = lines(TEXT, after)
    assert now.startswith('+ scrim = { least = true, side = "right" }')
    assert now.endswith("# the weakest with which the copy can be read")


def test_what_is_already_there_changes_nothing() -> None:
    copy = {"box": [0.06, 0.3, 0.48, 0.72], "clear_of_subject": True, "colour": "white", "size": 44}
    assert changed(TEXT, Change(MILL, "", "copy", copy)) == TEXT
    assert changed(TEXT, Change(MILL, "midsize", "scrim", None)) == TEXT


def test_new_keys_and_tables_stand_with_what_they_belong_to() -> None:
    after = changed(
        TEXT, Change(REED, "", "padding", "20px"), Change(BAKERY, "midsize", "closeness", "close")
    )
    new = {"+ ", "+ [backdrop.at.midsize]", '+ closeness = "close"', '+ padding = "20px"'}
    assert set(lines(TEXT, after)) == new
    told = after.split("# A drawing: the map's red dot")[0]
    assert told.endswith('height = "320px"\npadding = "20px"\n\n')
    assert '[backdrop.at.midsize]\ncloseness = "close"\n\n# A pattern that repeats' in after


def test_a_value_that_is_taken_out_flows_down_again() -> None:
    after = changed(TEXT, Change(MILL, "handheld", "height", None))
    assert [one[:13] for one in lines(TEXT, after)] == ['- height = "3']
    entry = entry_of(after.encode(), DEMO_BRIEF)
    found = written_at(entry.backdrop[0], [one.name for one in entry.breakpoint])
    assert found["handheld"]["height"].at == ""


def test_breakpoints_that_were_built_in_are_written_out() -> None:
    after = changed(SMALLEST, Change("", "", "breakpoint", {"name": "small", "below": 420.0}))
    told = [(one["name"], one.get("below")) for one in tomllib.loads(after)["breakpoint"]]
    assert told == [("small", 420), ("handheld", 640), ("midsize", 1100), ("desk", None)]
    assert after.endswith(SMALLEST)
    after = changed(TEXT, Change("", "", "breakpoint", {"name": "small", "below": 420.0}))
    assert set(lines(TEXT, after)) == {
        "+ [[breakpoint]]",
        '+ name = "small"',
        "+ below = 420",
        "+ ",
    }


@pytest.mark.parametrize("text", [
    'backdrop = [{ source = "a.jpg", element = ".a", at = { desk = { height = "1px" } } }]\n',
    SMALLEST + 'at.desk.height = "1px"\n',
    SMALLEST + 'at = { desk = { height = "1px" } }',
    "\ufeff# Mine\n" + SMALLEST,
    SMALLEST.replace("\n", "\r\n"),
])  # fmt: skip
def test_every_way_to_write_it(text: str) -> None:
    subject = {"box": [0.1, 0.2, 0.3, 0.4]}
    after = changed(text, Change("a", "desk", "subject", subject), Change("a", "", "height", "9px"))
    entry = entry_of(after.encode(), DEMO_BRIEF)
    found = written_at(entry.backdrop[0], ["handheld", "midsize", "desk"])
    assert found["desk"]["subject"].value == subject
    assert found["desk"]["height"].value == ("1px" if "1px" in text else "9px")
    assert ("\r\n" in after, "\ufeff" in after) == ("\r\n" in text, "\ufeff" in text)
    assert after.count("\r\n") in (0, after.count("\n"))


@pytest.mark.parametrize("change", [
    Change("gone", "", "height", "9px"),
    Change(MILL, "] evil = 1", "height", "9px"),
    Change(MILL, "", "subject", {"x = 1 }\n[site": 1}),
    Change(MILL, "", "height", object()),
])  # fmt: skip
def test_what_a_brief_does_not_have_is_refused(change: Change) -> None:
    with pytest.raises(BriefError):
        changed(TEXT, change)


FRACTIONS = some.floats(0, 0.49).map(lambda one: round(one, 4))
BOXES = some.tuples(FRACTIONS, FRACTIONS).map(lambda at: [at[0], at[1], at[0] + 0.5, at[1] + 0.5])
VALUES = some.one_of(
    some.tuples(some.just("subject"), BOXES.map(lambda box: {"box": box})),
    some.tuples(some.just("scrim"), some.none() | FRACTIONS.map(lambda one: {"strength": one})),
    some.tuples(some.just("height"), some.none() | some.sampled_from(["10px", "3/4", "50svh"])),
)
CHANGES = some.lists(
    some.builds(
        lambda name, at, value: Change(name, at, *value),
        some.sampled_from([MILL, BAKERY, REED]),
        some.sampled_from(["", "handheld", "midsize", "desk"]),
        VALUES,
    ),
    max_size=8,
)


@given(CHANGES)
def test_any_changes_say_what_they_should_and_keep_every_comment(changes: list[Change]) -> None:
    after = changed(TEXT, *changes)
    before, now = (tomllib.loads(one) for one in (TEXT, after))
    for number, backdrop in enumerate(before["backdrop"]):
        for change in changes:
            if change.backdrop == backdrop["name"]:
                _make(backdrop, change)
        assert _without_empty(now["backdrop"][number]) == _without_empty(backdrop)
    kept = [line for line in TEXT.splitlines() if line.startswith("#")]
    assert [line for line in after.splitlines() if line.startswith("#")] == kept


def _make(backdrop: Any, change: Change) -> None:
    table = backdrop
    if change.breakpoint:
        table = backdrop.setdefault("at", {}).setdefault(change.breakpoint, {})
    if change.value is None:
        table.pop(change.key, None)
    elif isinstance(change.value, dict):
        table[change.key] = {key: _fine(value) for key, value in change.value.items()}
    else:
        table[change.key] = change.value


def _fine(value: Any) -> Any:
    return [round(one, 4) for one in value] if isinstance(value, list) else round(value, 4)


def _without_empty(table: Any) -> Any:
    """An override in which nothing is left says nothing."""
    overrides = {name: one for name, one in table.get("at", {}).items() if one}
    return {**{k: v for k, v in table.items() if k != "at"}, "at": overrides}
