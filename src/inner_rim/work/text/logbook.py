"""The logbook: search over everything ever done, and the story of one wheel."""

from inner_rim.core.record.log import Correction
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import UnitChoice
from inner_rim.store.codec import UnreadableRow
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.text.lines import ListLine, head
from inner_rim.work.text.log_words import entry_text, marked_texts

#: What may be asked for: the words, and the kinds of entries.
KINDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "all": (N_("All"), ()),
    "seat": (N_("Seating"), ("attempt", "inspection")),
    "hold": (N_("Holding"), ("reading", "leak")),
    "set": ("Handed over", ("sign_off", "feedback")),
    "stop": (N_("Stops"), ("finding", "override", "correction")),
    "care": (N_("Care"), ("care", "dose", "dip")),
}


def hit_lines(
    hits: tuple[Hit, ...], units: UnitChoice, unreadable: tuple[UnreadableRow, ...] = (), asked: str | None = ""
) -> tuple[ListLine, ...]:
    """Return what was found as lines under their days, newest first, after what is stored and cannot be read.

    Args:
        asked: the words that were looked for, None while no answer has come.
    """
    odd = tuple(
        ListLine(
            tr("Unreadable: {table} {key}").format(table=tr(row.table), key=row.key),
            note=f"{row.why} · {' '.join(row.body.split())[:200]}",
            chip=tr("kept as it is"),
            tone="caution",
        )
        for row in unreadable
    )
    if not hits and asked is None:
        return odd
    if not hits:
        none = tr("Nothing found") if asked else tr("Nothing logged yet. What is done at a wheel is listed here.")
        return (*odd, head(none))
    result: list[ListLine] = []
    day = ""
    for hit in sorted(hits, key=lambda hit: moment(hit.item.at), reverse=True):
        when = local(moment(hit.item.at))
        if (today := in_words(when, "%a %d %b %Y")) != day:
            result.append(head(today))
            day = today
        result.append(
            ListLine(
                hit.name,
                in_words(when, "%H:%M"),
                note=entry_text(hit.item.entry, units),
                key=(hit.job_id, hit.item.wheel_id, hit.item.number),
            )
        )
    return (*odd, *result)


def story_lines(job: StoredJob | None, opened: WheelKey | None, units: UnitChoice) -> tuple[ListLine, ...]:
    """Return a wheel's story as lines, oldest first; corrected entries say so."""
    if job is None or opened is None:
        return (head(tr("Choose an entry on the left")),)
    mine = [item for item in job.log if item.wheel_id == opened[1]]
    corrected = {item.entry.of for item in mine if isinstance(item.entry, Correction)}
    about = [str(job.document[key]) for key in ("customer", "bike", "title") if job.document.get(key)]
    lines = [
        head(" · ".join(about) or tr("No customer named"), tr("off the bench") if job.archived else tr("on the bench"))
    ]
    lines += [
        ListLine(
            text,
            _day(item.at),
            chip=tr("corrected below") if item.number in corrected else "",
            tone="caution" if item.number in corrected else "calm",
            key=item.number,
        )
        for item, text in zip(mine, marked_texts(mine, units), strict=True)
    ]
    return tuple(lines)


def _day(at: str) -> str:
    return in_words(local(moment(at)), "%d %b %H:%M")
