"""The logbook: search over everything ever done, and the story of one wheel."""

from collections.abc import Callable
from datetime import datetime

from inner_rim.core.log import Correction
from inner_rim.core.units import UnitChoice
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import tr

from .bench import Bench
from .lines import Line, head
from .log_words import entry_text
from .papers import code_of

#: What may be asked for: the words, and the kinds of entries.
KINDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "all": ("All", ()),
    "seat": ("Seating", ("attempt", "inspection")),
    "hold": ("Holding", ("reading", "leak")),
    "set": ("Handed over", ("sign_off", "feedback")),
    "stop": ("Stops", ("finding", "override", "correction")),
    "care": ("Care", ("care", "dose", "dip")),
}


class Logbook:
    """What the search found and which wheel is open; the store answers when it can.

    Attributes:
        hits: what was found last.
        opened: (job id, wheel) of the story.
        story: that job with its whole log.
        name: the wheel's name.
    """

    def __init__(self, bench: Bench, changed: Callable[[], None]) -> None:
        self._bench, self._changed = bench, changed
        self.hits: tuple[Hit, ...] = ()
        self.opened: tuple[int, int] | None = None
        self.story: StoredJob | None = None
        self.name = ""
        self._asked = 0

    def find(self, words: str, kinds: tuple[str, ...], since: str) -> None:
        """Ask for entries; a wheel's scanned code opens its story."""
        code = code_of(words)
        if code is not None:
            self.open(*code)
            return
        self._asked += 1
        asked = self._asked

        def arrived(hits: tuple[Hit, ...]) -> None:
            if asked == self._asked:  # not an older question's answer
                self.hits = hits
                self._changed()

        if self._bench.keeper is not None:
            self._bench.keeper.order(lambda store: store.logbook.search(words, kinds, since), arrived)
        else:
            arrived(self._in_memory(words, kinds, since))

    def _in_memory(self, words: str, kinds: tuple[str, ...], since: str) -> tuple[Hit, ...]:
        """The same over the bench alone, where nothing is stored."""
        asked = words.casefold().split()
        found = []
        for state in self._bench.wheels:
            for item in state.log:
                text = f"{state.name} {entry_text(item.entry, self._bench.units)}".casefold()
                kind = str(type(item.entry).__struct_config__.tag)
                if all(word in text for word in asked) and (not kinds or kind in kinds) and item.at >= since:
                    found.append(Hit(state.job.stored_id or 0, state.name, item))
        return tuple(sorted(found, key=lambda hit: hit.item.at, reverse=True))

    def open(self, job_id: int, wheel: int) -> None:
        """Open the story of a wheel."""

        def arrived(job: StoredJob | None) -> None:
            if job is None:
                self._bench.say(tr("There is no such wheel in these data"))
                return
            wheels = job.document.get("wheels", ())
            self.opened, self.story = (job_id, wheel), job
            self.name = str(wheels[wheel].get("name") or "") if wheel < len(wheels) else ""
            self._changed()

        if self._bench.keeper is not None:
            self._bench.keeper.order(lambda store: store.logbook.job(job_id), arrived)
            return
        state = next((s for s in self._bench.wheels if s.job.stored_id == job_id), None)
        arrived(
            StoredJob(job_id, state.job.sheet.document, {}, state.job.revision, False, tuple(state.job.log))
            if state is not None
            else None
        )

    def correct(self, number: int, text: str) -> bool:
        """Append a correction of an entry to its wheel's log; return whether the wheel is on the bench."""
        if self.opened is None:
            return False
        job_id, wheel = self.opened
        state = next((s for s in self._bench.wheels if s.job.stored_id == job_id and s.index == wheel), None)
        if state is None:
            self._bench.say(tr("Put the wheel onto the bench first"))
            return False
        self._bench.select(state.key)
        self._bench.record(Correction(of=number, text=text))
        self.open(job_id, wheel)
        return True


def hit_lines(hits: tuple[Hit, ...], units: UnitChoice) -> tuple[Line, ...]:
    """Return what was found as lines, newest first."""
    if not hits:
        return (head(tr("Nothing found")),)
    return tuple(
        Line(
            hit.name,
            _day(hit.item.at),
            note=entry_text(hit.item.entry, units),
            key=f"{hit.job_id}/{hit.item.wheel}/{hit.item.number}",
        )
        for hit in hits
    )


def story_lines(job: StoredJob | None, opened: tuple[int, int] | None, units: UnitChoice) -> tuple[Line, ...]:
    """Return a wheel's story as lines, oldest first; corrected entries say so."""
    if job is None or opened is None:
        return (head(tr("Choose an entry at the left")),)
    mine = [item for item in job.log if item.wheel == opened[1]]
    corrected = {item.entry.of for item in mine if isinstance(item.entry, Correction)}
    about = [str(job.document[key]) for key in ("customer", "bike", "title") if job.document.get(key)]
    lines = [
        head(
            " · ".join(about) or tr("No customer named"),
            tr("put away") if job.archived else tr("on the bench"),
        )
    ]
    lines += [
        Line(
            entry_text(item.entry, units),
            _day(item.at),
            chip=tr("corrected below") if item.number in corrected else "",
            tone="caution" if item.number in corrected else "calm",
            key=str(item.number),
        )
        for item in mine
    ]
    return tuple(lines)


def _day(at: str) -> str:
    return f"{datetime.fromisoformat(at).astimezone():%d %b %H:%M}"
