"""A schedule in words: line by line, and how good it is."""

from inner_rim.core.record.moments import in_words
from inner_rim.core.schedule.day import Day, Schedule, lateness
from inner_rim.words import tr


def gap_words(schedule: Schedule) -> str:
    """Return how good a schedule is."""
    gap = schedule.gap
    if gap is None:
        return tr("Not compared with the best possible schedule")
    if gap < 0.0005:
        return tr("The best possible schedule")
    return tr("At most {percent:.1f} % from the best possible schedule").format(percent=100.0 * gap)


def span(minutes: int) -> str:
    """Return a span in words.

    >>> span(40), span(130)
    ('40 min', '2 h 10 min')
    """
    hours, rest = divmod(minutes, 60)
    if not hours:
        return tr("{n} min").format(n=rest)
    return tr("{h} h {n} min").format(h=hours, n=rest) if rest else tr("{h} h").format(h=hours)


def ready_words(day: Day, wheel: int, done: int) -> str:
    """Return whether a wheel will be ready in time."""
    at = in_words(day.at(done), "%a %H:%M")
    late = lateness(day, wheel, done)
    if late:
        return tr("ready {at}, {span} late").format(at=at, span=span(late))
    return tr("ready {at}").format(at=at)


def schedule_text(day: Day, schedule: Schedule) -> str:
    """Return a schedule as lines for a terminal."""
    lines = []
    several = len(day.mechanics) > 1
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        who = f"  {day.mechanics[one.mechanic].name}" if several else ""
        span = f"{in_words(day.at(one.start), '%a %H:%M')}–{in_words(day.at(one.end), '%H:%M')}"
        lines.append(f"{span}{who}  {wheel.name}: {wheel.tasks[one.task].words}")
    lines.append("")
    lines += [f"{wheel.name}: {ready_words(day, w, schedule.done[w])}" for w, wheel in enumerate(day.wheels)]
    return "\n".join([*lines, gap_words(schedule)]) + "\n"
