"""The viewport tag: how wide phones lay a page out, and by which width they judge its hints.

Measured in Chromium with a mobile viewport: a hint that stands before the tag is judged at the
fallback width, a page without a tag is laid out at it, and there hints of either width are fetched.
"""

from __future__ import annotations

import re
from dataclasses import replace

from brightcanvas.html.tree import Node
from brightcanvas.page.reading import Page
from brightcanvas.values.environments import AXES, Environment

FALLBACK_WIDTH = 980.0
"""CSS px that phones and tablets lay a page out at which says nothing."""

_WIDTH = re.compile(r"\bwidth\s*=\s*(\d+|device-width)", re.I)
_SCALE = re.compile(r"\binitial-scale\s*=\s*(\d*\.?\d+)", re.I)


def is_mobile(environment: Environment) -> bool:
    """Whether it is a screen whose browser heeds the tag, and is narrower than the fallback."""
    return environment.word("pointer") == "coarse" and environment.width < FALLBACK_WIDTH


def as_framed(environment: Environment) -> Environment:
    """The window of a page in a frame, where the tag of that page counts for nothing."""
    return replace(environment, said={**environment.said, "pointer": AXES["pointer"].usual})


def viewport_tag(page: Page) -> Node | None:
    """The tag, or the script in the page's markup that writes one; None: there is neither."""
    for node in page.nodes("meta", "script"):
        is_tag = node.tag == "meta" and node.get("name", "").strip().lower() == "viewport"
        if is_tag or (node.tag == "script" and "viewport" in "".join(node.itertext())):
            return node
    return None


def laid_out(page: Page, environment: Environment) -> Environment:
    """The window as wide as its browser lays the page out."""
    width = _stated_width(page, environment) if is_mobile(environment) else environment.width
    if width == environment.width:
        return environment
    return replace(
        environment, width=width, height=round(environment.height * width / environment.width)
    )


def _stated_width(page: Page, environment: Environment) -> float:
    tag = viewport_tag(page)
    if tag is None:
        return FALLBACK_WIDTH
    said = tag.get("content", "") if tag.tag == "meta" else "width=device-width"
    width, scale = _WIDTH.search(said), _SCALE.search(said)
    if width and width[1].isdigit():
        return float(width[1])
    return environment.width if width or scale else FALLBACK_WIDTH


def judged_by(page: Page, node: Node, device: Environment) -> tuple[Environment, ...]:
    """The windows that a hint in the markup is judged by.

    Args:
        page: that it stands in.
        node: the hint.
        device: the window, as wide as the screen.
    """
    if not is_mobile(device):
        return (device,)
    tag = viewport_tag(page)
    if tag is None:
        return device, laid_out(page, device)
    is_early = page.order(node) < page.order(tag)
    return (replace(device, width=FALLBACK_WIDTH),) if is_early else (laid_out(page, device),)
