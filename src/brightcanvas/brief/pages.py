"""Which backdrops are on which page: those that it lists, and those that no page lists."""

from __future__ import annotations

from collections.abc import Collection, Sequence

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
