"""The version of this very code, and where it lies."""

from __future__ import annotations

from pathlib import Path

VERSION = "0.1.0"
ROOT = Path(__file__).parent.parent
"""The package's folder."""
