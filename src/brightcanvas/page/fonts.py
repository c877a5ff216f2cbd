"""Which fonts a window fetches: CSS Fonts 4, sections 4 and 5.

A font is asked for when a text that is laid out has a character that it is for. Whether the file
then has the character isn't known here: the next font of the list is not asked for in its place.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from brightcanvas.css.declared import Element
from brightcanvas.css.layers import url_of
from brightcanvas.css.media_queries import matches
from brightcanvas.css.sheets import Face
from brightcanvas.css.styles import Styles
from brightcanvas.page.typefaces import BOLDER, REGULAR, Typeface, Typefaces, family_names
from brightcanvas.values.addresses import joined
from brightcanvas.values.lengths import bare, split

KNOWN_FORMATS = (
    "woff2", "woff", "truetype", "opentype", "woff2-variations", "woff-variations",
    "truetype-variations", "opentype-variations", "collection",
)  # fmt: skip
WEIGHTS = {"normal": REGULAR, "bold": BOLDER}
ALL_CHARACTERS = ((0, 0x10FFFF),)
GENERIC = (
    "serif", "sans-serif", "monospace", "system-ui", "cursive", "fantasy", "-apple-system",
    "blinkmacsystemfont", "ui-sans-serif", "ui-serif", "ui-monospace", "math",
)  # fmt: skip


@dataclass(frozen=True)
class Offered:
    """A font that a sheet offers."""

    family: str
    url: str
    weights: tuple[float, float]
    is_italic: bool
    characters: tuple[tuple[int, int], ...]
    """First and last of each range."""

    def has(self, code: int) -> bool:
        """Whether it is for a character."""
        return any(low <= code <= high for low, high in self.characters)


@dataclass(frozen=True)
class Text:
    """What stands in an element itself, or in a pseudo-element of it."""

    element: Element
    text: str
    typeface: Typeface


def offered(faces: Sequence[Face], styles: Styles) -> tuple[Offered, ...]:
    """The fonts that a window is offered."""
    found = (
        _offer(one)
        for one in faces
        if all(matches(media, styles.viewer) for media in one.around.media)
    )
    return tuple(one for one in found if one)


def _offer(face: Face) -> Offered | None:
    said = face.descriptors
    url = next(_sources(said.get("src", ()), face.around.base), None)
    family = family_names(said.get("font-family", ()))
    if url is None or not family:
        return None
    slant = [one.lower_value for one in bare(said.get("font-style", ())) if one.type == "ident"]
    weights = [_weight(one) for one in bare(said.get("font-weight", ()))] or [REGULAR]
    return Offered(
        family[0], url, (min(weights), max(weights)), bool(slant) and slant[0] != "normal",
        _characters(said.get("unicode-range", ())),
    )  # fmt: skip


def _sources(value: Sequence[Any], base: str) -> Iterator[str]:
    """The files of a ``src`` that a browser can read; what is installed is taken to be missing."""
    for part in split(value, ","):
        tokens = bare(part)
        url = url_of(tokens[0]) if tokens else None
        formats = [
            str(inner.value).lower()
            for one in tokens[1:]
            if one.type == "function" and one.lower_name == "format"
            for inner in bare(one.arguments)
        ]
        if url and (not formats or formats[0] in KNOWN_FORMATS):
            yield joined(base, url)


def _weight(token: Any) -> float:  # noqa: ANN401
    if token.type == "number":
        return float(token.value)
    return WEIGHTS.get(token.lower_value if token.type == "ident" else "", REGULAR)


def _characters(value: Sequence[Any]) -> tuple[tuple[int, int], ...]:
    ranges = [(int(one.start), int(one.end)) for one in value if one.type == "unicode-range"]
    return tuple(ranges) or ALL_CHARACTERS


def texts(elements: Sequence[Element], styles: Styles) -> Iterator[Text]:
    """The texts that a window lays out, those that style sheets put in among them."""
    typefaces = Typefaces(styles)
    for element in elements:
        if not styles.is_shown(element):
            continue
        if own := own_text(element.etree_element):
            yield Text(element, own, typefaces.of(element))
        for pseudo in ("before", "after"):
            if styles.has_content(element, pseudo) and (put := _put_in(element, styles, pseudo)):
                yield Text(element, put, typefaces.of(element, pseudo))


def own_text(node: Any) -> str:  # noqa: ANN401
    """The text that stands in an element itself, not in those within it."""
    if node.tag == "input":
        is_hidden = node.get("type", "").lower() in ("hidden", "checkbox", "radio", "image")
        return "" if is_hidden else str(node.get("value") or node.get("placeholder") or "").strip()
    if node.tag == "textarea":
        return str(node.text or node.get("placeholder") or "").strip()
    if not isinstance(node.tag, str) or node.tag in ("select", "svg"):
        return ""
    return "".join([node.text or "", *(inner.tail or "" for inner in node)]).strip()


def _put_in(element: Element, styles: Styles, pseudo: str) -> str:
    if styles.word(element, "display", pseudo) == "none":
        return ""
    said = styles.value(element, ("content",), pseudo)
    return "".join(str(one.value) for one in said if one.type == "string").strip()


def asked_by(text: str, typeface: Typeface, fonts: Sequence[Offered]) -> Iterator[str]:
    """The files that a text asks for: those of the first family that has each character."""
    left = {ord(character) for character in text if not character.isspace()}
    for family in typeface.families:
        own = [one for one in fonts if one.family == family]
        if family in GENERIC and not own:
            return
        for face, covered in _of_family(own, typeface, left):
            yield face.url
            left -= covered
        if not left:
            return


def _of_family(
    own: Sequence[Offered], typeface: Typeface, wanted: set[int]
) -> Iterator[tuple[Offered, set[int]]]:
    """The faces of one family that come closest in slant and weight (section 5.2)."""
    if not own:
        return
    slanted = [one for one in own if one.is_italic == typeface.is_italic] or list(own)
    nearest = min((one.weights for one in slanted), key=lambda one: _far(one, typeface.weight))
    left = set(wanted)
    for face in reversed([one for one in slanted if one.weights == nearest]):
        covered = {code for code in left if face.has(code)}
        if covered:
            left -= covered
            yield face, covered


def _far(span: tuple[float, float], wanted: float) -> tuple[int, float]:
    """How far a face's weights are from the wanted one; the lower, the sooner it is taken."""
    low, high = span
    if low <= wanted <= high:
        return 0, 0.0
    if 400 <= wanted <= 500 and wanted < low <= 500:
        return 1, low - wanted
    is_lighter = high < wanted
    is_first = is_lighter == (wanted <= 500)
    return (2 if is_first else 3), (wanted - high if is_lighter else low - wanted)
