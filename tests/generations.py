"""Browsers of the last ten years, by what decides which files they fetch.

Each generation is stated with the versions in which a browser learned it (the release notes of
Chromium, Firefox and Safari); what came between two of them is one or the other. Phones keep the
browser of their last system for ever.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from brightcanvas.values.environments import KNOWN_TYPES, Environment, FeatureSupport

WITHOUT_AVIF = KNOWN_TYPES - {"image/avif"}
WITHOUT_WEBP = WITHOUT_AVIF - {"image/webp"}


@dataclass(frozen=True)
class Generation:
    """Browsers that choose alike."""

    name: str
    """With versions."""
    knows: FeatureSupport
    types: frozenset[str] = KNOWN_TYPES

    def environment(self, width: float, height: float, density: float) -> Environment:
        """Somebody with one of them."""
        return Environment(width, height, density, types=self.types, knows=self.knows)


_BEFORE = FeatureSupport(line_heights=False, remainders=False)
_NO_TYPES = replace(_BEFORE, typed_sets=False)
_OLD_SAFARI = replace(_NO_TYPES, level4=False, hint_sets=False)
_OLD = replace(_BEFORE, sets=False, level4=False, hint_sets=False)

GENERATIONS = (
    Generation("Chromium from 125, Safari from 17.2, Firefox from 120", FeatureSupport()),
    Generation("Safari 17.0 and 17.1", FeatureSupport(hint_sets=False)),
    Generation("Chromium 113 to 124", FeatureSupport(remainders=False)),
    Generation("Edge 114 to 120", FeatureSupport(remainders=False), WITHOUT_AVIF),
    Generation("Firefox 118 and 119", FeatureSupport(line_heights=False)),
    Generation("Firefox 93 to 117", _BEFORE),
    Generation("Firefox 89 to 92", _BEFORE, WITHOUT_AVIF),
    Generation("Firefox 88", _NO_TYPES, WITHOUT_AVIF),
    Generation("Chromium 109 to 112", FeatureSupport(sets=False, remainders=False)),
    Generation("Edge 109, the last on Windows 7", FeatureSupport(sets=False, remainders=False),
               WITHOUT_AVIF),
    Generation("Chromium 104 to 108", replace(_BEFORE, sets=False)),
    Generation("Chromium 85 to 103", replace(_OLD, hint_sets=True)),
    Generation("Chromium 73 to 84", replace(_OLD, hint_sets=True), WITHOUT_AVIF),
    Generation("Safari 16.4 to 16.6", FeatureSupport(typed_sets=False, hint_sets=False)),
    Generation("Safari 16.0 to 16.3", replace(_OLD_SAFARI, remainders=True)),
    Generation("Safari 15.4 to 15.6", replace(_OLD_SAFARI, remainders=True), WITHOUT_AVIF),
    Generation("Safari 14 to 15.3", _OLD_SAFARI, WITHOUT_AVIF),
    Generation("Safari 11.1 to 13", _OLD, WITHOUT_WEBP),
    Generation("Firefox 63 to 84", replace(_OLD, level4=True, hints=False, prefixed_sets=False),
               WITHOUT_AVIF),
    Generation("Chromium 49 to 72", _OLD, WITHOUT_AVIF),
)  # fmt: skip
"""Newest first."""
