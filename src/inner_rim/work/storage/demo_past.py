"""The demo's past: wheels that the invented shed did in the last months, off the bench, for its logbook and insights.

Made from the demo's own wheels under other names: steps ticked off in about their minutes, tries at seating, readings,
promises, and some wheels that came back.
"""

from __future__ import annotations

import copy
import math
import random
from collections.abc import Callable, Iterator, Sequence
from datetime import datetime, timedelta

from msgspec.structs import replace

from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.ids import id_from
from inner_rim.core.record.log import Attempt, Dose, Entry, Logged, Promised, Reading, SignOff, StepEntry
from inner_rim.core.record.moments import naive_local
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.reading import job_from_plain
from inner_rim.store.rows import StoredJob

NAMES = (
    "Samphire", "Lugworm", "Groyne", "Bittern", "Cuttle", "Knot", "Marram", "Sluice",
    "Whimbrel", "Cockle", "Breaker", "Ebb", "Shingle", "Godwit",
)  # fmt: skip
HANDS = ("M. Osier", "T. Reedling")
SEED, FIRST_DAYS, APART_DAYS, RETURNS = 7, 160, 9, 5
#: How an attempt went, in the order of the wheels: what failed first, and what then brought the beads up.
STORIES = ("pump", "pump", "core_out", "compressor", "core_out", "wet", "compressor", "strap")
Worked = Callable[[float], datetime]


def past_jobs(documents: Sequence[JsonObject], worked: Worked) -> list[StoredJob]:
    """Return the jobs, the oldest first, their entries numbered through.

    Args:
        documents: job files of the demo.
        worked: the moment so many hours of work before now, which is negative.
    """
    found, number = sorted(_jobs(documents, worked), key=lambda job: job.log[0].at), 0
    for place, job in enumerate(found):
        log = [replace(item, number=number + n) for n, item in enumerate(job.log, 1)]
        number += len(log)
        found[place] = replace(job, log=tuple(log))
    return found


def _jobs(documents: Sequence[JsonObject], worked: Worked) -> Iterator[StoredJob]:
    rng = random.Random(SEED)
    for place, name in enumerate(NAMES):
        wheel_id = id_from("demo past", place)
        hours = -9.0 * (FIRST_DAYS - APART_DAYS * place)
        document = _document(documents[place % len(documents)], name, wheel_id)
        yield _job(document, place, worked, hours, rng, STORIES[place % len(STORIES)])
        if place < RETURNS:
            back = copy.deepcopy(document)
            job = job_from_plain(document)
            proposed = plan_wheel(job.wheels[0], job.ride).pressure.by_method["drop"] or 200.0
            kept = round(proposed * math.exp(rng.gauss(0.0, 0.05)))
            work = {"kind": "repair", "leak": "tread"} if place % 2 else {"kind": "refresh"}
            back["wheels"][0] |= {
                "previous_pressure_kpa": kept,
                "work": {**work, "rode_before": True, "kept_said": True},
            }
            yield _job(back, place + 100, worked, hours + 9.0 * rng.uniform(50.0, 85.0), rng, "compressor")


def _document(template: JsonObject, name: str, wheel_id: str) -> JsonObject:
    found = copy.deepcopy(template)
    wheel = found["wheels"][0]
    wheel |= {"name": f"{name} · {wheel.get('position', 'rear')}", "wheel_id": wheel_id}
    wheel.pop("work", None)
    return {**found, "wheels": [wheel], "title": name, "customer": f"{name} hire", "bike": name, "due": None}


def _job(
    document: JsonObject, place: int, worked: Worked, hours: float, rng: random.Random, story: str
) -> StoredJob:
    job = job_from_plain(document)
    plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf)
    job_id = id_from("demo past job", place)
    log: list[Logged] = []
    at = worked(hours)

    def say(entry: Entry, minutes: float = 0.0) -> None:
        nonlocal at
        at += timedelta(minutes=minutes)
        uid = id_from(job_id, len(log))
        log.append(Logged(number=len(log) + 1, at=at.isoformat(timespec="seconds"), wheel_id=document["wheels"][0]["wheel_id"], entry=entry, uid=uid))  # type: ignore[arg-type]  # fmt: skip

    due = naive_local(worked(hours + 9.0)).replace(minute=0)
    say(Promised(due=due.isoformat(timespec="minutes")))
    say(StepEntry(stage="check_in"))
    for todo in plan.steps:
        if todo.stage not in ("seat", "sealant", "hold", "set"):
            say(StepEntry(stage=todo.stage, step=todo.key), todo.minutes * math.exp(rng.gauss(0.0, 0.25)))
    for entry in _tries(story, plan.pressure.seating_kpa[0], plan.pressure.limit_kpa):
        say(entry, rng.uniform(2.0, 5.0))
    say(Dose(dose_ml=plan.sealant.dose_ml, name="Eelgrass"), 2.0)
    start = plan.pressure.start_kpa
    say(Reading(pressure_kpa=start), 5.0)
    loss = abs(rng.gauss(0.006, 0.008))
    say(Reading(pressure_kpa=round(start * (1.0 - loss), 1)), 60.0)
    if place % 7 == 3:  # promised too early
        at += timedelta(days=2)
    say(SignOff(by=rng.choice(HANDS), pressure_kpa=round(start)), 20.0)
    return StoredJob(job_id, document, {}, 1, True, tuple(log))


def _tries(story: str, target: float, limit: float) -> Iterator[Attempt]:
    def one(outcome: str, source: str, core_out: bool, *changed: str) -> Attempt:
        peak = target if outcome == "both_up" else 0.1 * target
        return Attempt(peak_kpa=round(peak, 1), outcome=outcome, limit_kpa=limit, target_kpa=target, source=source, core_out=core_out, changed=changed)  # type: ignore[arg-type]  # fmt: skip

    if story == "compressor":
        yield one("both_up", "compressor", True)
        return
    if story == "pump":
        yield one("both_up", "floor_pump", False)
        return
    yield one("no_pressure", "floor_pump", story != "core_out")
    yield one("both_up", "floor_pump", True, story)
