"""The lightest clip that looks like its source, and is never heavier than it.

Quality is looked for on short stretches: the logarithm of a codec's distortion to the source
rises nearly in a straight line with its constant quality. The whole clip is then encoded and
measured as it is played, and encoded again only where it missed: the score, or the bytes that it
may have. What it may have is spent as far as the score needs it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from brightcanvas.analysis.timing import ClipTiming
from brightcanvas.formats.clips.clip_codecs import clip_codec_of
from brightcanvas.formats.clips.clip_writing import codecs_of, own_track
from brightcanvas.quality.clips.clip_offers import ClipOffer, offers_for
from brightcanvas.quality.clips.clip_order import ClipOrder
from brightcanvas.quality.clips.clip_played import ClipScore, Played, played
from brightcanvas.quality.clips.clip_study import (
    SPENT,
    TOO_LOW,
    ClipStudy,
    ClipTrial,
    QualityTarget,
    next_quality,
)
from brightcanvas.values.file_formats import ClipEncoding, ClipFormat
from brightcanvas.values.targets import LEVELS, LOWEST_LEVEL

LOWEST = LEVELS[LOWEST_LEVEL] + TOO_LOW
"""Score below which what would help is looked for."""

TRIES, TRIES_WITHIN = 3, 5
"""Encodes of a file at most, without and with a budget."""

EARNS = 0.95
"""Times the bytes of a file that plays in more browsers: one that isn't as light isn't worth it."""


@dataclass(frozen=True)
class ClipFile:
    """One published clip."""

    encoding: ClipEncoding
    content: bytes
    codecs: str
    """The codecs parameter of its type (RFC 6381)."""
    size: tuple[int, int]
    timing: ClipTiming
    played: Played
    encodes: int = 1
    is_source: bool = False
    """Whether it is the source's own track."""
    is_capped: bool = False
    """Whether it would have had to be heavier than its source to score more."""
    grain: float = 0.0
    """That was taken out, codes."""
    offers: tuple[ClipOffer, ...] = ()
    """What would help where its budget was too small for an acceptable score."""

    @property
    def score(self) -> ClipScore:
        """How much it looks like its source."""
        return self.played.score

    @property
    def type(self) -> str:
        """As in ``type`` attributes, with its codecs."""
        return f'{self.encoding.format.media_type}; codecs="{self.codecs}"'


def lightest_clips(order: ClipOrder, kinds: Sequence[ClipFormat]) -> tuple[ClipFile, ...]:
    """The lightest clip in each format, the lightest first.

    Each reaches the target, fits into what is allowed, and is lighter than those that play in
    more browsers: others are left out.

    Args:
        order: what is asked.
        kinds: formats, the one that plays everywhere last.
    """
    if order.is_light and order.own is kinds[-1]:
        return (_own(order, kinds[-1]),)
    study = ClipStudy(order)
    made = _worth_having([_lightest(study, kind) for kind in kinds])
    heaviest = order.heaviest or len(made[-1].content)
    made = [one for one in made if len(one.content) <= heaviest] or made[:1]
    if len(made[0].content) > heaviest and order.own is kinds[-1]:
        return (_own(order, kinds[-1]),)
    best = made[0]
    if order.budget and best.score.mean < LOWEST:
        found = offers_for(order, best.encoding, len(best.content))
        made[0] = replace(best, offers=found)
    return tuple(made)


def _worth_having(files: Sequence[ClipFile]) -> list[ClipFile]:
    kept: list[ClipFile] = []
    for one in reversed(files):
        if not kept or len(one.content) < EARNS * len(kept[0].content):
            kept.insert(0, one)
    return kept


def _lightest(study: ClipStudy, kind: ClipFormat) -> ClipFile:
    """In one format."""
    curve, order = clip_codec_of(kind).curve, study.order
    quality, slope = study.predicted(kind)
    tried: list[tuple[ClipTrial, ClipFile]] = []
    following: int | None = quality
    while following is not None and len(tried) < (TRIES_WITHIN if order.budget else TRIES):
        tried.append(_made(study, ClipEncoding(kind, following)))
        following = next_quality([one for one, _ in tried], study.aim, curve, slope)
    found, best = _best(tried, study.aim)
    best = replace(best, encodes=len(tried), is_capped=_is_capped(found, order))
    is_own = kind is order.own and order.plays_all
    return _best_or_own(best, order) if is_own else best


def _made(study: ClipStudy, encoding: ClipEncoding) -> tuple[ClipTrial, ClipFile]:
    order = study.order
    content, found = study.made(encoding)
    file = ClipFile(
        encoding, content, codecs_of(content), order.look.size, order.timing, found,
        grain=order.grain,
    )  # fmt: skip
    return ClipTrial(encoding.quality, len(content), found.score.mean), file


def _best(
    tried: Sequence[tuple[ClipTrial, ClipFile]], aim: QualityTarget
) -> tuple[ClipTrial, ClipFile]:
    """Of those that fit the lightest that reaches the target; else the one most like its source."""
    fitting = [one for one in tried if aim.limit is None or one[0].bytes <= aim.limit]
    if not fitting:
        return min(tried, key=lambda one: one[0].bytes)
    reaching = [one for one in fitting if one[0].score >= aim.target + TOO_LOW]
    if reaching:
        return min(reaching, key=lambda one: one[0].bytes)
    return max(fitting, key=lambda one: one[0].score)


def _is_capped(found: ClipTrial, order: ClipOrder) -> bool:
    """Whether it was its source's weight, and no budget, that kept it from its target."""
    source = order.of_source
    if source is None or (order.budget is not None and order.budget < source):
        return False
    return found.score < order.look.target + TOO_LOW and found.bytes > SPENT * source


def _best_or_own(best: ClipFile, order: ClipOrder) -> ClipFile:
    """The source's own track, where encoding it anew made it hardly lighter, or worse."""
    own = _own(order, best.encoding.format)
    weight, limit = len(own.content), order.limit
    is_worth_it = len(best.content) < EARNS * weight and not best.is_capped
    return best if is_worth_it or (limit and weight > limit) else own


def _own(order: ClipOrder, kind: ClipFormat) -> ClipFile:
    """The source's own track."""
    content = own_track(order.path, kind)
    found = played(content, order.timing, {}, is_round=order.is_round)
    encoding, codecs = ClipEncoding(kind, 0), codecs_of(content)
    return ClipFile(
        encoding, content, codecs, order.look.size, order.timing, found, 0, is_source=True
    )
