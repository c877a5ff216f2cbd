"""What the workshop has made, as text for the store."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.analysis.seams import Seams
from brightcanvas.framing.weights import Fitting, Places, Tried, Weights
from brightcanvas.quality.content import Content
from brightcanvas.quality.metric import Score
from brightcanvas.values.geometry import Point, Rect
from brightcanvas.values.picture_formats import Encoding, FileFormat
from brightcanvas.workshop.made import Look, Made


def look_text(look: Look) -> str:
    """A look as JSON."""
    return json.dumps(asdict(look))


def look_from(text: str) -> Look:
    """A look from its JSON."""
    parts = json.loads(text)
    seams, subject = parts["seams"], parts["suggestion"]
    return Look(
        Content(**parts["content"]),
        Seams(**seams) if seams else None,
        _suggestion_from(subject) if subject else None,
    )


def _suggestion_from(parts: dict[str, Any]) -> Suggestion:
    return Suggestion(Point(**parts["point"]), Rect(**parts["box"]), parts["confidence"])


def made_parts(made: Made, name: str) -> dict[str, Any]:
    """A made file as JSON values; its content is kept under a name of its own."""
    encoding = {**asdict(made.encoding), "format": made.encoding.format.name}
    return {
        "encoding": encoding, "score": asdict(made.score), "kept": made.is_source, "name": name,
        "size": made.size,
    }  # fmt: skip


def made_from(parts: dict[str, Any], content: bytes) -> Made:
    """A made file from its JSON values and its content."""
    encoding = {**parts["encoding"], "format": FileFormat[parts["encoding"]["format"]]}
    score = parts["score"]
    return Made(
        Encoding(**encoding),
        Score(score["mean"], score["worst"], tuple(score["place"])),
        content,
        tuple(parts["size"]),
        parts["kept"],
    )


def tried_text(tried: Tried) -> str:
    """What trials told, as JSON."""
    return json.dumps(asdict(tried))


def tried_from(text: str) -> Tried:
    """What trials told, from its JSON."""
    parts = json.loads(text)
    fittings = tuple(Fitting(**one) for one in parts["fittings"])
    sums = tuple(tuple(row) for row in parts["places"]["sums"])
    return Tried(Weights(**parts["weights"]), fittings, Places(sums))
