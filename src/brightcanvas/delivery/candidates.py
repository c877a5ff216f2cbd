"""The files of a part as browsers choose among them: by density, and by their age.

Of candidates written with 1x, 2x and 3x all engines take the smallest that is dense enough, else
the densest, alike in ``image-set``, ``srcset`` and ``imagesrcset``; so the file that is hinted is
the file that is shown.
"""

from __future__ import annotations

from brightcanvas.delivery.rule_text import css_string
from brightcanvas.ledger.record import Addresses, Asset, BackdropRecord, PublishedVariant
from brightcanvas.values.conditions import both
from brightcanvas.values.file_formats import FileFormat, Role


def labels(shown: PublishedVariant) -> list[str]:
    """What stands beside each size; nothing where there is only one."""
    if len(shown.shipped) == 1:
        return [""]
    return [f" {one.size_variant.label}x" for one in shown.shipped]


READS_NEWER = "mod(1lh,1px)"
"""A length that browsers learned after they could read AVIF and WebP: Chromium 125, Firefox 120,
Safari 16.4 (``lh`` alone Edge knew before AVIF, ``mod()`` alone Safari). Where it is understood,
the newer files are named without further ado; a condition with it keeps older browsers from
fetching a hinted file that they don't show."""


def is_newer(shown: PublishedVariant) -> bool:
    """Whether what most browsers are offered is in formats that old ones can't read."""
    return any(asset.format.role is Role.NEWER for asset, _ in hinted(shown))


def layers_of(shown: PublishedVariant, addresses: Addresses) -> list[str]:
    """The picture for a style sheet; of several sizes first one alone, then all of them.

    ``image-set`` is prefixed: so all browsers know it, those that don't know ``type()`` in it too.
    """
    listed = [(f"url({css_string(addresses.of(a.file))})", label) for a, label in hinted(shown)]
    if len(listed) == 1:
        return [listed[0][0]]
    return [listed[0][0], f"-webkit-image-set({', '.join(url + label for url, label in listed)})"]


def by_format(shown: PublishedVariant) -> dict[FileFormat, list[tuple[Asset, str]]]:
    """The candidates of each newer format, with what stands beside them."""
    found: dict[FileFormat, list[tuple[Asset, str]]] = {}
    for one, label in zip(shown.shipped, labels(shown), strict=True):
        for asset in one.assets:
            found.setdefault(asset.format, []).append((asset, label))
    return found


def hinted(shown: PublishedVariant) -> list[tuple[Asset, str]]:
    """The candidates of the format that is hinted: the newest one of each size.

    Only one is: a browser fetches every hinted format that it knows.
    """
    return [(one.assets[0], label) for one, label in zip(shown.shipped, labels(shown), strict=True)]


def hint_condition(record: BackdropRecord, shown: PublishedVariant) -> str:
    """The condition of a hint: that of the rule, in browsers that take the file it hints.

    A picture element chooses by types, as its hint does.
    """
    condition = shown.view.slot.breakpoint.when.media
    is_chosen_by_types = record.backdrop.form != "background"
    return both(condition, YOUNG) if is_newer(shown) and not is_chosen_by_types else condition


YOUNG = f"(min-width: {READS_NEWER})"
"""Holds in every window, where the length is understood: it is less than a px."""


def srcset(candidates: list[tuple[Asset, str]], addresses: Addresses) -> str:
    """As ``srcset`` and ``imagesrcset`` have it."""
    return ", ".join(f"{addresses.of(asset.file)}{label}" for asset, label in candidates)
