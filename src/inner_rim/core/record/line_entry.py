"""One line as a mechanic would say it ("45-622 on 24 hooked, max 3.4, 98 kg, Thu 16:00"), read into
fields.

Each phrase of the grammar takes its words out of the line; what no phrase takes is left over and
said.
"""

import re
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from functools import cache

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.line_pressures import read_pressures
from inner_rim.core.record.line_words import (
    LENGTH,
    NARROWEST_MM,
    NO_TIME,
    NUMBER,
    Found,
    Rule,
    count,
    figure,
    is_,
    leaks_at,
    named,
    nearest,
    next_day,
)
from inner_rim.core.record.sizes import parse_size
from inner_rim.core.record.units import number
from inner_rim.words import language

#: The longest line that is read.
LONGEST_LINE = 300
#: Marks where something was taken out of the line: no phrase matches across it.
_GAP = " \x00 "


class Understood(msgspec.Struct, frozen=True):
    """A field that was said."""

    path: str
    text: str
    said: str


class ParsedLine(msgspec.Struct, frozen=True):
    """What a line says: its fields, in the order of the grammar, and what was not understood, as it
    was typed.
    """

    understood: tuple[Understood, ...]
    left: str


#: A side wall that leaks weeps; a cut is called one.
_LEAKS = {"sidewall": "weeps", "side wall": "weeps", "spoke": "nipple"}


def _leak(match: re.Match[str], now: datetime) -> Found:
    yield "work.kind", "repair"
    place = match["place"].lower().rstrip("s")
    yield "work.leak", _LEAKS.get(place, place)
    if match["side"]:
        yield "work.leak_side", match["side"].lower()


#: A bicycle and its load, added to the rider.
_AND_BIKE = rf"(?:\s*(?:\+|and|plus)\s*(?P<more>{NUMBER})\s*(?P<more_unit>kg|lbs?)?(?:\s+(?:bike|bicycle|load|bags|rad|fahrrad|gepäck))?\b)?"


def _mass(match: re.Match[str], now: datetime) -> Found:
    value, unit = match["value"], match["unit"] or ""
    if match["more"]:
        if (match["more_unit"] or unit) != unit:  # pounds and kilograms are not added
            raise ValueError(match[0])
        value = f"{number(value) + number(match['more']):g}"
    yield "ride.total_mass_kg", f"{value} {unit}".strip()


def _inside(match: re.Match[str], now: datetime) -> Found:
    yield "sealant.in_ml", f"{match['value']} ml"
    if match["name"]:
        yield "sealant.name", match["name"].strip()


_DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


def _due(match: re.Match[str], now: datetime) -> Found:
    said = {**dict.fromkeys(("iso", "month", "month_first")), **match.groupdict()}
    word = (match["day"] or "today").lower()
    if said["iso"]:
        day = date.fromisoformat(said["iso"])
    elif month := said["month"] or said["month_first"]:
        number = _MONTHS.index(month.lower()[:3]) + 1
        day = nearest(number, int(said["date"] or said["date_last"] or 1), now.date())
    elif word[:3] in _DAYS:
        day = next_day(_DAYS.index(word[:3]), now.date())
    else:
        day = now.date() + timedelta(days=word == "tomorrow")
    at = _clock(said)
    yield (
        "due",
        datetime.combine(day, at if at is not None else NO_TIME).isoformat(timespec="minutes"),
    )


def _clock(said: dict[str, str | None]) -> time | None:
    if said["word"]:
        return _TIMES[said["word"].lower().split()[-1]]
    if not said["hour"]:
        return None
    hour, half = int(said["hour"]), (said["half"] or "").lower()
    if half.startswith("p") and hour < 12:
        hour += 12
    if half.startswith("a") and hour == 12:
        hour = 0
    return time(min(hour, 23), min(int(said["minute"] or 0), 59))


