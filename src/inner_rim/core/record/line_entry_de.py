"""The German phrases of a line ("45-622 auf 24 mit Haken, max 3,4, 98 kg, Do 16:00"), see
`line_entry`.
"""

import re
from datetime import date, datetime, time, timedelta

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

_DAYS = ("mo", "di", "mi", "do", "fr", "sa", "so")
_MONTHS = ("jan", "feb", "mär", "apr", "mai", "jun", "jul", "aug", "sep", "okt", "nov", "dez")
_DAY_NAME = r"(?:mo(?:ntag)?|di(?:enstag)?|mi(?:ttwoch)?|do(?:nnerstag)?|fr(?:eitag)?|sa(?:mstag)?|so(?:nntag)?)\b\.?"
_WHEN = (
    r"(?:(?P<iso>\d{4}-[01]\d-[0-3]\d)"
    rf"|(?:{_DAY_NAME},?\s+)?(?P<date>\d{{1,2}})\.\s*(?:(?P<month>jan|feb|mär|apr|mai|jun|jul|aug|sep|okt|nov|dez)[a-z]{{0,6}}|(?P<number>1?\d)\.)"
    rf"|(?P<day>heute|morgen|{_DAY_NAME}))"
    r"(?:,?[ T]*(?:um\s+)?(?:(?P<noon>mittags?)|(?P<hour>\d{1,2})(?:[:.](?P<minute>\d{2}))?(?:\s*uhr)?))?"
)
_LEAKS = {"ventil": "valve", "wulst": "bead", "lauffläche": "tread", "flanke": "weeps"}


def _due(match: re.Match[str], now: datetime) -> Found:
    said, today = match.groupdict(), now.date()
    if said["iso"]:
        day = date.fromisoformat(said["iso"])
    elif said["date"]:
        month = int(said["number"]) if said["number"] else _MONTHS.index(said["month"].lower()) + 1
        day = nearest(month, int(said["date"]), today)
    else:
        word = said["day"].lower()
        near = {"heute": today, "morgen": today + timedelta(days=1)}
        day = near[word] if word in near else next_day(_DAYS.index(word[:2]), today)
    at = NO_TIME
    if said["noon"]:
        at = time(12, 0)
    elif said["hour"]:
        at = time(min(int(said["hour"]), 23), min(int(said["minute"] or 0), 59))
    yield "due", datetime.combine(day, at).isoformat(timespec="minutes")


def _leak(match: re.Match[str], now: datetime) -> Found:
    yield "work.kind", "repair"
    yield "work.leak", _LEAKS.get(match["place"].lower(), "nipple")
    if match["side"]:
        yield "work.leak_side", {"l": "left", "r": "right"}[match["side"][0].lower()]


