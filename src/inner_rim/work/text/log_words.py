"""A log entry in words, one line."""

from collections.abc import Callable, Sequence

from inner_rim.core.models.pressure import RIDE_WORDS
from inner_rim.core.plan.advisor import REMEDY_WORDS
from inner_rim.core.procedure.actions import code_of
from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.progress.diagnosis import LEAK_WORDS
from inner_rim.core.record.job import parse_due
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Care,
    Changed,
    Correction,
    Dip,
    Dose,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Logged,
    Note,
    Override,
    Promised,
    Reading,
    SignOff,
    StepEntry,
    TakenBack,
    Unreadable,
    Weight,
    gone,
)
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.spoken import STAGE_WORDS, spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import N_, inside_sentence, tr
from inner_rim.work.text.odds import NAMES, step_name

OUTCOME_WORDS = {
    "both_up": N_("seated"),
    "one_low": N_("low spot"),
    "not_up": N_("not yet"),
    "no_pressure": N_("no pressure builds"),
    "falls_off": N_("comes off when the air is out"),
    "hisses": N_("hisses at spoke holes or nipples"),
}
STEP_WORDS = {
    "done": N_("done"),
    "failed": N_("failed"),
    "reopened": N_("reopened"),
    "waited": N_("wait cut short"),
    "again": N_("done again from here"),
    "ridden": N_("ended by a ride"),
}


def entry_text(entry: AnyEntry | Unreadable, units: UnitChoice) -> str:
    return _WORDS[type(entry)](entry, units)


def marked_texts(log: Sequence[Logged], units: UnitChoice) -> list[str]:
    """Return the entries of a log in one line each; what was taken back says so, and what took it
    back names it.
    """
    away, known = gone(log), {item.uid: item.entry for item in log}
    result = []
    for item in log:
        target = known.get(item.entry.of) if isinstance(item.entry, TakenBack) else None
        if isinstance(target, TakenBack):
            text = tr("Done again (Ctrl+Shift+Z)")
        elif target is not None:
            text = tr("Taken back: {what}").format(what=entry_text(target, units))
        else:
            text = entry_text(item.entry, units)
        result.append(tr("{entry} · taken back").format(entry=text) if item.uid in away else text)
    return result


def _step(entry: StepEntry, units: UnitChoice) -> str:
    what = tr(STAGE_WORDS.get(entry.stage, entry.stage))
    if entry.step:
        name = step_name(entry.step) if code_of(entry.step) in NAMES else entry.step
        what += f", {name}"
    return _with(f"{what}: {tr(STEP_WORDS[entry.outcome])}", entry.text)


def _attempt(entry: Attempt, units: UnitChoice) -> str:
    text = tr("Seating, {peak}: {outcome}").format(
        peak=show(entry.peak_kpa, "kpa", units), outcome=tr(OUTCOME_WORDS[entry.outcome])
    )
    if low := _sectors(entry.low_left, entry.low_right):
        text += tr(", {sectors}").format(sectors=low)
    if entry.over_limit:
        limit = show(entry.limit_kpa, "kpa", units)
        text = tr("ABOVE THE LIMIT of {limit}. ").format(limit=limit) + text
    if entry.pops:
        pops = ", ".join(show(pop.pressure_kpa, "kpa", units) for pop in entry.pops)
        text += tr("; pops at {pops}").format(pops=pops)
    if entry.changed:
        what = ", ".join(tr(REMEDY_WORDS[remedy]) for remedy in entry.changed)
        text += tr("; changed: {what}").format(what=what)
    return text


def _changed(entry: Changed, units: UnitChoice) -> str:
    return tr("Changed before the next try: {what}").format(what=tr(REMEDY_WORDS[entry.remedy]))


def _inspection(entry: Inspection, units: UnitChoice) -> str:
    if entry.after_over_limit:
        return tr("Inspected after going above the limit")
    low = _sectors(entry.low_left, entry.low_right)
    return tr("Low in sector {sectors}").format(sectors=low) if low else tr("Even all around")


def _finding(entry: Finding, units: UnitChoice) -> str:
    question = QUESTIONS.get(entry.check)
    name = tr(question.name) if question is not None else spoken(entry.check)
    if entry.sound:
        return tr("{name} OK").format(name=name)
    stops = question is None or bool(question.stop)
    return (tr("FOUND: {name}") if stops else tr("{name}: no")).format(name=name)


