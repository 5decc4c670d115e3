"""The bench: every action on the wheels in work that goes into the log, on top of `sheets`.

Qt-free. An entry is appended, never changed; what a stage takes from the shelf is booked with it.
"""

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

from .jobs import WheelState
from .sheet import get
from .sheets import Sheets

MOST_UNDO = 500
#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


class Bench(Sheets):
    """The wheels on the bench, the one selected, and every action on them."""

    # -- the log -----------------------------------------------------------------------------

    def record(self, entry: AnyEntry) -> None:
        """Append an entry to the selected wheel's log, and book what the stages it ends or opens again take."""
        before = self.current
        self._append(entry)
        after = self.current
        if before is not None and after is not None and before.key == after.key:
            self._book(before, after)

    def _book(self, before: WheelState, after: WheelState) -> None:
        if before.progress is None or after.progress is None or after.plan is None or after.wheel is None:
            return
        ended = after.progress.done - before.progress.done
        opened = before.progress.done - after.progress.done
        if opened:
            self.shelf.give_back(after.job, after.index, opened)
        needs = self.needs(after)
        for stage in ended:
            self.shelf.book_out([n for n in needs if n.stage == stage], after.job, after.index, stage)
        if "check_in" in ended:
            for kind in LEARNED:
                part = get(after.job.sheet.document, f"wheels[{after.index}].{kind}")
                if isinstance(part, dict):
                    self.shelf.learn(kind, part)

    def needs(self, state: WheelState) -> tuple[Need, ...]:
        """Return what a wheel takes from the shelf."""
        if state.plan is None or state.wheel is None:
            return ()
        sealant = state.ride_job.shelf.sealant if state.ride_job and state.ride_job.shelf else None
        return needs_of(state.wheel, state.plan, (sealant.name if sealant else None) or "")

    def pick_list(self, scope: str) -> tuple[PickLine, ...]:
        """Return what to take for the selected wheel, its bicycle ("job"), or everything on the bench ("bench")."""
        here = self.current
        chosen = [
            state
            for state in self.wheels
            if state.progress is not None
            and state.progress.state != "finished"
            and (
                scope == "bench"
                or (here is not None and (state.job is here.job if scope == "job" else state.key == here.key))
            )
        ]
        return pick_list(
            [(s.name, self.needs(s), s.progress.done if s.progress else frozenset()) for s in chosen],
            self.shelf.items,
        )

    def _append(self, entry: AnyEntry) -> None:
        state = self.current
        if state is None:
            return
        job = state.job
        pending = Logged(number=0, at=self._now(), wheel=state.index, entry=entry)
        job.log.append(pending)
        if self.keeper:

            def stored(logged: Logged) -> None:
                if pending in job.log:
                    job.log.remove(pending)
                if all(item.number != logged.number for item in job.log):
                    job.log.append(logged)
                job.log.sort(key=lambda item: (item.number == 0, item.number))

            self.keeper.order(
                lambda store: store.append(job.stored_id, pending.wheel, entry, pending.at), stored
            )
        self.message = ""
        self._refresh(job)

    def finish_stage(self, stage: str) -> None:
        """Record that a stage is done."""
        self.record(StepEntry(stage=stage))

    def finish_step(self) -> None:
        """Record that the step in hand is done; the last of its stage finishes the stage."""
        state = self.current
        if state is None or state.progress is None or state.progress.step is None:
            return
        progress, step = state.progress, state.progress.step
        last = progress.last_of_stage and progress.stage != "hold"  # a hold ends with what the gauge says
        if step.asks == "dose" and state.plan is not None:
            self.record(Dose(dose_ml=state.plan.sealant.dose_ml))
        self.record(StepEntry(stage=step.stage, step=step.code, completes=last))

    def end_wait(self) -> None:
        """Go on before the wait after the last step is over."""
        state = self.current
        if state is not None and state.progress is not None and state.progress.waiting_for is not None:
            step = state.progress.waiting_for
            self.record(StepEntry(stage=step.stage, step=step.code, outcome="waited"))

    def back(self) -> None:
        """Take the step done last up again, or where none was done in this stage, the stage before."""
        state = self.current
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
        state = self.current
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
        state = self.current
        if state is not None and state.progress is not None and state.progress.question is not None:
            self.record(Finding(check=state.progress.question.code, sound=sound))

    def mended(self, code: str) -> None:
        """A thing found wrong was put right and looked at again."""
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
        state = self.current
        if state is None or state.plan is None or state.progress is None:
            return
        practice = state.practice
        changed = self.changes.pop(state.key, ())
        gauge = self.gauge
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
        state = self.current
        if state is not None:
            marked = self.changes.get(state.key, ())
            self.changes[state.key] = (
                tuple(m for m in marked if m != remedy) if remedy in marked else (*marked, remedy)
            )
            self._changed()

    def read_gauge(self, kpa: float, temperature_c: float | None) -> None:
        """Record a reading of a wheel that stands."""
        self.record(Reading(pressure_kpa=kpa, temperature_c=temperature_c))

    def found_leak(self, place: LeakPlace, done: str = "") -> None:
        """Record where air was seen to come out."""
        self.record(Leak(place=place, done=done))

    def feedback(self, said: RideWord) -> None:
        """Record what a test ride said; the pressure moves by a stated step, inside minimum and limit."""
        state = self.current
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
