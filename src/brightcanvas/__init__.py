"""Backgrounds for web pages: cut, sized, compressed and loaded right, with proof."""

__version__ = "0.1.0"
