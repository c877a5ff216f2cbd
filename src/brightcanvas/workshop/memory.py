"""What the workshop has made, as text for the store."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from brightcanvas.basics.formats import Encoding, FileFormat
from brightcanvas.basics.shapes import Point, Rect
from brightcanvas.eye.attention import Suggestion
from brightcanvas.eye.seams import Seams
from brightcanvas.weight.content import Content
from brightcanvas.weight.lightest import Guide, Known
from brightcanvas.weight.likeness import Score
from brightcanvas.weight.mosaic import Picked
from brightcanvas.workshop.made import Look, Made


def look_text(look: Look) -> str:
    """A look as JSON."""
    return json.dumps(asdict(look))


def look_from(text: str) -> Look:
    """A look from its JSON."""
    parts = json.loads(text)
    subject = parts["suggestion"]
    suggestion = Suggestion(
        Point(**subject["point"]), Rect(**subject["box"]), subject["confidence"]
    )
    return Look(Content(**parts["content"]), Seams(**parts["seams"]), suggestion)


def made_parts(made: Made, name: str) -> dict[str, Any]:
    """A made file as JSON values; its content is kept under a name of its own."""
    encoding = {**asdict(made.encoding), "format": made.encoding.format.name}
    return {
        "encoding": encoding, "score": asdict(made.score), "kept": made.is_source, "name": name,
    }  # fmt: skip


def made_from(parts: dict[str, Any], content: bytes) -> Made:
    """A made file from its JSON values and its content."""
    encoding = {**parts["encoding"], "format": FileFormat[parts["encoding"]["format"]]}
    score = parts["score"]
    return Made(
        Encoding(**encoding),
        Score(score["mean"], score["worst"], tuple(score["place"])),
        content,
        parts["kept"],
    )


def guide_text(guide: Guide) -> str:
    """A guide as JSON."""
    return json.dumps(asdict(guide))


def guide_from(text: str) -> Guide:
    """A guide from its JSON."""
    parts = json.loads(text)
    picked = parts["picked"]
    places = tuple((x, y) for x, y in picked["places"]) if picked else ()
    known = {name: Known(**one) for name, one in parts["known"].items()}
    return Guide(parts["density"], Picked(places) if picked else None, known)
