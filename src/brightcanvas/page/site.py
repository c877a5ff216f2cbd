"""What is named to be read: a page, a folder of pages, or an address on this machine."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from urllib.parse import unquote, urlsplit

from brightcanvas.page.folder import HOST, LARGEST_TEXT, Folder, folder_of
from brightcanvas.page.http_client import NotFetchedError, fetch
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import read_regular

MOST_PAGES = 200
"""Of a folder."""

DEEPEST_ROOT = 4
"""Folders above a page in which what it names may lie."""

SITE_FILES = [
    ".css",
    ".js",
    ".jpg",
    ".jpeg",
    ".png",
    ".webp",
    ".avif",
    ".svg",
    ".gif",
    ".mp4",
    ".webm",
]
"""What a page names with ``../``, by which its site's folder is found."""

LOOPBACK = ("127.0.0.1", "localhost", "[::1]", "::1")

LEFT_OUT = ("node_modules", ".git")

_ABOVE = re.compile(
    r"""(?:src|href|srcset|poster|url)\s*[=(]\s*["']?((?:\.\./)+[^"'()\s>]+)""", re.I
)


@dataclass(frozen=True)
class FetchedFolder(Folder):
    """A host on this machine; its files are fetched when they are asked for."""

    host: str = ""
    """Scheme, name and port."""

    def file(self, url: str) -> Path | None:
        """The file behind a URL, fetched the first time; None where the host has none."""
        parts = urlsplit(url)
        if f"{parts.scheme}://{parts.netloc}" != HOST:
            return None
        asked = parts.path + (f"?{parts.query}" if parts.query else "")
        path = self.root.joinpath(*_kept_as(parts.path, parts.query))
        if not path.exists():
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(fetch(self.host + asked))
            except (NotFetchedError, OSError):
                return None
        return path


def _kept_as(path: str, query: str) -> list[str]:
    """The folders and the name under which a fetched file is kept."""
    names = [re.sub(r"[^\w.-]", "_", unquote(one)).strip(".")[-80:] for one in path.split("/")]
    names = [one for one in names if one] or ["index.html"]
    if query:
        names.insert(0, hashlib.sha256(query.encode()).hexdigest()[:8])
    return names


@contextmanager
def pages_at(targets: str | Sequence[str], root: Path | None) -> Iterator[tuple[Folder, ...]]:
    """The pages that are named, each once.

    Args:
        targets: HTML files, folders, or ``http://localhost:8000/page``.
        root: what stands for the host's ``/``; None: found by what the pages name.

    Raises:
        BriefError: nothing is there, or the address is another machine's.
    """
    named = [targets] if isinstance(targets, str) else list(targets)
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as kept:
        found = [
            folder for one in named
            for folder in ((_fetched(one, Path(kept)),) if _is_address(one)
                           else _on_disk(Path(one), root))
        ]  # fmt: skip
        yield _below_one_root(tuple({one.page.resolve(): one for one in found}.values()))


def _is_address(target: str) -> bool:
    return bool(re.match(r"https?://", target, re.I))


def _below_one_root(found: tuple[Folder, ...]) -> tuple[Folder, ...]:
    """Pages of one site have one root, the folder round all of theirs."""
    on_disk = [one for one in found if not isinstance(one, FetchedFolder)]
    roots = {one.root.resolve() for one in on_disk}
    if len(roots) < 2:
        return found
    shared = Path(os.path.commonpath(roots))
    opened = {path for one in on_disk for path in one.open_to or (one.root.resolve(),)}
    return tuple(
        one if isinstance(one, FetchedFolder)
        else replace(one, root=shared, open_to=tuple(sorted(opened)))
        for one in found
    )  # fmt: skip


def _on_disk(path: Path, root: Path | None) -> tuple[Folder, ...]:
    if not path.is_dir():
        return (folder_of(path, root) if root else _opened(path),)
    found = sorted(
        one
        for one in path.rglob("*")
        if one.suffix.lower() in (".html", ".htm") and not set(LEFT_OUT) & set(one.parts)
    )
    if not found:
        raise BriefError(f"{path}: no HTML file is in that folder")
    if len(found) > MOST_PAGES:
        raise BriefError(f"{path}: {len(found)} pages, more than {MOST_PAGES}: name a folder in it")
    return tuple(folder_of(one, root or path) for one in found)


def _opened(page: Path) -> Folder:
    """A page with its own folder, and of those above it the ones whose files it names.

    Of ``../assets/site.css`` that is ``assets``, not all that lies beside it.
    """
    own = page.resolve().parent
    root, opened = own, [own]
    for path in _named_above(page):
        shared = Path(os.path.commonpath((own, path)))
        if len(own.relative_to(shared).parts) <= DEEPEST_ROOT:
            opened.append(shared / path.relative_to(shared).parts[0])
            root = min(root, shared, key=lambda one: len(one.parts))
    found = folder_of(page, root)
    return replace(found, open_to=tuple(dict.fromkeys(opened)) if root != own else ())


def _named_above(page: Path) -> list[Path]:
    """The files of a site that a page names with ``../``, as far as they are there."""
    try:
        text = read_regular(page, LARGEST_TEXT).decode("utf-8", "replace")
    except OSError:
        return []
    named = (page.resolve().parent / unquote(one) for one in _ABOVE.findall(text))
    return [one.resolve() for one in named if _is_site_file(one)]


def _is_site_file(path: Path) -> bool:
    """Whether it is there, and a file that sites have."""
    try:
        is_there = path.is_file()
    except OSError:
        return False
    return is_there and path.suffix.lower() in SITE_FILES


def _fetched(address: str, kept: Path) -> Folder:
    parts = urlsplit(address)
    if (parts.hostname or "") not in LOOPBACK:
        raise BriefError(
            f"{address}: only pages of this machine are read; serve the site on localhost, or name"
            " its folder"
        )
    host = f"{parts.scheme}://{parts.netloc}"
    path = parts.path or "/"
    page = kept.joinpath(*_kept_as(path, ""))
    try:
        content = fetch(host + path + (f"?{parts.query}" if parts.query else ""))
    except NotFetchedError as error:
        raise BriefError(f"{address}: nothing is served there ({error})") from error
    page.parent.mkdir(parents=True, exist_ok=True)
    page.write_bytes(content)
    return FetchedFolder(kept, page, host=host)
