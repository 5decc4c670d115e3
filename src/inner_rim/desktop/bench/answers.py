"""What the answers of the now panel do to the selected wheel."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal

from PyQt6.QtCore import Qt

from inner_rim.core.progress.diagnosis import PATH, asked
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import MAX_WHEELS
from inner_rim.core.record.log import Outcome
from inner_rim.core.record.numbers import whole
from inner_rim.core.record.units import parse, show
from inner_rim.desktop.bench.now_panel import not_understood
from inner_rim.desktop.widgets.entry import Entry
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.next_action import LowPick, Now, fleet_of, guide_of, papers_of
from inner_rim.work.text.papers import WAYS
from inner_rim.work.text.wheel_words import end_words, facts_of

if TYPE_CHECKING:
    from inner_rim.desktop.bench.page import BenchPage

#: Sectors of a side, counted from the valve.
SECTORS = range(1, 9)


#: Deepest pool a log entry accepts.
MOST_DIP_MM = 200.0
#: What a dose and a whole wheel may weigh in the log.
MOST_DOSE_ML, LEAST_G, MOST_G = 2000.0, 100.0, 30000.0


class Answers:
    """Carries out the commands of one bench page.

    Attributes:
        low: sectors being marked as low, None while nothing is marked.
        fault: what was wrong with the last answer, in words.
        fleet: how many wheels alike is being asked.
        papers: which paper to write is being asked.
        guide: where in the guide for trouble the hand is, empty outside it.
    """

    def __init__(self, page: BenchPage, bench: Bench) -> None:
        self._page, self._bench = page, bench
        self.low: LowPick | None = None
        self.fault = ""
        self.fleet = False
        self.papers = False
        self.guide = ""

    def asked(self, state: WheelState | None) -> Now | None:
        """What the panel asks besides the wheel's next step: a fleet, a paper, a question of the guide."""
        if state is None:
            return None
        if self.papers:
            return papers_of(state)
        if self.guide:
            return guide_of(self.guide, facts_of(state, self._bench.shelf.items))
        return fleet_of(state) if self.fleet else None

    def start_afresh(self) -> None:
        """Another wheel or stage: nothing is being marked, nothing is wrong."""
        self.low, self.fault, self.fleet, self.papers, self.guide = None, "", False, False, ""
        self._page.now.reason.clear()  # a reason belongs to the wheel it was typed for

    def obey(self, command: str) -> bool:
        """Carry out a command; return whether there is such a one."""
        action = getattr(self, f"_do_{command}", None)
        if action is None:
            return False
        self.fault = ""
        action()
        return True

    def take(self, command: str, value: str) -> None:
        """Do what a line of the choices stands for: where it leaks, what the ride said, what was looked after."""
        action: dict[str, Callable[[Any], None]] = {
            "leak": self._bench.recorder.found_leak,
            "ride": self._bench.recorder.feedback,
            "care": self._bench.recorder.care,
        }
        action[command](value)

    def mark_sector(self, number: int) -> bool:
        """A digit key: choose a paper, or turn a sector over while marking; return whether it was."""
        if self.papers:
            ways = list(WAYS)
            if 1 <= number <= len(ways):
                self._paper(ways[number - 1])
            return True
        if self.low is None:
            return False
        if number in SECTORS:
            self.hit_sector(self.low.side, number)
        else:
            self._complain(tr("The sectors are 1 to 8, counted from the valve."))
        return True

    def stop_marking(self) -> bool:
        """Leave marking, or asking for a number; return whether it was on."""
        if self.low is None and not (self.fleet or self.papers or self.guide):
            return False
        self.low, self.fleet, self.papers, self.guide = None, False, False, ""
        self._page.refresh()
        return True

    def _do_leave(self) -> None:
        self._page.leave()

    def _do_new_wheel(self) -> None:
        self._bench.editor.new_wheel()
        self._page.close_why()
        self._page.show_view("section")
        self._page.inputs.show_group(0)
        self._page.inputs.focus_first()

    def _do_first_field(self) -> None:
        self._page.close_why()
        self._page.inputs.focus_first()

    def _do_go_to_missing(self) -> None:
        state = self._bench.current
        if state is not None:
            paths = (*state.reading.missing, *state.reading.problems)
            if paths:
                self._page.go_to(paths[0].partition("].")[2] if paths[0].startswith("wheels[") else paths[0])

    def _do_go_to_stop(self) -> None:
        state = self._bench.current
        if state is not None and state.progress is not None and state.progress.open_stops:
            self._page.go_to(state.progress.open_stops[0].field or "tire.size")

    def _do_finish(self) -> None:
        state = self._bench.current
        if state is None or state.progress is None:
            return
        if not state.current:
            self._complain(tr("Correct the marked field first."))
        elif self._weighed("before" if state.progress.stage == "check_in" else ""):
            self._bench.recorder.finish_stage(state.progress.stage)
            self._page.now.focus_main()

    def _do_step_done(self) -> None:
        state = self._bench.current
        if state is None or state.progress is None or state.progress.step is None:
            return
        asks = state.progress.step.asks
        if asks == "dip" and not self._take_dip():
            return
        dose = self._dose_typed() if asks == "dose" else None
        if asks != "dose" or dose is not None:
            self._bench.recorder.finish_step(dose)
            self._page.now.focus_main()

    def _dose_typed(self) -> float | None:
        """Return what went in, in ml; None, and a sentence, where it is no amount."""
        complaint = tr("“{typed}” cannot be a dose; type how much went in, such as 60")
        return self._figure(self._page.now.figure, "ml", (0.1, MOST_DOSE_ML), complaint)

    def _weighed(self, when: Literal["before", "after", ""]) -> bool:
        """Log the weight where one is typed; return whether what was typed is one, or nothing."""
        entry = self._page.now.reason
        if not when or not entry.text().strip():
            return True
        complaint = tr("“{typed}” cannot be a wheel's weight; type it in grams, or leave it empty")
        mass = self._figure(entry, "g", (LEAST_G, MOST_G), complaint)
        if mass is None:
            return False
        entry.clear()
        self._bench.recorder.weigh(mass, when)
        return True

    def _figure(self, entry: Entry, kind: str, bounds: tuple[float, float], complaint: str) -> float | None:
        """Return the figure in an entry, in canonical units; None, and the sentence, where it cannot be one."""
        text = entry.text().strip()
        try:
            value = parse(text, kind, self._bench.units)
        except InputError:
            value = float("nan")
        if bounds[0] <= value <= bounds[1]:
            return value
        self._complain(complaint.format(typed=text[:20]))
        entry.setFocus()
        return None

    def _do_tape_again(self) -> None:
        self._bench.recorder.again("tape")
        self._page.now.focus_main()

    def _take_dip(self) -> bool:
        """Take the depth that was typed; nothing typed is no dip. Return whether the step may go on."""
        entry = self._page.now.figure
        if not entry.text().strip():
            return True
        complaint = tr("“{typed}” cannot be this pool's depth; type the depth in mm, or leave it empty")
        depth = self._figure(entry, "mm", (0.0, MOST_DIP_MM), complaint)
        if depth is None:
            return False
        try:
            self._bench.recorder.dip(depth)
        except ValueError:  # it cannot calibrate this tire
            self._complain(complaint.format(typed=entry.text()[:20]))
            entry.setFocus()
            return False
        return True

    def _do_log_dip(self) -> None:
        """Log a dipstick reading of a wheel that is out: it moves the date of its sealant."""
        if not self._page.now.figure.text().strip():
            self._page.now.figure.setFocus()
        elif self._take_dip():
            self._page.now.set_figure("")
            self._page.now.focus_main()

    def _do_stage_done(self) -> None:
        state = self._bench.current
        if state is None or state.progress is None:
            return
        if state.progress.open_questions:
            self._complain(tr("A question of this stage is not answered yet: step by step, please."))
        else:
            self._do_finish()

    def _do_go_on(self) -> None:
        self._bench.recorder.end_wait()
        self._page.now.focus_main()

    def _do_back(self) -> None:
        self._bench.recorder.back()
        self._page.now.focus_main()

    def _do_read_gauge(self) -> None:
        """Log a reading of the wheel that stands, with the air's temperature where one is typed."""
        kpa = self._pressure_typed()
        if kpa is None:
            return
        text = self._page.now.reason.text().strip()
        temperature = None
        if text:
            try:
                temperature = parse(text, "c", self._bench.units)
            except InputError:
                temperature = 1e9
            if not -40.0 <= temperature <= 60.0:
                self._complain(tr("Type the air's temperature, such as 18 or 64 f, or leave it empty"))
                self._page.now.reason.setFocus()
                return
        self._bench.recorder.read_gauge(kpa, temperature)
        self._page.now.focus_main()

    def _do_trouble(self) -> None:
        """Begin the guide for trouble, at the bench or at the roadside."""
        self.guide = "start"
        self._page.refresh()

    def _do_guide_yes(self) -> None:
        self._guide_on(PATH[self.guide].yes)

    def _do_guide_no(self) -> None:
        self._guide_on(PATH[self.guide].no)

    def _guide_on(self, code: str) -> None:
        state = self._bench.current
        self.guide = asked(code, facts_of(state, self._bench.shelf.items)) if state is not None else code
        self._page.refresh()
        self._page.now.focus_main()

    def _do_guide_log(self) -> None:
        """Write down where the guide has led, and leave it."""
        state = self._bench.current
        if state is not None:
            words = end_words(self.guide, facts_of(state, self._bench.shelf.items))
            self._bench.recorder.note(tr("Diagnosis: {words}").format(words=words))
        self.guide = ""
        self._page.refresh()

    def _do_papers(self) -> None:
        self.papers = True
        self._page.refresh()

    def _paper(self, way: str) -> None:
        self.papers = False
        self._page.refresh()
        self._page.paper_wanted.emit(way)

    def _do_paper_card(self) -> None:
        self._paper("card")

    def _do_paper_sheet(self) -> None:
        self._paper("sheet")

    def _do_paper_calendar(self) -> None:
        self._paper("calendar")

    def _do_paper_job(self) -> None:
        self._paper("job")

    def _do_paper_log(self) -> None:
        self._paper("log")

    def _do_show_care(self) -> None:
        self._page.show_view("choices")
        self._page.look_at("set")

    def _do_show_leaks(self) -> None:
        self._page.look_at("hold")
        self._page.show_view("choices")

    def _do_did_not(self) -> None:
        state = self._bench.current
        if state is None or state.progress is None:
            return
        if state.progress.stage == "hold":
            self._bench.recorder.fail_stage("hold")
        else:
            self._attempt("not_up")

    def _do_both_up(self) -> None:
        self._attempt("both_up")

    def _do_one_low(self) -> None:
        if self.low is not None:
            self._do_side_left()
            return
        self.low = LowPick("left")
        self._page.show_view("wheel")
        self._page.now.focus_main()
        self._page.refresh()

    def _do_side_left(self) -> None:
        self._on_side("left")

    def _do_side_right(self) -> None:
        self._on_side("right")

    def _on_side(self, side: str) -> None:
        if self.low is not None:
            self.low = LowPick(side, self.low.left, self.low.right)
            self._page.refresh()

    def _do_log_low(self) -> None:
        if self.low is None:
            return
        if not self.low.left and not self.low.right:
            self._complain(tr("Mark at least one sector, or cancel."))
            return
        left, right = tuple(sorted(self.low.left)), tuple(sorted(self.low.right))
        if self._attempt("one_low", left, right):
            self.low = None
            self._page.refresh()

    def _do_answer_yes(self) -> None:
        self._bench.recorder.answer(True)
        self._page.now.focus_main()

    def _do_answer_no(self) -> None:
        self._bench.recorder.answer(False)
        self._page.now.focus_main()

    def _do_mended(self) -> None:
        state = self._bench.current
        if state is not None and state.progress is not None and state.progress.open_stops:
            self._bench.recorder.fixed(state.progress.open_stops[0].code)
            self._page.now.focus_main()

    def _do_same_again(self) -> None:
        self._bench.editor.duplicate()

    def _do_fleet(self) -> None:
        """Ask how many wheels alike."""
        self.fleet = True
        self._page.refresh()
        self._page.now.figure.setText("")
        self._page.now.figure.setFocus(Qt.FocusReason.TabFocusReason)

    def _do_make_fleet(self) -> None:
        text = self._page.now.figure.text().strip()
        count = whole(text, 1, MAX_WHEELS)
        if count is None:
            self._complain(tr("How many alike? A whole number from 1 to {most}").format(most=MAX_WHEELS))
            return
        self.fleet = False
        self._bench.editor.duplicate(count)
        self._page.now.focus_main()

    def _do_override(self) -> None:
        state = self._bench.current
        by, reason = self._page.now.signature.text().strip(), self._page.now.reason.text().strip()
        if state is None or state.progress is None or not state.progress.open_stops:
            return
        if not by or not reason:
            self._complain(tr("A stop is passed only with a reason and a name."))
            (self._page.now.signature if reason else self._page.now.reason).setFocus()
            return
        self._page.now.reason.clear()
        self._bench.recorder.override(state.progress.open_stops[0].code, by, reason)
        self._page.now.focus_main()

    def _do_looked_over(self) -> None:
        self._bench.recorder.inspect_after_over_limit()

    def _do_hold_again(self) -> None:
        self._bench.recorder.reopen_stage("hold")

    def _do_new_visit(self) -> None:
        self._bench.visits.begin()
        self._page.now.focus_main()

    def _do_put_away(self) -> None:
        self._bench.archive()

    def _do_entered(self) -> None:
        if self.fleet:
            self._do_make_fleet()
        else:
            self._page.now.focus_main()

    def _do_reached(self) -> None:
        if self.low is not None:
            self._do_side_right()
        elif self._page.now.figure.isVisible():
            self._page.now.figure.setFocus(Qt.FocusReason.TabFocusReason)

    def _do_hand_over(self) -> None:
        by = self._page.now.signature.text().strip()
        kpa = self._pressure_typed()
        state = self._bench.current
        if kpa is None or state is None or state.plan is None:
            return
        limit = state.plan.pressure.limit_kpa
        if kpa > limit:
            self._complain(
                tr("{typed} is above the limit of {limit}: let air out, then hand over.").format(
                    typed=show(kpa, "kpa", self._bench.units), limit=show(limit, "kpa", self._bench.units)
                )
            )
        elif not by:
            self._complain(tr("Who signs? Type your name."))
            self._page.now.signature.setFocus()
        elif not state.current:
            self._complain(tr("Correct the marked field first."))
        elif self._weighed("after"):
            self._bench.settings.set_own(signed_by=by)
            self._bench.recorder.hand_over(by, kpa)
            self._page.now.focus_main()

    def _attempt(self, outcome: Outcome, left: tuple[int, ...] = (), right: tuple[int, ...] = ()) -> bool:
        kpa = self._pressure_typed()
        if kpa is None:
            return False
        self._bench.recorder.attempt(outcome, kpa, left, right)
        self._page.now.focus_main()
        return True

    def _pressure_typed(self) -> float | None:
        try:
            kpa = parse(self._page.now.figure.text(), "kpa", self._bench.units)
        except InputError:
            kpa = -1.0
        if 0.0 <= kpa <= 5000.0:
            return kpa
        self._complain(not_understood())
        self._page.now.figure.setFocus()
        return None

    def _complain(self, sentence: str) -> None:
        self.fault = sentence
        self._page.refresh()

    def hit_sector(self, side: str, sector: int) -> None:
        """A sector was hit: turn it over, where a bead may be marked low now."""
        state = self._bench.current
        if self.low is None:
            if state is None or state.progress is None or not self._page.offers("one_low"):
                return
            self.low = LowPick(side)
        self.low = self.low.toggled(side, sector)
        self._page.refresh()
