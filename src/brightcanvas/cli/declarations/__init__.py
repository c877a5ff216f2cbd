"""What each command takes, with examples; nothing of what it does: help is there at once."""

from brightcanvas.cli.declarations.of_briefs import COMMANDS as OF_BRIEFS
from brightcanvas.cli.declarations.of_pages import COMMANDS as OF_PAGES
from brightcanvas.cli.declarations.of_pictures import COMMANDS as OF_PICTURES
from brightcanvas.cli.declarations.of_upkeep import COMMANDS as OF_UPKEEP

COMMANDS = (*OF_PAGES, *OF_BRIEFS, *OF_PICTURES, *OF_UPKEEP)
"""In the order in which they are told."""
