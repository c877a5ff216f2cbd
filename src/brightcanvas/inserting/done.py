"""One page with its copy, and all that was seen of both."""

from __future__ import annotations

from dataclasses import dataclass

from brightcanvas.inserting.comparing import Compared
from brightcanvas.inserting.copying import Inserted
from brightcanvas.inserting.differing import Difference
from brightcanvas.inserting.looking import Pair
from brightcanvas.page.reading import Page


@dataclass(frozen=True)
class PageDone:
    """A page before and after."""

    before: Page
    inserted: Inserted
    compared: tuple[Compared, ...]
    """What each screen fetches, and when."""
    pairs: tuple[Pair, ...]
    """As a browser showed them; none where none was asked."""
    differences: tuple[Difference, ...]
    """That are seen on them."""
    report: str
    """The name of the page that shows both."""
