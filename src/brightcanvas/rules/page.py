"""A plain page to try the backdrops on, complete in itself."""

from __future__ import annotations

from dataclasses import dataclass

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from brightcanvas.ledger.model import Record
from brightcanvas.rules.hints import hints
from brightcanvas.rules.markup import Tag, tag_for
from brightcanvas.rules.stylesheet import stylesheet


@dataclass(frozen=True)
class Section:
    """One backdrop on the page."""

    name: str
    tag: Tag

    @property
    def opening(self) -> Markup:
        """The opening tag, escaped already."""
        return Markup(self.tag.opening)

    @property
    def closing(self) -> Markup:
        """The closing tag."""
        return Markup(self.tag.closing)


def try_page(record: Record) -> str:
    """The page; it finds the pictures beside itself, so it opens from the disk too."""
    environment = Environment(
        loader=PackageLoader("brightcanvas.rules", "pages"),
        autoescape=True,
        keep_trailing_newline=True,
    )
    sections = [Section(one.name, tag) for one in record.backdrops if (tag := tag_for(one.element))]
    return environment.get_template("try-it.html.j2").render(
        title=record.title or "Backdrops",
        hints=Markup(hints(record, "")),
        rules=Markup(stylesheet(record, "")),
        sections=sections,
    )
