"""The pressures of a line ("tire max 2.8", "2.8 max on the tire", "rim 3 bar", "60 psi tire"): a
figure, whether it is the most or the least, and the part that it is of, in any order, in English
and German.
"""

import re
from functools import cache
from typing import NamedTuple

from inner_rim.core.record.line_words import NUMBER

_PART = r"(?P<{0}>tires?|rims?|reifens?|felgen?)\b['’]?s?"
_OF = r"(?:(?:on|of|for)\s+(?:the\s+|its\s+)?|am\s+|an\s+der\s+|auf\s+(?:dem|der)\s+|des\s+|der\s+|für\s+(?:den|die)\s+)"
_BOUND = r"(?P<{0}>max(?:imum|imal)?|up\s+to|bis\s+zu|limit|höchstdruck|grenze|min(?:imum|destens)?|mindestdruck)\b\.?(?:\s+pressure)?"
#: What stands before the figure, and behind it. A part behind it begins the next phrase where that
#: goes on with a word or a figure of its own.
_PHRASE = (
    rf"(?:\b{_PART.format('before')}\s*(?:is\s*)?[:,]?\s*)?"
    rf"(?:\b{_BOUND.format('bound')}\s*(?:is\s*)?:?\s*)?"
    rf"(?:(?:{_OF})?\b{_PART.format('between')}\s*:?\s*)?"
    rf"(?<![\d.,:-])(?:(?P<low>{NUMBER})\s*(?:-|–|to|bis)\s*)?(?P<value>{NUMBER})(?![.,:]?\d|\s*(?:kg|lbs?|mm|in\b|\"|ml|%|uhr))"
    r"\s*(?P<unit>bar|psi|kpa)?\b"
    rf"(?(bound)|(?:\s*{_BOUND.format('after')}(?!\s*:?\s*(?:(?:tire|rim|reifen|felge)\w*\s*:?\s*)?\d))?)"
    rf"(?:\s*(?P<of>{_OF}){_PART.format('behind')}"
    rf"|\s*{_PART.format('last')}(?!\s*:?\s*(?:max|min|limit|höchst|grenze|\d)))?"
)


#: Where a part may be named.
_PLACES = ("before", "between", "behind", "last")


#: A word that claims the figure before it, and has none behind it.
_DANGLING = rf"\s*(?:{_BOUND.format('x')}|{_OF}{_PART.format('y')})(?!\s*:?\s*(?:(?:{_OF})?(?:tire|rim|reifen|felge)\w*\s*:?\s*)?\d)"


class SaidPressure(NamedTuple):
    """A pressure that was said: what it is, the part, empty where none was named, and its place in
    the line.
    """

    least: bool
    part: str
    text: str
    start: int
    end: int


@cache
def _phrase() -> re.Pattern[str]:
    return re.compile(_PHRASE, re.IGNORECASE)


@cache
def _dangling() -> re.Pattern[str]:
    return re.compile(_DANGLING, re.IGNORECASE)


def read_pressures(text: str) -> tuple[dict[str, SaidPressure], str]:
    """Return the pressures of a line by the fields they go to, and the line without them.

    A bare one is of the part that was named last before it, of the tire where none was; of two, of
    which one names its part, the other is of the other part. Two that differ for one field stay in
    the line: nothing is taken silently.

    >>> found, left = read_pressures("max 3.0 tire max 2.8")
    >>> {path: one.text for path, one in found.items()}
    {'rim.max_pressure_kpa': '3.0', 'tire.max_pressure_kpa': '2.8'}
    """
    said = list(_said(text))
    most = [one for one in said if not one.least]
    named = {one.part for one in most if one.part}
    by_field: dict[str, list[SaidPressure]] = {}
    for one in said:
        part = one.part
        if not part and not one.least and len(most) == 2 and len(named) == 1:
            part = "rim" if "tire" in named else "tire"
        field = (
            f"{part or _named_last(text[: one.start])}.{'min' if one.least else 'max'}_pressure_kpa"
        )
        by_field.setdefault("tire.min_pressure_kpa" if one.least else field, []).append(one)
    found = {
        field: ones[0] for field, ones in by_field.items() if len({one.text for one in ones}) == 1
    }
    taken = {(one.start, one.end) for one in said if one in found.values()}
    for start, end in sorted(taken, reverse=True):
        text = f"{text[:start]} \x00 {text[end:]}"
    return found, text


def _said(text: str) -> list[SaidPressure]:
    result: list[SaidPressure] = []
    at = 0
    while (match := _phrase().search(text, at)) is not None:
        at = match.end()
        one = match.groupdict()
        parts = {_part(one[name]) for name in _PLACES if one[name]}
        if _dangling().match(text, match.end()):  # claimed from both sides
            return []
        if len(parts) > 1:  # which one it is of is not said, nor whose a bare one near it is
            return [one for one in result if one.part]
        part = next(iter(parts), "")
        bound, unit = one["bound"] or one["after"], one["unit"] or ""
        goes_on = bool(one["of"]) and any(not before.least for before in result)
        least = bool(bound) and bound.lower().startswith("min")
        counts = (
            (bound and not (one["after"] and least and not unit))
            or ((part or one["low"]) and unit)
            or goes_on
        )
        if not counts or (least and part == "rim") or (one["low"] and part == "rim"):
            at = match.start("value") + 1
            continue
        if one["low"]:
            low = f"{one['low']} {unit}".strip()
            result.append(SaidPressure(True, part or "tire", low, match.start(), match.end()))
        value = f"{one['value']} {unit}".strip()
        result.append(SaidPressure(least, part, value, match.start(), match.end()))
    return result


def _part(word: str) -> str:
    return "rim" if word.lower()[0] in "rf" and not word.lower().startswith("re") else "tire"


def _named_last(before: str) -> str:
    """The part that was named last, the tire where none was."""
    words = re.findall(r"\b(tires?|rims?|reifens?|felgen?)\b", before, re.IGNORECASE)
    return _part(words[-1]) if words else "tire"
