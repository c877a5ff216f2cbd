"""A WebSocket to a browser: commands with numbers, their answers, and what is told in between."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from typing import Any

from brightcanvas.browsers.window import SILENT
from brightcanvas.values.errors import MachineError

Message = dict[str, Any]


class SilentError(MachineError):
    """The browser gave no answer in time."""


class ProtocolLine:
    """One line; both protocols that browsers speak number commands alike."""

    def __init__(
        self, browser: str, address: str, timeout: float, heard: Callable[[Message], None]
    ) -> None:
        """Connect.

        Args:
            browser: its name, for messages.
            address: beginning with ``ws://``.
            timeout: seconds until it is given up.
            heard: gets what is told without having been asked for.

        Raises:
            MachineError: nobody answers there.
        """
        from websocket import WebSocketException, create_connection

        self._browser, self._heard, self._number = browser, heard, 0
        try:
            # Pictures come as text: looking at each byte for valid UTF-8 took most of our time.
            self._socket = create_connection(
                address, timeout=timeout, suppress_origin=True, skip_utf8_validation=True
            )
        except (OSError, WebSocketException) as error:
            raise MachineError(f"{browser} doesn't answer ({error}); try it again") from error

    def ask(self, message: Message, timeout: float) -> Message:
        """Send a command, and wait for its answer.

        Args:
            message: the command; it gets its number here.
            timeout: seconds.

        Raises:
            SilentError: there is none in time.
            MachineError: the browser is gone.
        """
        from websocket import WebSocketException, WebSocketTimeoutException

        until = time.monotonic() + timeout
        try:
            number = self.send(message)
            while True:
                self._socket.settimeout(max(0.001, until - time.monotonic()))
                answer: Message = json.loads(self._socket.recv())
                if answer.get("id") == number:
                    return answer
                if "method" in answer:
                    self._heard(answer)
        except (TimeoutError, WebSocketTimeoutException) as error:
            raise SilentError(f"{self._browser} {SILENT}") from error
        except (OSError, ValueError, WebSocketException) as error:
            raise MachineError(f"{self._browser} fell silent ({error}); try it again") from error

    def send(self, message: Message) -> int:
        """Send a command whose answer nobody waits for; its number."""
        self._number += 1
        self._socket.send(json.dumps({"id": self._number, **message}))
        return self._number

    def close(self, timeout: float = 0.0) -> None:
        """Take leave within so many seconds, or hang up."""
        if timeout:
            self._socket.close(timeout=timeout)
        self._socket.shutdown()  # type: ignore[no-untyped-call]
