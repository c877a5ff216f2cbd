"""A plain page to try the backdrops on, complete in itself."""

from __future__ import annotations

from dataclasses import dataclass

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from brightcanvas.brief.model import Copy
from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import Tag, tag_for
from brightcanvas.delivery.moving import moving_link
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.ledger.addresses import BESIDE
from brightcanvas.ledger.model import Record


@dataclass(frozen=True)
class Section:
    """One backdrop on the page."""

    name: str
    tag: Tag
    clip: Markup
    """The clip behind its content, if one plays."""
    has_copy: bool
    """Whether the brief says where the copy lies; the page then shows letters there."""

    @property
    def opening(self) -> Markup:
        """The opening tag, escaped already."""
        return Markup(self.tag.opening)

    @property
    def closing(self) -> Markup:
        """The closing tag."""
        return Markup(self.tag.closing)


def _copy_rules(record: Record) -> str:
    """Where the copy lies at each breakpoint, for this page alone."""
    rules = []
    for one in record.backdrops:
        for shown in one.shown:
            if copy := shown.view.slot.copy:
                condition = breakpoint_condition(shown.view.slot.breakpoint)
                rule = f".try-copy-{one.name} {{ {_copy_style(copy)} }}"
                rules.append(f"@media {condition} {{ {rule} }}" if condition else rule)
    return "\n".join(rules)


def _copy_style(copy: Copy) -> str:
    box = copy.box
    style = (
        f"left: {box.left:.2%}; top: {box.top:.2%};"
        f" width: {box.width:.2%}; height: {box.height:.2%};"
    )
    if letters := copy.letters:
        weight = 700 if letters.bold else 400
        style += f" color: {letters.colour.css}; font: {weight} {letters.size:g}px/1.25 sans-serif;"
    return style


def try_page(record: Record, *, is_draft: bool = False) -> str:
    """The page; it finds the pictures beside itself, so it opens from the disk too."""
    environment = Environment(
        loader=PackageLoader("brightcanvas.delivery", "pages"),
        autoescape=True,
        keep_trailing_newline=True,
    )
    sections = [
        Section(
            one.name,
            tag,
            Markup(children(one, BESIDE)),
            any(shown.view.slot.copy for shown in one.shown),
        )
        for one in record.backdrops
        if (tag := tag_for(one.element))
    ]
    return environment.get_template("try-it.html.j2").render(
        title=record.title or "Backdrops",
        hints=Markup(hints(record, BESIDE)),
        rules=Markup(stylesheet(record, BESIDE)),
        copy_rules=Markup(_copy_rules(record)),
        sections=sections,
        is_draft=is_draft,
        script=Markup(moving_link(BESIDE)) if record.moves else "",
    )
