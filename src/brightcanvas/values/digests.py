"""What tells one file's content from another's."""

from __future__ import annotations

import hashlib
from pathlib import Path


def digest_of(path: Path) -> str:
    """SHA-256 of a file's bytes, in hex."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
