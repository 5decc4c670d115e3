"""Opening hours as a person types and reads them, a day a line."""

import itertools
import re
from collections.abc import Mapping, Sequence
from datetime import date

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.moments import DAYS, SHORT_DAYS
from inner_rim.core.schedule.hours import DAY_MIN, DayHours, Hours, Opening, joined
from inner_rim.words import tr

_TIME = r"(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm|a\.m\.|p\.m\.|h)?"
_SPAN = re.compile(rf"\s*{_TIME}\s*(?:-|–|to|until|till)\s*{_TIME}\s*")
_WORDS = {"noon": "12:00", "midnight": "24:00"}


def opening_text(hours: DayHours) -> str:
    """Return hours as shown in their field; empty for a day that is closed.

    >>> opening_text(Opening(480, 1050)), opening_text((Opening(480, 720), Opening(780, 1050))), opening_text(None)
    ('8:00-17:30', '8:00-12:00, 13:00-17:30', '')
    """
    return ", ".join(f"{_clock(span.opens)}-{_clock(span.closes)}" for span in joined(hours))


def _clock(minute: int) -> str:
    return f"{minute // 60}:{minute % 60:02d}"


def opening_of(text: str) -> DayHours:
    """Return the hours that were typed, several with commas or "and"; None for a day that is
    closed.

    >>> opening_of("8-17.30"), opening_of("9am-5pm"), opening_of("closed")
    (Opening(opens=480, closes=1050), Opening(opens=540, closes=1020), None)
    >>> opening_text(opening_of("8-12, 13-17:30"))
    '8:00-12:00, 13:00-17:30'

    Raises:
        InputError: not understood.
    """
    plain = text.strip().lower()
    if plain in ("", "-", "–", "closed", tr("closed")):
        return None
    spans = [_span_of(part, text) for part in re.split(r",|;|\+|&|\band\b", plain) if part.strip()]
    result = joined(tuple(spans))
    if len(result) != len(spans):
        raise InputError(
            tr("“{typed}”: these hours overlap; type 8-12, 13-17:30").format(
                typed=text.strip()[:30]
            )
        )
    return result[0] if len(result) == 1 else result


def _span_of(part: str, text: str) -> Opening:
    """One stretch: a bare hour takes the half of the day that the other one names, as in 9-5pm."""
    for word, time in _WORDS.items():
        part = part.replace(word, time)
    match = _SPAN.fullmatch(part)
    if match is not None:
        begins, ends = match.groups()[:3], match.groups()[3:]
        opens, closes = _minute_of(*begins), _minute_of(*ends)
        if opens is not None and closes is not None:
            if begins[2] is None and ends[2] in ("pm", "p.m.") and int(begins[0]) < 12:
                afternoon = opens + 12 * 60  # 1-5pm; 9-5pm opens in the morning
                opens = afternoon if afternoon < closes else opens
            if opens < closes <= DAY_MIN:
                return Opening(opens, closes)
    raise InputError(
        tr(
            "“{typed}”: type hours such as 8-17:30, 9am-5pm, or 8-12, 13-17:30; nothing for closed"
        ).format(typed=text.strip()[:30])
    )


def _minute_of(hour: str, minute: str | None, half: str | None) -> int | None:
    """Minutes after midnight, None where it is no time."""
    hours, minutes = int(hour), int(minute or 0)
    if minutes > 59 or hours > 24:
        return None
    if half in (None, "h"):
        return 60 * hours + minutes
    if not 1 <= hours <= 12:
        return None
    return 60 * (hours % 12 + (12 if half in ("pm", "p.m.") else 0)) + minutes


def days_off(text: str) -> tuple[date, ...]:
    """Return dates that were typed, in their order.

    >>> days_off("2026-12-25, 2026-12-24")
    (datetime.date(2026, 12, 24), datetime.date(2026, 12, 25))

    Raises:
        InputError: one is not a date.
    """
    result = []
    for part in text.replace(",", " ").split():
        try:
            result.append(date.fromisoformat(part))
        except ValueError as fault:
            raise InputError(
                tr("“{typed}”: type dates, such as 2026-12-24").format(typed=part[:20])
            ) from fault
    return tuple(sorted(set(result)))


