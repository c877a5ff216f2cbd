"""A backdrop as an element behind the content: ``picture`` with sources for every part."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape

from brightcanvas.delivery.candidates import by_format, srcset
from brightcanvas.delivery.forms.form import LAYER, Form
from brightcanvas.delivery.rule_text import Declaration, block, declared, position_text
from brightcanvas.ledger.record import Addresses, Asset, BackdropRecord, PublishedVariant

NOTHING = "data:image/gif;base64,R0lGODlhAQABAAAAACw="
"""A picture of one clear px, for breakpoints that show none: it asks the host for nothing."""


def picture_markup(record: BackdropRecord, addresses: Addresses) -> str:
    """The element, to be the first child of the one that it fills.

    Its sources come in the order in which browsers try them: for each part the newest format
    first, then the file for browsers of any age.
    """
    last = next((one for one in reversed(record.shown) if one.oldest), None)
    if last is None or last.oldest is None:
        return ""
    sources = "\n".join(f"    {one}" for one in _sources(record, addresses))
    oldest, url = last.oldest, escape(addresses.of(last.oldest.file))
    haste = 'fetchpriority="high"' if record.first_view else 'loading="lazy"'
    return (
        f"  <picture data-backdrop>\n{sources}\n"
        f'    <img src="{url}" alt="{escape(record.backdrop.alternative)}"'
        f' width="{oldest.width}" height="{oldest.height}" decoding="async" {haste}>\n'
        f"  </picture>\n"
    )


def _sources(record: BackdropRecord, addresses: Addresses) -> Iterator[str]:
    """In the order in which browsers try them.

    The px of a source would be the box of a page's own ``img``, whose rules say nothing else.
    """
    is_sized = record.backdrop.form != "img"
    for shown in record.shown:
        condition = shown.view.slot.breakpoint.when.media
        media = f' media="{escape(condition)}"' if condition else ""
        if shown.oldest is None:
            yield f'<source{media} srcset="{NOTHING}"{_size(1, 1) if is_sized else ""}>'
            continue
        for kind, candidates in by_format(shown).items():
            if candidates[0][0] != shown.oldest:
                asked = f'{media} type="{kind.media_type}"'
                yield _source(asked, candidates, addresses, is_sized=is_sized)
        yield _source(media, [(shown.oldest, "")], addresses, is_sized=is_sized)


def _source(
    asked: str, candidates: Sequence[tuple[Asset, str]], addresses: Addresses, *, is_sized: bool
) -> str:
    largest = candidates[-1][0]
    size = _size(largest.width, largest.height) if is_sized else ""
    return f'<source{asked} srcset="{escape(srcset(list(candidates), addresses))}"{size}>'


def _size(width: int, height: int) -> str:
    return f' width="{width}" height="{height}"'


def _picture_in(element: str) -> str:
    return f":is({element}) > [data-backdrop] > img"


def _base(record: BackdropRecord) -> list[str]:
    """A picture behind the content, whatever the width: as large as its box, or as the window."""
    is_fixed = any(one.view.slot.attachment == "fixed" for one in record.shown)
    box = ["position: relative;", "isolation: isolate;"]
    box += [] if is_fixed else ["overflow: hidden;", "overflow: clip;"]
    fill = ["width: 100%;", "height: 100%;", "max-width: none;", "margin: 0;"]
    layer = ["position: fixed;", *LAYER[1:]] if is_fixed else [*LAYER]
    return [block(record.element, box), block(_picture_in(record.element), [*layer, *fill])]


def _lines(record: BackdropRecord, shown: PublishedVariant, _: Addresses) -> list[Declaration]:
    """How the picture lies in its box, as a background would."""
    picture = shown.view.picture
    if picture is None:
        return []
    fit, position = shown.view.slot.fit.css, position_text(picture.cut.position)
    lines = (f"object-fit: {fit};", f"object-position: {position};")
    return declared(_picture_in(record.element), lines)


def _img_lines(record: BackdropRecord, shown: PublishedVariant, _: Addresses) -> list[Declaration]:
    """Of a page's own ``img`` whose subject has to stay in view; others lie as they did."""
    slot, picture = shown.view.slot, shown.view.picture
    if picture is None or not slot.places_picture:
        return []
    return declared(record.element, [f"object-position: {position_text(picture.cut.position)};"])


def own_img_sources(record: BackdropRecord, addresses: Addresses) -> str:
    """The sources of a page's own ``img``, which has to be the last child of their element."""
    return f"<picture {FOR_IMG}>{''.join(_sources(record, addresses))}</picture>"


FOR_IMG = 'data-backdrop style="display: contents"'
"""The element round a page's own ``img``: it has no box, so the page's rules go on to hold."""

IMG = Form(
    concerns=lambda record: record.backdrop.form == "img", lines=_img_lines, markup=own_img_sources
)

PICTURE = Form(
    concerns=lambda record: record.backdrop.form == "element",
    base=_base,
    lines=_lines,
    markup=picture_markup,
)
