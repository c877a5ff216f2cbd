"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

from textwrap import indent

from brightcanvas.brief.model import HostedWish, Slot
from brightcanvas.delivery.candidates import image_set
from brightcanvas.delivery.conditions import breakpoint_condition
from brightcanvas.delivery.escaping import css_string
from brightcanvas.delivery.force import forced
from brightcanvas.delivery.sharing import INDENT, Line, Part, block, shared_rules, under
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, BackdropRecord, ClipShown, Record, Shown
from brightcanvas.values.colours import Colour
from brightcanvas.values.geometry import Point, Rect, plain_number
from brightcanvas.values.heights import AspectHeight, HeightRule
from brightcanvas.values.legible import FADE, Scrim
from brightcanvas.values.paddings import padding_lines


def stylesheet(record: Record, addresses: Addresses) -> str:
    """The whole style sheet; pictures are looked for at their addresses."""
    rules = "\n".join(backdrop_rules(one, addresses) for one in record.backdrops)
    return f"@layer {record.layer} {{\n{indent(rules, INDENT)}}}\n" if record.layer else rules


def backdrop_rules(record: BackdropRecord, addresses: Addresses) -> str:
    """The rules of one backdrop."""
    parts = [f"/* {record.name} */"]
    if record.clip or record.hosted:
        parts.append(_moving_base(record))
    if record.is_element:
        parts += _element_base(record)
    parts += shared_rules([_part(record, one, addresses) for one in record.shown])
    for shown in record.shown:
        if drifts(shown):
            parts.append(_drift(record, shown))
    rules = "\n".join(parts) + "\n"
    return forced(rules) if record.force else rules


def _part(record: BackdropRecord, shown: Shown, addresses: Addresses) -> Part:
    """Everything that holds for one part."""
    slot, element = shown.view.slot, record.element
    target = layer_of(element) if drifts(shown) else element
    lines = [
        *((element, one) for one in (*_height_lines(slot.height), *padding_lines(slot.padding))),
        (element, f"background-color: {shown.behind.css};"),
        *((target, one) for one in ([] if record.is_element else _layer_lines(shown, addresses))),
        *_covering_lines(record, shown),
    ]
    condition = breakpoint_condition(slot.breakpoint)
    own = breakpoint_condition(slot.breakpoint.whole)
    return Part(condition, own, tuple(lines))


def _layer_lines(shown: Shown, addresses: Addresses) -> list[str]:
    """The picture, and how it lies in its box; for browsers of any age first."""
    slot, picture = shown.view.slot, shown.view.picture
    if picture is None or shown.oldest is None:
        return ["background-image: none;"]
    plain = f"background-image: {_layered(shown, _url(shown.oldest, addresses))};"
    newer = f"background-image: {_layered(shown, image_set(shown, addresses))};"
    position, repeat, size = position_text(picture.cut.position), _repeat(slot), slot.fit.css
    if shown.scrim and not shown.is_covered:  # a layer of its own, which always fills the box
        position, size, repeat = f"0 0, {position}", f"auto, {size}", f"no-repeat, {repeat}"
    return [
        plain,
        *([] if shown.is_single else [newer]),
        f"background-position: {position};",
        f"background-size: {size};",
        f"background-repeat: {repeat};",
        *_attachment_lines(slot),
    ]


def _url(asset: Asset, addresses: Addresses) -> str:
    return f"url({css_string(addresses.of(asset.file))})"


def _layered(shown: Shown, picture_layer: str) -> str:
    """The picture with its scrim above it, if there is one."""
    picture = shown.view.picture
    if shown.scrim is None or shown.is_covered or picture is None or picture.copy is None:
        return picture_layer
    return f"{gradient(shown.scrim, picture.copy)}, {picture_layer}"


LINE = 1
"""CSS px of a scrim's fine lines, and of the gaps between them."""


