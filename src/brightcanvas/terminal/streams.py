"""Where output goes: the product to standard output, talk to standard error."""

from __future__ import annotations

import json
import re
import shutil
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TextIO, cast

if TYPE_CHECKING:
    from collections.abc import Iterator

    from rich.console import Console

    from brightcanvas.values.errors import ExitStatus

PIPED_WIDTH = 150
"""Characters per line where there is no terminal to ask."""


CONTROLS = re.compile(
    r"[\x00-\x08\x0b-\x1a\x1c-\x1f\x7f-\x9f\u200e\u200f\u202a-\u202e\u2066-\u2069]"
    r"|\x1b(?!\[[0-9;]*m)"
)
"""What changes a terminal, or the order of what is read on it; all but colours."""

ESCAPES = re.compile(r"\x1b\[[0-9;]*m")


def harmless(text: str, *, colours: bool = False) -> str:
    """A text that may have come from a file's name, without anything that commands a terminal."""
    text = CONTROLS.sub("?", text)
    return text if colours else ESCAPES.sub("?", text)


class Printed:
    """A stream of text on which nothing that was read commands the terminal."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Write it, colours only where it is a terminal."""
        self._stream.write(harmless(text, colours=self._stream.isatty()))
        return len(text)

    def __getattr__(self, name: str) -> Any:  # noqa: ANN401 - everything else is the stream's
        return getattr(self._stream, name)


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
    _documents: list[bool] = field(default_factory=list)

    def begin(self) -> None:
        """What comes now is told by a document of its own."""
        self._documents.clear()

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
        self._documents.append(True)
        speaks_all = "utf" in (getattr(self.out, "encoding", None) or "utf").lower()
        self.out.write(json.dumps(content, indent=2, ensure_ascii=not speaks_all) + "\n")

    def note(self, text: str) -> None:
        """One remark beside the product."""
        self.err.write(harmless(text) + "\n")

    def fail(self, text: str, status: ExitStatus) -> None:
        """Why it could not be done; for machines too, unless they were told something already."""
        if self.as_json and not self._documents:
            self.document({"status": int(status), "errors": text.splitlines()})
        self.err.write("".join(f"bright-canvas: {harmless(line)}\n" for line in text.splitlines()))


def console_on(stream: TextIO) -> Console:
    """A console that is plain when piped and never breaks names in two."""
    from rich.console import Console

    class Reporting(Console):
        def on_broken_pipe(self) -> None:
            """Left to whoever decides on the exit status."""
            raise

    width = None if stream.isatty() else PIPED_WIDTH
    file = cast("TextIO", Printed(stream))
    return Reporting(file=file, width=width, highlight=False, emoji=False, markup=False)
