"""Make the demo's past: thirty bikes that an invented shed converted over eight months, several of them back since.

Each wheel is a simulated one with hidden truths (gap under the bead, drying, what its rider keeps), worked on by the
program's own procedure: a try comes up only where its source outruns the true leak, a dip shows what truly dried.

Run: .venv/bin/python tools/demo_past.py; writes src/inner_rim/demo/shop/past.json, whose calendar ends on `TODAY`.
"""

from __future__ import annotations

import copy
import math
import random
from collections.abc import Iterator
from datetime import datetime, time, timedelta
from typing import Any

import msgspec
from msgspec.structs import replace

from inner_rim.core.learning.effects import GAP_WITHIN
from inner_rim.core.models.inflation import Bottle, max_leak_l_s
from inner_rim.core.models.sealant import pool_radii_mm
from inner_rim.core.models.tire import dip_mm
from inner_rim.core.plan.advisor import next_step_odds, suggestions
from inner_rim.core.plan.aftercare import life_days
from inner_rim.core.plan.wheel_plan import WheelPlan, dose_due_ml, named_ways, plan_wheel, pooled_ml
from inner_rim.core.procedure.actions import Action
from inner_rim.core.progress.visit import coming_back
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Changed,
    Dip,
    Dose,
    Finding,
    Leak,
    LeakPlace,
    Logged,
    Note,
    Outcome,
    Promised,
    Reading,
    Remedy,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.moments import local, moment
from inner_rim.core.record.paths import id_from
from inner_rim.core.record.reading import job_from_plain
from inner_rim.work.shop_methods import stored_shop
from inner_rim.work.storage.demo import FOLDER, TODAY, PastEntry, PastJob, demo_bench, demo_jobs

SEED, FIRST_DAYS, LAST_DAYS = 14, 242, 9
NAMES = (
    "Samphire", "Lugworm", "Groyne", "Bittern", "Cuttle", "Knot", "Marram", "Sluice", "Whimbrel", "Cockle",
    "Breaker", "Ebb", "Shingle", "Godwit", "Sanderling", "Turnstone", "Dulse", "Barnacle", "Skerry", "Tidepool",
    "Pebble", "Gannet", "Eider", "Plover", "Sea holly", "Driftwood", "Causeway", "Backwater", "Halyard", "Limpet",
)  # fmt: skip
RIDERS = (
    "Godwit hire",
    "Ebb couriers",
    "Saltings farm",
    "Godwit hire",
    "Harbor school",
    "Tern club",
    "Quay club",
)
HANDS = ("M. Osier", "T. Reedling")
#: Hidden truths, as logarithms over the usual: a rim whose bed is wide, riders who keep less or more, a sealant that dries fast.
LOOSE_RIM, TRUE_GAP = "Wrack line 25", 1.1
TRUE_KEPT = {"Godwit hire": math.log(0.82), "Ebb couriers": math.log(1.08)}
TRUE_DRYING = {"Eelgrass": math.log(1.7)}
SEALANTS = ("Tidewater latex", "Tidewater latex", "Eelgrass")
#: Bikes, of five, on which the shed tried mounting fluid in place of soap, and what it truly makes of
#: the gap and of the pressure at which a bead seats.
TRIED_FLUID, TRUE_FLUID = (0, 2, 4), (0.35, 0.75)
#: Wheels of the bench that are nobody else's: a find, and one that must not be built.
UNUSUAL = ("Old Curlew", "Tern light")
#: The shed's hours, minutes after midnight, with time to sweep up.
OPENS, CLOSES = 8 * 60 + 5, 17 * 60 + 15
LEAKS: tuple[LeakPlace, ...] = ("valve", "valve", "nipple", "bead")
LEAKS_SHARE, LOW_SHARE, LATE_EVERY = 0.09, 0.08, 9
#: What is changed after a try without pressure, in this order.
NEXT: tuple[Remedy, ...] = ("core_out", "wet", "bigger_source", "strap", "lift", "tube_first")


class Clock:
    """The shed's own clock: work goes on the next morning where the day is over."""

    def __init__(self, day: datetime, minute: float) -> None:
        self.at = day + timedelta(minutes=minute)

    def spend(self, minutes: float) -> None:
        """Let minutes of work pass."""
        self.at += timedelta(minutes=minutes)
        if self.at.hour * 60 + self.at.minute > CLOSES:
            self.next_morning()

    def next_morning(self) -> None:
        """Go on when the shed opens again."""
        self.at = datetime.combine(self.at.date() + timedelta(days=1), time(0)) + timedelta(
            minutes=OPENS + 4
        )


