"""Limits that hold unless somebody says otherwise."""

from __future__ import annotations

LARGEST_SOURCE = 120.0
"""Megapixels. A larger source is refused: decoded, it takes 3 to 4 bytes per pixel."""

LARGEST_COMPRESSED = 40.0
"""Megapixels of a picture that is compressed as it is: it is looked at whole, which takes 40 bytes
per pixel, and no page shows so much."""