def _reading(entry: Reading, units: UnitChoice) -> str:
    text = tr("Read {pressure}").format(pressure=show(entry.pressure_kpa, "kpa", units))
    if entry.temperature_c is None:
        return text
    return text + tr(" at {air}").format(air=show(entry.temperature_c, "c", units))


def _leak(entry: Leak, units: UnitChoice) -> str:
    place = inside_sentence(tr(LEAK_WORDS[entry.place]))
    if entry.side is not None:
        place = f"{place}, {spoken(entry.side)}"
    return _with(tr("Bubbles: {place}").format(place=place), entry.done)


def _feedback(entry: Feedback, units: UnitChoice) -> str:
    return tr("Ridden at {now}: {said}; next {then}").format(
        now=show(entry.pressure_kpa, "kpa", units),
        said=tr(RIDE_WORDS[entry.said]),
        then=show(entry.next_kpa, "kpa", units),
    )


def _care(entry: Care, units: UnitChoice) -> str:
    added = show(entry.dose_ml, "ml", units) if entry.dose_ml is not None else ""
    more = ", ".join(word for word in (added, entry.name, entry.text) if word)
    return _with(tr("Aftercare: {what}").format(what=spoken(entry.what)), more)


def _dose(entry: Dose, units: UnitChoice) -> str:
    text = tr("Sealant in: {dose}").format(dose=show(entry.dose_ml, "ml", units))
    return f"{text}, {entry.name}" if entry.name else text


def _weight(entry: Weight, units: UnitChoice) -> str:
    when = tr("before the work") if entry.when == "before" else tr("after the work")
    return tr("Weight {when}: {mass}").format(when=when, mass=show(entry.mass_g, "g", units))


def _dip(entry: Dip, units: UnitChoice) -> str:
    text = tr("Dipstick {depth}: {free} free").format(
        depth=show(entry.depth_mm, "mm", units), free=show(entry.free_ml, "ml", units)
    )
    if entry.least_ml is not None and entry.most_ml is not None:
        text += tr(" ({low} to {high})").format(
            low=show(entry.least_ml, "ml", units), high=show(entry.most_ml, "ml", units)
        )
    return text + (tr(", calibrates this tire") if entry.calibrates else "")


def _sign_off(entry: SignOff, units: UnitChoice) -> str:
    pressure = show(entry.pressure_kpa, "kpa", units)
    return tr("Handed over at {pressure}, signed {by}").format(pressure=pressure, by=entry.by)


def _promised(entry: Promised, units: UnitChoice) -> str:
    due = parse_due(entry.due)
    return tr("Promised for {at}").format(at=in_words(due, "%a %d %b %H:%M") if due else entry.due)


def _override(entry: Override, units: UnitChoice) -> str:
    return tr("Stop “{code}” overridden by {by}: {reason}").format(
        code=entry.code, by=entry.by, reason=entry.reason
    )


def _unreadable(entry: Unreadable, units: UnitChoice) -> str:
    return tr("An entry that cannot be read ({why}). It is kept as it is: {body}").format(
        why=entry.why, body=" ".join(entry.body.split())[:200]
    )


def _correction(entry: Correction, units: UnitChoice) -> str:
    return tr("Correction of entry {number}: {text}").format(number=entry.of, text=entry.text)


def _with(text: str, more: str) -> str:
    return f"{text}. {more}" if more else text


def _sectors(left: tuple[int, ...], right: tuple[int, ...]) -> str:
    sides = ((tr("left"), left), (tr("right"), right))
    words = [f"{name} {', '.join(map(str, low))}" for name, low in sides if low]
    return "; ".join(words)


_WORDS: dict[type, Callable[..., str]] = {
    StepEntry: _step,
    Attempt: _attempt,
    Changed: _changed,
    Inspection: _inspection,
    Finding: _finding,
    Reading: _reading,
    Leak: _leak,
    Feedback: _feedback,
    Care: _care,
    Dose: _dose,
    Weight: _weight,
    Dip: _dip,
    SignOff: _sign_off,
    Note: lambda entry, units: entry.text,
    Promised: _promised,
    Override: _override,
    Unreadable: _unreadable,
    Correction: _correction,
    TakenBack: lambda entry, units: tr("Taken back (Ctrl+Z)"),
}
