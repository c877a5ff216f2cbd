"""``bright-canvas transcode``."""

from __future__ import annotations

from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from rich.table import Table

from brightcanvas.library.for_pictures import transcode
from brightcanvas.promises.moving import flashes_remedy, flashes_text, offers_text, seam_text
from brightcanvas.terminal.arguments import (
    check_into,
)
from brightcanvas.terminal.phrases import clip_text
from brightcanvas.terminal.progress import watched
from brightcanvas.values.errors import BriefError, BrightCanvasError, ExitStatus
from brightcanvas.values.words import bytes_text
from brightcanvas.values.work import interruptible

if TYPE_CHECKING:
    import argparse
    from collections.abc import Callable, Sequence

    from brightcanvas.quality.clips.clip_search import ClipFile
    from brightcanvas.single_file.light_clip import Transcoded
    from brightcanvas.terminal.streams import Streams


def run(arguments: argparse.Namespace, streams: Streams) -> ExitStatus:
    """Make every clip light and tell what was saved; one that can't be used stops no other."""
    _check(arguments)
    made: list[Transcoded] = []
    refused: list[BrightCanvasError] = []
    with watched(streams.err) as watcher:
        watcher.starts(len(arguments.clips) * len(arguments.codecs))
        for clip in arguments.clips:
            try:
                job = partial(_transcoded, clip, arguments, watcher.done)
                made.append(interruptible(job))
            except BrightCanvasError as error:
                refused.append(error)
    if streams.as_json:
        errors = [line for one in refused for line in str(one).splitlines()]
        streams.document({"clips": [_facts(one) for one in made], "errors": errors})
    console = streams.console()
    if made:
        console.print(_table(made))
        for one in made:
            for line in _told(one):
                console.print(line, soft_wrap=True)
    for failed in refused:
        streams.note(f"bright-canvas: {failed}")
    if refused:
        return max(one.status for one in refused)
    broken = any(not one.flashes.flashes.is_safe or _over(one, arguments.most) for one in made)
    return ExitStatus.PROMISE_BROKEN if broken else ExitStatus.ALL_WELL


def _check(arguments: argparse.Namespace) -> None:
    if arguments.end is not None and arguments.end <= arguments.begin:
        raise BriefError("--end must be later than --begin.")
    check_into(arguments.into)


def _transcoded(
    clip: Path, arguments: argparse.Namespace, done: Callable[[str], None]
) -> Transcoded:
    return transcode(
        clip,
        begin=arguments.begin,
        end=arguments.end,
        once=arguments.once,
        seam=arguments.seam,
        speed=arguments.speed,
        most_rate=arguments.most_rate,
        largest=arguments.largest,
        drawn=arguments.drawn,
        quality=arguments.quality,
        grain=arguments.grain,
        most=arguments.most,
        codecs=arguments.codecs,
        into=arguments.into,
        largest_source=arguments.largest_source,
        done=done,
    )


def _over(one: Transcoded, most: int | None) -> bool:
    return most is not None and any(len(made.content) > most for _, made in one.files)


def _table(made: Sequence[Transcoded]) -> Table:
    table = Table(box=None, pad_edge=False)
    words = ("Clip", "Written", "Format", "Pixels", "Length")
    figures = ("Before", "After", "Saved", "Score", "Worst frame")
    for heading in words + figures:
        right = heading in figures
        table.add_column(
            heading, header_style="dim", justify="right" if right else "left", no_wrap=right
        )
    for one in made:
        for place, file in one.files:
            after = len(file.content)
            table.add_row(
                one.source.name, place.name, file.encoding.format.label,
                f"{file.size[0]} x {file.size[1]}", f"{file.timing.seconds:.2f} s",
                bytes_text(one.facts.bytes), bytes_text(after),
                f"{1 - after / one.facts.bytes:.0%}",
                f"{file.score.mean:.3f}", f"{file.score.worst:.3f}",
            )  # fmt: skip
    return table


def _told(one: Transcoded) -> list[str]:
    name, loop = one.source.name, one.loop
    low, high = min(one.brightness), max(one.brightness)
    best = one.files[0][1]
    lines = [
        f"{name}: {clip_text(one.facts)}; brightness {low:.0%} to {high:.0%},"
        f" motion {one.motion:.1f} steps of 255 a frame",
        f"  taken: {loop.begin:.2f} to {loop.end:.2f} s; {seam_text(loop, one.jump)}",
        f"  flashes: {flashes_text(one.flashes.flashes)}",
    ]
    if not one.flashes.flashes.is_safe:
        lines.append(f"  {flashes_remedy(one.flashes.remedies, one.speed)}")
    if loop.lost:
        lines.append(f"  damaged: the last {loop.lost:.1f} s can't be read; what is whole is used")
    if best.grain:
        lines.append(f"  grain of {best.grain:.1f} codes was taken out; --grain keep leaves it")
    lines += [f"  {place.name}: {_described(made)}" for place, made in one.files]
    for kind in one.left_out:
        lines.append(f"  no {kind.label}: it would not be lighter than what plays in more browsers")
    if best.offers:
        lines.append(f"  {offers_text(best.offers, best.timing.seconds)}")
    return lines


def _described(made: ClipFile) -> str:
    told = f"type='{made.type}'"
    if made.is_source:
        return f"{told}; the source's own track: it is light already"
    if made.is_capped:
        return f"{told}; to look better it would have to be heavier than its source"
    return told


def _facts(one: Transcoded) -> dict[str, object]:
    loop, flashes = one.loop, one.flashes.flashes
    return {
        "source": str(one.source),
        "bytes_before": one.facts.bytes,
        "seconds": round(one.facts.seconds, 3),
        "lost_seconds": round(loop.lost, 3),
        "codec": one.facts.codec,
        "has_sound": one.facts.has_sound,
        "brightness": [round(mean, 3) for mean in one.brightness],
        "motion": round(one.motion, 3),
        "loop": {
            "begin": round(loop.begin, 4), "end": round(loop.end, 4),
            "way": loop.way, "why": loop.why,
            "jump": {"before": round(loop.before, 3), "after": round(one.jump, 3)},
            "fade": round(loop.fade, 3),
        },
        "flashes": {"most": flashes.most, "second": round(flashes.second, 3)},
        "grain": one.files[0][1].grain,
        "offers": [asdict(offer) for offer in one.files[0][1].offers],
        "left_out": [kind.word for kind in one.left_out],
        "files": [
            {
                "file": str(place), "type": made.type, "bytes": len(made.content),
                "size": list(made.size), "frames": made.timing.frames,
                "score": round(made.score.mean, 4), "worst": round(made.score.worst, 4),
                "is_source": made.is_source, "is_capped": made.is_capped,
            }
            for place, made in one.files
        ],
    }  # fmt: skip
