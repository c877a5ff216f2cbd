"""A first brief as text, with what is found on the page as comments."""

from __future__ import annotations

import itertools
import os
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from brightcanvas.drafting.draft import BriefDraft, DraftedBackdrop, DraftedPage
from brightcanvas.drafting.own_rules import OwnRule
from brightcanvas.values.geometry import Point, plain_number
from brightcanvas.values.layers import PICTURE

Keys = Mapping[str, str]
"""The keys of one breakpoint, with their values as TOML."""


def brief_text(draft: BriefDraft, named: str, folder: Path, files: Mapping[str, str]) -> str:
    """The brief.

    Args:
        draft: of the pages.
        named: the pages that it was drafted from, as they were named.
        folder: that the brief will lie in.
        files: of measured boxes, beside the brief, by the page.
    """
    parts = [
        f"# Drafted from {_plain(named)}. Nothing of it was changed: a page keeps its own rules\n"
        "# and boxes, and shows lighter files.\n",
        f"[site]\ntitle = {_quoted(draft.title)}\n",
    ]
    for one in draft.ranges:
        below = f"below = {plain_number(one.below)}\n" if one.below else ""
        parts.append(f"[[breakpoint]]\nname = {_quoted(one.name)}\n{below}")
    names = _names(draft.entries)
    if len(draft.pages) > 1:
        parts += [_page(one, draft.entries, names, folder) for one in draft.pages]
    for entry, name in zip(draft.entries, names, strict=True):
        boxes = files.get(entry.pages[0], "")
        own = name if len(draft.pages) > 1 else ""
        parts.append(_entry(entry, own, [one.name for one in draft.ranges], folder, boxes))
    if told := [line for one in draft.pages for line in _left_out(one, draft)]:
        parts.append("\n".join(["# Not drafted:", *told]) + "\n")
    return "\n".join(parts)


def _left_out(page: DraftedPage, draft: BriefDraft) -> Iterator[str]:
    of_page = f" on {page.name}" if len(draft.pages) > 1 else ""
    for one in page.left_out:
        yield f"#   {_plain(one.name)}{of_page}: {_plain(one.reason)}"


def _names(entries: Sequence[DraftedBackdrop]) -> list[str]:
    """A name for each, after its source."""
    found: list[str] = []
    for one in entries:
        words = re.findall(r"[a-z0-9]+", one.sources[0].stem.lower())
        wanted = "-".join(words)[:50].strip("-") or "backdrop"
        name = next(each for each in _numbered(wanted) if each not in found)
        found.append(name)
    return found


def _numbered(name: str) -> Iterator[str]:
    yield name
    yield from (f"{name}-{number}" for number in itertools.count(2))


def _page(
    page: DraftedPage, entries: Sequence[DraftedBackdrop], names: Sequence[str], folder: Path
) -> str:
    on_it = [
        _quoted(name) for name, one in zip(names, entries, strict=True) if page.name in one.pages
    ]
    if not on_it:
        return f"# {page.name}: no backdrop of its own.\n"
    lines = ["[[page]]", f"name = {_quoted(page.name)}", f"backdrops = [{', '.join(on_it)}]"]
    if page.file:
        lines.append(f"file = {_quoted(_relative(page.file, folder))}")
    return "\n".join(lines) + "\n"


def _relative(path: Path, folder: Path) -> str:
    return Path(os.path.relpath(path.resolve(), folder.resolve())).as_posix()


def _plain(text: str) -> str:
    return re.sub(r"[\x00-\x1f\x7f]", " ", text)


def _quoted(text: str) -> str:
    """A TOML basic string (TOML 1.0)."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + re.sub(r"[\x00-\x1f\x7f]", lambda found: f"\\u{ord(found[0]):04x}", escaped) + '"'


def _entry(
    one: DraftedBackdrop, name: str, breakpoints: Sequence[str], folder: Path, measured_file: str
) -> str:
    lines = ["[[backdrop]]"]
    if name:
        lines.append(f"name = {_quoted(name)}")
    lines += [f"# now: {_plain(note)}" for note in one.notes]
    lines.append(f"element = {_quoted(one.element)}")
    if one.is_first:
        lines.append("first_view = true")
    if one.force:
        lines.append("force = true  # the page's own rule would win")
    if one.is_img:
        lines.append('form = "img"  # the page\'s own, which gets sources')
    if not one.is_new:
        lines.append('replaces = "picture"  # the rest of its rule stays')
    if one.height:
        lines.append(
            f"height = {_quoted(one.height)}  # guessed: bright-canvas begin with a browser"
        )
    else:
        lines.append(f"measured = {_quoted(measured_file)}")
    if one.is_new:
        lines += _new(one, measured_file)
    return "\n".join([*lines, *_by_breakpoint(one, breakpoints, folder)]) + "\n"


def _new(one: DraftedBackdrop, measured_file: str) -> Iterator[str]:
    """What a picture needs that wasn't there before: what matters in it, and copy that is read."""
    if one.subject:
        yield f"{_subject(one.subject)}  # suggested: see subjects.png"
    if measured_file:
        yield f"copy = {{ measured = {_quoted(measured_file)} }}"
        yield "scrim = { least = true }  # the weakest with which the copy can be read"


def _by_breakpoint(one: DraftedBackdrop, names: Sequence[str], folder: Path) -> Iterator[str]:
    """The widest breakpoint's keys, then what is otherwise in narrower ones."""
    above = _keys(one.rules[-1], folder)
    yield from (f"{key} = {value}" for key, value in above.items())
    if one.subject and not one.is_new:
        yield f"# instead of position, what stands out stays in view: {_subject(one.subject)}"
    for name, rule in reversed(list(zip(names[:-1], one.rules[:-1], strict=True))):
        keys = _keys(rule, folder)
        changed = {key: value for key, value in keys.items() if above.get(key) != value}
        if keys.get("source") != above.get("source") and "position" in keys:
            changed["position"] = keys["position"]  # another source says nothing of its own yet
        changed |= {key: _UNSAID[key] for key in above if key not in keys and key in _UNSAID}
        if changed:
            yield f"[backdrop.at.{name}]"
            yield from (f"{key} = {value}" for key, value in changed.items())
        above = {**above, **keys} if "plain" in keys else keys


_UNSAID = {"size": '"cover"', "attachment": '"scroll"', "layers": f'"{PICTURE}"', "plain": "false"}
"""What takes back what wider breakpoints say."""


def _keys(rule: OwnRule, folder: Path) -> Keys:
    if rule.source is None:
        return {"plain": "true"}
    keys = {"source": _quoted(_relative(rule.source, folder))}
    if rule.position:
        keys["position"] = f"[{_share(rule.position.x)}, {_share(rule.position.y)}]"
    if rule.size != "cover":
        keys["size"] = _quoted(rule.size)
    if rule.attachment != "scroll":
        keys["attachment"] = _quoted(rule.attachment)
    if rule.layers != PICTURE:
        keys["layers"] = _quoted(rule.layers)
    return keys


def _share(number: float) -> str:
    return f"{round(number, 5):g}"


def _subject(point: Point) -> str:
    """A point, not a box: what nobody has confirmed must not become a promise that breaks."""
    return f"subject = {{ point = [{point.x:.2f}, {point.y:.2f}] }}"
