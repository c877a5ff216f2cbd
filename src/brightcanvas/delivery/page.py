"""A plain page to try the backdrops on, complete in itself."""

from __future__ import annotations

from dataclasses import dataclass

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from brightcanvas.brief.model import Copy
from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.css_values import position_text
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.hints import hints
from brightcanvas.delivery.markup import Tag, tag_for
from brightcanvas.delivery.moving import moving_link
from brightcanvas.delivery.sharing import block, under
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.ledger.addresses import BESIDE
from brightcanvas.ledger.model import Record, Shown


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


def _box_rules(record: Record) -> str:
    """What the elements have on their own page, where the rules leave it to them."""
    return "\n".join(
        under(breakpoint_condition(shown.view.slot.breakpoint), [block(one.element, lines)])
        for one in record.backdrops for shown in one.shown
        if one.backdrop.form != "img" and (lines := _box_lines(shown))
    )  # fmt: skip


def _box_lines(shown: Shown) -> list[str]:
    slot, picture = shown.view.slot, shown.view.picture
    lines = [] if slot.states_height else [f"min-height: {_planned_height(shown)};"]
    if slot.keeps_rule and picture:
        position = position_text(picture.cut.position)
        lines += [f"background: {position} / {slot.fit.css} no-repeat {slot.attachment};"]
    return lines


def _planned_height(shown: Shown) -> str:
    """The middle one of those that were measured, or what is planned for."""
    slot = shown.view.slot
    if slot.boxes is None:
        return slot.height.css(modern=True).replace(" / ", "/")
    own = [box.height for viewport, box in slot.boxes.windows if slot.breakpoint.has(viewport)]
    heights = sorted(own or [box.height for _, box in slot.boxes.windows])
    return f"{heights[len(heights) // 2]:.0f}px"


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
        if (tag := tag_for(one.element)) and one.backdrop.form != "img"
    ]
    return environment.get_template("try-it.html.j2").render(
        title=record.title or "Backdrops",
        hints=Markup(hints(record, BESIDE)),
        rules=Markup(stylesheet(record, BESIDE)),
        copy_rules=Markup(_copy_rules(record)),
        box_rules=Markup(_box_rules(record)),
        sections=sections,
        is_draft=is_draft,
        script=Markup(moving_link(BESIDE)) if record.moves else "",
    )
