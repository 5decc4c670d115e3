"""A log entry in words, one line."""

from inner_rim.core.models.feedback import RIDE_WORDS
from inner_rim.core.plan.wheel_plan import STAGE_WORDS
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Care,
    Correction,
    Dip,
    Dose,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Note,
    Override,
    Reading,
    SignOff,
    StepEntry,
    Unreadable,
    Weight,
)
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr

OUTCOME_WORDS = {"both_up": "both sides up", "one_low": "one side low", "not_up": "did not come up"}
STEP_WORDS = {
    "done": "done",
    "failed": "failed",
    "reopened": "taken up again",
    "waited": "wait cut short",
    "again": "done again from here",
}


def entry_text(entry: AnyEntry | Unreadable, units: UnitChoice) -> str:
    """Return a log entry in one line."""
    match entry:
        case StepEntry():
            what = tr(STAGE_WORDS.get(entry.stage, entry.stage))
            if entry.step:
                what += ", " + tr(
                    entry.step.partition(".")[2].replace("_", " ") or entry.step.replace("_", " ")
                )
            text = f"{what}: {tr(STEP_WORDS[entry.outcome])}"
            return f"{text}. {entry.text}" if entry.text else text
        case Attempt():
            text = tr("Seating, {peak}: {outcome}").format(
                peak=show(entry.peak_kpa, "kpa", units), outcome=tr(OUTCOME_WORDS[entry.outcome])
            )
            if entry.over_limit:
                text = (
                    tr("ABOVE THE LIMIT of {limit}. ").format(limit=show(entry.limit_kpa, "kpa", units))
                    + text
                )
            if entry.pops:
                pops = ", ".join(show(pop.pressure_kpa, "kpa", units) for pop in entry.pops)
                text += tr("; pops at {pops}").format(pops=pops)
            if entry.changed:
                text += tr("; changed: {what}").format(
                    what=", ".join(tr(remedy.replace("_", " ")) for remedy in entry.changed)
                )
            return text + _sectors(entry.low_left, entry.low_right)
        case Inspection():
            if entry.after_over_limit:
                return tr("Looked over after going above the limit")
            return (
                (_sectors(entry.low_left, entry.low_right) or tr(": even all round"))
                .lstrip(": ")
                .capitalize()
            )
        case Finding():
            name = tr(entry.check.replace("_", " "))
            return (
                tr("{name}: looked at, sound").format(name=name)
                if entry.sound
                else tr("FOUND: {name}").format(name=name)
            )
        case Reading():
            text = tr("Read {pressure}").format(pressure=show(entry.pressure_kpa, "kpa", units))
            if entry.temperature_c is not None:
                text += tr(" at {air}").format(air=show(entry.temperature_c, "c", units))
            return text
        case Leak():
            text = tr("Bubbles: {place}").format(place=tr(entry.place.replace("_", " ")))
            return f"{text}. {entry.done}" if entry.done else text
        case Feedback():
            return tr("Ridden at {now}: {said}; next {then}").format(
                now=show(entry.pressure_kpa, "kpa", units),
                said=tr(RIDE_WORDS[entry.said]),
                then=show(entry.next_kpa, "kpa", units),
            )
        case Care():
            text = tr("Looked after: {what}").format(what=tr(entry.what.replace("_", " ")))
            return f"{text}. {entry.text}" if entry.text else text
        case Dose():
            text = tr("Sealant in: {dose}").format(dose=show(entry.dose_ml, "ml", units))
            return f"{text}, {entry.name}" if entry.name else text
        case Weight():
            before = entry.when == "before"
            return tr("Weight {when}: {mass}").format(
                when=tr("before the work") if before else tr("after the work"),
                mass=show(entry.mass_g, "g", units),
            )
        case Dip():
            text = tr("Dipstick {depth}: {free} free").format(
                depth=show(entry.depth_mm, "mm", units), free=show(entry.free_ml, "ml", units)
            )
            if entry.least_ml is not None and entry.most_ml is not None:
                text += tr(" ({low} to {high})").format(
                    low=show(entry.least_ml, "ml", units), high=show(entry.most_ml, "ml", units)
                )
            return text + (tr(", calibrates this tire") if entry.calibrates else "")
        case SignOff():
            return tr("Handed over at {pressure}, signed {by}").format(
                pressure=show(entry.pressure_kpa, "kpa", units), by=entry.by
            )
        case Note():
            return entry.text
        case Override():
            return tr("Stop “{code}” passed by {by}: {reason}").format(
                code=entry.code, by=entry.by, reason=entry.reason
            )
        case Unreadable():
            return tr("An entry that cannot be read ({why}). It is kept as it is: {body}").format(
                why=entry.why, body=" ".join(entry.body.split())[:200]
            )
        case Correction():
            return tr("Correction of entry {number}: {text}").format(number=entry.of, text=entry.text)


def _sectors(left: tuple[int, ...], right: tuple[int, ...]) -> str:
    sides = ((tr("left"), left), (tr("right"), right))
    words = [f"{name} {', '.join(map(str, low))}" for name, low in sides if low]
    return tr(": low in sector {sectors}").format(sectors="; ".join(words)) if words else ""
