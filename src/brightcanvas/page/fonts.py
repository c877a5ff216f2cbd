"""Which typeface each text is set in, and which fonts that fetches: CSS Fonts 4, sections 2, 4, 5.

A font is asked for when a text that is laid out has a character that it is for. Whether the file
then has the character isn't known here: the next font of the list is not asked for in its place.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from brightcanvas.css.computed_lengths import length
from brightcanvas.css.layer_lists import url_of
from brightcanvas.css.media_queries import matches
from brightcanvas.css.selectors import BOLD, CONTROLS, FIXED_WIDTH, ITALIC, Element
from brightcanvas.css.sheets import Face
from brightcanvas.css.styles import Styles
from brightcanvas.values.lengths import EM, NotALengthError, bare, is_word, split
from brightcanvas.values.page_text import joined

REGULAR, BOLDER = 400.0, 700.0
FONT = frozenset(("font", "font-family", "font-weight", "font-style"))
_SIZE = re.compile(r"(xx?-)?(small|large)|medium|smaller|larger|normal")


@dataclass(frozen=True)
class Typeface:
    """Families in the order in which they are tried, weight, and slant."""

    families: tuple[str, ...] = ()
    """In small letters; those that browsers have by themselves too."""
    weight: float = REGULAR
    is_italic: bool = False


class Typefaces:
    """The typeface of each element in one window."""

    def __init__(self, styles: Styles) -> None:
        self._styles = styles
        self._known: dict[tuple[int, str], Typeface] = {}

    def of(self, element: Element, pseudo: str = "") -> Typeface:
        """What is said, what browsers say, what is inherited."""
        key = (id(element.etree_element), pseudo)
        if key not in self._known:
            self._known[key] = self._found(element, pseudo)
        return self._known[key]

    def _found(self, element: Element, pseudo: str) -> Typeface:
        if pseudo:
            around = self.of(element)
        else:
            outer = element.parent
            around = self.of(outer) if outer is not None else Typeface()
        usual = around if pseudo else _by_itself(element.etree_element.tag, around)
        if not self._styles.holding(element, pseudo).keys() & FONT:
            return usual
        return self._said(element, pseudo, usual, around)

    def _said(self, element: Element, pseudo: str, usual: Typeface, around: Typeface) -> Typeface:
        styles = self._styles
        family = styles.value(element, ("font-family", "font"), pseudo)
        winner = styles.winner_of(element, ("font-family", "font"), pseudo)
        is_short = winner is not None and winner.name == "font"
        weight = styles.value(element, ("font-weight", "font"), pseudo)
        slant = styles.value(element, ("font-style", "font"), pseudo)
        return Typeface(
            _families(family, usual, around, is_short=is_short),
            _weight(weight, usual, around),
            _slant(slant, usual, around),
        )


def _by_itself(tag: str, around: Typeface) -> Typeface:
    """What browsers make of an element that no style sheet says anything of."""
    found = replace(around, families=(), weight=REGULAR) if tag in CONTROLS else around
    if tag in FIXED_WIDTH:
        found = replace(found, families=())
    return replace(
        found, weight=BOLDER if tag in BOLD else found.weight,
        is_italic=found.is_italic or tag in ITALIC,
    )  # fmt: skip


INHERITING = ("inherit", "unset")


def _families(
    value: Sequence[Any], usual: Typeface, around: Typeface, *, is_short: bool
) -> tuple[str, ...]:
    if is_word(value, INHERITING):
        return around.families
    if not bare(value):
        return usual.families
    return family_names(_after_size(value) if is_short else value)


def family_names(value: Sequence[Any]) -> tuple[str, ...]:
    """The names in a list of families, in small letters."""
    names = []
    for part in split(value, ","):
        tokens = bare(part)
        if tokens and tokens[0].type == "string":
            names.append(str(tokens[0].value).lower())
        elif tokens and all(one.type == "ident" for one in tokens):
            names.append(" ".join(str(one.value) for one in tokens).lower())
    return tuple(names)


def _after_size(value: Sequence[Any]) -> Sequence[Any]:
    """The families of a ``font``: what follows the size and the line's height."""
    sizes = [number for number, one in enumerate(value) if _is_size(one)]
    return value[sizes[-1] + 1 :] if sizes else []


def _is_size(token: Any) -> bool:  # noqa: ANN401
    if token.type == "ident":
        return bool(_SIZE.fullmatch(token.lower_value))
    return token.type in ("dimension", "percentage", "number", "function")


def _weight(value: Sequence[Any], usual: Typeface, around: Typeface) -> float:
    tokens = bare(value)
    if not tokens:
        return usual.weight
    if is_word(value, INHERITING):
        return around.weight
    words = {one.lower_value for one in tokens if one.type == "ident"}
    if "lighter" in words:
        return REGULAR if around.weight > 500 else 100.0
    if words & {"bold", "bolder"}:
        return BOLDER
    numbers = [
        float(one.value) for one in tokens if one.type == "number" and 100 <= one.value <= 1000
    ]
    return numbers[0] if numbers else REGULAR


def _slant(value: Sequence[Any], usual: Typeface, around: Typeface) -> bool:
    tokens = bare(value)
    if not tokens:
        return usual.is_italic
    if is_word(value, INHERITING):
        return around.is_italic
    return any(one.type == "ident" and one.lower_value in ("italic", "oblique") for one in tokens)


BY_ITSELF = {"h1": 2.0, "h2": 1.5, "h3": 1.17, "h5": 0.83, "h6": 0.67, "small": 0.83}
"""Times the letters round it: what browsers make of an element of itself (HTML, section 15.3.7)."""


def size_of(element: Element, styles: Styles) -> float:
    """CSS px; what is said in words alone is taken to be as around it."""
    outer = element.parent
    around = size_of(outer, styles) if outer is not None else EM
    said = bare(styles.value(element, ("font-size", "font")))
    for token in said:
        if token.type == "percentage":
            return around * float(token.value) / 100
        if token.type == "dimension" and token.lower_unit == "em":
            return around * float(token.value)
        if token.type in ("dimension", "function"):
            try:
                return length(token, styles.environment)
            except NotALengthError:
                continue
    return around if said else around * BY_ITSELF.get(element.etree_element.tag, 1.0)


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
        if all(matches(media, styles.environment) for media in one.around.media)
    )
    return tuple(one for one in found if one)


def _offer(face: Face) -> Offered | None:
    said = face.descriptors
    url = next(_sources(said.get("src", ()), face.around.base), None)
    family = family_names(said.get("font-family", ()))
    if url is None or not family:
        return None
    slant = [one.lower_value for one in bare(said.get("font-style", ())) if one.type == "ident"]
    weights = [_face_weight(one) for one in bare(said.get("font-weight", ()))] or [REGULAR]
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


def _face_weight(token: Any) -> float:  # noqa: ANN401
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
