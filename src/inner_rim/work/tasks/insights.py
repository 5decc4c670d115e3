"""What the log says, topic by topic: counted over visits, each mark with the wheels behind it
(docs/models.md 2.11).
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from statistics import fmean, median, stdev
from typing import TypeVar

from inner_rim.core.learning.effects import Key, LearnedEffects, failures_a_year
from inner_rim.core.learning.evidence import Visit, kept_evidence, ridden, sorts_of
from inner_rim.core.learning.findings import Figure
from inner_rim.core.models.inflation import SOURCE_WORDS
from inner_rim.core.models.line_verdict import normalised_kpa
from inner_rim.core.plan.advisor import REMEDY_WORDS, Climb, climbs
from inner_rim.core.procedure.setup import WORK_WORDS
from inner_rim.core.progress.diagnosis import LEAK_WORDS
from inner_rim.core.record.job import Practice
from inner_rim.core.record.log import Attempt, Dose, Leak, Promised, Reading
from inner_rim.core.record.moments import local, moment, naive_local
from inner_rim.core.record.resolved import Z_90, LearnedFigure
from inner_rim.core.record.spoken import STAGE_WORDS, spoken
from inner_rim.core.schedule.promise import promise_stats
from inner_rim.documents.csv_text import safe_cell
from inner_rim.words import N_, sentence_case, tr, with_mark
from inner_rim.work.tasks.findings import RATES, Proposal, Value, findings_of
from inner_rim.work.tasks.learning import FIGURES, LEARNERS, ShopLearning
from inner_rim.work.tasks.scheduling import ticks
from inner_rim.work.text.shelf_lines import Mark, Month, Topic

#: A wheel back within this many days came back for the work that was done; use and orders are given
#: for this period.
SOON_DAYS, SPAN_DAYS, MONTH_DAYS, YEAR_DAYS = 90.0, 90.0, 30.0, 365.25
#: The first hour's loss is read between these hours, and said in these classes, percent.
HOUR, CLASSES = (0.5, 2.0), (1.0, 3.0)
USUAL_PRESSURE = 0.1
#: As many months are shown, the newest.
MONTHS_SHOWN = 8


class _Tally:
    """Counts by name, with the wheels behind each."""

    def __init__(self) -> None:
        self.rows: dict[str, list[tuple[bool, Key]]] = {}

    def add(self, name: str, good: bool, key: Key) -> None:
        self.rows.setdefault(name, []).append((good, key))

    @property
    def good(self) -> int:
        return sum(good for rows in self.rows.values() for good, _key in rows)

    @property
    def all(self) -> int:
        return sum(map(len, self.rows.values()))

    def marks(self) -> tuple[Mark, ...]:
        """Return them, the most frequent first, each with its count and the total."""
        result = []
        for name, rows in sorted(self.rows.items(), key=lambda item: (-len(item[1]), item[0])):
            good, count = sum(good for good, _key in rows), len(rows)
            words = tr("{good} of {all}").format(good=good, all=count)
            wheels, band = _once(key for _good, key in rows), share_band(good, count)
            result.append(Mark(name, words, good / count, wheels, band=band))
        return tuple(result)

    def months(self, when: Mapping[Key, str]) -> tuple[Month, ...]:
        return _shares(
            (when.get(key, ""), good) for rows in self.rows.values() for good, key in rows
        )


def share_band(good: int, count: int) -> tuple[float, float]:
    """Return where a share lies nine times in ten: Wilson's score interval.

    >>> [round(end, 2) for end in share_band(8, 10)]
    [0.54, 0.93]

    Args:
        count: at least 1.

    Source: E. B. Wilson (1927), J. Am. Stat. Assoc. 22, 209-212.
    """
    share, by = good / count, Z_90**2 / count
    middle, half = (
        share + by / 2.0,
        Z_90 * math.sqrt(share * (1.0 - share) / count + by / count / 4.0),
    )
    return max(0.0, (middle - half) / (1.0 + by)), min(1.0, (middle + half) / (1.0 + by))


def _shares(rows: Iterable[tuple[str, bool]]) -> tuple[Month, ...]:
    """Shares by month, in percent."""
    result = []
    for name, goods in _by_month(rows):
        low, high = share_band(sum(goods), len(goods))
        share = 100.0 * sum(goods) / len(goods)
        result.append(Month(name, share, 100.0 * low, 100.0 * high, len(goods)))
    return tuple(result)


def _means(rows: Iterable[tuple[str, float]]) -> tuple[Month, ...]:
    """Means by month, with the spread of the mean where there are several."""
    result = []
    for name, values in _by_month(rows):
        half = Z_90 * stdev(values) / math.sqrt(len(values)) if len(values) > 1 else 0.0
        mean = fmean(values)
        result.append(Month(name, mean, mean - half, mean + half, len(values)))
    return tuple(result)


_T = TypeVar("_T")


def _by_month(rows: Iterable[tuple[str, _T]]) -> list[tuple[str, list[_T]]]:
    result: dict[str, list[_T]] = {}
    for name, value in rows:
        if name:
            result.setdefault(name, []).append(value)
    return sorted(result.items())[-MONTHS_SHOWN:]


def _months_of(visits: Sequence[Visit]) -> dict[Key, str]:
    """The month of each visit, such as 2026-11: its hand-over's, else its first entry's."""
    return {
        visit.key: local(moment(at)).strftime("%Y-%m")
        for visit in visits
        if (at := visit.plan.log.signed_at or (visit.log[0].at if visit.log else ""))
    }


def _once(keys: Iterable[Key]) -> tuple[Key, ...]:
    return tuple(dict.fromkeys(keys))


def topics_of(
    visits: Mapping[str, Sequence[Visit]],
    learned: ShopLearning,
    now: datetime,
    practice: Practice | None = None,
) -> tuple[Topic, ...]:
    """Return every topic, also those of which the log says nothing yet; what should change first.

    Args:
        practice: the shop's methods.
    """
    everything = [visit for one in visits.values() for visit in one]
    when = _months_of(everything)
    return (
        _found(findings_of(visits, learned, practice, now)),
        _sources(everything, when),
        _remedies(everything, when),
        _holds(everything, when),
        _kept(visits, when),
        _minutes(everything, when),
        _used(everything, now),
        _promises(everything, now),
        _returns(visits, now, when),
        _failures(visits, now),
        *(_learned(code, learned, when) for code in FIGURES),
    )


def _topic(
    code: str,
    title: str,
    sentence: str,
    n: int,
    marks: tuple[Mark, ...],
    months: tuple[Month, ...] = (),
    unit: str = "%",
) -> Topic:
    return Topic(code, title, sentence if n else tr("Nothing logged yet"), n, marks, months, unit)


#: The questions that a finding answers, and what it is better at; stages say their minutes.
FIELD_WORDS = {
    "air_source": N_("First air"),
    "core_out": N_("Core while seating"),
    "lubricant": N_("On the bead"),
    "seating": N_("Seating"),
    "layers": N_("Layers of tape"),
    "tape_kind": N_("Kind of tape"),
    "tape_start": N_("Start of the tape"),
    "insert_order": N_("Insert"),
    "sealant_route": N_("Sealant goes in"),
    "dose": N_("Dose"),
}
OUTCOME_WORDS = {
    "first_try": N_("Seated at the first try"),
    "hold": N_("Leak test passed at once"),
    "back": N_("Not back within 90 days"),
    "steps": N_("Pressure steps until seated"),
}


def _found(findings: Sequence[Proposal]) -> Topic:
    """What should change: each with both ways' figures, and the method that it proposes."""
    marks = []
    for one in findings:
        way, used = _way_words(one.field, one.way), _way_words(one.field, one.used)
        outcome = (
            tr(OUTCOME_WORDS[one.outcome])
            if one.outcome in OUTCOME_WORDS
            else tr("{stage}, minutes").format(stage=tr(STAGE_WORDS[one.outcome]))
        )
        factor, unit = (100.0, " %") if one.outcome in RATES else (1.0, "")
        figures = "; ".join(
            _with_band(words, figure, factor, unit)
            for words, figure in ((way, one.compared.way), (used, one.compared.used))
        )
        wheels = _once((*one.compared.way.wheels, *one.compared.used.wheels))
        marks.append(
            Mark(
                f"{tr(FIELD_WORDS[one.field])}: {way}",
                tr("saves {minutes:.1f} min a wheel").format(minutes=one.minutes),
                None,
                wheels,
                f"{outcome}: {figures}",
                sets=(one.field, one.way),
                sides=tuple(
                    Month(words, factor * f.value, factor * f.low, factor * f.high, len(f.wheels))
                    for words, f in ((way, one.compared.way), (used, one.compared.used))
                ),
            )
        )
    month = sum(one.a_month for one in findings)
    sentence = (
        tr("{minutes:.0f} min a month, by what was tried here").format(minutes=month)
        if findings
        else tr("No way is clearly better so far")
    )
    return Topic("change", tr("What should change"), sentence, len(marks), tuple(marks))


