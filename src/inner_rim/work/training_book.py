"""The training page's content: scenarios, an apprentice's results, the last debrief."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from inner_rim.core.record.errors import InputError
from inner_rim.core.training.debrief import Debrief, Result, practice_next, result_of, skills
from inner_rim.core.training.play import Play
from inner_rim.core.training.scenario import FACTS, LOOKS, Scenario, generated
from inner_rim.words import N_, tr
from inner_rim.work.storage.files import write_saying
from inner_rim.work.tasks.scenarios import (
    RESULTS_FILE,
    debrief_of,
    keep_result,
    own,
    quoted,
    read_results,
    results_csv,
    shipped,
)
from inner_rim.work.text.lines import ListLine, head
from inner_rim.work.text.plots import Plot

#: The share of caught faults from which a kind of fault counts as mastered.
KNOWN = 0.75


class TrainingBook:
    """What the training page shows.

    Args:
        folder: where results and the shop's own scenarios are; None keeps results in memory.
        say: shows a sentence.
    """

    def __init__(self, folder: Path | None, say: Callable[[str], None]) -> None:
        self._folder, self._say = folder, say
        self.who = ""
        self.said: Debrief | None = None
        self._title = ""
        self._results: list[Result] = []
        if folder is not None:
            self._read(folder)

    def _read(self, folder: Path) -> None:
        """Read the results, those of other windows too."""
        results, unreadable = read_results(folder)
        self._results = list(results)
        if unreadable:
            self._say(
                tr("{n} training results cannot be read; they are kept in {file}.").format(
                    n=unreadable, file=RESULTS_FILE
                )
            )

    def scenarios(self) -> tuple[Scenario, ...]:
        """Return the shop's own scenarios after the shipped ones; says which file cannot be used."""
        mine, bad = own(self._folder) if self._folder is not None else ([], [])
        if bad:
            self._say(bad[0])
        return (*shipped(), *mine)

    @property
    def mine(self) -> list[Result]:
        return [one for one in self._results if one.who == self.who]

    def random(self) -> Scenario:
        """Return a random wheel with what this apprentice should practice."""
        now = datetime.now(UTC)
        return generated(int(now.timestamp()) % 1_000_000, practice_next(self.mine, now)[:2])

    def finish(self, play: Play) -> None:
        self.said, self._title = debrief_of(play), play.scenario.title
        if not play.over:
            return
        result = result_of(self.who, datetime.now(UTC), self.said)
        self._results.append(result)
        if self._folder is not None:
            try:
                keep_result(self._folder, result)
                self._read(self._folder)
            except (InputError, OSError) as fault:
                self._say(str(fault))

    def write(self, path: Path) -> bool:
        """Write the results as CSV; return whether they were written."""
        return write_saying(path, lambda: results_csv(self._results), self._say)

    # -- lines -----------------------------------------------------------------------------------

    def scenario_lines(self) -> tuple[ListLine, ...]:
        done = {one.scenario for one in self.mine}
        result = []
        for grade in range(1, 6):
            some = [one for one in self.scenarios() if one.grade == grade]
            result += [head(tr(GRADES[grade]))] if some else []
            result += [
                ListLine(
                    one.title,
                    note=quoted(one.story),
                    chip=tr("done") if one.id in done else "",
                    key=one.id,
                )
                for one in some
            ]
        return tuple(result)

    def named(self, scenario_id: str) -> Scenario:
        return next(one for one in self.scenarios() if one.id == scenario_id)

    def skill_lines(self) -> tuple[ListLine, ...]:
        """How this apprentice does by kind of fault, the weakest first."""
        now = datetime.now(UTC)
        if not self.mine:
            return (head(tr("Nothing practiced yet"), tr("Type a name, choose a wheel, start.")),)
        met = [skill for skill in skills(self.mine, now) if skill.seen]
        lines = [head(tr("Caught in time"), tr("what was not met for two months counts half"))]
        for skill in met:
            words = tr("met once") if skill.seen == 1 else tr("met {n} times").format(n=skill.seen)
            chip = tr("practice") if skill.share < KNOWN else ""
            lines.append(
                ListLine(tr(FACTS[skill.fault].title), note=words, right=f"{100 * skill.share:.0f} %", chip=chip,
                         tone="caution" if chip else "calm", share=skill.share)
            )  # fmt: skip
        coming = practice_next(self.mine, now)
        if coming:
            words = ", ".join(tr(FACTS[fault].title) for fault in coming[:2])
            lines.append(head(tr("Practice next"), words))
        return tuple(lines)

    def plot(self) -> Plot:
        """Return the minutes lost against the best sequence, wheel by wheel."""
        mine = self.mine[-30:]
        title = tr("Minutes lost, wheel by wheel")
        if not mine:
            return Plot(title, tr("No wheel is finished yet."))
        most = max(5.0, *(one.lost_min for one in mine)) * 1.15
        dots = tuple((float(n), one.lost_min) for n, one in enumerate(mine, 1))
        step = next(one for one in (1, 2, 5, 10, 20, 50, 100, 1000) if one >= most / 5.0)
        return Plot(
            title,
            tr("expected minutes against the best sequence; the last: {lost:.0f}").format(
                lost=mine[-1].lost_min
            ),
            (0.5, len(mine) + 0.5),
            (0.0, most),
            tuple((float(n), str(n)) for n in range(1, len(mine) + 1, max(1, len(mine) // 6))),
            tuple((float(y), str(y)) for y in range(0, int(most) + 1, step)),
            dots,
            dots,
        )

    def debrief_lines(self) -> tuple[ListLine, ...]:
        """The last debrief: the truth, the choices against the best ones, what to take along."""
        said = self.said
        if said is None:
            return ()
        lines = [head(tr("{title}: what was wrong").format(title=self._title), tr(said.lesson))]
        lines += [
            ListLine(tr(FACTS[fault].truth), chip=tr("shown late") if fault in said.late else
                     tr("caught") if fault in said.caught else tr("not met"),
                     tone="caution" if fault in said.late else "calm")
            for fault in said.truth
        ] or [ListLine(tr("Nothing was wrong with this wheel."))]  # fmt: skip
        if said.over_limit:
            lines.append(ListLine(tr("It went above its limit."), chip=tr("stop"), tone="stop"))
        words = tr("{minutes:.0f} min, {tape:.1f} m of tape, {ml:.0f} ml of sealant")
        lines.append(
            head(
                words.format(minutes=said.minutes, tape=said.tape_mm / 1000.0, ml=said.sealant_ml),
                tr(
                    "the best sequence takes {best:.0f} min on this wheel; waiting counts a tenth"
                ).format(best=said.best_min),
            )
        )
        for number, choice in enumerate(said.timeline, 1):
            known = ", ".join(
                f"{tr(FACTS[fault].title)} {100 * odds:.0f} %"
                for fault, odds in choice.suspects[:3]
                if odds >= 0.005
            )
            lost = choice.lost_min >= 0.5
            note = " ".join(tr(text) for text in choice.told)
            if lost:
                note = (
                    tr("{told} Better: {best}. Possible then: {known}.")
                    .format(told=note, best=tr(choice.best_words), known=known or tr("nothing"))
                    .strip()
                )
            if choice.choice.kind == "skip" and LOOKS[choice.choice.name].safety:
                note, lost = tr("This look is never skipped: someone can get hurt."), True
            right = (
                tr("−{minutes:.0f} min").format(minutes=choice.lost_min)
                if choice.lost_min >= 0.5
                else ""
            )
            lines.append(
                ListLine(
                    tr(choice.words), str(number), note, right, "", "caution" if lost else "calm"
                )
            )
        if said.skipped:
            names = ", ".join(tr(LOOKS[name].title) for name in said.skipped)
            lines.append(head(tr("Looks skipped"), names))
        return tuple(lines)


GRADES = {
    1: N_("Plain wheels"),
    2: N_("One thing wrong"),
    3: N_("One thing wrong, well hidden"),
    4: N_("Two things at once"),
    5: N_("Three things at once"),
}
