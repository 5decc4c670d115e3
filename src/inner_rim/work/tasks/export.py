"""Handing over: the bench card, the customer's sheet, the calendar, the log as files."""

import csv
import io
from collections.abc import Callable, Iterable
from datetime import datetime
from pathlib import Path

import msgspec

from inner_rim.core.drawing.acts import draw_act
from inner_rim.core.drawing.scene import Scene
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.stops import MAKERS
from inner_rim.core.record.job import Job, parse_due
from inner_rim.core.record.log import Logged, Unreadable
from inner_rim.core.record.moments import in_words, local, moment, naive_local
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.spoken import STAGE_WORDS, Stage
from inner_rim.core.record.units import UnitChoice, local_units, show
from inner_rim.documents.calendar_file import DueDate, to_ics
from inner_rim.documents.csv_text import json_cell, safe_cell
from inner_rim.documents.printed_page import Label, Sheet, SheetRow, label_pdf, to_pdf
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import (
    BenchWheel,
    JobState,
    PlannedWheel,
    Shop,
    planned,
    wheel_state,
)
from inner_rim.work.tasks.exchange import job_file, pretty
from inner_rim.work.text.card import inside_text, limit_text, plan_rows
from inner_rim.work.text.log_words import entry_text
from inner_rim.work.text.papers import QR_PREFIX, WAYS
from inner_rim.work.text.wheel_words import span_words, time_words, tool_words, tube_words


def log_csv(states: Iterable[BenchWheel], units: UnitChoice) -> bytes:
    """Return the log of wheels as CSV: wheel, number, time, kind, words, and the entry as JSON."""
    return _table([(state.name, item) for state in states for item in state.whole_log], units)


def hits_csv(hits: Iterable[Hit], units: UnitChoice) -> bytes:
    """Return entries that a search found as CSV, in their order."""
    return _table([(hit.name, hit.item) for hit in hits], units)


def _table(rows: Iterable[tuple[str, Logged]], units: UnitChoice) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text, quoting=csv.QUOTE_ALL)
    writer.writerow(("wheel", "number", "at", "kind", "words", "entry"))
    for name, item in rows:
        entry = item.entry
        known = not isinstance(entry, Unreadable)
        kind = type(entry).__struct_config__.tag if known else "unreadable"
        body = entry.body if isinstance(entry, Unreadable) else msgspec.json.encode(entry).decode()
        row = (name, item.number, item.at, kind, entry_text(entry, units))
        writer.writerow([*(safe_cell(str(cell)) for cell in row), json_cell(body)])
    return text.getvalue().encode("utf-8-sig")


MAX_LOG_LINES, READINGS, READING_GAP = 22, 3, "      "


def wheel_code(state: BenchWheel) -> str:
    """Return the content of a wheel's QR code: typed or scanned into the search, it brings the
    wheel back.
    """
    return f"{QR_PREFIX}/{state.wheel_id}".upper()


def bench_card(state: PlannedWheel, units: UnitChoice) -> Sheet:
    """Return the bench card of a wheel: plan, its steps with boxes to tick, room for
    readings, its log; on the back the acts that matter most.
    """
    plan = state.plan
    rows = [
        SheetRow(tr("STOP"), stop.message.read(units), True) for stop in state.progress.open_stops
    ]
    rows += [
        SheetRow(name, text, place == 0)
        for place, (name, text) in enumerate(plan_rows(plan, units))
    ]
    log = tuple(log_line(item, units) for item in state.log[-MAX_LOG_LINES:])
    document = state.job.draft.document
    about = [str(document[key]) for key in ("customer", "bike") if document.get(key)]
    return Sheet(
        title=state.name,
        subtitle=" · ".join(
            filter(None, [tr("Bench card"), *about, _due_words(state), time_words(plan)])
        ),
        rows=tuple(rows),
        columns=_steps(plan, units),
        paragraphs=(
            (
                tr("Readings"),
                (READING_GAP.join((tr("______ at ______ o'clock, air ______"),) * READINGS),),
            ),
        ),
        log=(tr("Log"), log),
        pictures=_pictures(plan, MOST_PRINTED - 2 * bool(log)),
        units=units,
        qr=wheel_code(state),
    )


