"""What browsers' own style sheets say, as far as it decides what is fetched and read.

Source: HTML, section 15.3 (rendering of non-replaced elements).
"""

from __future__ import annotations

NEVER_SHOWN = frozenset(
    ("area", "base", "basefont", "datalist", "head", "link", "meta", "noembed", "noframes", "param",
     "rp", "script", "style", "template", "title", "noscript", "source", "track")
)  # fmt: skip

BOLD = frozenset(("b", "strong", "h1", "h2", "h3", "h4", "h5", "h6", "th"))
ITALIC = frozenset(("address", "cite", "dfn", "em", "i", "var"))
FIXED_WIDTH = frozenset(("code", "kbd", "pre", "samp", "tt", "listing", "plaintext", "xmp"))
CONTROLS = frozenset(("button", "input", "select", "textarea", "meter", "progress"))
"""They have a font and a colour of their own, whatever is round them says."""
