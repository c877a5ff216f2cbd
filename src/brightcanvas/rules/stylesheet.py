"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

from textwrap import indent

from brightcanvas.basics.colours import Colour
from brightcanvas.basics.formats import FileFormat
from brightcanvas.basics.heights import AspectHeight, HeightRule
from brightcanvas.basics.legible import FADE, Scrim
from brightcanvas.basics.paddings import padding_lines
from brightcanvas.basics.shapes import Point, Rect, plain_number
from brightcanvas.brief.model import HostedWish, Slot
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, BackdropRecord, ClipShown, Record, Shipped, Shown
from brightcanvas.rules.conditions import breakpoint_condition, rung_condition
from brightcanvas.rules.escaping import css_string
from brightcanvas.rules.force import forced

INDENT = "  "


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
    for shown in record.shown:
        parts.append(_breakpoint(record, shown, addresses))
        parts.extend([] if record.is_element else _densities(record.element, shown, addresses))
    rules = "\n".join(parts) + "\n"
    return forced(rules) if record.force else rules


def _breakpoint(record: BackdropRecord, shown: Shown, addresses: Addresses) -> str:
    """What holds for the whole breakpoint, with the picture for browsers of any age."""
    slot = shown.view.slot
    sized = [*_height_lines(slot.height), *padding_lines(slot.padding)]
    base = [*sized, f"background-color: {shown.behind.css};"]
    layer = [] if record.is_element else _layer_lines(shown, addresses)
    if not drifts(shown):
        rules = [_block(record.element, [*base, *layer]), *_covering_rules(record, shown)]
        return _under(breakpoint_condition(slot.breakpoint), rules)
    name = f"drift-{record.name}-{slot.breakpoint.name}"
    rules = drift_rules(record.element, name, slot.drift, base, layer)
    return _under(breakpoint_condition(slot.breakpoint), rules) + "\n" + keyframes(name, slot.drift)


def _layer_lines(shown: Shown, addresses: Addresses) -> list[str]:
    """The picture, for browsers of any age, and how it lies in its box."""
    slot, picture = shown.view.slot, shown.view.picture
    if picture is None:
        return ["background-image: none;"]
    oldest = shown.shipped[0].assets[-1]
    picture_layer = f"url({css_string(addresses.of(oldest.file))})"
    lines = [f"background-image: {_layered(shown, picture_layer)};"]
    position, repeat = position_text(picture.cut.position), _repeat(slot)
    if shown.scrim and not shown.is_covered:  # a layer of its own, which always fills the box
        position, size, repeat = f"0 0, {position}", f"auto, {slot.fit.css}", f"no-repeat, {repeat}"
    else:
        size = slot.fit.css
    return [
        *lines,
        f"background-position: {position};",
        f"background-size: {size};",
        f"background-repeat: {repeat};",
        *_attachment_lines(slot),
    ]


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
        _block(element, box),
        _block(f":is({element}) > [data-moving-button]:not([hidden])", button),
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
        _block(video, [*_LAYER, *fill]),
        _block(f"{video}:not([data-state])", ["visibility: hidden;"]),
    ]
    if line := paused.get(clip.wish.when_paused):
        blocks.append(_block(f'{video}[data-state="paused"]', [line]))
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
        _block(holder, [*_LAYER, "overflow: hidden;", "container-type: size;"]),
        _block(f"{holder} > iframe", frame),
    ]


def _clip_of(element: str) -> str:
    return f":is({element}) > video[data-moving]"


def _covering_rules(record: BackdropRecord, shown: Shown) -> list[str]:
    """Where a clip or a picture lies in its box, as a background would, and the scrim above."""
    picture, rules = shown.view.picture, list[str]()
    if not shown.is_covered or picture is None:
        return rules
    position = f"object-position: {position_text(picture.cut.position)};"
    if shown.clip:
        rules.append(_block(_clip_of(record.element), [position]))
    if record.is_element:
        fit = f"object-fit: {shown.view.slot.fit.css};"
        rules.append(_block(_picture_in(record.element), [fit, position]))
    if shown.scrim and picture.copy:
        scrim = f"background-image: {gradient(shown.scrim, picture.copy)};"
        rules.append(_block(f":is({record.element})::after", ['content: "";', *_LAYER, scrim]))
    return rules


def _picture_in(element: str) -> str:
    return f":is({element}) > [data-backdrop] > img"


def _element_base(record: BackdropRecord) -> list[str]:
    """A picture behind the content, whatever the width: as large as its box, or as the window."""
    is_fixed = any(one.view.slot.attachment == "fixed" for one in record.shown)
    box = ["position: relative;", "isolation: isolate;"]
    box += [] if is_fixed else ["overflow: hidden;", "overflow: clip;"]
    fill = ["width: 100%;", "height: 100%;", "max-width: none;", "margin: 0;"]
    layer = ["position: fixed;", *_LAYER[1:]] if is_fixed else [*_LAYER]
    return [_block(record.element, box), _block(_picture_in(record.element), [*layer, *fill])]


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


def _densities(element: str, shown: Shown, addresses: Addresses) -> list[str]:
    target = layer_of(element) if drifts(shown) else element
    return [
        _under(
            rung_condition(shown, shipped),
            [_block(target, [_image_set(shown, shipped, addresses)])],
        )
        for shipped in shown.shipped
    ]


def _image_set(shown: Shown, shipped: Shipped, addresses: Addresses) -> str:
    """All formats of a rung, the browser takes the first it knows (CSS Images 4, section 2.4)."""
    candidates = ",\n".join(
        f"{INDENT * 3}url({css_string(addresses.of(asset.file))}) 1x{_type(asset)}"
        for asset in shipped.assets
    )
    layer = f"image-set(\n{candidates}\n{INDENT * 2})"
    return f"background-image: {_layered(shown, layer)};"


def _type(asset: Asset) -> str:
    """A drawing says none: Chromium passes over those that do, and every browser shows them."""
    is_drawing = asset.format is FileFormat.SVG
    return "" if is_drawing else f" type({css_string(asset.format.media_type)})"


def position_text(position: Point) -> str:
    """A position as CSS percentages, to a thousandth of a percent."""
    return f"{_percent(position.x)} {_percent(position.y)}"


def _percent(fraction: float) -> str:
    return f"{fraction * 100:.3f}".rstrip("0").rstrip(".") + "%"


def _block(selector: str, lines: list[str]) -> str:
    body = "\n".join(f"{INDENT}{line}" for line in lines)
    return f"{selector} {{\n{body}\n}}"


def _under(condition: str, rules: list[str]) -> str:
    """Rules under a media condition; an empty one asks for nothing."""
    text = "\n".join(rules)
    return f"@media {condition} {{\n{indent(text, INDENT)}\n}}" if condition else text


def drift_rules(
    element: str, name: str, travel: float, base: list[str], layer: list[str]
) -> list[str]:
    """A picture on a layer higher than its element by the travel, which scrolling moves.

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
    still = _under("(prefers-reduced-motion: no-preference)", [_block(layer_of(element), moving)])
    return [
        _block(element, [*base, *box]),
        _block(layer_of(element), [*placed, *layer]),
        f"@supports (animation-timeline: view()) {{\n{indent(still, INDENT)}\n}}",
    ]


def keyframes(name: str, travel: float) -> str:
    """From the layer's lower end to its upper one while the element crosses the window."""
    distance = f"{plain_number(travel)}px"
    begin = f"from {{ transform: translateY(-{distance}); }}"
    return f"@keyframes {name} {{\n  {begin}\n  to {{ transform: none; }}\n}}"
