"""Style texts and URLs as pages have them, before they are parsed: some are none."""

from __future__ import annotations

import re
from typing import Any
from urllib.parse import quote, urlsplit

import tinycss2

MOST_NESTED = 60
"""Brackets within brackets."""

_LONG_NUMBER = re.compile(r"\d{300}")
"""Longer than any number that a computer calculates with."""


def exceeds_limits(text: str) -> bool:
    """Whether reading a text is not worth the risk: brackets nested deeply, endless numbers."""
    return _is_too_deep(text) or bool(_LONG_NUMBER.search(text))


def _is_too_deep(text: str) -> bool:
    depth = 0
    for sign in text:
        if sign in "([{":
            depth += 1
            if depth > MOST_NESTED:
                return True
        elif sign in ")]}":
            depth = max(0, depth - 1)
    return False


def component_values(text: str) -> list[Any]:
    """The tokens of a value; none of one that is unbearable."""
    return [] if exceeds_limits(text) else list(tinycss2.parse_component_value_list(text))


NOWHERE = "about:invalid"
"""In the place of a URL that can't be read (CSS Values 4, section 4.5.3); nothing is fetched."""

_KEPT = "".join(chr(code) for code in range(0x21, 0x7F) if chr(code) not in '"#<>`{}^')
"""Of a path (URL Standard, section 1.3); all else is written as ``%`` and its bytes."""

_SCHEME = re.compile(r"[a-zA-Z][a-zA-Z0-9+.-]*:")


def joined(base: str, url: str) -> str:
    """A URL as an absolute one, without its fragment; what names a fragment alone is nowhere.

    As browsers join (URL Standard, section 4.4): ``a//b`` and ``a/b`` are two addresses.
    """
    url = re.sub(r"[\t\n\r]", "", url.strip("".join(map(chr, range(0x21)))))
    if _SCHEME.match(url) and not url.lower().startswith(("http:", "https:")):
        return url
    try:
        own, rest = urlsplit(base), url.split("#", 1)[0]
        if not rest:
            return NOWHERE if url else base
        rest, mark, query = rest.partition("?")
        rest = rest.replace("\\", "/")
        return _joined(own.scheme, own.netloc, own.path, rest) + (
            mark + quote(query, safe=_KEPT + "`{}^")
        )
    except ValueError:  # brackets that hold no address, characters that can't stand in a host
        return NOWHERE


def _joined(scheme: str, host: str, path: str, url: str) -> str:
    if _SCHEME.match(url):
        scheme, _, url = url.partition(":")
    if url.startswith("//"):
        host, slash, url = url[2:].partition("/")
        urlsplit(f"{scheme}://{host}")
        url = slash + url
    elif not url.startswith("/"):
        url = path if not url else path[: path.rfind("/") + 1] + url
    return f"{scheme.lower()}://{host.lower()}{quote(_without_dots(url or '/'), safe=_KEPT)}"


def _without_dots(path: str) -> str:
    """``.`` and ``..`` taken out; empty parts stay."""
    parts = path.split("/")[1:]
    kept: list[str] = []
    for number, part in enumerate(parts):
        is_last = number == len(parts) - 1
        if part.lower() in ("..", ".%2e", "%2e.", "%2e%2e"):
            if kept:
                kept.pop()
            if is_last:
                kept.append("")
        elif part.lower() in (".", "%2e"):
            if is_last:
                kept.append("")
        else:
            kept.append(part)
    return "/" + "/".join(kept)
