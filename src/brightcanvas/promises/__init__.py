"""Promises: what a build holds to, each checked in a small module, with its worst case."""
