"""The page itself: live, or frozen into one file that needs nothing but itself."""

from __future__ import annotations

import base64
import json
import re
from collections.abc import Mapping
from importlib.resources import files

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from brightcanvas.adjusting.scene import Json

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
    text = re.sub(r"(?m)^[ \t]*(?://[^\n]*\n|\n)?|(?<=[;,]) // .*$", "", text)
    if not name.endswith(".css"):
        return text
    return re.sub(r"\s*([{};,])\s*|(?<=:)\s+", r"\1", text).replace(";}", "}")


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


def rendered(name: str, **facts: object) -> str:
    """One of the page's templates with facts in it, escaped."""
    loader = PackageLoader("brightcanvas.adjusting", "pages")
    text: str = Environment(loader=loader, autoescape=True).get_template(name).render(**facts)
    return text
