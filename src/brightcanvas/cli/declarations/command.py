"""What a command is called, is for and takes."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """A command as it is written; its ``run`` is in the module of its name."""

    name: str
    about: str
    """What it is for, in the list of all."""
    examples: str
    add_arguments: Callable[[argparse.ArgumentParser], None]
