"""The published files beside the pictures: rules, hints, markup, and pages to try and paste them.

A page gets its own hints only: those of another page would be fetched in vain.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from markupsafe import Markup

from brightcanvas.brief.brief import Copy
from brightcanvas.delivery.forms import children
from brightcanvas.delivery.forms.clip_forms import SCRIPT, moving_link, moving_script
from brightcanvas.delivery.hints import (
    PASSED_ON,
    all_links,
    are_heavy,
    early_for_apache,
    early_links,
    for_apache,
    for_nginx,
    header_lines,
    hints,
)
from brightcanvas.delivery.markup import (
    SHEET,
    ElementTag,
    PagePart,
    by_page,
    has_own_sheets,
    markup,
    sheets_of,
    tag_for,
)
from brightcanvas.delivery.rule_text import block, position_text, under
from brightcanvas.delivery.stylesheet import stylesheet
from brightcanvas.ledger.record import BESIDE, LEDGER, PublishedVariant, Record
from brightcanvas.templates.rendering import rendered


@dataclass(frozen=True)
class TrySection:
    """One backdrop on the page."""

    name: str
    tag: ElementTag
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
                condition = shown.view.slot.breakpoint.when.media
                rule = f".try-copy-{one.name} {{ {_copy_style(copy)} }}"
                rules.append(f"@media {condition} {{ {rule} }}" if condition else rule)
    return "\n".join(rules)


def _box_rules(record: Record) -> str:
    """What the elements have on their own page, where the rules leave it to them."""
    return "\n".join(
        under(shown.view.slot.breakpoint.when.media, [block(one.element, lines)])
        for one in record.backdrops for shown in one.shown
        if one.backdrop.form != "img" and (lines := _box_lines(shown))
    )  # fmt: skip


def _box_lines(shown: PublishedVariant) -> list[str]:
    slot, picture = shown.view.slot, shown.view.picture
    lines = [] if slot.states_height else [f"min-height: {_planned_height(shown)};"]
    if slot.keeps_rule and picture:
        position = position_text(picture.cut.position)
        lines += [f"background: {position} / {slot.fit.css} no-repeat {slot.attachment};"]
    return lines


def _planned_height(shown: PublishedVariant) -> str:
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
    sections = [
        TrySection(
            one.name,
            tag,
            Markup(children(one, BESIDE)),
            any(shown.view.slot.copy for shown in one.shown),
        )
        for one in record.backdrops
        if (tag := tag_for(one.element)) and one.backdrop.form != "img"
    ]
    return rendered(
        "try-it.html.j2",
        title=record.title or "Backdrops",
        hints=Markup(hints(record, BESIDE)),
        rules=Markup(stylesheet(record, BESIDE)),
        copy_rules=Markup(_copy_rules(record)),
        box_rules=Markup(_box_rules(record)),
        sections=sections,
        is_draft=is_draft,
        script=Markup(moving_link(BESIDE)) if record.moves else "",
    )


@dataclass(frozen=True)
class Paste:
    """One thing to paste."""

    title: str
    told: str
    text: str


def blocks(record: Record) -> list[Paste]:
    """All blocks; those for hints only where something is in the first view, page by page."""
    addresses = record.addresses
    elements = "\n".join(markup(one, addresses) for one in record.backdrops)
    styles = [
        Paste(f"Style box{_of_sheet(name)}", "The whole style sheet, for a box named CSS.",
              stylesheet(own, addresses))
        for name, own in sheets_of(record).items()
    ]  # fmt: skip
    body = Paste("Body", "Each element goes where its content is; nothing to do for those that"
                 " say they are your own.", elements)  # fmt: skip
    own_sheets = has_own_sheets(record)
    hinted = [
        one for page in by_page(record)
        for one in _hint_blocks(page, page.sheet if own_sheets else SHEET)
    ]  # fmt: skip
    return [*styles, body, *hinted]


def _of_sheet(name: str) -> str:
    return "" if name == SHEET else f" of the page {name.removeprefix('backdrops-')[:-4]}"


def _hint_blocks(page: PagePart, sheet: str) -> list[Paste]:
    """The hints of one page, in every way in which they can be given."""
    values = all_links(page.record)
    if not values:
        return []
    head = hints(page.record, page.record.addresses)
    found = [
        Paste("Head", "The hints for the first view, behind the page's viewport tag: phones judge"
              " what stands before it as if they were 980 px wide, and fetch a second file. In one"
              " place only: here, in the body, or as headers.", head),
        Paste("Hints in the body", "Where the head can't be edited: the same, as early in the"
              " body as you can, before the first picture.", head),
        *_header_blocks(values),
        *_early_blocks(list(early_links(page.record, sheet))),
    ]  # fmt: skip
    return [replace(one, title=f"{one.title}{page.place}") for one in found]


def _header_blocks(values: Sequence[str]) -> list[Paste]:
    return [
        Paste("HTTP headers", "Where headers can be set for the page, and its head can't be"
              " edited: WebKit, which is on every second phone, asks for these pictures only"
              f" behind those of the page's own markup.{_warning(values)}",
              header_lines(values)),
        Paste("HTTP headers with nginx", "In the location of the page.", for_nginx(values)),
        Paste("HTTP headers with Apache", "With mod_headers, in the page's Location or .htaccess.",
              for_apache(values)),
    ]  # fmt: skip


def _warning(values: Sequence[str]) -> str:
    """What headers do that weigh too much; in a page's head they do no harm."""
    if not are_heavy(values):
        return ""
    return (
        f" They come to {len(header_lines(values)) / 1000:.1f} kB: where nginx stands in front of"
        f" the server that sends them, it answers 502 to more than {PASSED_ON / 1000:.0f} kB unless"
        " its proxy_buffer_size and proxy_busy_buffers_size are raised, to 16k say (for PHP, the"
        " same of fastcgi). The head has no such limit."
    )


