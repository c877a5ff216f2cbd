"""The proof: the page frozen into one file, for whoever has to agree."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from brightcanvas.adjusting.page import frozen_page
from brightcanvas.adjusting.scene import Json
from brightcanvas.adjusting.session import Session
from brightcanvas.pipeline.building import output_of
from brightcanvas.pipeline.ownership import BY_INTO
from brightcanvas.pipeline.publishing import publish

PROOF = "proof.html"


@dataclass(frozen=True)
class Written:
    """A proof that was written."""

    bytes: int
    broken: int
    """How many promises are broken on it."""


def write_proof(brief: Path, folder: Path, limit: float) -> Written:
    """Write the proof of a brief.

    Args:
        brief: path of it.
        folder: that gets the page.
        limit: megapixels of a source, at most.

    Raises:
        BrightCanvasError: the brief or a source can't be used, or a file is in the way.
    """
    session = Session(brief, limit)
    try:
        state = session.state()
        scenes = [session.scene(one["name"]) for one in state["backdrops"]]
        names = dict.fromkeys(name for scene in scenes for name in _looks_of(scene))
        looks = {name: file for name in names if (file := session.looks.file(name))}
        output = output_of(session.said().brief, folder, "proof", BY_INTO)
    finally:
        session.close()
    page = frozen_page(state, scenes, looks).encode()
    publish(output, {PROOF: page})
    broken = sum(v["state"] == "broken" for scene in scenes for v in scene["verdicts"])
    return Written(len(page), broken)


def _looks_of(scene: Json) -> Iterator[str]:
    return (view["picture"]["look"] for view in scene["views"] if view["picture"])