def _way_words(field: str, way: Value) -> str:
    if field == "core_out":
        return tr("core out") if way else tr("core in")
    return tr(SOURCE_WORDS[way]) if way in SOURCE_WORDS else spoken(str(way))


def _with_band(words: str, figure: Figure, factor: float, unit: str) -> str:
    digits = 0 if unit else 1
    value, low, high = (
        f"{factor * one:.{digits}f}" for one in (figure.value, figure.low, figure.high)
    )
    return tr("{way} {value}{unit} ({low} to {high}), {n} wheels").format(
        way=words, value=value, unit=unit, low=low, high=high, n=len(figure.wheels)
    )


def _learned(code: str, learned: ShopLearning, when: Mapping[Key, str]) -> Topic:
    """A learned figure: how far the shop's moved, and those parts' and riders' that clearly did."""
    title, usual = FIGURES[code]
    effects, marks = learned.effects[code], []
    for (kind, key), n in sorted(
        effects.counts.items(), key=lambda item: (item[0][0] != "shop", -item[1])
    ):
        figure = LearnedFigure(*effects.of({kind: key}), n)
        if kind != "shop" and (not figure.said(title) or abs(figure.log) < figure.spread):
            continue
        name = tr("This shop") if kind == "shop" else f"{tr(kind)}: {key}"
        wheels = _once(learned.behind[code].get((kind, key), ()))
        note, (low, high) = tr("learned from {n}").format(n=n), map(_on_scale, figure.band)
        place = _on_scale(figure.factor)
        marks.append(Mark(name, _times(figure), place, wheels, note, (low, high)))
    sentence = _shop_words(effects, tr(usual))
    n = effects.counts.get(("shop", ""), 0)
    return _topic(code, tr(title), sentence, n, tuple(marks), _moved(code, learned, when), "×")


