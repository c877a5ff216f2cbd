"""How a clip moves: its frames reduced, how far they are apart, and which way things go."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise, takewhile
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from brightcanvas.analysis.grain import grain_in
from brightcanvas.analysis.stills import reduced_size
from brightcanvas.formats.clips.clip_reading import ClipFacts
from brightcanvas.formats.clips.moments import FrameReading, PixelFormat, moments

ACROSS = 160
"""Px of the longer side at which frames are compared."""

MOST_FRAMES = 900
"""That are compared; of a longer clip every second or third one."""

STILLNESS = 0.05
"""Codes; smaller steps are taken for it."""

NEAR = 2
"""Frames before and after with which a reduced frame is averaged where it is grain that differs."""

GRAIN = 3.0
"""Times the grain from which a difference is motion."""

UNEVEN = 0.25
"""Of the usual time between frames: what differs by more isn't even."""

UNEVEN_SHARE = 0.05
"""Of all frames that come unevenly in a clip without a rate of its own."""

PAIRS = 80
"""Of neighbours in which the way of things is looked for."""

CELL = 10
"""Px across the cells that each have one way."""

FAINTEST = 4.0
"""Least mean square of a cell's slopes from which its motion can be told."""

CARRIED = 6.0
"""Px from which something has gone away rather than swayed."""

SHIFTED = (1, 3)
"""Frames between two in which the camera's motion is looked for, fast and slow."""

CAMERA_PAIRS = 12
REACH = 6
"""Px that the camera may go between them."""

JUMPS = 2.5
"""Times a cell's largest usual step from which it jumps."""

JUMP_FLOOR = 3.0
"""Codes; smaller jumps are not noticed, wherever they are."""

COARSE = (2.0, 8.0)
"""Deviations, px, between which a double image is looked for: finer is texture, coarser light."""

DOUBLED = 10.0
"""Codes by which such structures differ where two pictures are seen."""

Field = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Reduced:
    """All frames of a stretch, reduced."""

    seconds: tuple[float, ...]
    frames: Field
    """Luma codes, shape (frames, height, width)."""
    end: float
    """When the last frame has been shown."""
    lost: float = 0.0
    """Seconds after it that can't be read."""
    every: int = 1
    """Of how many frames one was taken."""

    @property
    def is_even(self) -> bool:
        """Whether the frames come at a steady rate."""
        if len(self.seconds) < 4:
            return True
        steps = np.diff(self.seconds)
        off = np.abs(steps - np.median(steps)) > UNEVEN * np.median(steps)
        return bool(off.mean() <= UNEVEN_SHARE)

    @property
    def step(self) -> float:
        """Seconds from one to the next, in the mean."""
        return (self.end - self.seconds[0]) / len(self.seconds)


def reduced(path: Path, facts: ClipFacts, begin: float, end: float) -> Reduced:
    """The frames from one second up to another.

    Args:
        path: of the clip.
        facts: of it.
        begin: second of the source.
        end: second of the source, not included.
    """
    every = max(1, round((end - begin) * float(facts.rate) / MOST_FRAMES))
    reading = FrameReading(size=reduced_size(facts, ACROSS), begin=begin, kind=PixelFormat.GREY)
    seconds, frames = [], []
    running = takewhile(lambda one: one.second < end - 1e-6, moments(path, reading))
    for number, one in enumerate(running):
        if number % every == 0:
            seconds.append(one.second)
            frames.append(grey_of(one.pixels))
    step = every / float(facts.rate)
    last = min(end, seconds[-1] + step) if seconds else end
    missing = min(end, facts.seconds) - last
    lost = missing if missing > 2 * step else 0.0
    values = _without_grain(np.array(frames, np.float32))
    return Reduced(tuple(seconds), values, last, lost, every)


def grey_of(codes: NDArray[np.unsignedinteger[Any]]) -> Field:
    """Luma in codes of 255, from those of 65535."""
    return codes.astype(np.float32) / np.float32(257)


def _without_grain(frames: Field) -> Field:
    """Frames averaged with their neighbours where they differ by no more than grain does.

    Else its steps, which are the same everywhere, would hide a jump.
    """
    if len(frames) < 3:
        return frames
    grain = grain_in(frames)
    if grain < STILLNESS:
        return frames
    limit = GRAIN * np.sqrt(2) * grain
    total, count = frames.copy(), np.ones_like(frames)
    for gap in range(1, NEAR + 1):
        apart_by = np.abs(frames[gap:] - frames[:-gap])
        share = np.maximum(1 - (apart_by / limit) ** 2, 0)
        total[gap:] += share * frames[:-gap]
        count[gap:] += share
        total[:-gap] += share * frames[gap:]
        count[:-gap] += share
    return np.asarray(total / count, np.float32)


def apart(one: Field, other: Field) -> float:
    """Root mean square of what differs, in codes."""
    return float(np.sqrt(np.mean((one - other) ** 2)))


def steps_of(frames: Field) -> Field:
    """From each frame to the next."""
    return np.array([apart(a, b) for a, b in pairwise(frames)], np.float32)


def usual_step(frames: Field) -> float:
    """The median change from one frame to the next, in codes."""
    return max(float(np.median(steps_of(frames))), STILLNESS) if len(frames) > 1 else STILLNESS