#: The acts that are printed, of each stage the first that the wheel has; the most important stages
#: first.
PRINTED = (
    ("tape.lay", "tape.keep_look"),
    ("bead.second", "bead.partial", "bead.refit"),
    ("air.step", "air.burst"),
    ("sealant.pour", "sealant.inject", "tube.in"),
    ("insert.on",),
    ("valve.fit",),
    ("hold.flat_left", "hold.shake"),
    ("strip.break_beads", "bead.open_one"),
    ("hold.read",),
    ("set.pressure",),
)
#: Two fewer where the log stands below them.
MOST_PRINTED = 6


def _pictures(plan: WheelPlan, most: int) -> tuple[tuple[str, Scene], ...]:
    """Return the pictures of the acts that matter most, in the order in which they are done."""
    steps = {step.code: step for step in reversed(plan.steps)}
    found = (next((steps[code] for code in codes if code in steps), None) for codes in PRINTED)
    chosen = [step for step in found if step is not None][:most]
    return tuple(
        (tr(STAGE_WORDS[step.stage]), draw_act(plan, step)) for step in plan.steps if step in chosen
    )


def customer_sheet(state: PlannedWheel, units: UnitChoice) -> Sheet:
    """Return the sheet for the customer: pressures and limits, what to look at, what to do at the
    roadside.
    """
    plan, wheel = state.plan, state.wheel
    pressure = plan.pressure
    signed = plan.log.signed
    rows = [
        SheetRow(tr("Ride at"), _ride_words(state, units)),
        SheetRow(tr("Never above"), limit_text(plan, units), True),
    ]
    if pressure.minimum_kpa is not None:
        rows.append(SheetRow(tr("Never below"), show(pressure.minimum_kpa, "kpa", units), True))
    tube = plan.setup.does == "back_to_tube"
    if tube:
        rows.append(SheetRow(tr("Inside"), tr("a tube")))
    else:
        rows.append(SheetRow(tr("Sealant"), inside_text(plan, units)))
    if plan.log.state.insert == "on" and wheel.insert is not None:
        rows.append(SheetRow(tr("Insert"), wheel.insert.name or tr("inside")))
    plugs = (wheel.tire.plugs or 0) + plan.log.plugs
    if plugs and not tube:
        rows.append(SheetRow(tr("Plugs"), tr("{n} in the tire").format(n=plugs)))
    if "after" in plan.log.weighed_g:
        rows.append(SheetRow(tr("Weight"), show(plan.log.weighed_g["after"], "g", units)))
    handed = plan.log.since.handed_over_at
    rows += [
        SheetRow(in_words(care.day, "%d %b %Y"), care.words.read(units))
        for care in due_care(wheel, plan)
        if care.day > local(moment(handed)).date()  # what is past was work of this visit
    ]
    if signed is not None:
        when = local(moment(plan.log.signed_at))
        rows.append(
            SheetRow(
                tr("Signed"), tr("{by}, {day}").format(by=signed.by, day=in_words(when, "%d %b %Y"))
            )
        )
    return Sheet(
        title=state.name,
        subtitle=tr("Wheel with a tube: for the rider")
        if tube
        else tr("Tubeless wheel: for the rider"),
        rows=tuple(rows),
        paragraphs=tuple(
            (tr(heading), tuple(tr(line).replace("{tube}", tube_words(wheel)) for line in lines))
            for heading, lines in RIDER_WORDS
        ),
        qr=wheel_code(state),
    )


def wheel_label(state: BenchWheel) -> Label:
    """Return the label that goes on a wheel: code, name, when it is due."""
    return Label(state.name, _due_words(state), wheel_code(state))


def _due_words(state: BenchWheel) -> str:
    due = state.job.draft.document.get("due")
    when = parse_due(due) if isinstance(due, str) else None
    return (
        tr("due {when}").format(when=in_words(naive_local(when), "%a %d %b %H:%M")) if when else ""
    )


def _ride_words(state: PlannedWheel, units: UnitChoice) -> str:
    """A riding pressure, and the temperature it is meant at where one was given."""
    ride = state.ride_job.ride
    words = show(state.worked_kpa, "kpa", units)
    if ride is not None and ride.temperature_c is not None:
        words += tr(" at {air}").format(air=show(ride.temperature_c, "c", units))
    return words


def _steps(plan: WheelPlan, units: UnitChoice) -> tuple[tuple[str, tuple[str, ...]], ...]:
    result: dict[Stage, list[str]] = {}
    for step in (*plan.behind, *plan.steps):
        wait = (
            tr(" – wait {span}").format(span=span_words(step.wait_minutes))
            if step.wait_minutes
            else ""
        )
        result.setdefault(step.stage, []).append(f"[  ] {step.text.read(units)}{wait}")
    by_stage = tuple((tr(STAGE_WORDS[stage]), tuple(lines)) for stage, lines in result.items())
    return ((tr("Lay out"), (tool_words(plan.tools),)), *by_stage)