def _on_scale(factor: float) -> float:
    """Where a factor stands on a scale from a half to double."""
    return 0.5 + 0.5 * math.log2(max(1e-6, factor))


def _moved(code: str, learned: ShopLearning, when: Mapping[Key, str]) -> tuple[Month, ...]:
    """What the shop's figure was at the end of each month, by what had been seen until then."""
    seen, learn = learned.seen[code], LEARNERS[code]
    result = []
    for name in sorted({when[one.key] for one in seen if one.key in when})[-MONTHS_SHOWN:]:
        until = [one for one in seen if when.get(one.key, "9") <= name]
        figure = LearnedFigure(*learn(until).of({"shop": ""}), len(until))
        result.append(Month(name, figure.factor, *figure.band, len(until)))
    return tuple(result)


def _times(figure: LearnedFigure) -> str:
    low, high = figure.band
    return tr("{times:.2f} × ({low:.2f} to {high:.2f})").format(
        times=figure.factor, low=low, high=high
    )


def _shop_words(effects: LearnedEffects, usual: str) -> str:
    if not effects.counts:
        return ""
    figure = LearnedFigure(*effects.of({"shop": ""}), 1)
    if not figure.said(""):
        return tr("As usual")
    return tr("{percent:+.0f} % against {usual}").format(
        percent=100.0 * (figure.factor - 1.0), usual=usual
    )


def _sources(visits: Sequence[Visit], when: Mapping[Key, str]) -> Topic:
    tally = _Tally()
    for visit, climb in _climbs(visits):
        one = climb.tries[0]
        if one.source in SOURCE_WORDS and one.core_out is not None:
            way = sentence_case(tr(SOURCE_WORDS[one.source])) + (
                tr(", core out") if one.core_out else tr(", core in")
            )
            tally.add(way, climb.seated, visit.key)
    words = tr("{good} of {n} tries seated both beads").format(good=tally.good, n=tally.all)
    return _topic(
        "source", tr("Seated by source"), words, tally.all, tally.marks(), tally.months(when)
    )