def gradient(scrim: Scrim, copy: Rect) -> str:
    """A scrim as a CSS gradient: even under the copy (fractions of the box), fading beyond it."""
    colour = _rgb(scrim.colour, scrim.strength)
    ways = {
        "left": ("to right", copy.right),
        "right": ("to left", 1 - copy.left),
        "top": ("to bottom", copy.bottom),
        "bottom": ("to top", 1 - copy.top),
    }
    if scrim.lines:
        none, line = _rgb(scrim.colour, 0), f"{LINE}px"
        return f"repeating-linear-gradient({colour} 0 {line}, {none} {line} {2 * LINE}px)"
    if scrim.side is None:
        return f"linear-gradient({colour}, {colour})"
    way, reach = ways[scrim.side]
    end = min(1.0, reach + FADE)
    return (
        f"linear-gradient({way}, {colour} {_percent(reach)},"
        f" {_rgb(scrim.colour, 0)} {_percent(end)})"
    )


def _rgb(colour: Colour, strength: float) -> str:
    parts = " ".join(str(round(part * 255)) for part in (colour.red, colour.green, colour.blue))
    return f"rgb({parts} / {_percent(strength * colour.alpha)})"


def _moving_base(record: BackdropRecord) -> str:
    """What moves behind the content, above the still, whatever the width."""
    element = record.element
    box = ["position: relative;", "isolation: isolate;", "overflow: hidden;", "overflow: clip;"]
    button = [
        "position: absolute;", "right: 1rem;", "bottom: 1rem;", "z-index: 1;",
        "min-height: 44px;", "padding: 0 1rem;", "font: inherit;",
    ]  # fmt: skip
    blocks = [
        block(element, box),
        block(f":is({element}) > [data-moving-button]:not([hidden])", button),
    ]
    blocks += _clip_layer(_clip_of(element), record.clip) if record.clip else []
    blocks += (
        _frame_layer(f":is({element}) > [data-hosted]", record.hosted) if record.hosted else []
    )
    return "\n".join(blocks)


_LAYER = ("position: absolute;", "inset: 0;", "z-index: -1;", "pointer-events: none;")


def _clip_layer(video: str, clip: ClipShown) -> list[str]:
    fill = ["width: 100%;", "height: 100%;", "max-width: none;", "object-fit: cover;"]
    paused = {"dim": "filter: brightness(0.6);", "still": "visibility: hidden;"}
    blocks = [
        block(video, [*_LAYER, *fill]),
        block(f"{video}:not([data-state])", ["visibility: hidden;"]),
    ]
    if line := paused.get(clip.wish.when_paused):
        blocks.append(block(f'{video}[data-state="paused"]', [line]))
    return blocks


def _frame_layer(holder: str, hosted: HostedWish) -> list[str]:
    """A frame of a clip's shape, as large as covers the box (CSS Containment 3, section 4)."""
    width, height = hosted.shape
    frame = [
        "position: absolute;", "left: 50%;", "top: 50%;", "border: 0;", "max-width: none;",
        "width: 100%;", "height: 100%;",
        f"width: max(100cqw, calc(100cqh * {width} / {height}));",
        f"height: max(100cqh, calc(100cqw * {height} / {width}));",
        "transform: translate(-50%, -50%);",
    ]  # fmt: skip
    return [
        block(holder, [*_LAYER, "overflow: hidden;", "container-type: size;"]),
        block(f"{holder} > iframe", frame),
    ]


def _clip_of(element: str) -> str:
    return f":is({element}) > video[data-moving]"


def _covering_lines(record: BackdropRecord, shown: Shown) -> list[Line]:
    """Where a clip or a picture lies in its box, as a background would, and the scrim above."""
    picture, lines = shown.view.picture, list[Line]()
    if not shown.is_covered or picture is None:
        return lines
    position = f"object-position: {position_text(picture.cut.position)};"
    if shown.clip:
        lines.append((_clip_of(record.element), position))
    if record.is_element:
        image = _picture_in(record.element)
        lines += [(image, f"object-fit: {shown.view.slot.fit.css};"), (image, position)]
    if shown.scrim and picture.copy:
        scrim = f"background-image: {gradient(shown.scrim, picture.copy)};"
        above = f":is({record.element})::after"
        lines += [(above, one) for one in ('content: "";', *_LAYER, scrim)]
    return lines


