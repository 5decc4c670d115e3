"""What can be promised, in words."""

from datetime import datetime

from inner_rim.core.record.job import parse_due
from inner_rim.core.record.log import Promised, standing
from inner_rim.core.record.moments import in_words, naive_local
from inner_rim.core.schedule.promised import Promise, PromiseStats
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.waits import waits_of


def promise_words(promise: Promise | None) -> str:
    if promise is None:
        return ""
    sure, early = clock(promise.sure), clock(promise.early)
    if sure == early:
        return tr("{sure}, nine times in ten").format(sure=sure)
    return tr("{sure}, nine in ten; {early} at the earliest").format(sure=sure, early=early)


def ready_text(promise: Promise | None, due: str | None, several: bool = False) -> str:
    """Return when a job can be ready, after a due time that is too early for it."""
    if promise is None:
        return ""
    ready = tr("all wheels ready {when}") if several else tr("ready {when}")
    ready = ready.format(when=promise_words(promise))
    at = parse_due(due) if due else None
    if at is not None and naive_local(at) < promise.sure:
        return tr("due {at} is too early: {ready}").format(at=clock(naive_local(at)), ready=ready)
    return ready


def ready_or_why(state: BenchWheel, promise: Promise | None) -> str:
    """Return when a wheel's job can be ready, after what it waits for: no promise holds before that arrives."""
    document = state.job.draft.document
    ready = ready_text(promise, document.get("due"), len(document["wheels"]) > 1)
    return " · ".join(words for words in (waits_of(state), ready) if words)


def promise_given(state: BenchWheel) -> datetime | None:
    """Return the time promised for a wheel's job, where it still is what the job is due at; None for none."""
    due = state.value("due")
    given = [item.entry.due for item in standing(state.job.log) if isinstance(item.entry, Promised)]
    at = parse_due(str(due)) if due and given and given[-1] == due else None
    return naive_local(at) if at is not None else None


def clock(at: datetime) -> str:
    return in_words(at, "%a %H:%M")


def record_text(record: PromiseStats) -> str:
    """Return how promises were kept; empty where none was given."""
    if not record.given:
        return ""
    return tr("Promises kept: {kept} of {given}").format(kept=record.kept, given=record.given)
