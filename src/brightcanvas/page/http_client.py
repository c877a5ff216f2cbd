"""Fetching one file from a host, whatever the host does."""

from __future__ import annotations

import http.client
import time
from collections.abc import Callable
from threading import Thread
from typing import Any
from urllib.error import URLError
from urllib.parse import urlsplit
from urllib.request import HTTPRedirectHandler, Request, build_opener

SILENCE = 10
"""Seconds to wait for a host's next byte."""

TIMEOUT = 60
"""Seconds for a file in all."""

LARGEST = 50_000_000
"""Bytes of one served file."""

ACCEPT = "image/avif,image/webp,image/*,*/*;q=0.8"
"""What browsers in use ask for."""

PORTS = {"http": 80, "https": 443}
"""Of the schemes that are fetched from, where an address names none."""


class NotFetchedError(Exception):
    """Why a file could not be had, in a few words."""


def fetch(address: str) -> bytes:
    """What a host serves at an address.

    A redirection is followed on the same scheme and port only: a list of addresses must not
    reach what else listens on a machine.

    Raises:
        NotFetchedError: it is no http or https address, or nothing usable came in time.
    """
    _origin(address)
    return _in_time(lambda: _fetched(address))


def _origin(address: str) -> tuple[str, int]:
    """Scheme and port."""
    try:
        parts = urlsplit(address)
        return parts.scheme, parts.port or PORTS[parts.scheme]
    except (ValueError, KeyError) as error:
        raise NotFetchedError("only http and https addresses can be fetched") from error


class _SameOrigin(HTTPRedirectHandler):
    def redirect_request(self, req: Request, *others: Any) -> Request | None:  # noqa: ANN401
        address = others[-1]
        if _origin(address) != _origin(req.full_url):
            raise NotFetchedError(f"it sends on to {address}, which is not followed")
        return super().redirect_request(req, *others)


def _fetched(address: str) -> bytes:
    request = Request(address, headers={"Accept": ACCEPT})
    with build_opener(_SameOrigin).open(request, timeout=SILENCE) as answer:
        began, content = time.monotonic(), bytearray()
        while piece := answer.read1(1 << 16):
            content += piece
            if len(content) > LARGEST:
                raise NotFetchedError(f"more than {LARGEST / 1e6:.0f} MB")
            if time.monotonic() - began > TIMEOUT:
                raise NotFetchedError(_TOO_SLOW)
        return bytes(content)


_TOO_SLOW = f"not there within {TIMEOUT} s"


def _in_time(work: Callable[[], bytes]) -> bytes:
    """A host may also let its headers drip, which no waiting for the next byte notices."""
    came: list[bytes | Exception] = []

    def run() -> None:
        try:
            came.append(work())
        except Exception as error:
            came.append(error)

    thread = Thread(target=run, daemon=True)
    thread.start()
    thread.join(TIMEOUT + SILENCE)
    if not came:
        raise NotFetchedError(_TOO_SLOW)
    if isinstance(came[0], bytes):
        return came[0]
    raise _told(came[0])


def _told(error: Exception) -> Exception:
    if isinstance(error, NotFetchedError):
        return error
    if isinstance(error, (OSError, ValueError, http.client.HTTPException)):
        reason = error.reason if isinstance(error, URLError) else error
        return NotFetchedError(" ".join(str(reason).split())[:200] or type(error).__name__)
    return error
