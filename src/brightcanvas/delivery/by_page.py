"""What belongs to one page: its own backdrops, and those that no page lists."""

from __future__ import annotations

from dataclasses import dataclass, replace

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
    if not record.pages:
        return (PagePart("", record),)
    listed = {name for page in record.pages for name in page.backdrops}
    return tuple(
        PagePart(
            page.name,
            replace(
                record,
                backdrops=tuple(
                    one
                    for one in record.backdrops
                    if one.name in page.backdrops or one.name not in listed
                ),
            ),
        )
        for page in record.pages
    )
