"""A brief that is being adjusted: what it says now, what it would say, and the way back."""

from __future__ import annotations

import difflib
import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from threading import Condition, Event, RLock, Thread
from typing import Any

from brightcanvas.adjusting.looks import Preview, PreviewCache
from brightcanvas.adjusting.replacing import ChangedError, replace_content
from brightcanvas.adjusting.scene import CheckedBackdrop, Json, scene_of
from brightcanvas.analysis.saliency import Suggestion
from brightcanvas.brief.brief import Breakpoint, Brief, Slot, SourceOption
from brightcanvas.brief.by_breakpoint import Written, written_at
from brightcanvas.brief.entries import BriefEntry
from brightcanvas.brief.loading import complete, entry_of, read_content
from brightcanvas.brief.rewriting import Change, rewritten
from brightcanvas.formats.survey import SourceFacts, survey
from brightcanvas.framing.weights import UNTRIED, KnownPicture
from brightcanvas.ledger.record import BackdropRecord
from brightcanvas.pipeline.building import store_of
from brightcanvas.pipeline.drafting import BuildDraft, Memory, draft
from brightcanvas.pipeline.executors import Threads
from brightcanvas.pipeline.graph import Pipeline
from brightcanvas.pipeline.poster_stills import with_stills
from brightcanvas.pipeline.watching import state_of
from brightcanvas.plan.planned import Plan, PlannedVariant
from brightcanvas.plan.planning import plan_in_parts, plan_with
from brightcanvas.promises.checking import PromiseFacts, check_all
from brightcanvas.tasks.of_views import source_of, stills_task, suggestion_task
from brightcanvas.tasks.weigh_pictures import trials_of
from brightcanvas.values.errors import BriefError, BrightCanvasError


class News:
    """What has happened since somebody asked last."""

    def __init__(self) -> None:
        self._changed = Condition()
        self._number = 0
        self._mistake = ""
        self.draft: BuildDraft | None = None

    def tell(self, what: str, says: str = "") -> None:
        """Something has happened."""
        with self._changed:
            self._number += 1
            self._mistake = says if what == "mistake" else ""
            self._changed.notify_all()

    def drafted(self, made: BuildDraft) -> None:
        """A draft is there."""
        self.draft = made
        self.tell("draft")

    def after(self, number: int, patience: float) -> dict[str, Any]:
        """What has happened after a number of news; waits for some, so many seconds."""
        with self._changed:
            self._changed.wait_for(lambda: self._number > number, patience)
            return {"number": self._number, "mistake": self._mistake}


REMEMBERED = 60
"""Texts of the brief that the way back leads over."""

TRIES = 20
"""Times that a save begins anew because an editor was quicker."""

PAUSE = 0.25
"""Seconds between two looks at the brief's file."""

PICTURES = (".jpg", ".jpeg", ".png", ".webp", ".avif", ".gif", ".svg", ".mp4", ".mov", ".webm")
"""Endings of the files that are offered as another source."""

MOST_SOURCES = 200


class ConflictError(Exception):
    """The same value was changed here and in an editor."""

    def __init__(self, theirs: list[Json], digest: str) -> None:
        super().__init__("changed in both places")
        self.theirs = theirs
        self.digest = digest


@dataclass(frozen=True)
class BriefSnapshot:
    """A brief's text, with what is written in it."""

    content: bytes
    entry: BriefEntry
    brief: Brief

    @property
    def text(self) -> str:
        """As text, a mark of its encoding included."""
        return self.content.decode()


@dataclass
class _Way:
    """Texts of the brief, and where among them we are."""

    texts: list[bytes] = field(default_factory=list)
    place: int = 0

    def went(self, before: bytes, after: bytes) -> None:
        """One step; it begins anew where somebody else has changed the text meanwhile."""
        is_ours = bool(self.texts) and self.texts[self.place] == before
        kept = self.texts[: self.place + 1] if is_ours else [before]
        self.texts = [*kept, after][-REMEMBERED:]
        self.place = len(self.texts) - 1


