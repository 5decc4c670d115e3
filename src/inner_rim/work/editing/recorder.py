"""The log: every action at a wheel that is recorded. An entry is appended, never changed; what a
stage takes from the shelf is booked with it, in one transaction.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

import msgspec

from inner_rim.core.models.air import at_ride_kpa
from inner_rim.core.models.pressure import moved_kpa
from inner_rim.core.models.sealant import calibration, dip_band_ml, pool_from_dip_ml, pool_radii_mm
from inner_rim.core.models.tire import dip_mm
from inner_rim.core.plan.aftercare import sealant_left_ml
from inner_rim.core.plan.wheel_plan import dose_due_ml, named_ways, pooled_ml
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.log import (
    LAYER,
    AnyEntry,
    Attempt,
    Care,
    CareWord,
    Changed,
    Dip,
    Dose,
    Feedback,
    Finding,
    Inspection,
    Leak,
    LeakPlace,
    Logged,
    Note,
    Outcome,
    Override,
    Reading,
    RideWord,
    SignOff,
    StepEntry,
    TakenBack,
    Weight,
)
from inner_rim.core.record.moments import moment
from inner_rim.core.record.paths import new_id
from inner_rim.core.record.spoken import Stage
from inner_rim.words import tr
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.history import Recorded
from inner_rim.work.editing.shelf import taken
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, wheel_state
from inner_rim.work.editing.sync import Sync

if TYPE_CHECKING:
    from inner_rim.core.plan.picking import Booking
    from inner_rim.core.procedure.actions import Action
    from inner_rim.work.editing.state import JobState


class Recorder:
    """Records what is done at the selected wheel.

    Args:
        bench: what it needs of the bench: the wheels, the shelf, the gauge, and who is told of a
            change.
    """

    def __init__(self, bench: BenchPort, sync: Sync) -> None:
        self._bench, self._sync = bench, sync

    @property
    def _wheel(self) -> PlannedWheel:
        """The selected wheel: what is recorded of it needs its plan."""
        state = self._bench.planned
        if state is None:
            raise LookupError("no wheel with a plan is selected")
        return state

    def record(self, *entries: AnyEntry) -> None:
        """Append entries to the selected wheel's log, with what they take from the shelf or give
        back.
        """
        before = self._bench.current
        if before is None or not entries:
            return
        try:
            for entry in entries:
                # what the store would refuse is not shown as logged
                msgspec.convert(msgspec.to_builtins(entry), AnyEntry)
        except msgspec.ValidationError as fault:
            self._bench.say(tr("This cannot be logged: {why}").format(why=fault))
            return
        now, wheel_id = self._bench.now(), before.wheel_id
        pending = tuple(
            Logged(number=0, at=now, wheel_id=wheel_id, entry=entry, uid=new_id())
            for entry in entries
        )
        self._sync.history.push(Recorded(before.job.job_id, wheel_id, pending))
        self.append(before, pending)

    def append(self, before: BenchWheel, pending: Sequence[Logged]) -> None:
        """Append entries of a wheel as they are, with what they take from the shelf or give back."""
        job = self._sync.job(before.job.job_id)
        job.log = (*job.log, *pending)
        after = wheel_state(job, before.index, self._bench.shop)
        booking = self._bench.shelf.booking(pending[0].uid, after.key, taken(before, after))
        self._sync.append(job, pending, booking, lambda: self._recorded(job, booking))
        self._bench.message = ""
        self._bench.refresh(job)

    def _recorded(self, job: JobState, booking: Booking) -> None:
        self._bench.shelf.booked(booking)
        self._bench.refresh(job)

    def finish_stage(self, stage: Stage) -> None:
        """Record that a stage is done; the sealant of its steps went in as planned."""
        plan = self._wheel.plan
        doses = [step for step in plan.steps if step.stage == stage and step.asks == "dose"]
        due = dose_due_ml(plan)
        self.record(*(self._dose(due) for _ in doses if due is not None), StepEntry(stage=stage))

    def _dose(self, ml: float, name: str | None = None) -> Dose:
        """What went in, by default of the shop's sealant."""
        return Dose(dose_ml=ml, name=self._wheel.sealant_name if name is None else name)

    def weigh(self, mass_g: float, when: Literal["before", "after"]) -> None:
        self.record(Weight(mass_g=mass_g, when=when))

    def again(self, stage: Stage, step: str = "") -> None:
        """Repeat a stage and what follows it, as the wheel is now; stock is used again.

        Args:
            step: `layer` for one more layer of tape over the good one.
        """
        self.record(StepEntry(stage=stage, outcome="again", step=step))

    def finish_step(
        self, dose_ml: float | None = None, sealant: str | None = None, key: str = ""
    ) -> None:
        """Record that the step in hand is done, or one of those that are done together.

        Args:
            dose_ml: sealant that went in, where the step asks for it; None for what was planned.
            key: of the step, empty for the first.
        """
        progress = self._wheel.progress
        step = next((one for one in progress.together if one.key == key), progress.step)
        if step is not None:
            self._finish((step,), dose_ml, sealant)

    def finish_steps(self, dose_ml: float | None = None, sealant: str | None = None) -> None:
        """Record that the plain steps are done, up to the next question, try, wait, or amount."""
        self._finish(self._wheel.progress.together, dose_ml, sealant)

    def _finish(self, steps: Sequence[Action], dose_ml: float | None, sealant: str | None) -> None:
        entries: list[AnyEntry] = []
        amount = dose_due_ml(self._wheel.plan) if dose_ml is None else dose_ml
        for step in steps:
            if step.asks == "dose" and amount is not None:
                entries.append(self._dose(amount, sealant))
            entries.append(StepEntry(stage=step.stage, step=step.key))
        self.record(*entries)

    def end_wait(self) -> None:
        """Go on before the wait after the last step is over."""
        step = self._wheel.progress.waiting.after
        if step is not None:
            self.record(StepEntry(stage=step.stage, step=step.key, outcome="waited"))

    def back(self) -> None:
        """Reopen the last step, or the stage before where none was done in this one."""
        progress = self._wheel.progress
        last = progress.last_step
        if progress.state == "finished":
            self.reopen_stage("set")
        elif last is not None:
            self.record(StepEntry(stage=last.stage, step=last.key, outcome="reopened"))

    def dip(self, depth_mm: float) -> None:
        """Record a dipstick reading; right after dosing it calibrates the dipstick for this tire.

        Raises:
            ValueError: a depth that cannot be.
        """
        plan, log = self._wheel.plan, self._wheel.plan.log
        fresh = log.state.core == "out" and log.dosed_ml > 0.0  # the dose has just gone in
        radii = pool_radii_mm(plan.tire, self._wheel.wheel.rim.bead_seat_diameter_mm)
        factor = calibration(depth_mm, dip_mm(pooled_ml(plan), *radii)) if fresh else log.dip_factor
        free = pool_from_dip_ml(depth_mm, *radii, factor)
        least, most = dip_band_ml(depth_mm, *radii, factor)
        self.record(
            Dip(
                depth_mm=depth_mm,
                free_ml=free,
                calibrates=fresh,
                least_ml=least,
                most_ml=most,
                factor=factor,
            )
        )

    def lost_air(self) -> None:
        self.record(StepEntry(stage="hold", outcome="failed"))

    def ride_it(self, stage: Stage = "hold") -> None:
        """End the leak test with a ride in place of a reading."""
        self.record(StepEntry(stage=stage, outcome="ridden"))

    def answer(self, sound: bool) -> None:
        question = self._wheel.progress.question
        if question is not None:
            self.record(Finding(check=question.code, sound=sound))

    def fixed(self, code: str) -> None:
        self.record(Finding(check=code, sound=True))

    def reopen_stage(self, stage: Stage) -> None:
        self.record(StepEntry(stage=stage, outcome="reopened"))

    def attempt(
        self,
        outcome: Outcome,
        peak_kpa: float,
        low_left: tuple[int, ...] = (),
        low_right: tuple[int, ...] = (),
    ) -> None:
        """Record a try at seating at the current pressure step."""
        state = self._wheel
        methods, log = state.plan.methods, state.plan.log
        changed = tuple(sorted(log.state.changed))
        gauge = self._bench.gauge
        live = gauge.begun
        self.record(
            Attempt(
                peak_kpa=max(peak_kpa, gauge.peak_kpa) if live else peak_kpa,
                outcome=outcome,
                limit_kpa=state.plan.pressure.limit_kpa,
                target_kpa=state.progress.seating.step_kpa,
                low_left=low_left,
                low_right=low_right,
                source=methods.air_source,
                core_out=log.state.core == "out",
                lubricant="soap"
                if "wet" in changed and methods.lubricant == "none"
                else methods.lubricant,
                pops=gauge.pops() if live else (),
                changed=changed,
                trace=gauge.thin.points() if live else (),
                tube=log.state.tube == "in",
            )
        )
        gauge.start_afresh()

    def change(self, remedy: Remedy) -> None:
        """Record what is to be changed before the next attempt, or that it is not; one more layer
        is work of its own.
        """
        state = self._wheel
        if remedy == LAYER:
            self.again("tape", LAYER)
        elif remedy in state.plan.log.state.wanted | state.plan.log.state.changed:
            marks = [
                one
                for one in state.log
                if isinstance(one.entry, Changed) and one.entry.remedy == remedy
            ]
            self.record(TakenBack(of=marks[-1].uid))
        else:
            self.record(Changed(remedy=remedy))

    def read_gauge(self, kpa: float, temperature_c: float | None) -> None:
        self.record(Reading(pressure_kpa=kpa, temperature_c=temperature_c))

    def found_leak(self, place: LeakPlace, side: Literal["left", "right"] | None = None) -> None:
        self.record(Leak(place=place, side=side))

    def feedback(self, said: RideWord) -> None:
        """Record what a test ride said; the pressure moves by a stated step, inside minimum and
        limit.
        """
        pressure, now = self._wheel.plan.pressure, self._wheel.worked_kpa
        self.record(
            Feedback(
                said=said,
                pressure_kpa=now,
                next_kpa=moved_kpa(now, said, pressure, pressure.gauge_step_kpa),
            )
        )

    def care(self, what: CareWord, text: str = "") -> None:
        self.record(Care(what=what, text=text))

    def top_up(self, added_ml: float, name: str) -> None:
        """Record sealant that was added: during the leak test, or to one that was handed over long
        ago.
        """
        state = self._wheel
        if state.plan.log.signed is None:
            self.record(Dose(dose_ml=added_ml, name=name))
            return
        left = sealant_left_ml(state.wheel, state.plan, moment(self._bench.now()))
        self.record(Care(what="refilled", dose_ml=added_ml, name=name, left_ml=round(left, 1)))

    def inspect_after_over_limit(self) -> None:
        self.record(Inspection(after_over_limit=True))

    def hand_over(self, by: str, pressure_kpa: float) -> None:
        plan = self._wheel.plan
        on_the_ride = round(at_ride_kpa(pressure_kpa, plan.rider, plan.methods), 1)
        ways = named_ways(plan)
        self.record(SignOff(by=by, pressure_kpa=pressure_kpa, ride_kpa=on_the_ride, methods=ways))

    def override(self, code: str, by: str, reason: str) -> None:
        """Pass a stop that may be passed, by name and with a reason."""
        self.record(Override(code=code, by=by, reason=reason))

    def note(self, text: str) -> None:
        self.record(Note(text=text))
