"""What the pages in a browser reach: one server of ours on this machine, and who is named; no more.

Everything else is sent to that server as to a proxy, which hands nothing on. So neither another
host nor another port of this machine hears of a page that is looked at.
"""

from __future__ import annotations

import socket
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from urllib.parse import urlsplit

LOOPBACK = "127.0.0.1"


def free_port() -> int:
    """A port of this machine that nobody listens on."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as tried:
        tried.bind((LOOPBACK, 0))
        return int(tried.getsockname()[1])


@dataclass(frozen=True)
class Reach:
    """A port on which pages are served to a browser, and the servers that people named."""

    port: int = field(default_factory=free_port)
    named: tuple[str, ...] = ()
    """Such as ``http://localhost:8000``."""

    @property
    def hosts(self) -> tuple[str, ...]:
        """With their ports."""
        return (f"{LOOPBACK}:{self.port}", *(urlsplit(one).netloc for one in self.named))

    @property
    def switches(self) -> Iterator[str]:
        """For Chromium."""
        names = dict.fromkeys([LOOPBACK, *(urlsplit(one).hostname or "" for one in self.named)])
        yield f"--proxy-server={LOOPBACK}:{self.port}"
        yield f"--proxy-bypass-list=<-loopback>;{';'.join(self.hosts)}"
        yield "--host-resolver-rules=MAP * ~NOTFOUND, " + ", ".join(
            f"EXCLUDE {name}" for name in names
        )

    @property
    def preferences(self) -> str:
        """For Firefox."""
        shut: Sequence[tuple[str, str]] = [
            ("type", "1"),
            ("http", f'"{LOOPBACK}"'), ("http_port", str(self.port)),
            ("ssl", f'"{LOOPBACK}"'), ("ssl_port", str(self.port)),
            ("no_proxies_on", f'"{", ".join(self.hosts)}"'),
            ("allow_hijacking_localhost", "true"),
        ]  # fmt: skip
        return "".join(f'user_pref("network.proxy.{name}", {value});\n' for name, value in shut)
