"""A small server on this machine behind a line of a stated rate and delay."""

from __future__ import annotations

import mimetypes
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from brightcanvas.browsers.window import MOST_LOADS
from brightcanvas.page.folder import HOST, Folder
from brightcanvas.serving.network_profiles import NetworkProfile
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.files import read_regular

LARGEST_SERVED = 2_000_000_000
"""Bytes of a file."""

PIECE, LARGE_PIECE = 2048, 262_144
"""Bytes that are put on a line in one go, and where answers come as fast as can be."""

POLL = 0.05
"""Seconds between two looks whether to end."""

Given = Any
"""What the base class is given; it has no public types."""

TYPES = {
    **{f".{one.ending}": one.media_type for one in FileFormat},
    ".js": "text/javascript",
}


@dataclass(frozen=True)
class Request:
    """A request that came in."""

    path: str
    second: float
    """Since the server began."""


class _Shaped:
    """A line that all answers share, piece by piece."""

    def __init__(self, line: NetworkProfile | None) -> None:
        self._line = line
        self._lock = threading.Lock()
        self._free = 0.0
        self._answers = 0

    @contextmanager
    def answering(self) -> Iterator[None]:
        """While an answer is on the line; what was idle before doesn't count as used."""
        with self._lock:
            self._free = self._free if self._answers else time.monotonic()
            self._answers += 1
        try:
            yield
        finally:
            with self._lock:
                self._answers -= 1

    def pieces(self, content: bytes) -> Iterator[bytes]:
        """What of an answer goes in one go."""
        size = LARGE_PIECE if self._line is None else PIECE
        return (content[start : start + size] for start in range(0, len(content), size))

    def wait_for_turn(self, amount: int) -> None:
        """Wait until so many bytes have gone over the line.

        Who wakes up late catches up: the line goes on meanwhile, as a real one does.
        """
        if self._line is None:
            return
        with self._lock:
            self._free += self._line.seconds(amount)
            until = self._free
        time.sleep(max(0.0, until - time.monotonic()))

    def wait_for_trip(self, opened: float, *, is_first: bool) -> None:
        """Wait as long as a request takes; the first one of a connection waits for that too."""
        if self._line is None:
            return
        trip = self._line.round_trip
        begin = max(time.monotonic(), opened + trip) if is_first else time.monotonic()
        time.sleep(max(0.0, begin + trip - time.monotonic()))


class _Handler(BaseHTTPRequestHandler):
    """Answers from a folder, in the line's time."""

    protocol_version = "HTTP/1.1"
    disable_nagle_algorithm = True

    def __init__(self, *args: Given, shaped: _Shaped, served: ServedFolder, **named: Given) -> None:
        self._shaped, self._served = shaped, served
        self._opened, self._is_first = time.monotonic(), True
        super().__init__(*args, **named)

    def log_message(self, *_: object) -> None:
        """Nothing: what was asked is noted elsewhere."""

    def do_CONNECT(self) -> None:
        """No way leads through here to another host."""
        self._served.is_asked_for_others = True
        self.close_connection = True
        self._say(502)

    def do_POST(self) -> None:
        """A form that is sent by itself leads nowhere either."""
        self.close_connection = True  # what it sends isn't read
        if self._leads_away():
            self._served.turn_away(self.path)
        self._say(204)

    def do_GET(self) -> None:
        """One file, or 404; nothing where a page sends its readers away from itself."""
        if self._leads_away():
            self._served.turn_away(self.path)
            self._say(204)
            return
        if not self.path.startswith("/"):  # asked of us as of a proxy
            self._say(403)
            return
        self._served.note(self.path)
        self._shaped.wait_for_trip(self._opened, is_first=self._is_first)
        self._is_first = False
        path = self._served.folder.file(f"{HOST}{self.path}")
        try:
            content = read_regular(path, LARGEST_SERVED) if path else b"not here"
        except OSError:  # gone since, or longer than anything that pages show
            path, content = None, b"not here"
        kind = TYPES.get(path.suffix) or mimetypes.guess_type(path.name)[0] if path else None
        self.send_response(200 if path else 404)
        self.send_header("Content-Type", kind or "application/octet-stream")
        self.send_header("Content-Length", str(len(content)))
        self.send_header("Cache-Control", self._served.may_be_kept)
        for name, value in self._served.headers if self._is_page(path) else ():
            self.send_header(name, value)
        self.end_headers()
        with self._shaped.answering(), suppress(ConnectionError):  # who asked may have gone
            for piece in self._shaped.pieces(content):
                self._shaped.wait_for_turn(len(piece))
                self.wfile.write(piece)

    def _leads_away(self) -> bool:
        """Whether a document is asked for that nobody admitted; of other hosts none is."""
        if self.path.startswith("/"):
            is_document = self.headers.get("Sec-Fetch-Dest") == "document"
            return is_document and (self.command == "POST" or not self._served.admits(self.path))
        return self.headers.get("Accept", "").startswith("text/html")

    def _say(self, status: int) -> None:
        self.send_response(status)
        if status != 204:
            self.send_header("Content-Length", "0")
        self.end_headers()

    def _is_page(self, path: Path | None) -> bool:
        return path == self._served.folder.page.resolve()


