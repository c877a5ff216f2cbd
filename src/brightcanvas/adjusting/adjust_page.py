"""The page itself: live, or frozen into one file that needs nothing but itself."""

from __future__ import annotations

import base64
import json
from base64 import b64encode
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

import rcssmin
import rjsmin
from markupsafe import Markup

from brightcanvas.adjusting.proposals import Proposal, Shot
from brightcanvas.adjusting.scene import Json
from brightcanvas.adjusting.session import Session
from brightcanvas.pipeline.building import output_of
from brightcanvas.pipeline.ownership import BY_INTO
from brightcanvas.pipeline.publishing import publish
from brightcanvas.templates.rendering import rendered

SCRIPTS = {
    "adjust.css": "text/css; charset=utf-8",
    "geometry.js": "text/javascript; charset=utf-8",
    "tiles.js": "text/javascript; charset=utf-8",
    "screens.js": "text/javascript; charset=utf-8",
    "adjust.js": "text/javascript; charset=utf-8",
}
"""The parts of the page, with their media types, in the order in which they are loaded."""

FROZEN_SCRIPTS = ("geometry.js", "tiles.js", "screens.js", "proof.js")


def part_of_page(name: str) -> str:
    """One of the files of a page, without what only those who work on it read."""
    text = files("brightcanvas.adjusting").joinpath("pages", name).read_text("utf-8")
    return str(rcssmin.cssmin(text) if name.endswith(".css") else rjsmin.jsmin(text))


def live_page(state: Json) -> str:
    """The page that asks its server."""
    return rendered("adjust.html.j2", title=state["title"] or state["file"])


def frozen_page(state: Json, scenes: list[Json], looks: Mapping[str, tuple[bytes, str]]) -> str:
    """The page with everything in it.

    Args:
        state: of the session.
        scenes: of all backdrops.
        looks: every picture that the scenes name, with its media type.
    """
    rules = "".join(
        f'.look-{name} {{ background-image: url("{_data_url(*look)}"); }}\n'
        for name, look in looks.items()
    )
    scripts = [part_of_page(name) for name in FROZEN_SCRIPTS]
    return rendered(
        "proof.html.j2",
        title=state["title"] or state["file"],
        style=Markup(part_of_page("adjust.css") + part_of_page("proof.css")),
        pictures=Markup(rules),
        script=Markup("\n".join(scripts)),
        facts=Markup(inert_json({"state": state, "scenes": scenes})),
    )


def inert_json(value: Json) -> str:
    """JSON that may stand in a page's script element."""
    text = json.dumps(value)
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def _data_url(content: bytes, media_type: str) -> str:
    return f"data:{media_type};base64,{base64.b64encode(content).decode()}"


WIDEST, HIGHEST = 260, 260
"""CSS px of a picture."""

MARK = '<meta name="generator" content="Bright Canvas">'
"""By which the page is known as ours."""


def better_page(title: str, brief: str, proposals: Sequence[Proposal]) -> bytes:
    """The page.

    Args:
        title: of the site.
        brief: the name of its file.
        proposals: at least one.
    """
    return rendered(
        "better.html.j2", title=title, brief=brief, proposals=proposals, across=_across,
        encoded=lambda file: b64encode(file).decode(),
    ).encode()  # fmt: skip


def _across(shot: Shot) -> int:
    return round(min(WIDEST, HIGHEST * shot.box.aspect))


PROOF = "proof.html"


@dataclass(frozen=True)
class WrittenProof:
    """A proof that was written."""

    bytes: int
    broken: int
    """How many promises are broken on it."""


def write_proof(brief: Path, folder: Path, limit: float) -> WrittenProof:
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
    return WrittenProof(len(page), broken)


def _looks_of(scene: Json) -> Iterator[str]:
    return (view["picture"]["look"] for view in scene["views"] if view["picture"])
