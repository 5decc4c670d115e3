"""The log: every action at a wheel that is recorded. An entry is appended, never changed; what a stage takes
from the shelf is booked with it, in one transaction.
"""

from typing import Any

from inner_rim.core.ids import new_id
from inner_rim.core.log import (
    AnyEntry,
    Attempt,
    Care,
    CareWord,
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
    Remedy,
    RideWord,
    SignOff,
    StepEntry,
)
from inner_rim.core.parts import PartKind
from inner_rim.core.picking import Need, PickLine, needs_of, pick_list
from inner_rim.core.pressure import moved_kpa
from inner_rim.core.sealant import calibration, pool_from_dip_ml, pool_radii_mm

from .state import WheelKey, WheelState
from .sync import Sync

#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


class Recorder:
    """Records what is done at the selected wheel.

    Args:
        bench: what it needs of the bench: the wheels, the shelf, the gauge, and who hears of a change.
        sync: the way to the store.

    Attributes:
        changes: what was changed at a wheel since its last attempt, by wheel.
    """

    def __init__(self, bench: Any, sync: Sync) -> None:
        self._bench, self._sync = bench, sync
        self.changes: dict[WheelKey, tuple[Remedy, ...]] = {}

    def record(self, *entries: AnyEntry) -> None:
        """Append entries to the selected wheel's log, with what they take from the shelf or give back."""
        before: WheelState | None = self._bench.current
        if before is None or not entries:
            return
        now = self._bench.now()
        job = before.job
        pending = [
            Logged(number=0, at=now, wheel_id=before.wheel_id, entry=entry, uid=new_id()) for entry in entries
        ]
        after = self._bench.foreseen(job, before.index, pending)
        booking = self._booking(before, after, pending[0].uid)
        self._sync.append(job, pending, booking, lambda: self._recorded(job, booking))
        self._bench.message = ""
        self._bench.refresh(job)

    def _recorded(self, job: Any, booking: Any) -> None:
        self._bench.shelf.booked(booking)
        self._bench.refresh(job)

    def _booking(self, before: WheelState, after: WheelState, uid: str) -> Any:
        """What the stages that these entries end or open again take from the shelf."""
        if before.progress is None or after.progress is None or after.plan is None or after.wheel is None:
            return self._bench.shelf.booking(uid, after.key, (), (), ())
        ended = after.progress.done - before.progress.done
        opened = before.progress.done - after.progress.done
        needs = [need for need in self.needs(after) if need.stage in ended]
        learned: list[tuple[PartKind, dict[str, Any]]] = []
        if "check_in" in ended:
            parts = ((kind, after.value(kind)) for kind in LEARNED)
            learned = [(kind, part) for kind, part in parts if isinstance(part, dict)]
        return self._bench.shelf.booking(uid, after.key, needs, tuple(sorted(opened)), learned)

    def needs(self, state: WheelState) -> tuple[Need, ...]:
        """Return what a wheel takes from the shelf."""
        if state.plan is None or state.wheel is None:
            return ()
        sealant = state.ride_job.shelf.sealant if state.ride_job and state.ride_job.shelf else None
        return needs_of(state.wheel, state.plan, (sealant.name if sealant else None) or "")

    def pick_list(self, scope: str) -> tuple[PickLine, ...]:
        """Return what to take for the selected wheel, its bicycle ("job"), or everything on the bench ("bench")."""
        here = self._bench.current
        chosen = [
            state
            for state in self._bench.wheels
            if state.progress is not None
            and state.progress.state != "finished"
            and (
                scope == "bench"
                or (here is not None and (state.job is here.job if scope == "job" else state.key == here.key))
            )
        ]
        return pick_list(
            [(s.name, self.needs(s), s.progress.done if s.progress else frozenset()) for s in chosen],
            self._bench.shelf.items,
        )

    def finish_stage(self, stage: str) -> None:
        """Record that a stage is done."""
        self.record(StepEntry(stage=stage))

    def finish_step(self) -> None:
        """Record that the step in hand is done; the last of its stage finishes the stage."""
        state: WheelState | None = self._bench.current
        if state is None or state.progress is None or state.progress.step is None:
            return
        progress, step = state.progress, state.progress.step
        last = progress.last_of_stage and progress.stage != "hold"  # a hold ends with what the gauge says
        done = StepEntry(stage=step.stage, step=step.code, completes=last)
        if step.asks == "dose" and state.plan is not None:
            self.record(Dose(dose_ml=state.plan.sealant.dose_ml), done)
        else:
            self.record(done)

    def end_wait(self) -> None:
        """Go on before the wait after the last step is over."""
        state: WheelState | None = self._bench.current
        if state is not None and state.progress is not None and state.progress.waiting_for is not None:
            step = state.progress.waiting_for
            self.record(StepEntry(stage=step.stage, step=step.code, outcome="waited"))

    def back(self) -> None:
        """Take the step done last up again, or where none was done in this stage, the stage before."""
        state: WheelState | None = self._bench.current
        if state is None or state.progress is None:
            return
        progress = state.progress
        if progress.last_step and progress.state != "finished":
            self.record(StepEntry(stage=progress.stage, step=progress.last_step, outcome="reopened"))
            return
        has_insert = state.wheel is not None and state.wheel.insert is not None
        done = [s for s in progress.stages if s in progress.done and (s != "insert" or has_insert)]
        if done:
            self.reopen_stage(done[-1])

    def dip(self, depth_mm: float) -> None:
        """Record a dipstick reading; right after dosing it calibrates the dipstick for this tire.

        Raises:
            ValueError: a depth that cannot be.
        """
        state: WheelState | None = self._bench.current
        if state is None or state.plan is None or state.progress is None or state.wheel is None:
            return
        plan, progress = state.plan, state.progress
        fresh = progress.step is not None and progress.step.asks == "dip"
        factor = calibration(depth_mm, plan.sealant.dip_mm) if fresh else progress.dip_factor
        radii = pool_radii_mm(plan.tire, state.wheel.rim.bead_seat_diameter_mm)
        free = pool_from_dip_ml(depth_mm, *radii, factor)
        self.record(Dip(depth_mm=depth_mm, free_ml=free, calibrates=fresh, factor=factor))

    def fail_stage(self, stage: str, text: str = "") -> None:
        """Record that a stage failed."""
        self.record(StepEntry(stage=stage, outcome="failed", text=text))

    def answer(self, sound: bool) -> None:
        """Answer the question of the inspection that is asked now."""
        state: WheelState | None = self._bench.current
        if state is not None and state.progress is not None and state.progress.question is not None:
            self.record(Finding(check=state.progress.question.code, sound=sound))

    def fixed(self, code: str) -> None:
        """A thing found wrong was fixed and rechecked."""
        self.record(Finding(check=code, sound=True))

    def reopen_stage(self, stage: str) -> None:
        """Take a stage up again, and with it all that stands on it."""
        self.record(StepEntry(stage=stage, outcome="reopened"))

    def attempt(
        self,
        outcome: Outcome,
        peak_kpa: float,
        low_left: tuple[int, ...] = (),
        low_right: tuple[int, ...] = (),
    ) -> None:
        """Record a try at seating at the present step."""
        state: WheelState | None = self._bench.current
        if state is None or state.plan is None or state.progress is None:
            return
        practice = state.practice
        changed = self.changes.pop(state.key, ())
        gauge = self._bench.gauge
        live = gauge.begun
        self.record(
            Attempt(
                peak_kpa=max(peak_kpa, gauge.peak_kpa) if live else peak_kpa,
                outcome=outcome,
                limit_kpa=state.plan.pressure.limit_kpa,
                target_kpa=state.progress.step_kpa,
                low_left=low_left,
                low_right=low_right,
                source=practice.air_source or "",
                core_out=True if "core_out" in changed else practice.core_out,
                lubricant="soap" if "wet" in changed else practice.lubricant or "",
                pops=gauge.pops() if live else (),
                changed=changed,
                trace=gauge.thinned() if live else (),
            )
        )
        gauge.start_afresh()

    def change(self, remedy: Remedy) -> None:
        """Mark something as changed before the next attempt, or take the mark back."""
        state: WheelState | None = self._bench.current
        if state is not None:
            marked = self.changes.get(state.key, ())
            self.changes[state.key] = (
                tuple(m for m in marked if m != remedy) if remedy in marked else (*marked, remedy)
            )
            self._bench.changed()

    def read_gauge(self, kpa: float, temperature_c: float | None) -> None:
        """Record a reading of a wheel that stands."""
        self.record(Reading(pressure_kpa=kpa, temperature_c=temperature_c))

    def found_leak(self, place: LeakPlace, done: str = "") -> None:
        """Record where air was seen to come out."""
        self.record(Leak(place=place, done=done))

    def feedback(self, said: RideWord) -> None:
        """Record what a test ride said; the pressure moves by a stated step, inside minimum and limit."""
        state: WheelState | None = self._bench.current
        if state is None or state.plan is None or state.progress is None:
            return
        pressure = state.plan.pressure
        now = state.progress.feedback_kpa or state.progress.handed_over_kpa or pressure.start_kpa
        practice = state.practice
        self.record(
            Feedback(
                said=said,
                pressure_kpa=now,
                next_kpa=moved_kpa(now, said, pressure, practice.gauge_step_kpa or 1.0),
            )
        )

    def care(self, what: CareWord, text: str = "") -> None:
        """Record that something was looked after."""
        self.record(Care(what=what, text=text))

    def inspect_after_over_limit(self) -> None:
        """Record that the wheel was looked over after it saw more than its limit."""
        self.record(Inspection(after_over_limit=True))

    def hand_over(self, by: str, pressure_kpa: float) -> None:
        """Record the signature and the pressure handed over."""
        self.record(SignOff(by=by, pressure_kpa=pressure_kpa))

    def override(self, code: str, by: str, reason: str) -> None:
        """Pass a stop that may be passed, by name and with a reason."""
        self.record(Override(code=code, by=by, reason=reason))

    def note(self, text: str) -> None:
        """Write something down."""
        self.record(Note(text=text))
