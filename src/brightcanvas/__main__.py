"""Run the command line with ``python -m brightcanvas``."""

from brightcanvas.cli.main import entry

if __name__ == "__main__":
    entry()
