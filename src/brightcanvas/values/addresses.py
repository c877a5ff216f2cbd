"""URLs as pages have them: some are none."""

from __future__ import annotations

from urllib.parse import urljoin

NOWHERE = "about:invalid"
"""In the place of a URL that can't be read (CSS Values 4, section 4.5.3); nothing is fetched."""


def joined(base: str, url: str) -> str:
    """A URL as an absolute one."""
    try:
        return urljoin(base, url)
    except ValueError:  # brackets that hold no address, characters that can't stand in a host
        return NOWHERE
