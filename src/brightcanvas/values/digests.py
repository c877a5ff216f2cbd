"""What tells one file's content from another's."""

from __future__ import annotations

import hashlib
from pathlib import Path

from brightcanvas.values.files import check_regular


def digest_of(path: Path) -> str:
    """SHA-256 of a regular file's bytes, in hex."""
    check_regular(path)
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
