"""A made-up host that does what many do: it compresses pictures again before it serves them."""

from __future__ import annotations

from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Lock
from typing import Any

from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.formats.survey import read_source
from brightcanvas.values.errors import BrightCanvasError
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.files import read_regular
from brightcanvas.values.raster import Raster

_AGAIN = {".jpg": FileFormat.JPEG, ".webp": FileFormat.WEBP}
"""What it compresses again; newer formats and drawings it serves as they are."""


LARGEST_AGAIN = 40.0
"""Megapixels of a picture that it compresses again."""

_AT_ONCE = Lock()
"""Pictures are decoded one after the other: each takes memory."""

NOWHERE = "\N{REPLACEMENT CHARACTER}"
"""The name of no file."""

FRAME = "/frame/"
"""Where it shows clips in a page made for frames."""

_FRAME_PAGE = b"""<!doctype html><html lang="en"><meta charset="utf-8"><title>A clip</title>
<style>html, body { margin: 0; height: 100%; background: #37556b; overflow: hidden }
div { width: 20%; height: 100%; background: #6b8fa8; animation: way 4s linear infinite alternate }
@keyframes way { to { transform: translateX(400%) } }</style><div></div>"""


class _Handler(SimpleHTTPRequestHandler):
    """Serves a folder; pictures of the common formats come compressed again."""

    extensions_map = {  # noqa: RUF012 - the base class has it so
        **SimpleHTTPRequestHandler.extensions_map,
        **{f".{one.ending}": one.media_type for one in FileFormat},
    }

    def __init__(self, *arguments: Any, quality: int, **named: Any) -> None:  # noqa: ANN401
        self._quality = quality
        super().__init__(*arguments, **named)

    def log_message(self, *_: object) -> None:
        """Say nothing."""

    def translate_path(self, path: str) -> str:
        """Where a request leads; no link leads out of the folder."""
        folder = Path(self.directory).resolve()
        try:
            place = Path(super().translate_path(path)).resolve()
        except (OSError, ValueError, RuntimeError):  # a zero byte, a loop of links
            return str(folder / NOWHERE)
        return str(place if place.is_relative_to(folder) else folder / NOWHERE)

    def do_GET(self) -> None:
        """Answer with the file, or with what is left of it."""
        if self.path.startswith(FRAME):
            self._answer(_FRAME_PAGE, "text/html; charset=utf-8")
            return
        path = Path(self.translate_path(self.path))
        kind = _AGAIN.get(path.suffix)
        if kind is None or not path.is_file():
            super().do_GET()
            return
        self._answer(again(path, kind, self._quality), kind.media_type)

    def _answer(self, content: bytes, media_type: str) -> None:
        self.send_response(200)
        self.send_header("Content-Type", media_type)
        self.send_header("Content-Length", str(len(content)))
        self.end_headers()
        self.wfile.write(content)


class _Server(ThreadingHTTPServer):
    def handle_error(self, *_: object) -> None:
        """Say nothing: whoever asked has gone away, or asked for nonsense."""


def again(path: Path, kind: FileFormat, quality: int) -> bytes:
    """A picture compressed again; one that is too large or can't be read, as it is.

    Args:
        path: of the picture.
        kind: its format.
        quality: of the codec, 1 to 100.
    """
    try:
        with _AT_ONCE:
            _, picture = read_source(path, LARGEST_AGAIN)
    except BrightCanvasError:
        return read_regular(path)
    opaque = Raster(picture.pixels[..., :3]) if kind is FileFormat.JPEG else picture
    return encode(opaque, Encoding(kind, quality=quality))


def host(folder: Path, port: int, quality: int) -> ThreadingHTTPServer:
    """A server on this machine alone, to be started with ``serve_forever``.

    Args:
        folder: that is served.
        port: 0 takes any that is free.
        quality: of the codecs, 1 to 100.
    """
    handler = partial(_Handler, directory=str(folder), quality=quality)
    return _Server(("127.0.0.1", port), handler)
