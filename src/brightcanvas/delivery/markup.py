"""The elements that the backdrops fill, as far as a selector tells them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from html import escape

from brightcanvas.delivery.forms import children, forms_of
from brightcanvas.delivery.moving import moving_link
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import BackdropRecord

_SIMPLE = re.compile(r"(?P<tag>[a-z][a-z0-9]*)?(?:(?P<mark>[.#])(?P<name>[A-Za-z_][\w-]*))?")
_PAGE_PARTS = ("html", "body")


@dataclass(frozen=True)
class Tag:
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


def tag_for(selector: str) -> Tag | None:
    """The element for a selector such as ``.arrival``, ``#top`` or ``main``.

    None where more than one name is in play: there the page's own markup has to serve.
    """
    match = _SIMPLE.fullmatch(selector)
    if match is None or match["tag"] in _PAGE_PARTS:
        return None
    attribute = {".": "class", "#": "id", None: ""}[match["mark"]]
    return Tag(match["tag"] or "section", attribute, match["name"] or "")


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