def _remedies(visits: Sequence[Visit], when: Mapping[Key, str]) -> Topic:
    tally = _Tally()
    for visit, climb in _climbs(visits):
        for remedy in climb.tries[0].changed:
            tally.add(tr(REMEDY_WORDS[remedy]), climb.worked, visit.key)
    words = tr("{good} of {n} changes did what they were for").format(good=tally.good, n=tally.all)
    months = tally.months(when)
    return _topic("remedy", tr("Changes that worked"), words, tally.all, tally.marks(), months)


def _climbs(visits: Sequence[Visit]) -> Iterator[tuple[Visit, Climb]]:
    return ((visit, climb) for visit in visits for climb in climbs(visit.attempts))


def _holds(visits: Sequence[Visit], when: Mapping[Key, str]) -> Topic:
    """Whether a wheel was handed over with no leak to fix and no other try, by what it lost in its
    first hour.
    """
    tally = _Tally()
    for visit in visits:
        result = _first_hour(visit)
        if result is not None:
            loss, at = result
            more = any(
                isinstance(item.entry, Attempt | Leak) and item.at > at for item in visit.log
            )
            tally.add(_loss_class(loss), visit.plan.log.signed is not None and not more, visit.key)
    words = tr("{good} of {n} were handed over without more work").format(
        good=tally.good, n=tally.all
    )
    title, months = tr("First hour's loss"), tally.months(when)
    return _topic("hold", title, words, tally.all, tally.marks(), months)


def _first_hour(visit: Visit) -> tuple[float, str] | None:
    """Return the percent lost in the first hour of its last leak test, and when that was read;
    readings at 20 °C.
    """
    start: tuple[datetime, float] | None = None
    result = None
    for item in visit.log:
        if isinstance(item.entry, Attempt):
            start = None
        if not isinstance(item.entry, Reading):
            continue
        warm = item.entry.temperature_c
        kpa = (
            item.entry.pressure_kpa
            if warm is None
            else normalised_kpa(item.entry.pressure_kpa, warm)
        )
        at = moment(item.at)
        if start is None:
            start, result = (at, kpa), None
        elif result is None and start[1] > 0.0:
            hours = (at - start[0]).total_seconds() / 3600.0
            if HOUR[0] <= hours <= HOUR[1]:
                result = 100.0 * (1.0 - kpa / start[1]) / hours, item.at
    return result


def _loss_class(percent: float) -> str:
    small, large = CLASSES
    if percent < small:
        return tr("Under {small:g} %").format(small=small)
    if percent <= large:
        return tr("{small:g} to {large:g} %").format(small=small, large=large)
    return tr("Over {large:g} %").format(large=large)


def _kept(visits: Mapping[str, Sequence[Visit]], when: Mapping[Key, str]) -> Topic:
    classes: dict[str, list[Key]] = {
        name: [] for name in (tr("Over 10 % less"), tr("Within 10 %"), tr("Over 10 % more"))
    }
    names, ratios = list(classes), []
    by_month = []
    for one in visits.values():
        for seen in kept_evidence(one):
            off = math.exp(seen.value) - 1.0
            ratios.append(1.0 + off)
            by_month.append((when.get(seen.key, ""), 100.0 * ratios[-1]))
            place = 0 if off < -USUAL_PRESSURE else 2 if off > USUAL_PRESSURE else 1
            classes[names[place]].append(seen.key)
    words = ""
    if ratios:
        percent = 100.0 * (median(ratios) - 1.0)
        words = tr("Riders keep {percent:.0f} % {more} than proposed").format(
            percent=abs(percent), more=tr("more") if percent > 0.0 else tr("less")
        )
    marks, months = _parts(classes, len(ratios)), _means(by_month)
    return _topic("kept_by", tr("Kept against proposed"), words, len(ratios), marks, months)


