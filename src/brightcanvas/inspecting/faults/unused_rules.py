"""Rules with a picture that nobody gets to see: they hit nothing, or another one always wins."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from brightcanvas.css.selectors import INLINE, Declared, Element
from brightcanvas.css.sheets import Idle
from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Confidence, Finding, Place, Severity
from brightcanvas.page.aim import meant_instead

NOTHING, SWAPPED, BEATEN, INLINE_WINS = (
    "rule that hits nothing", "class for an id", "two rules for one element", "inline style wins",
)  # fmt: skip

STATES = (":hover", ":focus", ":active", ":checked", ":target", ":visited", ":open", ":valid",
          ":invalid", ":disabled", "::selection", "::backdrop", ":popover-open")  # fmt: skip
"""What a page is in only while somebody does something."""

ALIKE = 0.85
"""How like each other two names are that somebody may have mistyped."""

BACKGROUNDS = ("background", "background-image")

Key = tuple[str, str, int, tuple[str, ...]]


def find(facts: PageFacts) -> Iterator[Finding]:
    """Rules of this page's sheets, and of its own ``style`` elements."""
    yield from _idle(facts)
    yield from _beaten(facts)


def _idle(facts: PageFacts) -> Iterator[Finding]:
    reading = facts.page.reading
    hit = {
        (one.origin, one.selector)
        for element in facts.page.cascade.elements
        for pseudo in ("", *facts.page.cascade.pseudos(element))
        for one in facts.page.cascade.declared(element, pseudo)
    }
    never = [
        Idle(rule.written, rule.around)
        for rule in reading.rules
        if (rule.around.file, rule.written) not in hit
        and any(_has_file(one) for one in rule.declarations)
    ]
    told = set()
    for rule in (*reading.idle, *never):
        is_state = any(state in rule.written for state in STATES)
        if not is_state and (rule.around.file, rule.written) not in told:
            told.add((rule.around.file, rule.written))
            yield _unhit(facts, rule)


def _has_file(declaration: Declared) -> bool:
    text = "".join(one.serialize() for one in declaration.value)
    return "url(" in text and "url(data:" not in text and 'url("data:' not in text


def _unhit(facts: PageFacts, rule: Idle) -> Finding:
    place = Place(facts.file_name(rule.around.file), rule.around.line, rule.written)
    swapped = meant_instead(facts.page, rule.written, ALIKE)
    if swapped and "write" in swapped:
        return Finding(
            SWAPPED, f"no element is hit: {swapped.partition(':')[0]}", place,
            swapped.partition(": ")[2], Severity.SPOILS, of_all_pages=True,
        )  # fmt: skip
    others = "another page may have it: inspect the folder of them all"
    return Finding(
        NOTHING, "no element of the page is hit", place,
        swapped.partition("; ")[2] or f"take the rule out; {others}", Severity.LITTERS,
        sure=Confidence.POSSIBLE, of_all_pages=True,
    )  # fmt: skip


def _beaten(facts: PageFacts) -> Iterator[Finding]:
    """Rules that hold on some screen, and lose there for each element that they hit."""
    wins: set[Key] = set()
    losses: dict[Key, tuple[Declared, Declared, Element]] = {}
    for element in facts.page.cascade.elements:
        if not facts.page.cascade.names(element) & set(BACKGROUNDS):
            continue
        for winner, held in _contests(facts, element):
            wins.add(_key(winner))
            for each in held:
                losses.setdefault(_key(each), (each, winner, element))
    for key, (loser, winner, element) in losses.items():
        if key not in wins and _is_meant(loser, winner) and not _wins_somewhere(facts, key):
            yield _lost(facts, loser, winner, element)


def _wins_somewhere(facts: PageFacts, key: Key) -> bool:
    """Whether a rule wins at a width between two of the page's own thresholds."""
    cascade = facts.page.cascade
    hit = [
        (element, pseudo) for element in cascade.elements
        for pseudo in ("", "before", "after")
        if any(_key(one) == key for one in cascade.declared(element, pseudo))
    ]  # fmt: skip
    return any(
        winner and _key(winner[0]) == key
        for environment in facts.at_thresholds for element, pseudo in hit
        if (winner := cascade.styles(environment).winner(element, pseudo))
    )  # fmt: skip


def _contests(facts: PageFacts, element: Element) -> Iterator[tuple[Declared, list[Declared]]]:
    """On each screen, the background that wins for an element or part of it, and all that hold."""
    for pseudo in ("", "before", "after"):
        for one in facts.seen:
            winner = one.styles.winner(element, pseudo)
            if winner is not None:
                held = one.styles.holding(element, pseudo)
                yield winner[0], [each for name in BACKGROUNDS for each in held.get(name, ())]


def _key(one: Declared) -> Key:
    """By what a declaration is told from others; all inline styles are one."""
    return one.origin, one.selector, one.line, one.media


def _is_meant(loser: Declared, winner: Declared) -> bool:
    """Not a plain picture before an ``image-set``, which older browsers take."""
    if loser.origin == INLINE or not _has_file(loser):
        return False
    return _has_file(winner) and not ("image-set(" in _text(winner.value) and _is_plain(loser))


def _is_plain(one: Declared) -> bool:
    return "image-set(" not in _text(one.value)


def _text(value: Sequence[object]) -> str:
    return "".join(one.serialize() for one in value)  # type: ignore[attr-defined]


def _lost(facts: PageFacts, loser: Declared, winner: Declared, element: Element) -> Finding:
    place = facts.at_rule(loser, element.etree_element)
    if winner.origin == INLINE:
        at = facts.at(element.etree_element)
        return Finding(
            INLINE_WINS, f"its picture never shows: the style attribute on line {at.line} wins",
            place, "take the picture out of the style attribute, or the rule", Severity.LITTERS,
            sure=facts.unless_scripts,
        )  # fmt: skip
    by = facts.at_rule(winner, element.etree_element)
    return Finding(
        BEATEN, f"its picture never shows: {by.told.replace('  ', ' ')} wins for {place.selector}",
        place, "keep one of the two rules, or give them conditions that don't overlap",
        Severity.LITTERS, sure=facts.unless_scripts,
    )  # fmt: skip