#: The latest that a part of the day may mean.
_TIMES = {
    "morning": time(12, 0),
    "noon": time(12, 0),
    "afternoon": time(17, 0),
    "evening": time(18, 0),
    "night": time(20, 0),
}
_AT = r"(?:(?P<word>(?:in\s+the\s+)?(?:morning|noon|afternoon|evening|night))|(?P<hour>\d{1,2})(?:[:.h](?P<minute>\d{2}))?\s*(?P<half>[ap]\.?m\.?)?(?:\s*o'?clock)?)"
_DAY = (
    r"(?P<day>today|tomorrow|mon(?:day)?|tue(?:s(?:day)?)?|wed(?:nesday)?|thu(?:rs(?:day)?)?|fri(?:day)?|"
    r"sat(?:urday)?|sun(?:day)?)"
)
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_MONTH = r"(?:jan|feb|mar|apr|may|jun|jul|aug|sept?|oct|nov|dec)[a-z]{0,6}"
#: A time that is said before its day; "3.40 Thu" may be a pressure.
_CLOCK_FIRST = r"(?=noon|(?:in\s+the\s+)?(?:morning|afternoon|evening)|\d{1,2}(?:[:h]\d{2}|\s*[ap]\.?m|\s*o'?clock))"
_DATE = (
    rf"(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]{{0,6}},?\s+)?"
    rf"(?:(?P<date>\d{{1,2}})\.?\s+(?P<month>{_MONTH})|(?P<month_first>{_MONTH})\s+(?P<date_last>\d{{1,2}}))"
)
_ISO_DAY = r"(?P<iso>\d{4}-[01]\d-[0-3]\d)"

