"""The forms in which backdrops come to be seen, one module each; here all of them in order."""

from __future__ import annotations

from brightcanvas.delivery.forms.background import BACKGROUND, DRIFT
from brightcanvas.delivery.forms.clip_forms import HOSTED, VIDEO
from brightcanvas.delivery.forms.form import Form
from brightcanvas.delivery.forms.picture import IMG, PICTURE
from brightcanvas.ledger.record import Addresses, BackdropRecord

FORMS = (BACKGROUND, VIDEO, HOSTED, PICTURE, IMG, DRIFT)
"""As their rules and children follow each other."""


def forms_of(record: BackdropRecord) -> tuple[Form, ...]:
    """Those that a backdrop has."""
    return tuple(form for form in FORMS if form.concerns(record))


def children(record: BackdropRecord, addresses: Addresses) -> str:
    """What has to be the first children of the element that a backdrop fills."""
    return "".join(form.markup(record, addresses) for form in forms_of(record))
