"""What every form of the rules is: the parts that it adds to style sheet and markup."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from brightcanvas.delivery.rule_text import Declaration
from brightcanvas.ledger.record import Addresses, BackdropRecord, PublishedVariant

LAYER = ("position: absolute;", "inset: 0;", "z-index: -1;", "pointer-events: none;")
"""A layer as large as its element, behind the content."""


def no_base(_: BackdropRecord) -> list[str]:
    """Nothing holds at every width."""
    return []


def no_lines(_: BackdropRecord, __: PublishedVariant, ___: Addresses) -> list[Declaration]:
    """Nothing holds for a part alone."""
    return []


def no_rules(_: BackdropRecord, __: PublishedVariant) -> list[str]:
    """Nothing comes after the parts."""
    return []


def no_markup(_: BackdropRecord, __: Addresses) -> str:
    """The element has no children of ours."""
    return ""


@dataclass(frozen=True)
class Form:
    """One way in which a backdrop, or what lies above it, comes to be seen."""

    concerns: Callable[[BackdropRecord], bool]
    """Whether a backdrop has this form; it may have several."""
    base: Callable[[BackdropRecord], list[str]] = no_base
    """Rules that hold at every width."""
    lines: Callable[[BackdropRecord, PublishedVariant, Addresses], list[Declaration]] = no_lines
    """Declarations that hold for one part."""
    newer: Callable[[BackdropRecord, PublishedVariant, Addresses], list[Declaration]] = no_lines
    """Those that take their place in browsers that read the newer formats."""
    rules: Callable[[BackdropRecord, PublishedVariant], list[str]] = no_rules
    """Whole rules for one part, after all declarations."""
    markup: Callable[[BackdropRecord, Addresses], str] = no_markup
    """First children of the element that it fills."""
    moves: bool = False
    """Whether it needs the script."""
