"""Reduced pictures of sources, toned as the brief says, for looking."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from threading import Lock
from typing import TypeVar

from brightcanvas.analysis.legibility import STEPS_PER_STROKE
from brightcanvas.colour.resample import resize
from brightcanvas.colour.spaces import average_colour
from brightcanvas.colour.treatments import treated
from brightcanvas.formats.pictures.picture_reading import decode
from brightcanvas.formats.pictures.picture_writing import encode
from brightcanvas.pipeline.graph import Pipeline
from brightcanvas.plan.planned import Picture, PlannedVariant
from brightcanvas.tasks.copy import CopyOn, Legibility, copy_on, judge
from brightcanvas.tasks.looking_tasks import ReduceSource
from brightcanvas.tasks.of_views import source_of
from brightcanvas.tasks.sources import PreparedSource
from brightcanvas.values.colours import UNTREATED, Colour, Tone
from brightcanvas.values.file_formats import Encoding, FileFormat
from brightcanvas.values.geometry import Rect, Size
from brightcanvas.values.raster import Raster

SHOWN, TILED, GLANCED = 1200, 640, 560
"""Px across of what the page shows of a source, of what small tiles show, and of what copy is
judged by meanwhile."""

SMALL = ".small"
"""Behind the name of a look that is for small tiles."""

OPAQUE = Encoding(FileFormat.JPEG, quality=82, draft=True)
TRANSPARENT = Encoding(FileFormat.WEBP, lossless=True)

KEPT = 24
"""Pictures of each kind that stay in memory."""

R = TypeVar("R")


@dataclass(frozen=True)
class Preview:
    """One picture as the page shows it: a source in a tone."""

    source: PreparedSource
    tone: Tone = UNTREATED
    css_px: float = 1.0
    """Px of the reduced picture that make a CSS px in the largest box."""

    @property
    def name(self) -> str:
        """What it is asked for by."""
        source, said = self.source, (self.tone, round(self.css_px, 3))
        told = f"{source.source.digest} {source.second:g} {source.preparation} {said}"
        return hashlib.sha256(told.encode()).hexdigest()[:20]


class _Kept:
    """The last results of something slow; each is made once, by whoever asks first."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._found: OrderedDict[Hashable, object] = OrderedDict()

    def get(self, key: Hashable, make: Callable[[], R]) -> R:
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]  # type: ignore[return-value]
        made = make()
        with self._lock:
            self._found[key] = made
            while len(self._found) > KEPT:
                self._found.popitem(last=False)
        return made


class PreviewCache:
    """Everything that was looked at, and can be asked for again."""

    def __init__(self, pipeline: Pipeline) -> None:
        self._pipeline = pipeline
        self._making = Lock()
        self._named: dict[str, Preview] = {}
        self._reduced, self._toned, self._files, self._judged = (_Kept() for _ in range(4))

    def look_of(self, picture: Picture) -> Preview:
        """How the page shows the source of a view, to be asked for by its name."""
        scale = SHOWN / max(picture.size.width, SHOWN)
        css_px = picture.cut.area.width * scale / picture.drawn if picture.tone.soften else 1.0
        return self.named(Preview(source_of(picture), picture.tone, round(css_px, 3)))

    def named(self, look: Preview) -> Preview:
        """A look, which can be asked for by its name from now on."""
        self._named[look.name] = look
        return look

    def file(self, name: str) -> tuple[bytes, str] | None:
        """A look's file and its media type; None where nobody has named it.

        With ``.small`` behind its name it has just what small tiles show, so that they follow fast.
        """
        plain = name.removesuffix(SMALL)
        look, across = self._named.get(plain), SHOWN if plain == name else TILED
        return self._files.get(name, lambda: self._encoded(look, across)) if look else None

    def behind(self, picture: Picture) -> Colour:
        """The colour that would be taken from a picture."""
        look = self.look_of(picture)
        return self._judged.get(("behind", look), lambda: average_colour(self._toned_at(look)))

    def legibility(self, view: PlannedVariant) -> Legibility | None:
        """How well a view's copy can be read on what is shown; None where nothing is to be read.

        Quick, and so by a reduced picture before any compression: drafts and builds know better.
        """
        copy, picture = copy_on(view), view.picture
        if copy is None or picture is None:
            return None
        look, behind = self.look_of(picture), view.slot.behind or self.behind(picture)

        def judged() -> Legibility:
            shown = _part(self._glanced(look), picture)
            return judge(_no_finer(copy, shown), shown, behind)

        return self._judged.get((copy, look, behind), judged)

    def window(self, picture: Picture, window: Rect, across: int) -> tuple[bytes, str]:
        """A part of a source as a file, and its media type.

        Args:
            picture: the view's.
            window: the part, px of the source.
            across: px of the file.
        """
        shown = self._toned_at(self.look_of(picture))
        scale = shown.size.width / picture.size.width
        part = window.scaled(Size(scale, shown.size.height / picture.size.height))
        down = max(1, round(across / part.size.aspect))
        made = resize(shown, part, across, down)
        kind = TRANSPARENT if made.has_alpha else OPAQUE
        return encode(made, kind), kind.format.media_type

    def _glanced(self, look: Preview) -> Raster:
        return self._toned.get(("glance", look), lambda: _smaller(self._toned_at(look), GLANCED))

    def _toned_at(self, look: Preview) -> Raster:
        return self._toned.get(
            look, lambda: treated(self._reduced_of(look.source), look.tone, look.css_px)
        )

    def _encoded(self, look: Preview, across: int) -> tuple[bytes, str]:
        picture = _smaller(self._toned_at(look), across)
        kind = TRANSPARENT if picture.has_alpha else OPAQUE
        return encode(picture, kind), kind.format.media_type

    def _reduced_of(self, source: PreparedSource) -> Raster:
        task = ReduceSource(source)

        def reduced() -> Raster:
            if source.source.kind.is_clip:  # a frame of many that are looked at: not kept on disk
                return _smaller(source.read(), SHOWN)
            with self._making:
                content = self._pipeline.run([task])[task]
            return _smaller(decode(content), SHOWN)

        return self._reduced.get(task, reduced)


def _smaller(picture: Raster, across: int) -> Raster:
    width, height = picture.size.rounded
    if width <= across:
        return picture
    return resize(
        picture, Rect(0, 0, width, height), across, max(1, round(height * across / width))
    )


def _part(shown: Raster, picture: Picture) -> Raster:
    """The cut of what is shown of a whole source, in whole px: nothing is resampled."""
    size, area = shown.size, picture.cut.area
    part = area.scaled(Size(size.width / picture.size.width, size.height / picture.size.height))
    left, top = int(part.left), int(part.top)
    right, bottom = max(left + 1, round(part.right)), max(top + 1, round(part.bottom))
    return Raster(shown.pixels[top:bottom, left:right])


def _no_finer(copy: CopyOn, shown: Raster) -> CopyOn:
    """Copy that is judged by no finer samples than a picture has px."""
    finest = shown.size.width * copy.finest.stroke / STEPS_PER_STROKE
    return replace(copy, drawn=min(copy.drawn, finest))
