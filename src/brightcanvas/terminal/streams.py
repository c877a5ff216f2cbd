"""Where output goes: the product to standard output, talk to standard error."""

from __future__ import annotations

import json
import shutil
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, TextIO

if TYPE_CHECKING:
    from collections.abc import Iterator

    from rich.console import Console

    from brightcanvas.values.errors import ExitStatus

PIPED_WIDTH = 150
"""Characters per line where there is no terminal to ask."""


@dataclass
class Recorded:
    """A console, and afterwards what was printed on it."""

    console: Console
    text: str = ""


@dataclass(frozen=True)
class Streams:
    """Standard output and standard error, and which of them people read."""

    out: TextIO
    err: TextIO
    as_json: bool = False

    def console(self) -> Console:
        """For people's text: standard output, or standard error beside ``--json``."""
        return console_on(self.err if self.as_json else self.out)

    @property
    def kind(self) -> str:
        """What decides how people's text is laid out."""
        if self.as_json or not self.out.isatty():
            return "json" if self.as_json else "plain"
        return f"terminal of {shutil.get_terminal_size().columns}"

    def replay(self, text: str) -> None:
        """People's text that was recorded before."""
        self.out.write(text)

    @contextmanager
    def recorded(self) -> Iterator[Recorded]:
        """A console whose text is shown at the end, and kept."""
        recorded = Recorded(self.console())
        with recorded.console.capture() as capture:
            yield recorded
        recorded.text = capture.get()
        recorded.console.file.write(recorded.text)

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
