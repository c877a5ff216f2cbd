"""A copy of a page with all that it fetches, and our rules in it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import unquote, urlsplit

from brightcanvas.css.screens import viewer_of
from brightcanvas.inserting.marked import Snippets, inserted, without_marked
from brightcanvas.page.aim import hit
from brightcanvas.page.fetches import load
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.markup import Node
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.rehearsing import DEVICES
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_regular, write_whole


@dataclass(frozen=True)
class Inserted:
    """The copy."""

    page: Page
    """As it is now, read again."""
    taken_out: tuple[str, ...]
    """Hints that were for the old pictures."""
    still_fetched: tuple[str, ...]
    """Old pictures of our elements that are fetched all the same: a person has to look."""


def copy_with_rules(
    before: Page, snippets: Snippets, published: Mapping[str, bytes], into: Path
) -> Inserted:
    """Write a copy of the page, of all that any screen fetches, and of what was published.

    Args:
        before: the page.
        snippets: to put in.
        published: our files, by their paths in the copy.
        into: the folder of the copy; its files are replaced.

    Raises:
        BriefError: the page holds our rules already in a form that can't be taken out.
        MachineError: the folder may not be written.
    """
    plain = _plain(before, into)
    elements = {one: node for one, _ in snippets.children if (node := _first(plain, one))}
    filled = [one.etree_element for name in snippets.filled for one in hit(plain, name)]
    old = _fetched(plain)
    trial = _written(plain, inserted(plain, snippets, elements, (), filled), published, into)
    unused = _unused_hints(trial, old)
    text = inserted(plain, snippets, elements, unused, filled)
    after = _written(plain, text, published, into)
    names = tuple(_path(url) for url in unused)
    return Inserted(after, names, tuple(_still(plain, after)))


def _plain(before: Page, into: Path) -> Page:
    """The page without what an earlier run of ours has put in."""
    text = without_marked(before.text)
    folder = before.folder
    if into.resolve() == folder.root.resolve():
        raise BriefError(f"{into} is the page's own folder: name another one with --into")
    if text == before.text:
        return before
    target = into / _path(before.address)
    write_whole(target, text.encode())
    return read_page(Folder(folder.root, folder.page))


def _first(page: Page, selector: str) -> Node | None:
    found = hit(page, selector)
    return found[0].etree_element if found else None


def _path(url: str) -> str:
    return unquote(urlsplit(url).path).lstrip("/")


def _fetched(page: Page) -> set[str]:
    """What any screen fetches."""
    return {one.url for screen in DEVICES for one in load(page, viewer_of(screen)).fetches}


def _written(page: Page, text: str, published: Mapping[str, bytes], into: Path) -> Page:
    for name, content in {**dict(_files(page)), **published}.items():
        target = into / name
        if not target.resolve().is_relative_to(into.resolve()):
            raise BriefError(f"{name} lies outside of the copy; name a --root above it")
        if not target.is_file() or target.read_bytes() != content:
            write_whole(target, content)
    target = into / _path(page.address)
    write_whole(target, text.encode())
    return read_page(Folder(into, target))


def _files(page: Page) -> Iterator[tuple[str, bytes]]:
    """All files of the page's host that are fetched on any screen, or by other browsers."""
    for url in sorted(_fetched(page)):
        path = page.folder.file(url) if url.startswith(f"{HOST}/") else None
        if path is not None and url != page.address:
            yield _path(url), read_regular(path)


def _unused_hints(after: Page, old: set[str]) -> list[str]:
    useless = [
        {one.url for one in load(after, viewer_of(screen)).useless} for screen in DEVICES
    ]  # fmt: skip
    fetched = [
        {one.url for one in load(after, viewer_of(screen)).fetches} for screen in DEVICES
    ]  # fmt: skip
    return sorted(
        url for url in old
        if any(url in one for one in useless)
        and all(url in vain or url not in all_ for vain, all_ in zip(useless, fetched, strict=True))
    )  # fmt: skip


def _still(before: Page, after: Page) -> Iterator[str]:
    """Pictures that our elements showed before, and that are fetched although ours win now."""
    ours = {one.url for screen in DEVICES for one in load(after, viewer_of(screen)).fetches}
    backgrounds = {
        url for screen in DEVICES for shown in load(before, viewer_of(screen)).shown
        if shown.how == "background" for url in shown.files
    }  # fmt: skip
    shown = {
        url for screen in DEVICES for one in load(after, viewer_of(screen)).shown
        for url in one.files
    }  # fmt: skip
    yield from sorted(_path(url) for url in backgrounds & ours - shown)


def relative(page: Page, folder: str) -> str:
    """The way from a page to a folder of its host, with a slash at its end."""
    depth = _path(page.address).count("/")
    return "../" * depth + folder.strip("/") + "/"
