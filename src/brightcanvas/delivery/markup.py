"""The elements that the backdrops fill, and what belongs to one page."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, replace
from html import escape
from pathlib import Path

from brightcanvas.brief.brief import names_by_page
from brightcanvas.delivery.forms import children, forms_of
from brightcanvas.delivery.forms.clip_forms import moving_link
from brightcanvas.ledger.record import Addresses, BackdropRecord, Record

_SIMPLE = re.compile(r"(?P<tag>[a-z][a-z0-9]*)?(?:(?P<mark>[.#])(?P<name>[A-Za-z_][\w-]*))?")
_PAGE_PARTS = ("html", "body")


@dataclass(frozen=True)
class ElementTag:
    """An element that a simple selector names."""

    name: str
    attribute: str = ""
    value: str = ""

    @property
    def opening(self) -> str:
        """The opening tag."""
        extra = f' {self.attribute}="{escape(self.value)}"' if self.attribute else ""
        return f"<{self.name}{extra}>"

    @property
    def closing(self) -> str:
        """The closing tag."""
        return f"</{self.name}>"


def tag_for(selector: str) -> ElementTag | None:
    """The element for a selector such as ``.arrival``, ``#top`` or ``main``.

    None where more than one name is in play: there the page's own markup has to serve.
    """
    match = _SIMPLE.fullmatch(selector)
    if match is None or match["tag"] in _PAGE_PARTS:
        return None
    attribute = {".": "class", "#": "id", None: ""}[match["mark"]]
    return ElementTag(match["tag"] or "section", attribute, match["name"] or "")


def markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The snippet of markup for one backdrop; clips are looked for at their addresses."""
    tag, first = tag_for(record.element), children(record, addresses)
    if record.backdrop.form == "img":
        told = f"round your own img that matches {_comment(record.element)}, as its last child"
        return f"<!-- {record.name}: {told} -->\n{first}\n"
    moves = any(form.moves for form in forms_of(record))
    script = f"{moving_link(addresses)}\n" if moves else ""
    if tag is None:
        told = f"your own element that matches {_comment(record.element)}"
        place = ", with this as its first children" if first else ""
        return f"<!-- {record.name}: {told}{place} -->\n{first}{script}"
    inside = f"{first}  <!-- {record.name}: your content -->\n"
    return f"{tag.opening}\n{inside}{tag.closing}\n{script}"


def _comment(text: str) -> str:
    return escape(text).replace("--", "- -")


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
