"""Firefox as a person uses it: pressing, dragging, looking."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from brightcanvas.browsers.firefox import FirefoxWindow
from brightcanvas.values.environments import Environment


class FirefoxPage:
    """One page in one window."""

    def __init__(self, binary: str, width: int, height: int) -> None:
        self._window = FirefoxWindow(binary, None)
        self._window.resize(Environment(width, height))
        self.open, self.evaluate = self._window.open, self._window.evaluate
        self.close = self._window.close

    def drag(self, begin: tuple[float, float], way: tuple[float, float], steps: int = 8) -> None:
        """Press at a place (CSS px), move, let go."""
        x, y = begin
        moves = [
            _move(x + way[0] * step / steps, y + way[1] * step / steps) for step in range(steps + 1)
        ]
        press, let_go = ({"type": f"pointer{what}", "button": 0} for what in ("Down", "Up"))
        actions = [moves[0], press, *moves[1:], let_go]
        source = {"type": "pointer", "id": "mouse", "actions": actions}
        self._window.tell("input.performActions", actions=[source])

    def press(self, *keys: str) -> None:
        """Keys on the keyboard, one after the other."""
        actions = [{"type": way, "value": key} for key in keys for way in ("keyDown", "keyUp")]
        self._window.tell(
            "input.performActions", actions=[{"type": "key", "id": "keys", "actions": actions}]
        )

    def screenshot(self) -> NDArray[np.uint8]:
        """The viewport's pixels, (height, width, 3)."""
        with Image.open(io.BytesIO(self._window.screenshot())) as image:
            return np.asarray(image.convert("RGB"))


def _move(x: float, y: float) -> dict[str, Any]:
    return {"type": "pointerMove", "x": round(x), "y": round(y)}