def _parts(classes: Mapping[str, Sequence[Key]], n: int) -> tuple[Mark, ...]:
    return tuple(
        Mark(
            name,
            tr("{good} of {all}").format(good=len(keys), all=n),
            len(keys) / n,
            _once(keys),
            band=share_band(len(keys), n),
        )
        for name, keys in classes.items()
        if keys
    )


def _minutes(visits: Sequence[Visit], when: Mapping[Key, str]) -> Topic:
    """Where the hands-on time goes: what was ticked off at once, or after an interruption, does not
    count.
    """
    took: dict[str, float] = {}
    usual: dict[str, float] = {}
    wheels: dict[str, list[Key]] = {}
    whole_wheels: dict[Key, float] = {}
    for visit in visits:
        for stage, minutes, planned in ticks(visit.log):
            whole_wheels[visit.key] = whole_wheels.get(visit.key, 0.0) + minutes
            took[stage] = took.get(stage, 0.0) + minutes
            usual[stage] = usual.get(stage, 0.0) + planned
            wheels.setdefault(stage, []).append(visit.key)
    whole = sum(took.values())
    marks = tuple(
        Mark(
            tr(STAGE_WORDS[stage]),
            tr("{minutes:.0f} min a wheel").format(minutes=took[stage] / len(set(wheels[stage]))),
            took[stage] / whole,
            _once(wheels[stage]),
            tr("{percent:+.0f} % against the usual minutes").format(
                percent=100.0 * (took[stage] / usual[stage] - 1.0)
            ),
        )
        for stage in STAGE_WORDS
        if took.get(stage)
    )
    longest = max(marks, key=lambda mark: mark.share or 0.0, default=None)
    words = ""
    if longest is not None:
        words = tr("Most goes into: {stage}, {percent:.0f} %").format(
            stage=longest.name, percent=100.0 * (longest.share or 0.0)
        )
    n = len({key for keys in wheels.values() for key in keys})
    months = _means((when.get(key, ""), minutes) for key, minutes in whole_wheels.items())
    return _topic("minutes", tr("Minutes a stage"), words, n, marks, months, "min")


def _used(visits: Sequence[Visit], now: datetime) -> Topic:
    """Sealant and tape of the last 90 days, and what that makes a month."""
    since = now.astimezone() - timedelta(days=SPAN_DAYS)
    amounts: dict[tuple[str, str], float] = {}
    wheels: dict[tuple[str, str], list[Key]] = {}

    def take(what: str, unit: str, amount: float, key: Key) -> None:
        amounts[what, unit] = amounts.get((what, unit), 0.0) + amount
        wheels.setdefault((what, unit), []).append(key)

    for visit in visits:
        for item in visit.log:
            if isinstance(item.entry, Dose) and moment(item.at) >= since:
                name = item.entry.name or tr("kind not said")
                take(tr("Sealant: {name}").format(name=name), "ml", item.entry.dose_ml, visit.key)
        laid, tape = visit.plan.log.since.laid_at, visit.plan.tape
        if laid and moment(laid) >= since and visit.plan.setup.lays_tape:
            words = tr("Tape: {kind}, {width:g} mm").format(
                kind=tr(tape.material), width=tape.width_mm or 0.0
            )
            take(words, "m", tape.length_mm / 1000.0, visit.key)
    most = {unit: max(v for (_w, u), v in amounts.items() if u == unit) for _w, unit in amounts}
    marks = tuple(
        Mark(
            what,
            _amount(amount, unit),
            amount / most[unit] if most[unit] else None,
            _once(wheels[what, unit]),
            tr("a month: {amount}").format(amount=_amount(amount * MONTH_DAYS / SPAN_DAYS, unit)),
        )
        for (what, unit), amount in sorted(amounts.items(), key=lambda item: (item[0][1], -item[1]))
    )
    n = len({key for keys in wheels.values() for key in keys})
    return _topic(
        "used", tr("Used in 90 days"), tr("In {n} wheels; order by the month").format(n=n), n, marks
    )


def _amount(amount: float, unit: str) -> str:
    return f"{amount:.0f} {unit}" if unit == "ml" else with_mark(f"{amount:.1f} {unit}")