class SimulatedWheel:
    """A wheel with its hidden truths, worked on step by step."""

    def __init__(self, document: dict[str, Any], index: int, rng: random.Random) -> None:
        self.job, self.index, self.rng = job_from_plain(document), index, rng
        self.wheel_id = document["wheels"][index]["wheel_id"]
        rim = self.job.wheels[index].rim.name
        self.gap = math.exp((TRUE_GAP if rim == LOOSE_RIM else 0.0) + rng.gauss(0.0, GAP_WITHIN))
        self.log: list[Logged] = []
        self.source = "floor_pump"
        self.beads = (rng.gauss(0.0, 1.0), rng.gauss(0.0, 1.0))

    @property
    def plan(self) -> WheelPlan:
        """The plan from where the log has left it."""
        alone = SHOP.around(replace(self.job, wheels=(self.job.wheels[self.index],)))
        wheel = alone.wheels[0]
        return plan_wheel(wheel, alone.ride, alone.practice, alone.shelf, tuple(self.log))

    def say(self, clock: Clock, *entries: AnyEntry) -> None:
        """Log entries."""
        for entry in entries:
            uid = id_from("demo past", self.wheel_id, clock.at.isoformat(), len(self.log))
            at = clock.at.astimezone().isoformat(timespec="seconds")
            self.log.append(Logged(number=0, at=at, wheel_id=self.wheel_id, entry=entry, uid=uid))

    def work(self, clock: Clock, until: str) -> None:
        """Do what the procedure asks for, step by step, up to a stage."""
        for _ in range(200):
            plan = self.plan
            if not plan.steps or plan.steps[0].stage in ("set", until):
                return
            self.step(clock, plan, plan.steps[0])
        raise RuntimeError(f"{self.job.title}: this never ends")

    def step(self, clock: Clock, plan: WheelPlan, step: Action) -> None:
        """Do one step as the true wheel lets it."""
        clock.spend(step.minutes * math.exp(self.rng.gauss(0.0, 0.3)))
        if step.code == "air.step":
            self.attempt(clock, plan, step)
        elif step.question:
            self.say(clock, Finding(check=step.question, sound=True))
        elif step.code == "repair.find":
            self.say(clock, Leak(place=self.leak_place()))
        else:
            if step.asks == "dose":
                due = dose_due_ml(plan)
                if due is None:
                    self.dip(clock, plan, 0.3 * pooled_ml(plan))
                    due = dose_due_ml(self.plan) or 0.0
                dose = 5.0 * round((due + self.rng.gauss(0.0, 3.0)) / 5.0)
                self.say(clock, Dose(dose_ml=max(5.0, dose), name=self.rng.choice(SEALANTS)))
            self.say(clock, StepEntry(stage=step.stage, step=step.key))
            clock.spend(min(step.wait_minutes, 60.0))

    def leak_place(self) -> LeakPlace:
        """Where a wheel that came in for a leak leaks."""
        said = self.job.wheels[self.index].work
        return "tread" if said is not None and said.leak == "tread" else self.rng.choice(LEAKS)

    def attempt(self, clock: Clock, plan: WheelPlan, step: Action) -> None:
        """Try: the beads come up where the source outruns the true leak; else change something."""
        seating, state = plan.log.seating, plan.log.state
        core_out, tube = state.core == "out", state.tube == "in"
        bottle = Bottle(plan.methods.bottle_ml, plan.methods.bottle_kpa)
        most = max_leak_l_s(
            max(0.1, plan.tire.air_volume_ml / 1000.0), self.source, core_out, bottle
        )  # type: ignore[arg-type]
        easier = TRUE_FLUID if plan.methods.lubricant == "fluid" else (1.0, 1.0)
        builds = (
            tube
            or plan.log.seated_kpa is not None
            or most > plan.seating_odds.needed_l_s * self.gap * easier[0]
        )
        target = step.pressure_kpa
        seats_at = plan.seats.median_kpa * math.exp(plan.seats.spread * max(self.beads))
        seats_at *= easier[1]
        up = builds and (tube or plan.log.seated_kpa is not None or seats_at <= target)
        low = up and plan.log.seated_kpa is None and not tube and self.rng.random() < LOW_SHARE
        outcome: Outcome = (
            "one_low" if low else "both_up" if up else "not_up" if builds else "no_pressure"
        )
        self.say(
            clock,
            Attempt(
                peak_kpa=round(target if builds else self.rng.uniform(0.05, 0.15) * target, 1),
                outcome=outcome,
                low_left=(self.rng.randint(1, 8),) if low else (),
                limit_kpa=plan.pressure.limit_kpa,
                target_kpa=target,
                source=self.source,
                core_out=core_out,
                lubricant=plan.methods.lubricant,
                changed=tuple(sorted(state.changed)),
                tube=tube,
            ),
        )
        if outcome == "no_pressure":
            had = {remedy for one in seating.tries for remedy in one.changed} | state.changed
            had |= {"core_out"} if core_out else set()
            self.change(clock, next(remedy for remedy in NEXT if remedy not in had))
        elif outcome == "not_up" and next_step_odds(self.plan) is None:
            after = self.plan
            wet = after.log.state.wet == "yes"
            best = suggestions(
                after, after.log.seating.tries, after.methods.air_source, core_out, wet
            )
            self.change(clock, next((one.remedy for one in best if not one.tried), "warm"))
            # a casing that was stretched gives
            self.beads = (self.beads[0] - 0.5, self.beads[1] - 0.5)

    def change(self, clock: Clock, remedy: Remedy) -> None:
        """Change something before the next try."""
        clock.spend(self.rng.uniform(1.0, 3.0))
        if remedy == "bigger_source":
            self.source = "compressor"
        self.say(clock, Changed(remedy=remedy))

    def first_reading(self, clock: Clock) -> datetime:
        """Read the gauge; return when."""
        self.pressure = self.plan.pressure.set_here_kpa
        self.say(clock, Reading(pressure_kpa=round(self.pressure, 1)))
        return clock.at

    def second_reading(self, clock: Clock) -> None:
        """Read the gauge an hour later; what leaks is found, fixed, and read once more."""
        loss = abs(self.rng.gauss(0.004, 0.003))
        if self.rng.random() < LEAKS_SHARE:
            loss = self.rng.uniform(0.04, 0.1)
        self.say(clock, Reading(pressure_kpa=round(self.pressure * (1.0 - loss), 1)))
        if loss > 0.03:
            place = self.rng.choice(("valve", "valve", "bead"))
            clock.spend(6.0)
            self.say(
                clock,
                Leak(place=place, done="core tightened" if place == "valve" else "spun and shaken"),
            )  # type: ignore[arg-type]
            self.say(clock, StepEntry(stage="hold", outcome="reopened"))
            self.say(clock, Reading(pressure_kpa=round(self.pressure, 1)))

    def hand_over(self, clock: Clock) -> None:
        """Look at it the next morning, and hand it over."""
        self.say(
            clock, Reading(pressure_kpa=round(0.985 * self.pressure, 1)), StepEntry(stage="hold")
        )
        clock.spend(4.0)
        plan = self.plan
        set_here, on_ride = round(plan.pressure.set_here_kpa), round(plan.pressure.at_ride_kpa, 1)
        by, ways = self.rng.choice(HANDS), named_ways(plan)
        self.say(clock, SignOff(by=by, pressure_kpa=set_here, ride_kpa=on_ride, methods=ways))

    def dip(self, clock: Clock, plan: WheelPlan, left_ml: float) -> None:
        """Dip what is left, to half a millimeter."""
        radii = pool_radii_mm(plan.tire, self.job.wheels[self.index].rim.bead_seat_diameter_mm)
        depth = max(0.5, round(2.0 * (dip_mm(left_ml, *radii) + self.rng.gauss(0.0, 0.4))) / 2.0)
        self.say(clock, Dip(depth_mm=depth, free_ml=round(left_ml, 1)))

    def dip_later(self, days: float) -> None:
        """A rider drops in: the dipstick shows what truly dried."""
        plan, wheel = self.plan, self.job.wheels[self.index]
        true_days = life_days(wheel, plan) / math.exp(
            TRUE_DRYING.get(plan.log.sealant, 0.0) + self.rng.gauss(0.0, 0.15)
        )
        pool = pooled_ml(plan)
        left = pool * max(0.0, 1.0 - days / true_days)
        if left <= 0.0:
            return
        day = local(moment(plan.log.signed_at)).replace(tzinfo=None) + timedelta(days=round(days))
        noon = Clock(datetime.combine(day.date(), time(0)), self.rng.uniform(600.0, 1000.0))
        self.dip(noon, plan, left)


