"""Choosing between a scrim in the style sheet and the same tint baked into the pictures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from brightcanvas.plan.model import BackdropPlan, Picture, Plan, View
from brightcanvas.values.legible import Scrim
from brightcanvas.workshop.legibility import letters_of

Weigh = Callable[[View], int]
"""Gives the bytes that a screen would load for a view."""

FindScrim = Callable[[View], Scrim | None]
"""Gives the scrim that a view would have."""


STRONGER = 0.02
"""How much stronger a baked tint is made: compression blurs a picture's tones a little."""


def bake_scrims(plan: Plan, find_scrim: FindScrim, weigh: Weigh) -> Plan:
    """The plan with the scrims baked where the brief says so, or where that is lighter.

    A flat scrim and a fade of the same colour and strength look the same (see treatments).
    """
    return replace(
        plan,
        backdrops=tuple(
            BackdropPlan(one.backdrop, tuple(_decided(v, find_scrim, weigh) for v in one.views))
            for one in plan.backdrops
        ),
    )


def _decided(view: View, find_scrim: FindScrim, weigh: Weigh) -> View:
    wish, picture = view.slot.scrim, view.picture
    if wish is None or wish.baked == "no" or picture is None or letters_of(view) is None:
        return view
    scrim = find_scrim(view)
    if scrim is None:
        return view
    baked = _baked(view, picture, scrim)
    if wish.baked == "lighter" and weigh(baked) >= weigh(view):
        return view
    return baked


def _baked(view: View, picture: Picture, scrim: Scrim) -> View:
    strength = min(1.0, scrim.strength + STRONGER)
    tone = replace(picture.tone, fade=strength, fade_to=scrim.colour)
    return View(replace(view.slot, scrim=None, tone=tone), replace(picture, tone=tone))