RIDER_WORDS = (
    (
        N_("Before each ride"),
        (
            N_(
                "Press the tire or use a gauge: a tubeless tire always loses a little air; that is not a fault."
            ),
            N_(
                "Look for cuts, and for sealant where it does not belong. Pump with the wheel away from your face."
            ),
        ),
    ),
    (
        N_("Carry with you"),
        (
            N_(
                "A tube: {tube}. Levers, a pump, plugs, gloves, and something strong to boot a hole with. The surest repair on the road is a tube."
            ),
        ),
    ),
    (
        N_("If it loses air on the way"),
        (
            N_(
                "Turn the hole to the bottom, spin the wheel, wait a minute, pump up. Most holes close by themselves."
            ),
            N_(
                "A hole that keeps bleeding takes a plug. A cut in the side wall, or a tire torn at its edge, does not: fit a tube."
            ),
            N_(
                "Before the tube goes in, feel the inside of the tire: sealant hides thorns. Put something strong behind a big hole."
            ),
        ),
    ),
    (
        N_("If it burps"),
        (
            N_(
                "A burp is a puff of air when the tire is pushed sideways off its seat: ride on with care, put air in, and next time ride at a little more, within the limits above."
            ),
        ),
    ),
    (
        N_("Come back"),
        (
            N_(
                "On the days above; when it loses more than a tenth in a day; when the wheel hops or wobbles; after a hard knock on the rim."
            ),
        ),
    ),
)


def log_line(item: Logged, units: UnitChoice) -> str:
    at = in_words(local(moment(item.at)), "%d %b %H:%M")
    return f"{at}  {entry_text(item.entry, units)}"


def due_dates(states: Iterable[BenchWheel], units: UnitChoice) -> list[DueDate]:
    result = []
    for state in planned(states):
        for care in due_care(state.wheel, state.plan):
            words = f"{state.name}: {care.words.read(units)}"
            key = f"{state.job.job_id}-{state.wheel_id}-{care.code}"
            result.append(
                DueDate(key, care.day, words, str(state.job.draft.document.get("customer") or ""))
            )
    return sorted(result, key=lambda due: due.day)


def job_with_log(state: BenchWheel) -> JsonObject:
    job = state.job
    return job_file(job.job_id, job.draft.document, job.draft.drafts, False, job.log)


def cards_pdf(
    states: Iterable[BenchWheel],
    units: UnitChoice,
    on_progress: Callable[[int], bool] = lambda done: True,
) -> bytes | None:
    cards = [bench_card(state, units) for state in planned(states)]
    return to_pdf(cards, tr(MAKERS), on_progress)


def write_cards(jobs: Iterable[Job], path: Path) -> None:
    """Write the bench cards of jobs that have no log, as the command line does.

    Raises:
        InputError: the file cannot be written.
    """
    from inner_rim.work.storage.files import write_whole

    states = []
    for place, job in enumerate(jobs):
        document = msgspec.to_builtins(job)
        for number, wheel in enumerate(document["wheels"]):
            wheel.setdefault("wheel_id", f"{place}-{number}")
        state = JobState(StoredJob(f"file-{place}", document, {}, 1))
        states += [wheel_state(state, number, Shop()) for number in range(len(document["wheels"]))]
    write_whole(path, cards_pdf(states, local_units()) or b"")


def written_as(way: str, state: PlannedWheel, units: UnitChoice, now: datetime) -> bytes:
    """Return a wheel as one of the `WAYS`.

    Raises:
        KeyError: no such way.
    """
    made: dict[str, Callable[[], bytes]] = {
        "card": lambda: cards_pdf([state], units) or b"",
        "sheet": lambda: to_pdf([customer_sheet(state, units)], tr(MAKERS)) or b"",
        "label": lambda: label_pdf(wheel_label(state)),
        "calendar": lambda: to_ics(due_dates([state], units), now),
        "job": lambda: pretty(job_with_log(state)),
        "log": lambda: log_csv([state], units),
    }
    return made[way]()


def file_name(way: str, state: BenchWheel) -> str:
    stem = "".join(c if c.isalnum() or c in " -_" else "-" for c in state.name).strip() or "wheel"
    return f"{stem} {way}{WAYS[way][0]}"
