"""The page's server: on this machine alone, for whoever has the key, and for one brief."""

from __future__ import annotations

import hmac
import json
import re
import secrets
import socket
from collections.abc import Callable, Mapping
from contextlib import suppress
from functools import partial
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Lock
from typing import Any
from urllib.parse import urlsplit

from brightcanvas.adjusting.adjust_page import SCRIPTS, live_page, part_of_page
from brightcanvas.adjusting.session import ConflictError, Session
from brightcanvas.brief.rewriting import Change
from brightcanvas.values.errors import BriefError, BrightCanvasError
from brightcanvas.values.file_formats import FileFormat
from brightcanvas.values.files import read_regular

HOST = "127.0.0.1"

LONGEST = 64_000
"""Bytes that a request may bring."""

LARGEST_PICTURE = 100_000_000
"""Bytes of a file of a draft; a longer one is none of ours."""

MOST_CHANGES = 100
AT_ONCE = 64
"""Connections that are open and haven't shown the key; the oldest one makes room for another."""

TIMEOUT = 20.0
"""Seconds that a request may take to arrive, and that one for news is held."""

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:;"
    " connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
"""Nothing from elsewhere, nothing written inline, and in no frame."""

Json = Any
Answer = tuple[int, bytes, str]
Given = Any
"""What the base class is given; it has no public types."""


class AdjustServer(ThreadingHTTPServer):
    """Serves one session; ``address`` is the page's."""

    daemon_threads = True
    request_queue_size = 128

    def __init__(self, session: Session, port: int = 0) -> None:
        """Take a port.

        Args:
            session: the brief that is adjusted.
            port: 0 takes any that is free.

        Raises:
            OSError: it can't be had.
        """
        self.key = secrets.token_urlsafe(24)
        self._strangers: dict[socket.socket, None] = {}
        self._door = Lock()
        super().__init__((HOST, port), partial(_Handler, session=session, key=self.key))

    @property
    def address(self) -> str:
        """Of the page, with its key."""
        return f"http://{HOST}:{self.server_port}/{self.key}/"

    def process_request(self, request: Given, client_address: Given) -> None:
        """Begin to answer at once: who has the key waits for nobody who hasn't."""
        with self._door:
            self._strangers[request] = None
            turned_out = list(self._strangers)[:-AT_ONCE]
            for one in turned_out:
                del self._strangers[one]
        for one in turned_out:
            with suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)
        super().process_request(request, client_address)

    def knows(self, request: Given) -> None:
        """A connection has shown the key: it makes room for nobody."""
        with self._door:
            self._strangers.pop(request, None)

    def shutdown_request(self, request: Given) -> None:
        """A connection has ended."""
        self.knows(request)
        super().shutdown_request(request)

    def handle_error(self, *_: object) -> None:
        """Say nothing: whoever asked has gone away, or asked for nonsense."""


class _RefusedError(Exception):
    """A request that is not for us."""

    def __init__(self, status: int, says: str) -> None:
        super().__init__(says)
        self.status = status


