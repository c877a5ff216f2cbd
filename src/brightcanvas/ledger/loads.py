"""What single screens load of a record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from brightcanvas.framing.sizes import rung_for
from brightcanvas.ledger.model import Asset, BackdropRecord, Shown
from brightcanvas.values.screens import Screen

TOLD_SCREENS = 3
"""How many screens a summary tells of."""


@dataclass(frozen=True)
class BackdropLoad:
    """What one screen loads of one backdrop."""

    picture: Asset | None
    """None: the colour alone."""
    clip: int
    """Bytes of the clip that plays there."""

    @property
    def bytes(self) -> int:
        """All of it."""
        return self.clip + (self.picture.bytes if self.picture else 0)


def told_screens(usual: Sequence[Screen]) -> tuple[Screen, ...]:
    """One screen of each kind: of each name the one with the largest share, narrowest first.

    A phone, a tablet and a laptop if the table has them; else the kinds with the largest shares.
    """
    kinds: dict[str, list[Screen]] = {}
    for one in usual:
        kinds.setdefault(one.name, []).append(one)
    named: list[str] = [kind for kind in ("phone", "tablet", "laptop") if kind in kinds]
    if len(named) < TOLD_SCREENS:
        named = sorted(kinds, key=lambda kind: -sum(one.share for one in kinds[kind]))
    best = (max(kinds[kind], key=lambda one: one.share) for kind in named[:TOLD_SCREENS])
    return tuple(sorted(best, key=lambda one: one.viewport.width))


def shown_on(record: BackdropRecord, screen: Screen) -> Shown | None:
    """The part of a backdrop that a screen is in."""
    shown = (one for one in record.shown if one.view.slot.breakpoint.has(screen.viewport))
    return next(shown, None)


def load_of(record: BackdropRecord, screen: Screen) -> BackdropLoad:
    """What a screen loads, in a browser that knows the newest formats."""
    shown = shown_on(record, screen)
    if shown is None or not shown.shipped:
        return BackdropLoad(None, 0)
    rung = rung_for([one.rung for one in shown.shipped], screen.density)
    shipped = next(one for one in shown.shipped if one.rung == rung)
    plays = shown.clip and shown.view.slot.plays_in(screen.viewport)
    return BackdropLoad(
        shipped.assets[0], shown.clip.assets[0].bytes if shown.clip and plays else 0
    )
