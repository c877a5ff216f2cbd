"""``ledger.json``: the record for machines."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from brightcanvas.delivery.rule_text import position_text
from brightcanvas.framing.size_variants import Shortfall, shortfall_of
from brightcanvas.framing.stages import ViewportBox
from brightcanvas.ledger.record import (
    Asset,
    BackdropRecord,
    ClipShown,
    PublishedVariant,
    Record,
    Shipped,
    scrim_text,
)
from brightcanvas.pipeline.publishing import file_facts
from brightcanvas.plan.planned import Picture
from brightcanvas.promises.verdict import Verdict
from brightcanvas.values.geometry import Rect, Size, Span
from brightcanvas.values.legible import Scrim
from brightcanvas.values.version import VERSION

LEDGER_VERSION = 2


def ledger_text(
    record: Record,
    verdicts: Sequence[Verdict],
    files: Mapping[str, bytes],
    *,
    is_draft: bool = False,
) -> str:
    """The ledger as JSON; ``files`` are all published files but the ledger itself."""
    document = {
        "made_by": "bright-canvas",
        "version": VERSION,
        "ledger_version": LEDGER_VERSION,
        "draft": is_draft,
        "site": {"title": record.title, "address": record.addresses.prefix},
        "backdrops": [_backdrop(one) for one in record.backdrops],
        "promises": [verdict.facts for verdict in verdicts],
        "files": [file_facts(name, content) for name, content in sorted(files.items())],
    }
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


def _backdrop(one: BackdropRecord) -> dict[str, Any]:
    return {
        "name": one.name,
        "element": one.element,
        "first_view": one.first_view,
        "form": one.backdrop.form,
        "hosted": asdict(one.hosted) if one.hosted else None,
        "breakpoints": [_shown(shown) for shown in one.shown],
    }


def _shown(shown: PublishedVariant) -> dict[str, Any]:
    slot, picture = shown.view.slot, shown.view.picture
    return {
        "name": slot.breakpoint.name,
        "part": slot.breakpoint.part,
        "widths": _span(slot.breakpoint.widths),
        "condition": slot.breakpoint.when.media,
        "height": None if slot.boxes else slot.height.css(modern=True),
        "replaces": slot.replaces,
        "behind": shown.behind.css,
        "scrim": _scrim(shown.scrim) if shown.scrim else None,
        "picture": picture_facts(picture) if picture else None,
        "sizes": [_shipped(shipped) for shipped in shown.shipped],
        "oldest": _asset(shown.oldest) if shown.oldest else None,
        "clip": _clip(shown.clip) if shown.clip else None,
    }


def _clip(clip: ClipShown) -> dict[str, Any]:
    return {
        "assets": [asdict(asset) for asset in clip.assets],
        "plays": "round" if clip.loop.is_round else "once",
        "way": clip.loop.way,
        "why": clip.loop.why,
        "jump": {"before": round(clip.loop.before, 3), "after": round(clip.jump, 3)},
        "fade": round(clip.loop.fade, 3),
        "lost": round(clip.loop.lost, 3),
        "flashes": {
            "most": clip.flashes.flashes.most,
            "second": round(clip.flashes.flashes.second, 3),
        },
    }


def _scrim(scrim: Scrim) -> dict[str, Any]:
    return {**asdict(scrim), "colour": scrim.colour.css, "text": scrim_text(scrim)}


def picture_facts(picture: Picture) -> dict[str, Any]:
    """What is planned for one picture, as plain JSON values."""
    return {
        "source": picture.facts.path.name,
        "source_size": _size(picture.facts.size),
        "stage": {
            "narrowest": _sight(picture.stage.narrowest),
            "widest": _sight(picture.stage.widest),
        },
        "cut": _rect(picture.cut.area),
        "position": [round(picture.cut.position.x, 6), round(picture.cut.position.y, 6)],
        "position_css": position_text(picture.cut.position),
        "subjects": [_rect(subject) for subject in picture.subjects],
        "gave_way": list(picture.framed.gave_way),
        "shortfall": shortfall_facts(shortfall_of(picture.demand, picture.size_variants)),
    }


def _shipped(shipped: Shipped) -> dict[str, Any]:
    size_variant = shipped.size_variant
    return {
        "candidate": f"{size_variant.label}x",
        "shown": [size_variant.width, size_variant.height],
        "density": size_variant.density,
        "assets": [_asset(asset) for asset in shipped.assets],
    }


def shortfall_facts(shortfall: Shortfall | None) -> dict[str, Any] | None:
    """A shortfall as plain JSON values."""
    if shortfall is None:
        return None
    return {
        "viewport": _size(shortfall.viewport_box.viewport),
        "density": shortfall.density,
        "needed_width": shortfall.needed_width,
    }


def _asset(asset: Asset) -> dict[str, Any]:
    place = [round(part, 4) for part in asset.worst_place]
    return {**asdict(asset), "format": asset.format.media_type, "worst_place": place}


def _span(span: Span) -> list[float | None]:
    return [span.low, span.high if span.high < math.inf else None]


def _size(size: Size) -> list[float]:
    return [round(size.width, 3), round(size.height, 3)]


def _rect(rect: Rect) -> list[float]:
    return [round(edge, 3) for edge in rect.edges]


def _sight(viewport_box: ViewportBox) -> dict[str, Any]:
    return {"viewport": _size(viewport_box.viewport), "box": _size(viewport_box.box)}
