"""Limits that hold unless somebody says otherwise."""

from __future__ import annotations

LARGEST_SOURCE = 120.0
"""Megapixels. A larger source is refused: decoded, it takes 3 to 4 bytes per pixel."""
