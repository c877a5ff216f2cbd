"""What belongs to one page: its own backdrops, and those that no page lists."""

from __future__ import annotations

from dataclasses import dataclass, replace

from brightcanvas.brief.pages import names_by_page
from brightcanvas.ledger.model import Record


@dataclass(frozen=True)
class PagePart:
    """What one page shows of a record."""

    name: str
    """Empty where the brief names no pages."""
    record: Record

    def file(self, stem: str, ending: str) -> str:
        """As in ``head-inn.html``, or ``head.html`` where there is but one page."""
        return f"{stem}-{self.name}.{ending}" if self.name else f"{stem}.{ending}"

    @property
    def place(self) -> str:
        """As in `` of the page inn``."""
        return f" of the page {self.name}" if self.name else ""


def by_page(record: Record) -> tuple[PagePart, ...]:
    """The pages of a record, each with what is on it; all of it where the brief names none."""
    pages = names_by_page(record.pages, [one.name for one in record.backdrops])
    return tuple(PagePart(name, _with_only(record, names)) for name, names in pages)


def _with_only(record: Record, names: frozenset[str]) -> Record:
    return replace(record, backdrops=tuple(one for one in record.backdrops if one.name in names))