def document_of(template: dict[str, Any], place: int) -> dict[str, Any]:
    """Return a bike of two wheels made from a wheel of the demo."""
    name = NAMES[place]
    wheels = []
    for end in ("front", "rear"):
        wheel = copy.deepcopy(template["wheels"][0])
        wheel |= {
            "name": f"{name} · {end}",
            "position": end,
            "wheel_id": id_from("demo past", place, end),
        }
        for gone in ("work", "notes"):
            wheel.pop(gone, None)
        if place % 4 == 1:
            wheel["rim"] |= {"name": LOOSE_RIM}
        elif place % 5 in TRIED_FLUID:
            wheel["practice"] = {**(wheel.get("practice") or {}), "lubricant": "fluid"}
        wheels.append(wheel)
    rider = RIDERS[place % len(RIDERS)]
    return {
        **template,
        "wheels": wheels,
        "title": name,
        "customer": rider,
        "bike": name,
        "due": None,
    }


def worked_on(
    document: dict[str, Any], day: datetime, late: bool, rng: random.Random, note: str = ""
) -> list[SimulatedWheel]:
    """Work on all wheels of a job from the morning of a day; return them handed over."""
    clock = Clock(day, rng.uniform(OPENS, OPENS + 90))
    wheels = [SimulatedWheel(document, index, rng) for index in range(len(document["wheels"]))]
    due = datetime.combine(clock.at.date() + timedelta(days=1), time(rng.choice((10, 11, 12, 15))))
    read = []
    for wheel in wheels:
        wheel.say(
            clock,
            Promised(due=due.isoformat(timespec="minutes")),
            *([Note(text=note)] if note else ()),
        )
        clock.spend(rng.uniform(4.0, 9.0))
        wheel.say(clock, StepEntry(stage="check_in"))
        wheel.work(clock, "hold")
        read.append(wheel.first_reading(clock))
    for wheel, at in zip(wheels, read, strict=True):
        if at.date() == clock.at.date():
            clock.at = max(clock.at, at + timedelta(minutes=62))
        wheel.second_reading(clock)
    clock.next_morning()
    if late:
        clock.at += timedelta(days=2)
    for wheel in wheels:
        clock.spend(rng.uniform(3.0, 20.0))
        wheel.hand_over(clock)
    return wheels