def _early_blocks(values: Sequence[str]) -> list[Paste]:
    return [
        Paste("Early hints", "Beside one of the others: what every screen needs, to be sent with"
              " status 103 while a page that links backdrops.css is still being made. It has"
              " to come with a Cache-Control that lets browsers keep it (max-age), or they fetch it"
              " twice. Browsers pass over early hints for some screens only.",
              header_lines(values)),
        Paste("Early hints with Apache", "With mod_http2 and its H2EarlyHints on, in the page's"
              " Location.", early_for_apache(values)),
    ]  # fmt: skip


def paste_page(record: Record, lacking: Sequence[str]) -> str:
    """The page; everything on it is text, whatever stands in a brief."""
    title = record.title or "Backdrops"
    return rendered("paste.html.j2", title=title, blocks=blocks(record), lacking=lacking)


TRY_PAGE = "try-it.html"
PASTE_PAGE = "paste.html"
MARKUP = "markup.html"


def rule_files(record: Record, lacking: Sequence[str]) -> dict[str, bytes]:
    """The content of each file by its name.

    Args:
        record: of what was made.
        lacking: files that the brief's list has no address for.
    """
    addresses = record.addresses
    texts = {SCRIPT: moving_script()} if record.moves else {}
    texts |= {
        **{name: stylesheet(own, addresses) for name, own in sheets_of(record).items()},
        MARKUP: "\n".join(markup(one, addresses) for one in record.backdrops),
        PASTE_PAGE: paste_page(record, lacking),
        TRY_PAGE: try_page(record),
    }
    for page in by_page(record):
        own, sheet = page.record, page.sheet if has_own_sheets(record) else SHEET
        texts |= {
            page.file("head", "html"): hints(own, addresses),
            page.file("headers", "txt"): header_lines(all_links(own)),
            page.file("early-hints", "txt"): header_lines(list(early_links(own, sheet))),
        }
    return {name: text.encode() for name, text in texts.items()}


def purposes(record: Record) -> Iterator[tuple[str, str]]:
    """The name of each file that is to be used, and what it is for."""
    if record.moves:
        yield SCRIPT, f"starts, stops and pauses them; {MARKUP} loads it"
    for name in sheets_of(record):
        of_page = "" if name == SHEET else f", on {name.removesuffix('.css').partition('-')[2]}"
        yield name, f"link it, or paste it into your own style sheet{of_page}"
    yield MARKUP, "the elements they fill"
    for page in by_page(record):
        told = f"hints for the head{page.place or ' of the page'}, behind its viewport tag"
        yield page.file("head", "html"), told
        is_heavy = are_heavy(all_links(page.record))
        caution = f"; too long for some servers, see {PASTE_PAGE}" if is_heavy else ""
        told = f"the same as HTTP headers, where the head can't be edited{caution}"
        yield page.file("headers", "txt"), told
        yield page.file("early-hints", "txt"), "what may be sent ahead of the page, beside them"
    yield PASTE_PAGE, "all of it in blocks to copy, for boxes to paste into"
    yield LEDGER, "every file, rule and promise, for machines"
