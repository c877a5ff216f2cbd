"""Winning against a host that writes inline styles, with no more force than that takes."""

from __future__ import annotations

import re

_FORCED = re.compile(r"^\s*(?:background(?:-\w+)*|min-height|aspect-ratio|box-sizing|padding):")


def forced(rules: str) -> str:
    """Rules whose backgrounds and heights win against inline styles.

    Only those are made important; what builds a layer of its own has no rival. A declaration
    ends where a line ends in a semicolon, which no string of ours does.
    """
    lines, is_inside = [], False
    for line in rules.split("\n"):
        is_inside = is_inside or bool(_FORCED.match(line))
        if is_inside and line.endswith(";"):
            lines.append(f"{line[:-1]} !important;")
            is_inside = False
        else:
            lines.append(line)
    return "\n".join(lines)