#: Where a name that is not in quotes ends.
_NAME_ENDS = (
    r"(?=\s+(?:on|in|with|and|for|rim|tire|max|min|hook\w*|front|rear|due|by)\b|\s*[,;\d\x00]|\s*$)"
)
#: Names, which may hold any other word.
_NAMES: tuple[Rule, ...] = (
    (r"[\"“](?P<name>[^\"”]{1,80})[\"”]", named("name")),
    (r"\b(?:named?|called)\s*:?\s+(?P<name>[^,;]{1,80})", named("name")),
)
#: Tried in this order; a pattern takes the first place where it fits.
_GRAMMAR: tuple[Rule, ...] = (
    # when
    (rf"\b(?:due|by|ready|promised?|for)?\s*(?:at\s+)?{_CLOCK_FIRST}{_AT},?\s+(?:on\s+)?{_DAY}\b", _due),
    (rf"\b(?:due|by|ready|promised?|for)?\s*(?:{_ISO_DAY}|{_DATE}\b|{_DAY}\b)(?:,?[ T]*(?:at\s+)?{_AT})?", _due),
    (r"\b(?:customer|for)\s*:?\s+(?P<name>(?-i:[A-Z])[^,;\d\x00]{1,60}?)" + _NAME_ENDS, named("customer")),
    # what it comes in for
    (r"\bleak(?:s|ing)?\s+(?:at|from|through)\s+(?:the\s+)?(?:a\s+)?(?:(?P<side>left|right)\s+)?(?P<place>valve|nipples?|spokes?|bead|tread|side ?walls?)", _leak),
    (r"\b(?:plug|hole|thorn|nail|puncture)\s+in\s+(?:the\s+)?tread\b", leaks_at("tread")),
    (r"\b(?:side ?walls?\s+weeps?|weeping(?:\s+side ?walls?)?|weeps)\b", leaks_at("weeps")),
    (r"\b(?:cut\s+(?:in\s+(?:the\s+)?)?side ?wall|side ?wall(?:\s+is)?\s+cut)\b", leaks_at("side_wall")),
    (r"\b(?:back|convert)\s+to\s+(?:a\s+)?tubes?\b", is_("work.kind", "back_to_tube")),
    (r"\b(?:convert(?:\s+to\s+tubeless)?|conversion|set\s*up\s+tubeless|go(?:es)?\s+tubeless)\b", is_("work.kind", "convert")),
    (r"\b(?:tire\s+(?:change|swap)|(?:change|swap)(?:\s+the)?\s+tire)\b", is_("work.kind", "tire_change")),
    (r"\b(?:re-?tape|new\s+tape|tape\s+again)\b", is_("work.kind", "retape")),
    (r"\b(?:refresh|top\s+up)(?:\s+(?:the\s+)?sealant)?\b|\bfresh\s+sealant\b", is_("work.kind", "refresh")),
    (r"\b(?:repair|puncture[ds]?|leak(?:s|ing)?)\b", is_("work.kind", "repair")),
    # how it comes in
    (r"\b(?:with\s+(?:a\s+)?|has\s+(?:a\s+)?)?tube\s+in(?:side|\s+it)?\b|\bwith\s+(?:a\s+)?tube\b", is_("arrival.tube", "yes")),
    (r"\b(?:no\s+tube|already\s+tubeless|comes\s+tubeless)\b", is_("arrival.tube", "no")),
    (r"\b(?:already|factory)\s+taped\b|\btape(?:d)?\s+on\b", is_("arrival.taped", "yes")),
    (r"\b(?:not\s+taped|no\s+tape)\b", is_("arrival.taped", "no")),
    (r"\btaped\b", is_("arrival.taped", "yes")),
    (r"\bone\s+bead\s+off\b", is_("arrival.tire", "one_bead_off")),
    (r"\btire\s+(?:is\s+)?off\b", is_("arrival.tire", "off")),
    (r"\b(?:beads?\s+(?:un|not\s+)seated|unseated|off\s+the\s+bead)\b", is_("arrival.seated", "no")),
    (r"\b(?:came\s+in\s+|comes\s+in\s+|is\s+)?(?:flat|no\s+air)\b(?!\s*bar)", is_("arrival.air", "no")),
    (r"\b(?:dried(?:\s+out)?|dry)\s+sealant\b|\bsealant\s+(?:is\s+)?dri?(?:ed|y)(?:\s+(?:out|up))?\b", is_("arrival.sealant", "dried")),
    (r"\b(?:unknown|other|another)\s+sealant\b", is_("arrival.sealant", "unknown")),
    (r"\bno\s+sealant\b", is_("arrival.sealant", "none")),
    # rider
    (rf"\b(?:rider\s*:?\s*|total\s*:?\s*|all\s+up\s*:?\s*)?(?P<value>{NUMBER})\s*(?P<unit>kg|lbs?)\b(?:\s+(?:rider|total|all\s+up|fahrer(?:in)?))?{_AND_BIKE}", _mass),
    (rf"\b(?:rider|total|all\s+up)\s*:?\s*(?P<value>{NUMBER})(?P<unit>\b){_AND_BIKE}", _mass),
    # sealant and insert that are in
    (rf"\b(?P<value>{NUMBER})\s*(?P<unit>ml)\s+(?:of\s+(?P<name>(?-i:[A-Z])[\w ]{{1,40}}?)\s+)?(?:sealant\s+)?(?:inside|in\s+it)\b", _inside),
    (r"\b(?:with\s+(?:an?\s+)?)?insert\s*:?\s+(?P<name>(?-i:[A-Z])[^,;\x00]{1,60}?)" + _NAME_ENDS.replace("\\d", ""), named("insert.name")),
    # the rim
    (r"\b(?P<count>\d{2})\s+(?:spokes?|holes?)\b", count("rim.spokes")),
    (r"\bwell\s*(?:depth|is)?\s*:?\s*(?P<value>\d(?:[.,]\d{1,2})?)(?![.,]?\d)\s*(?P<unit>mm)?\b(?:\s*deep\b)?", figure("rim.well.depth_mm")),
    (rf"\b(?:rim\s+depth\s*(?:at\s+(?:the\s+)?valve)?|depth\s+at\s+(?:the\s+)?valve)\s*:?\s*{LENGTH}", figure("rim.depth_at_valve_mm")),
    (rf"\bdepth\s*:?\s*{LENGTH}\s+at\s+(?:the\s+)?valve\b", figure("rim.depth_at_valve_mm")),
    (rf"\b{LENGTH}\s+deep\s+at\s+(?:the\s+)?valve\b", figure("rim.depth_at_valve_mm")),
    (r"\bsealed\s+(?:rim\s+)?bed\b|\bno\s+spoke\s+holes\b", is_("rim.bed", "sealed")),
    (r"\blarge\s+(?:spoke\s+)?holes\b", is_("rim.bed", "large_holes")),
    (rf"\b(?:on\s+(?:an?\s+)?|rim\s+(?:width\s+)?(?:is\s+)?|internal\s+(?:width\s+)?|inner\s+(?:width\s+)?|i){LENGTH}(?:\s+(?:wide|internal|inner))?(?:\s+rims?\b)?", figure("rim.internal_width_mm", NARROWEST_MM)),
    (rf"\b{LENGTH}\s+(?:(?:wide|internal|inner|inside)(?:\s+rims?)?|rims?)\b", figure("rim.internal_width_mm", NARROWEST_MM)),
    (rf"\b{LENGTH}(?=\s*,?\s+(?:hook|straight))", figure("rim.internal_width_mm", NARROWEST_MM)),
    (rf"\b(?P<value>{NUMBER})(?P<unit>)i(?:[wd]|\.w\.?)?\b", figure("rim.internal_width_mm", NARROWEST_MM)),
    (r"(?:(?<=\bhookless\s)|(?<=\bhooked\s))(?P<value>[1-5]\d(?:[.,]\d)?)(?P<unit>)\b(?![:h.,/]?\d|\s*(?:bar|psi|kpa|kg|lbs?|ml)\b)", figure("rim.internal_width_mm")),
    (r"\bnot\s+hookless\b", is_("rim.hook", "hooked")),
    (r"\b(?:hookless|straight[ -]?sided?|(?:no|without\s+(?:a\s+)?)\s*hooks?|(?:un|not\s+)hooked)\b", is_("rim.hook", "straight_side")),
    (r"\bhook(?:ed|s)?\b", is_("rim.hook", "hooked")),
    (r"\bcarbon\b", is_("rim.carbon", "yes")),
    (r"\b(?:alum(?:inum|inium)|alloy)\b", is_("rim.carbon", "no")),
    # the tire
    (r"\b(?:no\s+tubeless\s+mark|not\s+tubeless|unmarked)\b", is_("tire.tubeless_ready", "no")),
    (r"\btubeless(?:[ -]ready|\s+mark(?:ed)?)?\b", is_("tire.tubeless_ready", "yes")),
    (r"\bhook(?:less)?\s+approved\b", is_("tire.straight_side_approved", "yes")),
    (r"\b(?:old\s+)?tape\s+(?:stays|is\s+good)\b|\bkeep\s+(?:the\s+)?(?:old\s+)?tape\b", is_("work.keep_tape", "yes")),
    (r"\b(?:no\s+arrow|(?:not\s+|non-?)directional)\b", is_("tire.directional", "no")),
    (r"\b(?:directional|(?:has|with)\s+an\s+arrow)\b", is_("tire.directional", "yes")),
    (r"\b(?P<count>\d)\s+plugs?\b", count("tire.plugs")),
    (r"\b(?:brand\s+)?new(?:\s+tire)?\b", is_("tire.new", "yes")),
    (r"\b(?:used|old|ridden|worn)(?:\s+tire)?\b", is_("tire.new", "no")),
    # the ride
    (r"\b(?:road|pavement|street)\b", is_("ride.use", "pavement")),
    (r"\b(?:gravel|mixed)\b", is_("ride.use", "mixed")),
    (r"\b(?:trails?|mountain)\b", is_("ride.use", "trail")),
    (r"\b(?:sand|snow|soft(?:\s+ground)?|beach)\b", is_("ride.use", "soft")),
    (r"\bdrop(?:\s*bars?)?\b", is_("ride.position", "drop_bar")),
    (r"\bflat\s*bars?\b", is_("ride.position", "flat_bar")),
    (r"\bupright\b", is_("ride.position", "upright")),
    (r"\b(?:cargo|front\s+load(?:er|ed)?)\b", is_("ride.position", "front_load")),
    (r"\bfront(?:\s+wheel)?\b", is_("position", "front")),
    (r"\b(?:rear|back)(?:\s+wheel)?\b", is_("position", "rear")),
)  # fmt: skip

