"""Where the published files will be found on the web."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Addresses:
    """URLs by file name: from a table where it has one, else a prefix and the name."""

    prefix: str = ""
    table: Mapping[str, str] = field(default_factory=dict)

    def of(self, file: str) -> str:
        """The URL of a published file, one text wherever it stands.

        Spaces and commas are escaped: in a ``srcset`` they would part it.
        """
        url = self.table.get(file) or self.prefix + file
        return url.replace(" ", "%20").replace(",", "%2C")

    def lacking(self, files: Iterable[str]) -> tuple[str, ...]:
        """The files that a table should have and doesn't; none where there is no table."""
        return tuple(one for one in files if one not in self.table) if self.table else ()


BESIDE = Addresses()
"""Files beside the page."""
