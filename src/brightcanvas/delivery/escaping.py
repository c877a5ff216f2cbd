"""Making text inert inside a style sheet."""

from __future__ import annotations

import re


def css_string(text: str) -> str:
    """A CSS string (CSS Syntax 3, section 4.3.5), safe also inside a ``style`` element."""
    return '"' + re.sub(r'["\\<>&\x00-\x1f\x7f]', _escaped, text) + '"'


def _escaped(match: re.Match[str]) -> str:
    return f"\\{ord(match[0]):x} "