class Session:
    """One brief on one page. Everything may be called from several threads."""

    def __init__(self, path: Path, limit: float) -> None:
        """Read the brief.

        Raises:
            BrightCanvasError: it can't be used.
        """
        self.path = path.resolve()
        self._limit = limit
        self._lock = RLock()
        self._facts: dict[Path, tuple[Any, SourceFacts]] = {}
        self._known: dict[str, BriefSnapshot] = {}
        self._way = _Way()
        self._parts: dict[str, tuple[Breakpoint, ...]] = {}
        self._threads = Threads()
        self._pipeline = Pipeline(store_of(self.said().brief), self._threads)
        self.looks = PreviewCache(self._pipeline)
        self.news = News()
        self._last_draft: Memory = {}

    def close(self) -> None:
        """Let go of the workers."""
        self._threads.close()

    # What the brief says

    def said(self) -> BriefSnapshot:
        """The brief as it is on the disk.

        Raises:
            BriefError: it is wrong, or gone.
        """
        content = read_content(self.path)
        digest = _digest(content)
        if digest not in self._known:
            self._known[digest] = self._read(content)
            for old in list(self._known)[:-REMEMBERED]:
                del self._known[old]
        return self._known[digest]

    def _read(self, content: bytes) -> BriefSnapshot:
        entry = entry_of(content, self.path)
        return BriefSnapshot(content, entry, complete(entry, self.path, _digest(content)))

    def _with(self, said: BriefSnapshot, changes: Sequence[Change]) -> BriefSnapshot:
        if not changes:
            return said
        return self._read(rewritten(said.text, said.entry, changes).encode())

    # What the page is told

    def state(self) -> Json:
        """The brief as a whole, without its scenes."""
        said = self.said()
        brief = said.brief
        return {
            "title": brief.title,
            "file": self.path.name,
            "digest": brief.digest,
            "widest": brief.widest,
            "breakpoints": [one.name for one in said.entry.breakpoint],
            "backdrops": [{"name": one.name, "element": one.element} for one in brief.backdrops],
            "sources": list(self._sources(brief)),
            **self._undoable(),
        }

    def _undoable(self) -> Json:
        way = self._way
        return {"undo": way.place > 0, "redo": way.place < len(way.texts) - 1}

    def _sources(self, brief: Brief) -> Iterator[str]:
        """What could be another source: pictures and clips beside those that the brief names."""
        folder = self.path.parent
        named = {one.source.parent for b in brief.backdrops for s in b.slots for one in s.offers}
        found = (one for place in sorted(named) if place.is_dir() for one in place.iterdir())
        usable = (one for one in found if one.suffix.lower() in PICTURES and one.is_file())
        inside = sorted(one for one in usable if one.is_relative_to(folder))[:MOST_SOURCES]
        return (one.relative_to(folder).as_posix() for one in inside)

    def scene(
        self, backdrop: str, changes: Sequence[Change] = (), *, seeks_ways: bool = True
    ) -> Json:
        """One backdrop as it would be with changes that are not saved yet.

        Its breakpoints stay in the parts that they have, until the changes are saved.

        Args:
            backdrop: its name.
            changes: of the brief as it is.
            seeks_ways: whether ways out are looked for where something does not hold.

        Raises:
            BrightCanvasError: that can't be.
        """
        with self._lock:
            said = self._with(self.said(), changes)
            parts = self._parts.get(backdrop, ()) if changes else ()
            proved = self._proved(said, backdrop, parts)
            if not changes:
                slots = (view.slot for view in proved.plan.views)
                self._parts[backdrop] = tuple(slot.breakpoint for slot in slots)
        if seeks_ways:  # that takes longest, and nobody has to wait for it
            proved = _with_ways(proved)
        return {**scene_of(proved, self.looks), "digest": said.brief.digest}

    def proved(self, backdrop: str, changes: Sequence[Change] = ()) -> CheckedBackdrop:
        """What is known of one backdrop as it would be with changes.

        Raises:
            BrightCanvasError: that can't be.
        """
        with self._lock:
            return self._proved(self._with(self.said(), changes), backdrop)

    def _proved(
        self, said: BriefSnapshot, name: str, parts: Sequence[Breakpoint] = ()
    ) -> CheckedBackdrop:
        brief = said.brief
        number = next((n for n, one in enumerate(brief.backdrops) if one.name == name), None)
        if number is None:
            raise BriefError(f"There is no backdrop '{name}' in the brief any more.")
        plan = self._plan(replace(brief, backdrops=(brief.backdrops[number],)), parts)
        judged = ((view, self.looks.legibility(view)) for view in plan.views)
        legibility = {view: found for view, found in judged if found}
        facts = PromiseFacts(plan, legibility=legibility, seeks_ways=False)
        names = [one.name for one in said.entry.breakpoint]
        written = written_at(said.entry.backdrop[number], names)
        verdicts = check_all(facts)
        return CheckedBackdrop(brief, plan.backdrops[0], written, legibility, verdicts)

    def _plan(self, brief: Brief, parts: Sequence[Breakpoint]) -> Plan:
        """The plan of a backdrop by what is known of its sources, in its parts if it has some."""
        offers = (o for one in brief.backdrops for slot in one.slots for o in slot.offers)
        facts = {offer.source: self._surveyed(offer.source) for offer in offers}

        def weigh(slot: Slot, offer: SourceOption) -> KnownPicture:
            return self._pipeline.known(trials_of(slot, offer, facts[offer.source])) or UNTRIED

        whole = {slot.breakpoint for slot in brief.backdrops[0].slots}
        if parts and {part.whole for part in parts} == whole:
            return with_stills(plan_in_parts(brief, facts, weigh, parts), self._pipeline)
        return with_stills(plan_with(brief, facts, weigh), self._pipeline)

    def _surveyed(self, source: Path) -> SourceFacts:
        """The facts of a source, looked at anew when its file has changed."""
        state = state_of([source])[source]
        known = self._facts.get(source)
        if known is None or known[0] != state:
            known = self._facts[source] = (state, survey(source, self._limit))
        return known[1]

    def suggestion(self, backdrop: str, view_name: str) -> Json | None:
        """Where a view's subject may be; None where nothing stands out."""
        found = self.suggested(self._view(backdrop, view_name))
        if found is None:
            return None
        edges = [round(one, 3) for one in found.box.edges]
        return {"box": edges, "confidence": found.confidence}

    def suggested(self, view: PlannedVariant) -> Suggestion | None:
        """What stands out in a view's source; None where nothing does, or nothing is cut off."""
        if view.picture is None:
            return None
        task = suggestion_task(replace(view, picture=replace(view.picture, subjects=())))
        with self._lock:
            return self._pipeline.run([task])[task] if task else None

    def stills(self, backdrop: str, view_name: str) -> list[Json]:
        """The best stills of a view's clip, to be looked at."""
        view = self._view(backdrop, view_name)
        if view.picture is None or not view.picture.facts.kind.is_clip:
            return []
        task = stills_task(view.picture)
        with self._lock:
            found = self._pipeline.run([task])[task]
        return [{"second": one.second, "look": self._frame(view, one.second)} for one in found]

    def frame(self, backdrop: str, view_name: str, second: float) -> Json:
        """The frame of a clip at a second, to be looked at."""
        return {"look": self._frame(self._view(backdrop, view_name), second)}

    def _frame(self, view: PlannedVariant, second: float) -> str:
        assert view.picture is not None
        length = view.picture.facts.seconds or 0.0
        at = min(max(second, 0.0), max(length - 0.05, 0.0))
        offer = replace(view.picture.offer, poster_at=round(at, 2))
        return self.looks.named(Preview(source_of(replace(view.picture, offer=offer)))).name

    def _view(self, backdrop: str, view_name: str) -> PlannedVariant:
        with self._lock:
            views = self._proved(self.said(), backdrop).plan.views
        for view in views:
            if view.slot.breakpoint.full_name == view_name:
                return view
        raise BriefError(f"There is no '{view_name}' any more.")

    # Saving, and the way back

    def save(self, changes: Sequence[Change], seen: str) -> Json:
        """Write changes into the brief, over whatever an editor has changed elsewhere in it.

        Args:
            changes: of what was seen.
            seen: the digest of the brief that was seen.

        Raises:
            ConflictError: one of the values was changed in the file meanwhile.
            BrightCanvasError: nothing is written then.
        """
        with self._lock:
            for _ in range(TRIES):
                try:
                    return self._saved(changes, seen)
                except ChangedError:
                    continue
            raise BriefError(f"{self.path.name} is being saved by others: try it again.")

    def _saved(self, changes: Sequence[Change], seen: str) -> Json:
        said = self.said()
        if said.brief.digest != seen:
            self._check_conflict(said, seen, changes)
        after, kept = self._with(said, changes), None
        if after.content != said.content:
            kept = self._write(said.content, after.content)
            self._way.went(said.content, after.content)
        told = self._told(said.content, after.content)
        return {**told, "kept": kept.name} if kept else told

    def _check_conflict(self, said: BriefSnapshot, seen: str, changes: Sequence[Change]) -> None:
        before = self._known.get(seen)
        theirs = [
            {"place": list(one.place), "value": now}
            for one in changes
            if (now := _value(said, one)) != (_value(before, one) if before else None)
        ]
        if theirs:
            raise ConflictError(theirs, said.brief.digest)

    def back(self, steps: int) -> Json:
        """Undo (-1) or redo (1): the file becomes what it was, byte for byte.

        Raises:
            BriefError: there is nothing to undo, or an editor has changed the file since.
        """
        with self._lock:
            way, to = self._way, self._way.place + steps
            if not 0 <= to < len(way.texts):
                raise BriefError(f"There is nothing to {'undo' if steps < 0 else 'do again'}.")
            here = read_content(self.path)
            if here != way.texts[way.place]:
                raise BriefError(
                    f"{self.path.name} was changed in an editor since: what was done here before"
                    " can't be undone without losing that."
                )
            try:
                self._write(here, way.texts[to])
            except ChangedError as error:
                raise BriefError(f"{self.path.name} was changed in an editor just now.") from error
            way.place = to
            return self._told(here, way.texts[to])

    def _told(self, before: bytes, after: bytes) -> Json:
        changed = _changed_lines(before.decode(), after.decode())
        lines, texts = [number for number, _ in changed], [text for _, text in changed]
        return {"digest": _digest(after), "lines": lines, "texts": texts, **self._undoable()}

    def _write(self, before: bytes, content: bytes) -> Path | None:
        """Write it; where the text is that an editor saved at that very moment."""
        kept = replace_content(self.path, before, content)
        self.news.tell("brief")
        return kept

    # Drafts, and what happens to the file

    def drafts(self) -> Json:
        """The files of the last draft, by backdrop and view, with the cuts that they have."""
        draft = self.news.draft
        return {one.name: dict(_drafted(one)) for one in draft.record.backdrops} if draft else {}

    def follow(self, stop: Event) -> None:
        """Tell of every change of the file, and make a draft after each, until told to stop."""
        before: object = None
        while not stop.wait(PAUSE):
            now = state_of([self.path])
            if now != before:
                before = now
                self.news.tell("brief")
                self._draft()

    def _draft(self) -> None:
        try:
            made = draft(self.said().brief, self._limit, self._last_draft)
        except (BrightCanvasError, OSError) as error:
            self.news.tell("mistake", str(error))
        else:
            self.news.drafted(made)

    def weigh(self) -> None:
        """Look at how heavy files of the sources will be, so that bytes are foretold better."""
        try:
            brief = self.said().brief
            slots = [(s, o) for one in brief.backdrops for s in one.slots for o in s.offers]
            with Threads() as threads:
                pipeline = Pipeline(store_of(brief), threads)
                pipeline.run(trials_of(s, o, self._surveyed(o.source)) for s, o in slots)
        except BrightCanvasError:
            return  # it is told where the page asks for it
        self.news.tell("brief")