NAMES: tuple[Rule, ...] = (
    (r"[\"“„](?P<name>[^\"”“]{1,80})[\"”“]", named("name")),
    (r"\b(?:namens|heißt)\s*:?\s+(?P<name>[^,;]{1,80})", named("name")),
)
GRAMMAR: tuple[Rule, ...] = (
    (rf"\b(?:fällig|fertig|zugesagt|für|bis|am)?\s*(?:bis\s+|am\s+|für\s+)?{_WHEN}", _due),
    (r"\b(?:kund(?:e|in)|für)\s*:?\s+(?P<name>(?-i:[A-ZÄÖÜ])[^,;\d\x00]{1,60}?)(?=\s+(?:auf|mit|und|am|bis|felge|reifen|max|vorne?|hinten)\b|\s*[,;\d\x00]|\s*$)", named("customer")),
    (r"\b(?:loch|plug|dorn|nagel)\s+in\s+der\s+lauffläche\b", leaks_at("tread")),
    (r"\bundicht\s+(?:am|an(?:\s+der|\s+einer|\s+einem)?)\s+(?:(?P<side>linken|rechten)\s+)?(?P<place>ventil|nippel|speiche|wulst|lauffläche|flanke)", _leak),
    (r"\bflanken?\s+n[äa]ss(?:t|en)\b|\bn[äa]ssende\s+flanken?\b", leaks_at("weeps")),
    (r"\b(?:schnitt\s+in\s+der\s+flanke|flanke\s+aufgeschnitten)\b", leaks_at("side_wall")),
    (r"\bzurück\s+(?:zum|auf)\s+schl[aä]uch\w*", is_("work.kind", "back_to_tube")),
    (r"\b(?:umrüst\w*|umbau\w*|auf\s+tubeless)\b", is_("work.kind", "convert")),
    (r"\breifen\s*(?:wechsel\w*|tausch\w*)\b", is_("work.kind", "tire_change")),
    (r"\bneu\s+(?:be|ab)?kleben\b|\bneues\s+band\b", is_("work.kind", "retape")),
    (r"\b(?:dichtmilch\s+)?(?:auffrischen|auffüllen|nachfüllen)\b|\b(?:neue|frische)\s+dichtmilch\b", is_("work.kind", "refresh")),
    (r"\b(?:reparatur|reparieren|panne|undicht|leck)\b", is_("work.kind", "repair")),
    (r"\bmit\s+schlauch\b|\bschlauch\s+(?:ist\s+)?drin\b", is_("arrival.tube", "yes")),
    (r"\b(?:ohne|kein)\s+schlauch\b|\bschon\s+tubeless\b", is_("arrival.tube", "no")),
    (r"\bschon\s+(?:be|ab|ge)?klebt\b|\bband\s+(?:ist\s+)?drin\b", is_("arrival.taped", "yes")),
    (r"\bnicht\s+beklebt\b|\b(?:ohne|kein)\s+band\b", is_("arrival.taped", "no")),
    (r"\bbeklebt\b", is_("arrival.taped", "yes")),
    (r"\bein\s+wulst\s+(?:ist\s+)?ab\b", is_("arrival.tire", "one_bead_off")),
    (r"\breifen\s+(?:ist\s+)?ab\b", is_("arrival.tire", "off")),
    (r"\bnicht\s+gesetzt\b|\bvom\s+sitz\b", is_("arrival.seated", "no")),
    (r"\bplatt\b|\b(?:ohne|keine)\s+luft\b", is_("arrival.air", "no")),
    (r"\b(?:ein)?(?:getrocknete|trockene)\s+dichtmilch\b", is_("arrival.sealant", "dried")),
    (r"\b(?:unbekannte|andere)\s+dichtmilch\b", is_("arrival.sealant", "unknown")),
    (r"\b(?:ohne|keine)\s+dichtmilch\b", is_("arrival.sealant", "none")),
    (rf"\b(?:fahrer(?:in)?|gesamt|zusammen)\s*:?\s*(?P<value>{NUMBER})\s*(?P<unit>kg|lbs?|\b)", figure("ride.total_mass_kg")),
    (r"\b(?P<count>\d{2})\s+(?:speichen|löcher)\b", count("rim.spokes")),
    (rf"\b(?:felgentiefe|tiefe\s+am\s+ventil)\s*:?\s*{LENGTH}", figure("rim.depth_at_valve_mm")),
    (rf"\btiefbett\s*:?\s*{LENGTH}(?:\s+tief)?", figure("rim.well.depth_mm")),
    (r"\bgeschlossenes\s+(?:felgen)?bett\b", is_("rim.bed", "sealed")),
    (r"\bgroße\s+(?:speichen)?löcher\b", is_("rim.bed", "large_holes")),
    (r"\b(?:ohne|kein(?:en)?)\s+(?:lauf)?(?:richtungs)?pfeil\b", is_("tire.directional", "no")),
    (r"\b(?:laufrichtung|mit\s+pfeil)\b", is_("tire.directional", "yes")),
    (r"\b(?P<count>\d)\s+plugs?\b", count("tire.plugs")),
    (rf"\b(?:auf(?:\s+einer)?|felge(?:\s+(?:ist|hat))?|innen(?:breite)?)\s*:?\s*{LENGTH}(?:\s+(?:breit\w*|innen))?(?:\s+felgen?\b)?", figure("rim.internal_width_mm", NARROWEST_MM)),
    (rf"\b{LENGTH}\s+(?:(?:breit\w*|innen)(?:\s+felgen?)?|felgen?)\b", figure("rim.internal_width_mm", NARROWEST_MM)),
    (r"\bhakenlos\w*|\bohne\s+haken\b", is_("rim.hook", "straight_side")),
    (r"\b(?:mit\s+)?haken\b", is_("rim.hook", "hooked")),
    (r"\balu\b", is_("rim.carbon", "no")),
    (r"\b(?:ohne|keine)\s+(?:tubeless-?\s*)?kennzeichnung\b", is_("tire.tubeless_ready", "no")),
    (r"\b(?:hookless-?\s*)?(?:freigabe|freigegeben)\b", is_("tire.straight_side_approved", "yes")),
    (r"\bneu(?:e[rn]?)?(?:\s+reifen)?\b", is_("tire.new", "yes")),
    (r"\b(?:alte?r?|gebraucht\w*|gefahren\w*)(?:\s+reifen)?\b", is_("tire.new", "no")),
    (r"\b(?:straße|asphalt)\b", is_("ride.use", "pavement")),
    (r"\b(?:schotter|gemischt)\b", is_("ride.use", "mixed")),
    (r"\b(?:gelände|wald)\b", is_("ride.use", "trail")),
    (r"\b(?:strand|schnee|weich\w*)\b", is_("ride.use", "soft")),
    (r"\brennlenker\b", is_("ride.position", "drop_bar")),
    (r"\bgerader?\s+lenker\b", is_("ride.position", "flat_bar")),
    (r"\baufrecht\b", is_("ride.position", "upright")),
    (r"\blastenrad\b", is_("ride.position", "front_load")),
    (r"\bvorne?\b|\bvorderrad\b", is_("position", "front")),
    (r"\bhinten\b|\bhinterrad\b", is_("position", "rear")),
)  # fmt: skip

#: Words that join phrases and say nothing themselves.
FILLER = r"\b(?:auf|und|mit|ist|hat|bei|um|uhr|der|die|das|den|ein|eine|einer|reifen|felge|laufrad|rad|größe|fahrer)\b"