def jobs() -> Iterator[tuple[dict[str, Any], list[SimulatedWheel]]]:
    """Yield every job with its wheels as they were handed over."""
    rng = random.Random(SEED)
    templates = [demo.job for demo in demo_jobs() if not demo.job["title"].startswith(UNUSUAL)]
    apart = (FIRST_DAYS - LAST_DAYS) / (len(NAMES) - 1)
    for place in range(len(NAMES)):
        before = FIRST_DAYS - apart * place
        document = document_of(templates[place % len(templates)], place)
        day = TODAY - timedelta(days=round(before))
        wheels = worked_on(document, day, place % LATE_EVERY == 4, rng)
        yield document, wheels
        for wheel in wheels:
            if before > 65 and rng.random() < 0.6:
                wheel.dip_later(rng.uniform(35.0, 60.0))
        back, since = wheels[rng.randint(0, 1)], 0.0
        for again in range(2 if place % 7 == 2 else 1 if place % 5 in (0, 2, 3) else 0):
            since += rng.uniform(62.0, 110.0)
            if since > before - 6.0:
                break
            document, back = next_visit(
                document, back, TODAY - timedelta(days=round(before - since)), again, rng
            )
            yield document, [back]


def next_visit(
    document: dict[str, Any], wheel: SimulatedWheel, day: datetime, again: int, rng: random.Random
) -> tuple[dict[str, Any], SimulatedWheel]:
    """Return the job of a wheel that is back, and the wheel handed over."""
    plan = wheel.plan
    fresh = {name: value for name, value in document.items() if name != "wheels"}
    coming = coming_back(document["wheels"][wheel.index], plan)
    leaks = rng.random() < 0.45
    coming["work"] |= {"kind": "repair", "leak": "tread"} if leaks else {"kind": "refresh"}
    kept = math.exp(TRUE_KEPT.get(document["customer"], 0.0) + rng.gauss(0.0, 0.05))
    coming["work"]["kept_said"] = True
    coming["previous_pressure_kpa"] = 5.0 * round(
        (plan.pressure.by_method["drop"] or 200.0) * kept / 5.0
    )
    back = {**fresh, "wheels": [coming]}
    note = (
        rng.choice(("thorn, lost air overnight", "glass on the quay road"))
        if leaks
        else rng.choice(("rode well", "a little harsh", ""))
    )
    return back, worked_on(back, day, False, rng, note)[0]


def main() -> None:
    """Write the file."""
    result = []
    for document, wheels in list(jobs()):
        entries = sorted(
            (
                PastEntry(
                    local(moment(item.at)).replace(tzinfo=None).isoformat(timespec="seconds"),
                    place,
                    item.entry,
                )
                for place, wheel in enumerate(wheels)
                for item in wheel.log
            ),
            key=lambda entry: entry.at,
        )
        result.append(PastJob(document, tuple(entries)))
    result.sort(key=lambda job: job.log[0].at)
    lines = b",\n".join(msgspec.json.encode(job) for job in result)
    (FOLDER / "shop" / "past.json").write_bytes(b"[\n" + lines + b"\n]\n")
    print(
        f"{len(result)} jobs, {sum(len(job.log) for job in result)} entries, {len(lines) / 1000.0:.0f} kB"
    )


if __name__ == "__main__":
    SHOP = stored_shop(demo_bench(datetime.now().astimezone()))
    main()
