"""A copy of a page with all that it fetches, and our rules in it."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Self
from urllib.parse import unquote, urlsplit

from brightcanvas.html.tree import Node
from brightcanvas.integration.marked import Snippets, inserted, without_marked
from brightcanvas.page.aim import PSEUDO, hit
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.page.page_load import PageLoad, load
from brightcanvas.page.reading import Page, read_page
from brightcanvas.rehearsal.engine_profiles import CHROMIUM
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_notes, read_regular, write_whole
from brightcanvas.values.screens import DEVICES


@dataclass(frozen=True)
class LoadedPage:
    """A page, and what each screen fetches of it."""

    page: Page
    loads: tuple[PageLoad, ...]
    """One for each of ``DEVICES``, in Chromium."""


def loaded(page: Page) -> LoadedPage:
    """What each screen fetches of a page."""
    return LoadedPage(page, tuple(load(page, CHROMIUM.environment(one)) for one in DEVICES))


@dataclass(frozen=True)
class Inserted:
    """The copy."""

    copy: LoadedPage
    """As it is now, read again."""
    taken_out: tuple[str, ...]
    """Hints that were for the old pictures."""
    still_fetched: tuple[str, ...]
    """Old pictures of our elements that are fetched all the same: a person has to look."""


RECORD = "copies.json"
"""In our own folder beside the brief: what was put into which copy. No page brings it along."""


class CopyFolder:
    """The folder of a copy, in which nothing is replaced that we didn't put there.

    While it is open, it is noted as ours: a run that was cut off doesn't block the next one.
    """

    def __init__(self, into: Path, home: Path) -> None:
        """A folder, and our own one beside the brief."""
        self.into = into.resolve()
        self._record = home / RECORD
        self._key = _key(self.into, home.resolve())
        known = self._listed().get(self._key)
        self._is_ours, self._known = known is not None, known or {}

    def _listed(self) -> dict[str, dict[str, str]]:
        found = read_notes(self._record)
        return {
            str(key): {str(name): str(digest) for name, digest in files.items()}
            for key, files in (found.items() if isinstance(found, dict) else ())
            if isinstance(files, dict)
        }

    @property
    def is_free(self) -> bool:
        """Whether it is new, empty, or what is left of an earlier copy."""
        if self.into.is_file():
            return False
        return self._is_ours or not self.into.exists() or not any(self.into.iterdir())

    def __enter__(self) -> Self:
        """Note it as ours."""
        self._note()
        return self

    def __exit__(self, *_: object) -> None:
        """Note what was put there, however it ended."""
        self._note()

    def put(self, name: str, content: bytes) -> Path:
        """Write a file, by its path in the copy.

        Raises:
            BriefError: another one is there, or it would lie outside of the folder.
        """
        target, digest = self.into / name, _digest(content)
        if not target.resolve().is_relative_to(self.into):
            raise BriefError(f"{name} lies outside of the copy; name a --root above it")
        there = _digest(read_regular(target)) if target.is_file() else None
        if there not in (None, digest, self._known.get(name)):
            raise BriefError(f"{target} was changed since it was copied: move it away")
        if there != digest:
            write_whole(target, content)
        self._known[name] = digest
        return target

    def _note(self) -> None:
        listed = {**self._listed(), self._key: self._known}
        write_whole(self._record, json.dumps(listed, indent=1).encode())


def _key(into: Path, home: Path) -> str:
    try:
        return Path(os.path.relpath(into, home)).as_posix()
    except ValueError:  # another drive
        return into.as_posix()


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def copy_with_rules(
    original: LoadedPage, snippets: Snippets, published: Mapping[str, bytes], place: CopyFolder,
    seen: Collection[str] = (),
) -> Inserted:  # fmt: skip
    """Write a copy of the page, of all that any screen fetches, and of what was published.

    Args:
        original: the page.
        snippets: to put in.
        published: our files, by their paths in the copy.
        place: the folder of the copy.
        seen: paths that a browser fetched besides, for scripts say.

    Raises:
        BriefError: the page is itself a copy, or somebody changed a file of an earlier one.
        MachineError: the folder may not be written.
    """
    before = original.page
    if without_marked(before.text) != before.text:
        raise BriefError(f"{before.folder.page} has our rules in it already: name the page itself")
    if "\ufffd" in before.text:
        raise BriefError(
            f"{before.folder.page} has bytes that are no {before.encoding.upper()}, as it says or"
            " as pages are: save it so first"
        )
    named = (*snippets.children, *snippets.sources)
    elements = {one: node for one, _ in named if (node := _first(before, one)) is not None}
    filled, pictured = _nodes(before, snippets.filled), _nodes(before, snippets.pictured)
    fetched = _fetched(original.loads)
    further = {f"{HOST}{path}" for path in seen}
    for name, content in {**dict(_files(before, fetched | further)), **published}.items():
        place.put(name, content)

    def with_rules(unused: Sequence[str]) -> LoadedPage:
        text = inserted(before, snippets, elements, unused, filled, pictured)
        return loaded(_written(before, text, place))

    copy = with_rules(())
    unused = _unused_hints(copy.loads, fetched)
    if unused:
        copy = with_rules(unused)
    names = tuple(_path(url) for url in unused)
    return Inserted(copy, names, tuple(_still(original.loads, copy.loads)))


def _nodes(page: Page, selectors: Sequence[str]) -> list[Node]:
    """All elements of some selectors; pseudo-elements have no style attribute."""
    plain = (one for one in selectors if not PSEUDO.search(one))
    return [one.etree_element for name in plain for one in hit(page, name)]


def _first(page: Page, selector: str) -> Node | None:
    found = hit(page, selector)
    return found[0].etree_element if found else None


def _path(url: str) -> str:
    return unquote(urlsplit(url).path).lstrip("/")


def _fetched(loads: Sequence[PageLoad]) -> set[str]:
    """What any screen fetches."""
    return {one.url for each in loads for one in each.fetches}


def _written(page: Page, text: str, place: CopyFolder) -> Page:
    """The copy of the page, with the mark of its encoding if it has one."""
    mark = "\ufeff".encode(page.encoding) if _is_marked(page) else b""
    content = mark + text.encode(page.encoding, "xmlcharrefreplace")
    return read_page(Folder(place.into, place.put(_path(page.address), content)))


def _is_marked(page: Page) -> bool:
    marks = (b"\xef\xbb\xbf", b"\xff\xfe", b"\xfe\xff")
    return read_regular(page.folder.page).startswith(marks)


def _files(page: Page, fetched: set[str]) -> Iterator[tuple[str, bytes]]:
    """The files of the page's host among what is fetched."""
    for url in sorted(fetched):
        path = page.folder.file(url) if url.startswith(f"{HOST}/") else None
        if path is not None and url != page.address:
            yield _path(url), read_regular(path)


def _unused_hints(after: Sequence[PageLoad], old: set[str]) -> list[str]:
    """What was fetched before, and is now by hints alone, wherever it is fetched."""
    useless = {one.url for each in after for one in each.useless}
    used = {one.url for each in after for one in each.fetches if one not in each.useless}
    return sorted(old & useless - used)


def _still(before: Sequence[PageLoad], after: Sequence[PageLoad]) -> Iterator[str]:
    """Pictures that elements showed before, and that are fetched although none shows them now."""
    backgrounds = {
        url for each in before for shown in each.shown
        if shown.how == "background" for url in shown.files
    }  # fmt: skip
    shown_now = {url for each in after for shown in each.shown for url in shown.files}
    yield from sorted(_path(url) for url in backgrounds & _fetched(after) - shown_now)


def relative(page: Page, folder: str) -> str:
    """The way from a page to a folder of its host, with a slash at its end."""
    depth = _path(page.address).count("/")
    return "../" * depth + folder.strip("/") + "/"
