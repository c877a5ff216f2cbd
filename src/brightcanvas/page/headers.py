"""Hints that come with a page's answer: the ``Link`` header (RFC 8288)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

_LINK = re.compile(
    r"\s*<([^>]*)>((?:\s*;\s*[\w*!-]+(?:\s*=\s*(?:\"(?:[^\"\\]|\\.)*\"|[^\s;,\"]+))?)*)"
)
_PARAMETER = re.compile(r";\s*([\w*!-]+)(?:\s*=\s*(?:\"((?:[^\"\\]|\\.)*)\"|([^\s;,\"]+)))?")


@dataclass(frozen=True)
class HeaderHint:
    """One link of a header."""

    url: str
    attributes: dict[str, str]
    """As a ``link`` element would have them."""
    waits: bool = False
    """Whether it starts behind everything that the page's markup names."""

    @property
    def is_conditional(self) -> bool:
        """Whether it is for some windows only, or leaves a choice."""
        return bool({"media", "imagesrcset"} & set(self.attributes))


def header_hints(text: str) -> tuple[HeaderHint, ...]:
    """The preload links of header lines such as ``Link: </a.avif>; rel=preload; as=image``."""
    return tuple(
        one
        for line in text.splitlines()
        if line.lower().startswith("link:")
        for one in _links(line.partition(":")[2])
        if "preload" in one.attributes.get("rel", "").lower().split()
    )


def _links(value: str) -> Iterator[HeaderHint]:
    at = 0
    while match := _LINK.match(value, at):
        said: dict[str, str] = {}
        for name, quoted, plain in _PARAMETER.findall(match[2]):
            said.setdefault(name.lower(), re.sub(r"\\(.)", r"\1", quoted) or plain)
        yield HeaderHint(match[1], said)
        comma = re.compile(r"\s*,").match(value, match.end())
        if not comma:
            return
        at = comma.end()