_SIZE = (
    r"(?:ETRTO\s*|ISO\s*)?\d{1,3}(?:[.,]\d{1,2}|[a-d])?\s*[-x×/*]\s*\d{1,3}(?:[.,]\d{1,3})?"
    r"(?:\s+\d{1,2}/\d{1,2})?\s*[a-d]?\b(?:\s*x\s*\d(?:[.,]\d{1,2})?)?(?:\s*\([^)]{1,30}\))?"
)
#: Words that join phrases and say nothing themselves.
_FILLER = r"\b(?:on|a|an|the|and|with|it|is|has|at|in|of|tire|tires|wheel|rim|size|rider)\b|(?<!\d)[,.]|[,.](?!\d)|[;·]"


@cache
def _compiled(pattern: str) -> re.Pattern[str]:
    """A pattern, compiled when a line is first read: start-up counts."""
    return re.compile(pattern, re.IGNORECASE)


def read_line(text: str, now: datetime) -> ParsedLine:
    """Return what a line says.

    >>> line = read_line("45-622 on 24 hooked, max 3.4, blue", datetime(2026, 11, 25, 9))
    >>> [(one.path, one.text) for one in line.understood], line.left
    ([('tire.size', '45-622'), ('tire.max_pressure_kpa', '3.4'), ('rim.internal_width_mm', '24'), ('rim.hook', 'hooked')], 'blue')

    Args:
        now: on the shop's own clock, for days and times.

    Source: common practice, no published source.
    """
    if len(text) > LONGEST_LINE:
        return ParsedLine((), text)
    result: list[Understood] = []
    rest = _take_size(text, result)
    names, own, filler = _in_language(language())
    rest = _take(names, rest, result, now)
    rest = _take_pressures(rest, result)
    rest = _take((*own, *_GRAMMAR), rest, result, now)
    return ParsedLine(tuple(result), _left_over(rest, filler))