def started(session: Session, stop: Event) -> tuple[Thread, ...]:
    """What goes on beside the page."""
    threads = (
        Thread(target=session.follow, args=(stop,), daemon=True),
        Thread(target=session.weigh, daemon=True),
    )
    for one in threads:
        one.start()
    return threads


def _drafted(one: BackdropRecord) -> Iterator[tuple[str, Json]]:
    for shown in one.shown:
        picture, asset = shown.view.picture, shown.oldest
        if picture and asset:
            area, position = picture.cut.area, picture.cut.position
            yield (
                shown.view.slot.breakpoint.full_name,
                {
                    "file": asset.file,
                    "bytes": asset.bytes,
                    "cut": list(area.edges),
                    "position": [position.x, position.y],
                },
            )


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def _with_ways(proved: CheckedBackdrop) -> CheckedBackdrop:
    """With ways out of what does not hold."""
    facts = PromiseFacts(Plan(proved.brief, (proved.plan,)), legibility=proved.legibility)
    return replace(proved, verdicts=check_all(facts), has_ways=True)


def _value(said: BriefSnapshot, change: Change) -> Any:  # noqa: ANN401 - any value
    """What is written where a change would be made."""
    for one, entry in zip(said.brief.backdrops, said.entry.backdrop, strict=True):
        if one.name == change.backdrop:
            names = [each.name for each in said.entry.breakpoint]
            at = written_at(entry, names).get(change.breakpoint or names[-1], {})
            found = at.get(change.key, Written(None, None))
            return found.value if found.at == change.breakpoint else None
    return None


def _changed_lines(before: str, after: str) -> list[tuple[int, str]]:
    """The lines of a text that were not in an earlier one, numbered from 1."""
    lines = after.splitlines()
    matcher = difflib.SequenceMatcher(None, before.splitlines(), lines, autojunk=False)
    return [
        (number + 1, lines[number])
        for kind, _, _, low, high in matcher.get_opcodes()
        if kind in ("replace", "insert")
        for number in range(low, high)
    ]