def path_of(url: str) -> str:
    """The path of a URL, decoded, and without the slash that hosts add to a folder's."""
    return unquote(urlsplit(url).path).rstrip("/")


class ServedFolder:
    """A folder that is being served, and what was asked of it."""

    def __init__(self, folder: Folder, headers: tuple[tuple[str, str], ...] = ()) -> None:
        self.folder = folder
        self.headers = headers
        self.address = ""
        self._asked: list[Request] = []
        self._began = time.monotonic()
        self.is_asked_for_others = False
        """Whether a browser has asked for an encrypted line to another host, for whatever."""
        self._page: str | None = None
        self._left = 0
        self._turned_away: list[str] = []

    @contextmanager
    def admitting(self, path: str) -> Iterator[None]:
        """Let a browser open one page: whatever else that opens, then or later, is not there."""
        self._page, self._left, self._turned_away = path, MOST_LOADS, []
        yield
        self._left = 0  # a page that loads itself again later doesn't vanish under our eyes

    def admits(self, path: str) -> bool:
        """Whether a document may be opened now; any may where no page was ever admitted."""
        if self._page is None:
            return True
        if path_of(path) != self._page or not self._left:
            return False
        self._left -= 1
        self._asked.clear()  # the last load counts, and no page that was open before
        return True

    @property
    def may_be_kept(self) -> str:
        """What a browser that opens a page again and again is to keep of it: nothing."""
        return "max-age=3600" if self._page is None else "no-cache"

    def turn_away(self, path: str) -> None:
        """Remember where a page sends its readers."""
        self._turned_away.append(path)

    @property
    def turned_away(self) -> tuple[str, ...]:
        """Paths and addresses to which the page that was admitted last would have led."""
        return tuple(self._turned_away)

    def note(self, path: str) -> None:
        """Remember a request."""
        self._asked.append(Request(path, time.monotonic() - self._began))

    def taken(self) -> list[Request]:
        """What was asked since this was called last."""
        asked, self._asked = self._asked, []
        return asked


class _Server(ThreadingHTTPServer):
    """Ends its connections with itself: one that stays open would answer for the next server."""

    daemon_threads = True

    def __init__(self, port: int, handler: partial[_Handler]) -> None:
        self._open = set[socket.socket]()
        super().__init__(("127.0.0.1", port), handler)

    def process_request(self, request: Given, client_address: Given) -> None:
        """See the base class."""
        self._open.add(request)
        super().process_request(request, client_address)

    def shutdown_request(self, request: Given) -> None:
        """See the base class."""
        self._open.discard(request)
        super().shutdown_request(request)

    def handle_error(self, request: Given, client_address: Given) -> None:
        """Nothing: who asked may have gone."""

    def server_close(self) -> None:
        """See the base class."""
        super().server_close()
        for one in tuple(self._open):
            with suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)


@contextmanager
def served(
    folder: Folder,
    line: NetworkProfile | None = None,
    headers: tuple[tuple[str, str], ...] = (),
    port: int = 0,
) -> Iterator[ServedFolder]:
    """Serve a folder on this machine alone.

    Args:
        folder: of the page.
        line: that the answers come over; None: as fast as can be.
        headers: further ones that come with the page.
        port: to serve on; 0: any.
    """
    told = ServedFolder(folder, headers)
    handler = partial(_Handler, shaped=_Shaped(line), served=told)
    server = _Server(port, handler)
    thread = threading.Thread(target=server.serve_forever, args=(POLL,), daemon=True)
    thread.start()
    told.address = f"http://127.0.0.1:{server.server_port}"
    try:
        yield told
    finally:
        server.shutdown()
        server.server_close()