def _take(rules: Sequence[Rule], rest: str, result: list[Understood], now: datetime) -> str:
    """Take what each phrase says out of a line; a field that was said stays as it was said first."""
    for pattern, read in rules:
        match = _compiled(pattern).search(rest)
        if match is None:
            continue
        said = " ".join(match[0].replace("\x00", " ").split())
        try:
            fields = [Understood(path, value, said) for path, value in read(match, now)]
        except ValueError:  # a day that is in no calendar
            continue
        known = {one.path: one.text for one in result}
        new = [one for one in fields if one.path not in known]
        if new or all(known[one.path] == one.text for one in fields):
            result += new
            rest = rest[: match.start()] + _GAP + rest[match.end() :]
    return rest


def _take_pressures(text: str, result: list[Understood]) -> str:
    found, rest = read_pressures(text)
    for path, one in found.items():
        said = " ".join(text[one.start : one.end].replace("\x00", " ").split())
        result.append(Understood(path, one.text, said))
    return rest


def _take_size(text: str, result: list[Understood]) -> str:
    """Take the tire's size out of a line: the first thing in it that is one, or that may stand for
    several.
    """
    for match in _compiled(_SIZE).finditer(text):
        said = match[0].strip()
        try:
            parse_size(said)
        except InputError as fault:
            if not getattr(fault, "candidates", ()):
                continue
        result.append(Understood("tire.size", said, said))
        return text[: match.start()] + _GAP + text[match.end() :]
    return text


def _in_language(code: str) -> tuple[tuple[Rule, ...], tuple[Rule, ...], str]:
    """The phrases of the user's language, which come before the English ones of the trade, and all
    words that say nothing.
    """
    if code != "de":
        return _NAMES, (), _FILLER
    from inner_rim.core.record import line_entry_de

    names = (*line_entry_de.NAMES, *_NAMES)
    return names, line_entry_de.GRAMMAR, f"{line_entry_de.FILLER}|{_FILLER}"


def _left_over(rest: str, filler: str) -> str:
    parts = (" ".join(_compiled(filler).sub(" ", part).split()) for part in rest.split("\x00"))
    return " ".join(part for part in parts if part)


def read_due(text: str, now: datetime) -> str | None:
    """Return the day and time that a text names, ISO 8601; None where it names none, or something
    else besides.

    >>> read_due("Thu 3 Dec 8:00", datetime(2026, 11, 29)), read_due("tomorrow 5pm", datetime(2026, 11, 29))
    ('2026-12-03T08:00', '2026-11-30T17:00')
    >>> read_due("soon", datetime(2026, 11, 29)) is None
    True
    """
    line = read_line(text, now)
    named = [one.text for one in line.understood if one.path == "due"]
    return named[0] if len(line.understood) == 1 and named and not line.left else None
