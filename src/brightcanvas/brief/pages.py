"""Which backdrops are on which page: those that it lists, and those that no page lists."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from pathlib import Path

from brightcanvas.brief.model import PageWish


def names_by_page(
    pages: Sequence[PageWish], names: Collection[str]
) -> list[tuple[str, frozenset[str]]]:
    """Each page's name, and the names of its backdrops.

    Where the brief names no pages, all are on one, which has no name.
    """
    if not pages:
        return [("", frozenset(names))]
    unlisted = set(names).difference(*(page.backdrops for page in pages))
    return [(page.name, frozenset(page.backdrops) | unlisted) for page in pages]


def page_named(pages: Sequence[PageWish], path: Path) -> PageWish | None:
    """The page of a brief that an HTML file is: by its path, else by its name."""
    wanted = path.resolve()
    by_file = [one for one in pages if one.file and one.file.resolve() == wanted]
    by_name = [one for one in pages if one.name == path.stem.lower()]
    return next(iter((*by_file, *by_name)), None)
