"""The folder that stands for a page's host."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from urllib.parse import unquote, urljoin, urlsplit

from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_regular

LARGEST_TEXT = 5_000_000
"""Bytes of a page or a style sheet."""

HOST = "http://page.invalid"
"""A host that can't exist (RFC 2606), for pages that are still on the disk."""


_TEXTS = (".html", ".htm", ".xhtml", ".css", ".js", ".mjs", ".json", ".webmanifest", ".xml", ".txt",
          ".vtt", ".wasm")  # fmt: skip
_PICTURES = (".jpg", ".jpeg", ".jfif", ".png", ".apng", ".gif", ".webp", ".avif", ".jxl", ".svg",
             ".ico", ".bmp", ".tif", ".tiff")  # fmt: skip
_MEDIA = (".mp4", ".m4v", ".mov", ".webm", ".ogv", ".ogg", ".mp3", ".m4a", ".wav", ".pdf")
_FONTS = (".woff", ".woff2", ".ttf", ".otf", ".eot")
SHOWN = frozenset((*_TEXTS, *_PICTURES, *_MEDIA, *_FONTS))
"""Endings of the files that pages are made of."""


@dataclass(frozen=True)
class Folder:
    """Files as their host will serve them."""

    root: Path
    """What stands for the host's ``/``."""
    page: Path
    open_to: tuple[Path, ...] = ()
    """Folders and files below the root that may be read, resolved; none: all of it."""

    @property
    def address(self) -> str:
        """The page's URL."""
        return urljoin(f"{HOST}/", self.page.resolve().relative_to(self.root.resolve()).as_posix())

    def file(self, url: str) -> Path | None:
        """The file behind a URL; None for other hosts, and for files that aren't there."""
        try:
            parts = urlsplit(url)
            if f"{parts.scheme}://{parts.netloc}" != HOST:
                return None
            path = (self.root / unquote(parts.path).lstrip("/")).resolve()
            return path if self._may_be_read(path) and path.is_file() else None
        except (OSError, ValueError, RuntimeError):  # names that no file can have
            return None

    def _may_be_read(self, path: Path) -> bool:
        """Whether a site would show it: no page reads what else lies on this machine."""
        root = self.root.resolve()
        if path == self.page.resolve():
            return True
        if not path.is_relative_to(root) or path.suffix.lower() not in SHOWN:
            return False
        is_hidden = any(part.startswith(".") for part in path.relative_to(root).parts)
        is_open = not self.open_to or any(path.is_relative_to(one) for one in self.open_to)
        return is_open and not is_hidden

    def bytes_of(self, url: str) -> int | None:
        """The size of the file behind a URL, if it is known."""
        path = self.file(url)
        try:
            return path.stat().st_size if path else None
        except OSError:
            return None

    def text(self, url: str) -> str | None:
        """A text file; what is no UTF-8 in it is replaced, as browsers do."""
        path = self.file(url)
        try:
            return read_regular(path, LARGEST_TEXT).decode("utf-8", "replace") if path else None
        except OSError:
            return None


def folder_of(page: Path, root: Path | None = None) -> Folder:
    """The folder of a page; its host's ``/`` is the page's own folder unless it is named.

    Raises:
        BriefError: the page is no file, or lies outside the root.
    """
    if not page.is_file():
        raise BriefError(f"{page}: no page is there; build first, or name an HTML file")
    root = root or page.parent
    if not page.resolve().is_relative_to(root.resolve()):
        raise BriefError(f"{page} doesn't lie in {root}: name a --root that it lies in")
    return Folder(root, page)