def distances(frames: Field) -> Field:
    """Root mean squares of the differences between any two frames."""
    flat = frames.reshape(len(frames), -1)
    centred = flat - flat.mean(axis=0)
    squares = (centred * centred).sum(axis=1)
    between = squares[:, None] + squares[None, :] - 2 * centred @ centred.T
    return np.asarray(np.sqrt(np.maximum(between, 0) / flat.shape[1]), np.float32)


@dataclass(frozen=True, eq=False)
class Ways:
    """Which way the parts of the picture go."""

    moves: Field
    """Px from frame to frame, shape (pairs, cells, 2)."""
    firm: NDArray[np.bool_]
    """Where there is enough drawn for that to be told, shape (pairs, cells)."""
    every: int
    """Frames from pair to pair."""


def ways_of(frames: Field) -> Ways:
    """By the slopes of each cell (B. Lucas and T. Kanade, 1981)."""
    every = max(1, (len(frames) - 1) // PAIRS)
    found = [_way(frames[at], frames[at + 1]) for at in range(0, len(frames) - 1, every)]
    return Ways(np.array([one[0] for one in found]), np.array([one[1] for one in found]), every)


def _way(first: Field, second: Field) -> tuple[Field, NDArray[np.bool_]]:
    from scipy import ndimage

    soft = [ndimage.gaussian_filter(one, 1.5) for one in (first, second)]
    down, across = np.gradient((soft[0] + soft[1]) / 2)
    change = soft[1] - soft[0]
    xx, yy, xy = _cells(across * across), _cells(down * down), _cells(across * down)
    xt, yt = _cells(across * change), _cells(down * change)
    firmness = (xx + FAINTEST) * (yy + FAINTEST) - xy * xy
    x, y = (xy * yt - yy * xt) / firmness, (xy * xt - xx * yt) / firmness
    return np.stack([x, y], axis=-1).reshape(-1, 2), (xx + yy > 4 * FAINTEST).ravel()


def _cells(plane: Field) -> Field:
    rows, columns = max(1, plane.shape[0] // CELL), max(1, plane.shape[1] // CELL)
    height, width = plane.shape[0] // rows, plane.shape[1] // columns
    part = plane[: rows * height, : columns * width]
    return np.asarray(part.reshape(rows, height, columns, width).mean(axis=(1, 3)))


def one_way_share(ways: Ways) -> float:
    """How much of the motion carries something away, 0..1.

    Water runs down, sails turn and people walk on: backwards that is noticed. Reeds sway to and
    fro within a small space.
    """
    moves = ways.moves * ways.firm[..., None]
    lengths = np.linalg.norm(moves, axis=-1)
    everything = lengths.sum()
    if everything <= 0:
        return 0.0
    gone = np.cumsum(moves, axis=0) * ways.every
    reach = np.linalg.norm(gone.max(axis=0) - gone.min(axis=0), axis=-1)
    return float(lengths[:, reach > CARRIED].sum() / everything)


def camera_share(frames: Field) -> float:
    """How much of what changes is the camera's own motion, 0..1: what one shift undoes.

    A camera that went there may go back.
    """
    return max(_camera_share(frames, gap) for gap in SHIFTED)


def _camera_share(frames: Field, gap: int) -> float:
    every = max(1, (len(frames) - gap) // CAMERA_PAIRS)
    starts = range(0, len(frames) - gap, every)
    found = [_undone(frames[at], frames[at + gap]) for at in starts]
    return float(np.median(found)) if found else 0.0


def _undone(one: Field, other: Field) -> float:
    """By the best of some shifts, of all that differs between two frames."""
    far = min(REACH, min(one.shape) // 4)
    middle = one[far:-far, far:-far] if far else one
    height, width = middle.shape
    plain = float(np.mean((middle - other[far : far + height, far : far + width]) ** 2))
    least = min(
        float(np.mean((middle - other[down : down + height, across : across + width]) ** 2))
        for down in range(2 * far + 1)
        for across in range(2 * far + 1)
    )
    return 1 - least / max(plain, STILLNESS)


def jumps_somewhere(frames: Field, first: int, last: int) -> bool:
    """Whether some part of the picture jumps from one frame back to another.

    What jumps may be small: the sails of a mill are a hundredth of the picture. So each cell is
    compared with its own steps.

    Args:
        frames: reduced, of shape (frames, height, width, channels).
        first: index of the frame that would follow.
        last: index of the frame that would come before it.
    """
    usual = np.quantile([_cell_steps(a, b) for a, b in pairwise(frames)], 0.95, axis=0)
    over = _cell_steps(frames[last], frames[first])
    return bool((over > JUMPS * np.maximum(usual, JUMP_FLOOR)).any())


def _cell_steps(one: Field, other: Field) -> Field:
    return np.sqrt(_cells((one - other) ** 2))


def doubled_share(one: Field, other: Field) -> float:
    """The share of the area where one would be seen through the other, 0..1.

    Args:
        one: luma codes, shape (height, width).
        other: luma codes of the same shape.
    """
    return float(np.mean(np.abs(_structure(one) - _structure(other)) > DOUBLED))


def _structure(frame: Field) -> Field:
    from scipy import ndimage

    fine, coarse = (ndimage.gaussian_filter(frame, one) for one in COARSE)
    return np.asarray(fine - coarse, np.float32)