def _promises(visits: Sequence[Visit], now: datetime) -> Topic:
    tally = _Tally()
    for visit in visits:
        promises = [item for item in visit.log if isinstance(item.entry, Promised)]
        record = promise_stats([visit.log], naive_local(now)) if promises else None
        if record is not None and record.given:
            day = moment(promises[0].at).strftime("%Y-%m")
            tally.add(day, record.kept == record.given, visit.key)
    words = tr("{good} of {n} promises were kept").format(good=tally.good, n=tally.all)
    months = tuple(sorted(tally.marks(), key=lambda mark: mark.name))
    over = _shares((name, good) for name, rows in tally.rows.items() for good, _key in rows)
    return _topic("promise", tr("Promises kept"), words, tally.all, months, over)


def _returns(
    visits: Mapping[str, Sequence[Visit]], now: datetime, when: Mapping[Key, str]
) -> Topic:
    """What brought wheels back soon after they were handed over."""
    causes: dict[str, list[Key]] = {}
    rides = [ride for one in visits.values() for ride in ridden(one, now.astimezone())]
    for ride in rides:
        if ride.back is not None and ride.days <= SOON_DAYS and ride.back.wheel.work is not None:
            leak, kind = ride.back.wheel.work.leak, ride.back.wheel.work.kind
            words = LEAK_WORDS.get(leak or "") or WORK_WORDS.get(kind or "convert", "")
            causes.setdefault(tr(words), []).append(ride.back.key)
    back, n = sum(map(len, causes.values())), len(rides)
    words = tr("{back} of {n} handed over were back within 90 days").format(back=back, n=n)
    ordered = dict(sorted(causes.items(), key=lambda item: -len(item[1])))
    months = _shares(
        (when.get(ride.visit.key, ""), ride.back is not None and ride.days <= SOON_DAYS)
        for ride in rides
    )
    marks = _parts(ordered, n) if n else ()
    return _topic("back", tr("Back within 90 days"), words, n, marks, months)


def _failures(visits: Mapping[str, Sequence[Visit]], now: datetime) -> Topic:
    """How often wheels of a sort came back for a repair, a wheel and year."""
    years: dict[str, float] = {}
    failed: dict[str, list[Key]] = {}
    count = 0
    for ride in (ride for one in visits.values() for ride in ridden(one, now.astimezone())):
        repair = ride.back is not None and ride.back.plan.setup.kind == "repair"
        count += repair
        for sort in sorts_of(ride.visit):
            years[sort] = years.get(sort, 0.0) + ride.days / YEAR_DAYS
            failed.setdefault(sort, []).extend(
                [ride.back.key] if repair and ride.back is not None else []
            )
    rates = {sort: failures_a_year(len(failed[sort]), years[sort]) for sort in years}
    most = max(rates.values(), default=1.0)
    marks = tuple(
        Mark(
            sentence_case(tr(sort)),
            tr("{rate:.2f} a wheel and year").format(rate=rate),
            rate / most,
            _once(failed[sort]),
            tr("{n} in {years:.1f} years of riding").format(n=len(failed[sort]), years=years[sort]),
        )
        for sort, rate in sorted(rates.items(), key=lambda item: -item[1])
    )
    words = tr("{n} repairs after handing over").format(n=count)
    return _topic("failure", tr("Repairs by sort of wheel"), words, len(rates), marks)


def insights_csv(topics: Iterable[Topic], name_of: Callable[[Key], str]) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text, quoting=csv.QUOTE_ALL)
    writer.writerow(("topic", "from", "mark", "figure", "share", "note", "wheels"))
    for topic in topics:
        for mark in topic.marks:
            share = "" if mark.share is None else f"{mark.share:.3f}"
            wheels = "; ".join(filter(None, map(name_of, mark.wheels)))
            row = (topic.title, str(topic.n), mark.name, mark.figure, share, mark.note, wheels)
            writer.writerow([safe_cell(cell) for cell in row])
    return text.getvalue().encode("utf-8-sig")


def insights_text(topics: Iterable[Topic]) -> str:
    lines = []
    for topic in topics:
        lines.append(
            f"{topic.title} ({topic.n}): {topic.sentence}"
            if topic.n
            else f"{topic.title}: {topic.sentence}"
        )
        lines += [
            f"  {mark.name}: {mark.figure}" + (f"; {mark.note}" if mark.note else "")
            for mark in topic.marks
        ]
    return "\n".join(lines)
