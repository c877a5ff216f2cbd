"""The style sheet: colour first, then the old format, then the newer ones above it."""

from __future__ import annotations

from brightcanvas.basics.heights import AspectHeight, HeightRule
from brightcanvas.basics.shapes import Point
from brightcanvas.brief.model import Slot
from brightcanvas.ledger.model import BackdropRecord, Record, Shipped, Shown
from brightcanvas.rules.conditions import any_of, tile_condition, width_condition
from brightcanvas.rules.escaping import css_string

INDENT = "  "


def stylesheet(record: Record, address: str) -> str:
    """The whole style sheet; pictures are looked for at ``address``."""
    return "\n".join(_backdrop(one, address) for one in record.backdrops)


def _backdrop(record: BackdropRecord, address: str) -> str:
    parts = [f"/* {record.name} */"]
    for shown in record.shown:
        parts.append(_breakpoint(record.element, shown, address))
        parts.extend(_densities(record.element, shown, address))
    return "\n".join(parts) + "\n"


def _breakpoint(element: str, shown: Shown, address: str) -> str:
    """What holds for the whole breakpoint, with the picture for browsers of any age."""
    slot = shown.view.slot
    lines = [*_height_lines(slot.height), f"background-color: {shown.behind.css};"]
    picture = shown.view.picture
    if picture:
        oldest = shown.shipped[0].assets[-1]
        lines += [
            f"background-image: url({css_string(address + oldest.file)});",
            f"background-position: {position_text(picture.cut.position)};",
            f"background-size: {slot.fit.css};",
            f"background-repeat: {_repeat(slot)};",
            *_attachment_lines(slot),
        ]
    else:
        lines.append("background-image: none;")
    return _rule(width_condition(slot.breakpoint.widths), element, lines)


def _repeat(slot: Slot) -> str:
    """Whole tiles along every axis on which the picture repeats."""
    if not slot.whole_motifs:
        return slot.repeat
    rounded = {"repeat": "round", "repeat-x": "round no-repeat", "repeat-y": "no-repeat round"}
    return rounded.get(slot.repeat, slot.repeat)


def _attachment_lines(slot: Slot) -> list[str]:
    return ["background-attachment: fixed;"] if slot.attachment == "fixed" else []


def _height_lines(height: HeightRule) -> list[str]:
    if isinstance(height, AspectHeight):
        return [f"aspect-ratio: {height.css(modern=True)};"]
    older, newer = height.css(modern=False), height.css(modern=True)
    lines = [f"min-height: {older};"]
    return lines if older == newer else [*lines, f"min-height: {newer};"]


def _densities(element: str, shown: Shown, address: str) -> list[str]:
    return [
        _rule(rung_condition(shown, shipped), element, [_image_set(shipped, address)])
        for shipped in shown.shipped
    ]


def rung_condition(shown: Shown, shipped: Shipped) -> str:
    """The condition for the screens that get this rung; style sheet and hint share it."""
    widths = shown.view.slot.breakpoint.widths
    return any_of(tile_condition(tile, widths) for tile in shipped.rung.tiles)


def _image_set(shipped: Shipped, address: str) -> str:
    """All formats of a rung, the browser takes the first it knows (CSS Images 4, section 2.4)."""
    candidates = ",\n".join(
        f"{INDENT * 3}url({css_string(address + asset.file)}) 1x"
        f" type({css_string(asset.format.media_type)})"
        for asset in shipped.assets
    )
    return f"background-image: image-set(\n{candidates}\n{INDENT * 2});"


def position_text(position: Point) -> str:
    """A position as CSS percentages, to a thousandth of a percent."""
    return f"{_percent(position.x)} {_percent(position.y)}"


def _percent(fraction: float) -> str:
    return f"{fraction * 100:.3f}".rstrip("0").rstrip(".") + "%"


def _rule(condition: str, element: str, lines: list[str]) -> str:
    indent = INDENT if condition else ""
    body = "\n".join(f"{indent}{INDENT}{line}" for line in lines)
    rule = f"{indent}{element} {{\n{body}\n{indent}}}"
    return f"@media {condition} {{\n{rule}\n}}" if condition else rule