def week_text(hours: Hours) -> str:
    """Return a week as shown in its field: equal days are joined.

    >>> week_text(Hours())
    'Mon-Fri 8:00-17:30, Sat 9:00-13:00'
    """
    result = []
    for opening, group in itertools.groupby(enumerate(hours.week), key=lambda each: each[1]):
        places = [place for place, _opening in group]
        if opening is not None:
            names = [tr(SHORT_DAYS[place]) for place in (places[0], places[-1])]
            days = names[0] if len(places) == 1 else "-".join(names)
            result.append(f"{days} {opening_text(opening)}")
    if hours.days_off:
        result.append(tr("away") + " " + " ".join(day.isoformat() for day in hours.days_off))
    return ", ".join(result)


def week_of(text: str) -> Hours:
    """Return the hours that were typed, separated by commas: days and hours, or days off.

    >>> week_text(week_of("mon-wed 8-12, sat–sun 9-13, off 2026-12-24"))
    'Mon-Wed 8:00-12:00, Sat-Sun 9:00-13:00, away 2026-12-24'

    Raises:
        InputError: not understood.
    """
    week: list[DayHours] = [None] * 7
    off: tuple[date, ...] = ()
    for part in _parts(text):
        days, _, rest = part.strip().partition(" ")
        if _away(days):
            off += days_off(rest)
            continue
        first, _, last = (name.strip().lower() for name in days.replace("–", "-").partition("-"))
        places = [_day(name, part, bool(rest)) for name in (first, last or first)]
        opening = opening_of(rest)
        for step in range((places[1] - places[0]) % 7 + 1):
            week[(places[0] + step) % 7] = opening
    return Hours(tuple(week), tuple(sorted(set(off))))  # type: ignore[arg-type]


def _away(part: str) -> bool:
    """Whether a part names days off: it begins with "away" or "off"."""
    return part.strip().partition(" ")[0].lower() in ("away", "off", tr("away").lower())


def _parts(text: str) -> list[str]:
    """A part for each run of days: one that begins with a figure is a second stretch of those
    before it.

    >>> _parts("Mon-Fri 8-12, 13-17, Sat 9-13")
    ['Mon-Fri 8-12, 13-17', 'Sat 9-13']
    """
    result: list[str] = []
    for part in text.split(","):
        if result and part.strip()[:1].isdigit() and not _away(result[-1]):
            result[-1] += f", {part.strip()}"
        else:
            result.append(part.strip())
    return result


def _day(name: str, part: str, with_hours: bool) -> int:
    result = [
        place
        for place, (day, short) in enumerate(zip(DAYS, SHORT_DAYS, strict=True))
        if len(name) >= min(3, len(tr(short)))
        and (day.lower().startswith(name) or tr(day).lower().startswith(name))
    ]
    if not result or not with_hours:
        raise InputError(
            tr("“{typed}”: type days and hours, such as Mon-Fri 8-12").format(
                typed=part.strip()[:30]
            )
        )
    return result[0]


def own_hours_text(own: Mapping[str, Hours], names: Sequence[str]) -> str:
    """Return the hours of mechanics who do not work the shop's, as shown in their field."""
    return "; ".join(f"{name}: {week_text(own[name])}" for name in names if name in own)


def own_hours_of(text: str, names: Sequence[str]) -> dict[str, Hours]:
    """Return the hours that were typed for single mechanics, separated by semicolons.

    >>> list(own_hours_of("R Sedge: Mon-Fri 8-12", ["M Osier", "R Sedge"]))
    ['R Sedge']

    Raises:
        InputError: not understood, or no mechanic has that name.
    """
    result = {}
    for part in text.split(";"):
        if not part.strip():
            continue
        name, colon, rest = (piece.strip() for piece in part.partition(":"))
        known = next((one for one in names if one.casefold() == name.casefold()), None)
        if known is None or not colon:
            who = ", ".join(names) or tr("nobody: type the mechanics first")
            raise InputError(
                tr(
                    "“{typed}”: type a mechanic with hours, such as {usual}. There is {who}."
                ).format(typed=part.strip()[:30], usual="R Sedge: Mon-Fri 8-12", who=who)
            )
        result[known] = week_of(rest)
    return result
