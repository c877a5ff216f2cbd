"""Where output goes: the product to standard output, talk to standard error."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, TextIO

from brightcanvas.basics.errors import ExitStatus

if TYPE_CHECKING:
    from rich.console import Console

PIPED_WIDTH = 150
"""Characters per line where there is no terminal to ask."""


@dataclass(frozen=True)
class Streams:
    """Standard output and standard error, and which of them people read."""

    out: TextIO
    err: TextIO
    as_json: bool = False

    def console(self) -> Console:
        """For people's text: standard output, or standard error beside ``--json``."""
        return console_on(self.err if self.as_json else self.out)

    def document(self, content: dict[str, Any]) -> None:
        """The facts for machines."""
        self.out.write(json.dumps(content, indent=2, ensure_ascii=False) + "\n")

    def note(self, text: str) -> None:
        """One remark beside the product."""
        self.err.write(text + "\n")

    def fail(self, text: str, status: ExitStatus) -> None:
        """Why it could not be done."""
        if self.as_json:
            self.document({"status": int(status), "errors": text.splitlines()})
        self.err.write("".join(f"bright-canvas: {line}\n" for line in text.splitlines()))


def console_on(stream: TextIO) -> Console:
    """A console that is plain when piped and never breaks names in two."""
    from rich.console import Console

    width = None if stream.isatty() else PIPED_WIDTH
    return Console(file=stream, width=width, highlight=False, emoji=False, markup=False)
