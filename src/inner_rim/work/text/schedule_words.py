"""A schedule in words: its lines, how good it is, what will be late and what would help, what has
changed.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from inner_rim.core.record.moments import in_words
from inner_rim.core.schedule.day import MAX_SOLVED, Broken, Day, Schedule, lateness
from inner_rim.core.schedule.listing import Help, latest
from inner_rim.words import N_, tr

#: The gap to the best possible schedule is shown from this share on.
FAR_FROM_BEST = 0.1


def gap_words(schedule: Schedule) -> str:
    """Return how good a schedule is, where it may still be clearly better; empty where it is good."""
    gap = schedule.gap
    if gap is None:
        return tr("Not compared with the best possible schedule")
    if gap < FAR_FROM_BEST:
        return ""
    return tr("At most {percent:.0f} % from the best possible schedule").format(percent=100.0 * gap)


def span(minutes: int) -> str:
    """Return a span in words, from two days on in days and hours.

    >>> span(40), span(130), span(7022)
    ('40 min', '2 h 10 min', '4 days 21 h')
    """
    hours, rest = divmod(minutes, 60)
    if hours >= 48:
        days, hours = divmod(hours, 24)
        return (
            tr("{n} days {h} h").format(n=days, h=hours) if hours else tr("{n} days").format(n=days)
        )
    if not hours:
        return tr("{n} min").format(n=rest)
    return tr("{h} h {n} min").format(h=hours, n=rest) if rest else tr("{h} h").format(h=hours)


def ready_words(day: Day, wheel: int, done: int) -> str:
    at = in_words(day.at(done), "%a %H:%M")
    late = lateness(day, wheel, done)
    if late:
        return tr("ready {at}, {span} late").format(at=at, span=span(late))
    return tr("ready {at}").format(at=at)


def schedule_text(day: Day, schedule: Schedule) -> str:
    lines = []
    several = len(day.mechanics) > 1
    for one in schedule.placed:
        wheel = day.wheels[one.wheel]
        who = f"  {day.mechanics[one.mechanic].name}" if several else ""
        span = f"{in_words(day.at(one.start), '%a %H:%M')}–{in_words(day.at(one.end), '%H:%M')}"
        lines.append(f"{span}{who}  {wheel.name}: {wheel.tasks[one.task].words}")
    lines.append("")
    lines += [
        f"{wheel.name}: {ready_words(day, w, schedule.done[w])}"
        for w, wheel in enumerate(day.wheels)
    ]
    if len(day.wheels) > MAX_SOLVED:
        lines.append(tr("More than {n} wheels: fewer schedules were tried").format(n=MAX_SOLVED))
    return "\n".join([*lines, *filter(None, [gap_words(schedule)])]) + "\n"


def late_sentences(
    day: Day, schedule: Schedule, helps: Mapping[int, tuple[Help, ...]]
) -> tuple[str, ...]:
    """Return what will be late and what would help, a sentence a wheel, the latest first."""
    result = []
    for w in latest(day, schedule):
        name, late = day.wheels[w].name, span(lateness(day, w, schedule.done[w]))
        words = ", ".join(help_words(day, one) for one in helps.get(w, ()))
        if words:
            result.append(
                tr("{name} will be {span} late: {helps}.").format(name=name, span=late, helps=words)
            )
        else:
            result.append(tr("{name} will be {span} late.").format(name=name, span=late))
    return tuple(result)


BROKEN_WORDS = {
    "placed": N_("{name}, {task}: not placed"),
    "begins": N_("{name}, {task}: {at} is before it may begin"),
    "whole": N_("{name}, {task}: cut short"),
    "hours": N_("{name}, {task}: {at} lies in closed hours"),
    "pin": N_("{name}, {task}: pinned, and was moved"),
    "one_at_a_time": N_("{name}: two tasks at {at}"),
}


def broken_words(day: Day, broken: Broken) -> str:
    at = in_words(day.at(broken.at), "%a %d %b %H:%M")
    return tr(BROKEN_WORDS[broken.rule]).format(name=broken.name, task=broken.task, at=at)


def pin_words(day: Day, faults: Sequence[Broken]) -> tuple[str, ...]:
    """Return that the pinned tasks cannot all stay where they are, with one reason; nothing where
    they can.
    """
    if not faults:
        return ()
    return (
        tr("The pinned tasks cannot all stay: {what}").format(what=broken_words(day, faults[0])),
    )


def longer_words(day: Day) -> str:
    """Return until when the shop is open today, where that is not as usual."""
    today = day.start.date()
    spans = [span for one in day.hours.special if one.day == today for span in one.hours]
    if not spans:
        return ""
    closes = spans[-1].closes
    return tr("Open until {clock} today").format(clock=f"{closes // 60}:{closes % 60:02d}")


def help_words(day: Day, one: Help) -> str:
    if one.kind == "before" and one.other is not None:
        return tr("do it before {other}").format(other=day.wheels[one.other].name)
    if one.kind == "stay":
        return tr("stay {minutes} min longer").format(minutes=one.minutes)
    return tr("promise {at}").format(at=in_words(one.at or day.start, "%a %H:%M"))


def changes(day: Day, schedule: Schedule, before: dict[str, datetime]) -> str:
    """Return in a sentence which wheels will be ready at another time than was said before; empty
    where none.
    """
    result = []
    for wheel, done in zip(day.wheels, schedule.done, strict=True):
        was = before.get(wheel.key)
        now = day.at(done)
        if was is not None and abs(now - was) > timedelta(minutes=10):
            at = in_words(now, "%a %H:%M")
            word = tr("later") if now > was else tr("earlier")
            result.append(tr("{name} {word}, {at}").format(name=wheel.name, word=word, at=at))
    return tr("Changed: {what}.").format(what="; ".join(result[:3])) if result else ""
