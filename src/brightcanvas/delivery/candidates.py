"""The files of a part as browsers choose among them: by density, and by format.

Of candidates written with 1x, 2x and 3x all engines take the smallest that is dense enough, else
the densest, alike in ``image-set``, ``srcset`` and ``imagesrcset``; so the file that is hinted is
the file that is shown.
"""

from __future__ import annotations

from brightcanvas.delivery.escaping import css_string
from brightcanvas.ledger.addresses import Addresses
from brightcanvas.ledger.model import Asset, Shown
from brightcanvas.values.picture_formats import FileFormat, Role


def labels(shown: Shown) -> list[str]:
    """What stands beside each size; nothing where there is only one."""
    if len(shown.shipped) == 1:
        return [""]
    return [f" {one.rung.label}x" for one in shown.shipped]


def image_set(shown: Shown, addresses: Addresses) -> str:
    """All candidates for a style sheet, newest formats first (CSS Images 4, section 2.4).

    The oldest file comes last: browsers that know the syntax but none of the newer formats would
    show nothing otherwise, since an ``image-set`` of unknown types is valid.
    """
    listed = [
        (asset, label)
        for one, label in zip(shown.shipped, labels(shown), strict=True)
        for asset in one.assets
    ]
    if shown.oldest and all(asset != shown.oldest for asset, _ in listed):
        listed.append((shown.oldest, labels(shown)[0]))
    texts = (f"url({css_string(addresses.of(a.file))}){label}{_type(a)}" for a, label in listed)
    return f"image-set({', '.join(texts)})"


def _type(asset: Asset) -> str:
    """Only where some browsers don't know it; Chromium passes over drawings that state theirs."""
    is_new = asset.format.role is Role.NEWER
    return f" type({css_string(asset.format.media_type)})" if is_new else ""


def by_format(shown: Shown) -> dict[FileFormat, list[tuple[Asset, str]]]:
    """The candidates of each newer format, with what stands beside them."""
    found: dict[FileFormat, list[tuple[Asset, str]]] = {}
    for one, label in zip(shown.shipped, labels(shown), strict=True):
        for asset in one.assets:
            found.setdefault(asset.format, []).append((asset, label))
    return found


def hinted(shown: Shown) -> list[tuple[Asset, str]]:
    """The candidates of the format that is hinted: the newest one of each size.

    Only one is: a browser fetches every hinted format that it knows.
    """
    return [(one.assets[0], label) for one, label in zip(shown.shipped, labels(shown), strict=True)]


def srcset(candidates: list[tuple[Asset, str]], addresses: Addresses) -> str:
    """As ``srcset`` and ``imagesrcset`` have it."""
    return ", ".join(f"{addresses.of(asset.file)}{label}" for asset, label in candidates)
