"""What belongs to one page: its own backdrops, and those that no page lists."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path

from brightcanvas.brief.pages import names_by_page
from brightcanvas.ledger.model import Record

SHEET = "backdrops.css"
"""The style sheet, where one serves all pages."""


def sheet_name(page: str) -> str:
    """The style sheet of a page that has its own, by the page's name in the brief."""
    return f"backdrops-{page}.css"


@dataclass(frozen=True)
class PagePart:
    """What one page shows of a record."""

    name: str
    """Empty where the brief names no pages."""
    record: Record
    html: Path | None = None
    """The page itself, where the brief names its file."""

    def file(self, stem: str, ending: str) -> str:
        """As in ``head-inn.html``, or ``head.html`` where there is but one page."""
        return f"{stem}-{self.name}.{ending}" if self.name else f"{stem}.{ending}"

    @property
    def sheet(self) -> str:
        """The name of its own style sheet, where it has one."""
        return sheet_name(self.name) if self.name else SHEET

    @property
    def place(self) -> str:
        """As in `` of the page inn``."""
        return f" of the page {self.name}" if self.name else ""


def by_page(record: Record) -> tuple[PagePart, ...]:
    """The pages of a record, each with what is on it; all of it where the brief names none."""
    pages = names_by_page(record.pages, [one.name for one in record.backdrops])
    files = {one.name: one.file for one in record.pages}
    return tuple(
        PagePart(name, _with_only(record, names), files.get(name)) for name, names in pages
    )


def has_own_sheets(record: Record) -> bool:
    """Whether pages need sheets of their own: one element has another picture on each."""
    counts = Counter(one.element for one in record.backdrops)
    return bool(record.pages) and max(counts.values(), default=0) > 1


def sheets_of(record: Record) -> dict[str, Record]:
    """The style sheets by their names, each with what stands in it."""
    if not has_own_sheets(record):
        return {SHEET: record}
    return {one.sheet: one.record for one in by_page(record)}


def _with_only(record: Record, names: frozenset[str]) -> Record:
    return replace(record, backdrops=tuple(one for one in record.backdrops if one.name in names))