class _Handler(BaseHTTPRequestHandler):
    """One connection."""

    protocol_version = "HTTP/1.1"
    disable_nagle_algorithm = True
    timeout = TIMEOUT
    server_version, sys_version = "bright-canvas", ""

    def __init__(self, *args: Given, session: Session, key: str, **named: Given) -> None:
        self._session, self._key = session, key
        super().__init__(*args, **named)

    def log_message(self, *_: object) -> None:
        """Nothing: the address has the key in it."""

    def do_GET(self) -> None:
        """Something to look at."""
        self._answer(lambda: self._got(self._path()))

    def do_POST(self) -> None:
        """A question with changes in it, or an order to write."""
        self._answer(lambda: self._posted(self._path(), self._body()))

    def _answer(self, work: Callable[[], Answer]) -> None:
        try:
            status, content, kind = work()
        except _RefusedError as refused:
            self.close_connection = True  # what else it brings is not read
            status, content, kind = refused.status, str(refused).encode(), "text/plain"
        except ConflictError as conflict:
            found = {"theirs": conflict.theirs, "digest": conflict.digest}
            status, content, kind = 409, json.dumps(found).encode(), "application/json"
        except BrightCanvasError as error:
            said = json.dumps({"mistake": str(error)}).encode()
            status, content, kind = 422, said, "application/json"
        except (ValueError, RecursionError, OverflowError) as error:  # nothing that the page asks
            self.close_connection = True
            status, content, kind = (
                400,
                f"It makes no sense: {error!r}"[:300].encode("utf-8", "replace"),
                "text/plain",
            )
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(content)))
        for name, value in _HEADERS.items():
            self.send_header(name, value)
        # A picture's name changes with its content; everything else is asked for afresh.
        is_picture = kind.startswith("image/")
        self.send_header("Cache-Control", "private, max-age=3600" if is_picture else "no-store")
        if self.close_connection:
            self.send_header("Connection", "close")
        self.end_headers()
        self.wfile.write(content)

    def _path(self) -> str:
        """The path behind the key, of a request that may be answered at all."""
        host = f"{HOST}:{self.server.server_port}"  # type: ignore[attr-defined]
        if self.headers.get_all("Host") != [host]:
            raise _RefusedError(403, "This page is for this machine alone.")
        if self.headers.get("Origin", f"http://{host}") != f"http://{host}":
            raise _RefusedError(403, "This page answers no other page.")
        _, _, rest = urlsplit(self.path).path.partition("/")
        key, _, path = rest.partition("/")
        is_own = self.headers.get("Sec-Fetch-Site", "none") in ("none", "same-origin")
        if not is_own and (path or not self._is_visit()):
            raise _RefusedError(403, "This page answers no other page.")
        if not hmac.compare_digest(key.encode(), self._key.encode()):
            raise _RefusedError(403, "The key in the address is missing or wrong.")
        self.server.knows(self.connection)  # type: ignore[attr-defined]
        return path

    def _is_visit(self) -> bool:
        """Whether a window goes to the page, as from the file that leads to it."""
        said = (self.headers.get(f"Sec-Fetch-{one}") for one in ("Mode", "Dest"))
        return self.command == "GET" and [*said] == ["navigate", "document"]

    def _body(self) -> Json:
        """What a request brings, as JSON."""
        if self.headers.get("Content-Type") != "application/json":
            raise _RefusedError(415, "JSON is wanted.")
        length = self.headers.get("Content-Length", "")
        if not re.fullmatch(r"\d{1,9}", length) or self.headers.get("Transfer-Encoding"):
            raise _RefusedError(411, "Its length is wanted.")
        if int(length) > LONGEST:
            raise _RefusedError(413, f"At most {LONGEST} bytes are wanted.")
        try:
            body = json.loads(self.rfile.read(int(length)))
        except (ValueError, RecursionError):
            body = None
        if not isinstance(body, dict) or not _is_text(body):
            raise _RefusedError(400, "A JSON object is wanted.")
        return body

    def _got(self, path: str) -> Answer:
        session, first, _, rest = self._session, *path.partition("/")
        if path == "":
            return 200, live_page(session.state()).encode(), "text/html; charset=utf-8"
        if path in SCRIPTS:
            return 200, part_of_page(path).encode(), SCRIPTS[path]
        if first == "look" and (found := session.looks.file(rest)):
            return 200, *found
        if first == "draft" and (file := self._drafted(rest)):
            return 200, *file
        raise _RefusedError(404, "There is nothing here.")

    def _drafted(self, name: str) -> tuple[bytes, str] | None:
        """A file of the last draft, by its name in the ledger alone."""
        draft = self._session.news.draft
        if draft is None or name not in draft.pictures:
            return None
        kinds = {one.ending: one.media_type for one in FileFormat}
        path = draft.folder / name
        try:
            content = None if path.is_symlink() else read_regular(path, LARGEST_PICTURE)
        except OSError:
            content = None
        return (content, kinds[name.rpartition(".")[2]]) if content else None

    def _posted(self, path: str, body: Json) -> Answer:
        asked = _Asked(body)
        session = self._session
        ways: Mapping[str, Callable[[], Json]] = {
            "state": session.state,
            "scene": lambda: session.scene(
                asked.text("backdrop"), asked.changes(), seeks_ways=asked.word("ways")
            ),
            "suggest": lambda: session.suggestion(asked.text("backdrop"), asked.text("view")),
            "stills": lambda: session.stills(asked.text("backdrop"), asked.text("view")),
            "frame": lambda: session.frame(
                asked.text("backdrop"), asked.text("view"), asked.number("second")
            ),
            "save": lambda: session.save(asked.changes(), asked.text("seen")),
            "undo": lambda: session.back(-1),
            "redo": lambda: session.back(1),
            "news": lambda: session.news.after(int(asked.number("number")), TIMEOUT / 2),
            "drafts": session.drafts,
        }
        if path not in ways:
            raise _RefusedError(404, "There is nothing here.")
        return 200, json.dumps(ways[path]()).encode(), "application/json"


_HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def _is_text(body: Json) -> bool:
    """Whether all of it can be written into a file; halves of letters can't."""
    try:
        json.dumps(body, ensure_ascii=False).encode()
    except (ValueError, RecursionError):
        return False
    return True


class _Asked:
    """What a request brings, looked at piece by piece."""

    def __init__(self, body: dict[str, Json]) -> None:
        self._body = body

    def text(self, key: str) -> str:
        value = self._body.get(key)
        if not isinstance(value, str):
            raise _RefusedError(400, f"'{key}' is wanted, a text.")
        return value

    def word(self, key: str) -> bool:
        """Whether something is wanted."""
        return self._body.get(key) is True

    def number(self, key: str) -> float:
        value = self._body.get(key)
        if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e9:
            raise _RefusedError(400, f"'{key}' is wanted, a number.")
        return float(value)

    def changes(self) -> list[Change]:
        """Changes of the brief; what they say is checked like everything in a brief.

        Raises:
            _RefusedError: they are no list of changes, or too long a one.
        """
        listed = self._body.get("changes", [])
        if not isinstance(listed, list) or len(listed) > MOST_CHANGES:
            raise _RefusedError(400, "'changes' is wanted, a list.")
        return [_change(one) for one in listed]


_KEYS = frozenset((
    "source", "plain", "subject", "closeness", "copy", "tone", "scrim", "height", "padding",
    "poster_at", "moving", "position", "breakpoint",
))  # fmt: skip
"""What can be changed on the page."""


def _change(one: Json) -> Change:
    words = ("backdrop", "breakpoint", "key")
    if not isinstance(one, dict) or not all(isinstance(one.get(word), str) for word in words):
        raise _RefusedError(400, "A change has 'backdrop', 'breakpoint' and 'key'.")
    if one["key"] not in _KEYS:
        raise BriefError(f"'{one['key'][:40]}' can't be changed here: change it in the brief.")
    if one["key"] == "breakpoint":
        _check_breakpoint(one.get("value"))
    return Change(one["backdrop"], one["breakpoint"], one["key"], one.get("value"))


def _check_breakpoint(value: Json) -> None:
    """It is written as text, so it must be what it has to be."""
    is_right = (
        isinstance(value, dict)
        and set(value) == {"name", "below"}
        and bool(re.fullmatch(r"[a-z0-9-]{1,60}", str(value["name"])))
        and isinstance(value["below"], int | float)
        and 1 <= value["below"] <= 20_000
    )
    if not is_right:
        raise _RefusedError(400, "A breakpoint has a 'name', and 'below' in CSS px.")
