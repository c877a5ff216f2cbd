"""Preload hints that fetch in vain, twice, too late, or not at all."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.html.tree import Node
from brightcanvas.inspecting.facts import PageFacts, SeenScreen, gains
from brightcanvas.inspecting.finding import Finding, Place, Severity
from brightcanvas.page.fetch import FONT, PICTURE
from brightcanvas.page.found_hints import KINDS, hint_nodes, hinted_by_markup
from brightcanvas.page.viewport import FALLBACK_WIDTH, judged_by, viewport_tag
from brightcanvas.rehearsal.rehearsing import hero_of
from brightcanvas.values.screens import Screen

EARLY = "hint before the viewport tag"
IN_VAIN, DOUBLE, WRONG, LATE = "hint in vain", "double hint", "hint that is wrong", "late hint"
LEAST_WAIT = 0.05
"""Seconds on the middling line."""

TYPES = {"image/avif": "AVIF", "image/webp": "WebP", "image/jpeg": "JPEG", "image/png": "PNG",
         "image/gif": "GIF", "image/svg+xml": "SVG"}  # fmt: skip


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each hint of the page."""
    before: dict[tuple[str, str], Node] = {}
    for node in hint_nodes(facts.page):
        if wrong := _wrong(facts, node):
            yield wrong
            continue
        key = (node.get("href", "") + node.get("imagesrcset", ""), node.get("media", ""))
        if key in before:
            yield _double(facts, node, before[key])
            continue
        before[key] = node
        if vain := _in_vain(facts, node):
            yield vain
        elif late := _late(facts, node):
            yield late


def _place(facts: PageFacts, node: Node) -> Place:
    return facts.at(node, f"link rel=preload {_name(facts, node)}")


def _name(facts: PageFacts, node: Node) -> str:
    url = node.get("href") or node.get("imagesrcset", "").split(" ")[0]
    return facts.file_name(facts.page.resolved(url)).rpartition("/")[2]


def _wrong(facts: PageFacts, node: Node) -> Finding | None:
    """A hint that browsers pass over, or that they fetch a second time for."""
    said = node.get("as", "").strip().lower()
    name = _name(facts, node)
    if said not in KINDS:
        says = f"the hint for {name} says as={said!r}" if said else f"the hint for {name} has no as"
        return Finding(
            WRONG, f"{says}: browsers pass over it", _place(facts, node),
            "write as=image for a picture, as=font with crossorigin for a font", Severity.LITTERS,
        )  # fmt: skip
    if KINDS[said] == FONT and "crossorigin" not in node.attrib:
        weight = facts.bytes_of(facts.page.resolved(node.get("href", "")))
        return Finding(
            WRONG, f"the hint for the font {name} has no crossorigin: it is fetched twice",
            _place(facts, node), "write crossorigin into it", Severity.COSTS, bytes=weight,
        )  # fmt: skip
    return _wrong_type(facts, node, name) if KINDS[said] == PICTURE else None


def _wrong_type(facts: PageFacts, node: Node, name: str) -> Finding | None:
    kind = node.get("type", "").strip().lower()
    file = facts.picture(facts.page.resolved(node.get("href", ""))) if node.get("href") else None
    if not kind or file is None or TYPES.get(kind) == file.kind.name:
        return None
    return Finding(
        WRONG, f"the hint says type={kind}, but {name} is {file.kind.name}", _place(facts, node),
        "write the type that it has: browsers that can't read the one that is said pass it over",
        Severity.LITTERS,
    )  # fmt: skip


def _double(facts: PageFacts, node: Node, first: Node) -> Finding:
    line = facts.at(first).line
    return Finding(
        DOUBLE, f"{_name(facts, node)} is hinted twice; the other one is on line {line}",
        _place(facts, node), "take one of them out", Severity.LITTERS,
    )  # fmt: skip


def _fetched(facts: PageFacts, node: Node, one: SeenScreen) -> str | None:
    """What a hint fetches on a screen."""
    found = list(hinted_by_markup(facts.page, one.device, node))
    return found[0].url if found else None


def _in_vain(facts: PageFacts, node: Node) -> Finding | None:
    useless = [
        (one, url)
        for one in facts.seen
        if (url := _fetched(facts, node, one))
        and any(url == fetch.url for fetch in one.load.useless)
    ]
    if not useless:
        return None
    worst = max(facts.bytes_of(url) for _, url in useless)
    used = [one for one in facts.seen if _fetched(facts, node, one)]
    is_everywhere = len(useless) == len(used)
    says = f"the hint fetches {_name(facts, node)}, which nothing shows"
    says += "" if is_everywhere else " there"
    if any(_is_early(facts, node, one) for one, _ in useless):
        return _before_viewport(facts, node, tuple(one.screen for one, _ in useless), worst)
    do = "take it out" if is_everywhere else "give it the media condition of the rule it is for"
    if is_everywhere and _is_another_format(facts, node, useless[0][0]):
        do = "hint the first format only: browsers that know it fetch every hint"
    return Finding(
        IN_VAIN, says, _place(facts, node), do, Severity.COSTS,
        tuple(one.screen for one, _ in useless), worst, sure=facts.unless_scripts,
    )  # fmt: skip


def _is_early(facts: PageFacts, node: Node, one: SeenScreen) -> bool:
    """Whether a screen judges a hint by another width than the page is laid out at."""
    judged = judged_by(facts.page, node, one.device)
    return any(environment.width != one.environment.width for environment in judged)


def _before_viewport(
    facts: PageFacts, node: Node, screens: tuple[Screen, ...], weight: int
) -> Finding:
    has_tag = viewport_tag(facts.page) is not None
    why = "stands before the viewport tag" if has_tag else "is on a page without a viewport tag"
    return Finding(
        EARLY, f"the hint for {_name(facts, node)} {why}: phones judge it as {FALLBACK_WIDTH:g} px"
        " wide, and fetch it beside the file that they show",
        _place(facts, node),
        "move it behind the viewport tag" if has_tag
        else 'write <meta name="viewport" content="width=device-width"> above it',
        Severity.COSTS, screens, weight,
    )  # fmt: skip


def _is_another_format(facts: PageFacts, node: Node, one: SeenScreen) -> bool:
    others = [other for other in hint_nodes(facts.page) if other is not node]
    same = [other for other in others if other.get("media", "") == node.get("media", "")]
    return any(other.get("type") and _fetched(facts, other, one) for other in same)


def _late(facts: PageFacts, node: Node) -> Finding | None:
    """A hint whose picture would be there sooner if it stood at the top."""
    middle = len(facts.lines) // 2
    waits = []
    for one in facts.seen:
        url, hero = _fetched(facts, node, one), hero_of(one.load)
        if hero is not None and url in hero.urls:
            waits.append((gains(facts, one, hero), one))
    if not waits:
        return None
    saved, worst = max(waits, key=lambda one: one[0][middle])
    if saved[middle] < LEAST_WAIT:
        return None
    line = facts.lines[middle].name
    return Finding(
        LATE, f"the hint for {_name(facts, node)} comes late: {saved[middle]:.2f} s over {line}",
        _place(facts, node), "move it up into the head, before the style sheets", Severity.COSTS,
        (worst.screen,), seconds=saved,
    )  # fmt: skip