def _picture_in(element: str) -> str:
    return f":is({element}) > [data-backdrop] > img"


def _element_base(record: BackdropRecord) -> list[str]:
    """A picture behind the content, whatever the width: as large as its box, or as the window."""
    is_fixed = any(one.view.slot.attachment == "fixed" for one in record.shown)
    box = ["position: relative;", "isolation: isolate;"]
    box += [] if is_fixed else ["overflow: hidden;", "overflow: clip;"]
    fill = ["width: 100%;", "height: 100%;", "max-width: none;", "margin: 0;"]
    layer = ["position: fixed;", *_LAYER[1:]] if is_fixed else [*_LAYER]
    return [block(record.element, box), block(_picture_in(record.element), [*layer, *fill])]


def drifts(shown: Shown) -> bool:
    """Whether the picture is on a layer of its own that drifts while the page scrolls."""
    return shown.view.picture is not None and shown.view.slot.drift > 0


def layer_of(element: str) -> str:
    """The selector of the layer behind an element's content that a drifting picture is on."""
    return f":is({element})::before" if "," in element else f"{element}::before"


def _repeat(slot: Slot) -> str:
    """Whole tiles along every axis on which the picture repeats."""
    if not slot.whole_motifs:
        return slot.repeat
    rounded = {"repeat": "round", "repeat-x": "round no-repeat", "repeat-y": "no-repeat round"}
    return rounded.get(slot.repeat, slot.repeat)


def _attachment_lines(slot: Slot) -> list[str]:
    if slot.attachment != "fixed":
        return []
    return ["background-attachment: fixed;"]


def _height_lines(height: HeightRule) -> list[str]:
    if isinstance(height, AspectHeight):
        return [f"aspect-ratio: {height.css(modern=True)};"]
    older, newer = height.css(modern=False), height.css(modern=True)
    lines = [f"min-height: {older};"]
    return lines if older == newer else [*lines, f"min-height: {newer};"]


def position_text(position: Point) -> str:
    """A position as CSS percentages, to a thousandth of a percent."""
    return f"{_percent(position.x)} {_percent(position.y)}"


def _percent(fraction: float) -> str:
    return f"{fraction * 100:.3f}".rstrip("0").rstrip(".") + "%"


def _drift(record: BackdropRecord, shown: Shown) -> str:
    """The layer that drifts at one part, and how it moves."""
    slot = shown.view.slot
    name = f"drift-{record.name}-{slot.breakpoint.full_name}"
    rules = drift_rules(record.element, name, slot.drift)
    return under(breakpoint_condition(slot.breakpoint), rules) + "\n" + keyframes(name, slot.drift)


def drift_rules(element: str, name: str, travel: float) -> list[str]:
    """A layer higher than its element by the travel, which scrolling moves.

    The movement is a scroll-driven animation (Scroll-driven Animations 1, section 3);
    browsers without it, and people who asked for less motion, see the layer held still in
    the middle of its way.
    """
    distance = f"{plain_number(travel)}px"
    box = ["position: relative;", "isolation: isolate;", "overflow: hidden;", "overflow: clip;"]
    placed = [
        'content: "";',
        "position: absolute;",
        "z-index: -1;",
        "inset: 0 0 auto;",
        f"height: calc(100% + {distance});",
        f"transform: translateY(calc({distance} / -2));",
    ]
    moving = [f"animation: {name} linear both;", "animation-timeline: view();"]
    still = under("(prefers-reduced-motion: no-preference)", [block(layer_of(element), moving)])
    return [
        block(element, box),
        block(layer_of(element), placed),
        f"@supports (animation-timeline: view()) {{\n{indent(still, INDENT)}\n}}",
    ]


def keyframes(name: str, travel: float) -> str:
    """From the layer's lower end to its upper one while the element crosses the window."""
    distance = f"{plain_number(travel)}px"
    begin = f"from {{ transform: translateY(-{distance}); }}"
    return f"@keyframes {name} {{\n  {begin}\n  to {{ transform: none; }}\n}}"
