"""Firefox, driven through the W3C's WebDriver BiDi protocol, which it speaks by itself."""

from __future__ import annotations

import io
import json
import os
import re
import subprocess
import tempfile
import time
from base64 import b64decode
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from websocket import create_connection

PATIENCE = 60.0


class FirefoxPage:
    """One page in one window."""

    def __init__(self, binary: str, width: int, height: int) -> None:
        self._profile = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        size = {"MOZ_HEADLESS_WIDTH": str(width), "MOZ_HEADLESS_HEIGHT": str(height)}
        command = [
            binary, "--headless", "--no-remote", "--remote-debugging-port", "0",
            "--profile", self._profile.name,
        ]  # fmt: skip
        self._log = Path(self._profile.name, "told.txt").open("w+b")  # noqa: SIM115
        self._running = subprocess.Popen(
            command, stdout=subprocess.DEVNULL, stderr=self._log, env=os.environ | size
        )
        self._number = 0
        self._line = create_connection(
            f"{self._address()}/session", timeout=PATIENCE, suppress_origin=True
        )
        self._ask("session.new", capabilities={})
        tree = self._ask("browsingContext.getTree")
        self._context = tree["contexts"][0]["context"]
        viewport = {"width": width, "height": height}
        self._ask("browsingContext.setViewport", context=self._context, viewport=viewport)

    def _address(self) -> str:
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            told = Path(self._log.name).read_text("utf-8", "replace")
            if found := re.search(r"ws://\S+", told):
                return found[0]
            time.sleep(0.1)
        raise AssertionError("Firefox never said where it listens")

    def _ask(self, method: str, **parameters: Any) -> Any:
        self._number += 1
        asked = {"id": self._number, "method": method, "params": parameters}
        self._line.send(json.dumps(asked))
        while True:
            answer = json.loads(self._line.recv())
            if answer.get("id") == self._number:
                assert answer["type"] == "success", answer
                return answer["result"]

    def open(self, url: str) -> None:
        self._ask("browsingContext.navigate", context=self._context, url=url, wait="complete")

    def evaluate(self, expression: str) -> Any:
        """The value of a JavaScript expression in the page."""
        told = self._ask(
            "script.evaluate",
            expression=f"JSON.stringify({expression})",
            target={"context": self._context},
            awaitPromise=True,
        )
        text = told["result"].get("value")
        return json.loads(text) if text else None

    def drag(self, begin: tuple[float, float], way: tuple[float, float], steps: int = 8) -> None:
        """Press at a place (CSS px), move, let go."""
        x, y = begin
        moves = [
            _move(x + way[0] * step / steps, y + way[1] * step / steps) for step in range(steps + 1)
        ]
        press, let_go = ({"type": f"pointer{what}", "button": 0} for what in ("Down", "Up"))
        actions = [moves[0], press, *moves[1:], let_go]
        source = {"type": "pointer", "id": "mouse", "actions": actions}
        self._ask("input.performActions", context=self._context, actions=[source])

    def screenshot(self) -> NDArray[np.uint8]:
        """The viewport's pixels, (height, width, 3)."""
        told = self._ask("browsingContext.captureScreenshot", context=self._context)
        with Image.open(io.BytesIO(b64decode(told["data"]))) as image:
            return np.asarray(image.convert("RGB"))

    def close(self) -> None:
        self._line.close()
        self._running.terminate()
        try:
            self._running.wait(10)
        except subprocess.TimeoutExpired:
            self._running.kill()
        self._log.close()
        self._profile.cleanup()


def _move(x: float, y: float) -> dict[str, Any]:
    return {"type": "pointerMove", "x": round(x), "y": round(y)}
