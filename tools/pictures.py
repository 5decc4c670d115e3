"""Take the pictures in docs/screenshots from the demo, at 1280x800, without a display; draw the acts of the manual.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python -m tools.pictures [folder] [name ...]
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication
from tools.jobs import JOBS, job_of

from inner_rim.core.drawing.acts import draw_act
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.log import StepEntry
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import METRIC
from inner_rim.core.training.course import Rules
from inner_rim.core.training.debrief import best_play
from inner_rim.core.training.play import Solver, begin, choose
from inner_rim.desktop.app import Session
from inner_rim.desktop.drawings.act import paint_scene
from inner_rim.desktop.widgets.theme import Theme, load_font
from inner_rim.work.editing.settings import DaySettings
from inner_rim.work.logbook import topics_from
from inner_rim.work.storage.demo import demo_shelf, demo_source
from inner_rim.work.tasks.gauge import simulated_lines
from inner_rim.work.tasks.learning import all_visits

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"
Shot = Callable[[Session], None]


def wheel(session: Session, name: str) -> None:
    """Select a wheel of the demo by the beginning of its name."""
    bench = session.bench
    bench.select(next(s.key for s in bench.wheels if s.name.startswith(name)))
    session.window.turns.render()


def check_in(session: Session) -> None:
    """Check-in of a wide wheel, with the time that can be promised."""
    wheel(session, "Dune")
    while not session.bench.day.promised:
        QApplication.processEvents()


def seat(session: Session) -> None:
    """The bench page while seating."""
    wheel(session, "Sandpiper 2 · front")


def low(session: Session) -> None:
    """Marking a low sector."""
    wheel(session, "Old Curlew")
    session.window.run("one_low")
    session.window.run("mark_sector", "3")
    session.window.run("mark_sector", "4")


def why(session: Session) -> None:
    """Why this tape: the figures that decide, and what else was possible."""
    wheel(session, "Warden")
    session.window.run("show_plan")
    session.window.run("why", "2")


def stopped(session: Session) -> None:
    """A stop that cannot be passed."""
    wheel(session, "Tern")


def dark(session: Session) -> None:
    """The dark theme at 125 % text, with the fields of the stage beside the step."""
    session.window.use_theme(Theme("dark", 1.25))
    wheel(session, "Warden")
    session.window.run("first_field")


def hand_over(session: Session) -> None:
    """Handing over, and the log."""
    wheel(session, "Ferry")
    session.bench.recorder.finish_stage("hold")
    session.window.run("show_log")
    session.window.page.now.signature.setText("M. Osier")


def finish(session: Session) -> None:
    """The finish point moved around the rim."""
    wheel(session, "Sandpiper 2 · rear")
    session.bench.recorder.reopen_stage("mount")
    session.window.run("show_finish")
    session.window.page.deck.finish.turn_to(2.4)


def mount(session: Session) -> None:
    """Steps that are confirmed together, one of them pointed to, with its act."""
    wheel(session, "Sandpiper 2 · rear")
    session.bench.recorder.reopen_stage("mount")
    while len(session.bench.current.progress.together) < 3:
        assert session.window.run("answer_yes")
    codes = [step.code for step in session.bench.current.progress.together]
    session.window.run("point_at", str(codes.index("bead.first")))


def far(session: Session) -> None:
    """The far view, near the limit."""
    wheel(session, "Sandpiper 2 · front")
    session.shell.resize(1280, 800)
    session.window.run("far")
    session.shell.showNormal()
    session.shell.resize(1280, 800)
    session.window.tools.gauge.take(218.0, 0.0)


def shelf(session: Session) -> None:
    """The shelf with a part open."""
    session.window.go_to("shelf")
    page = session.window.page_of("shelf")
    page.show_kind("tape")
    page._choose(next(str(i.item_id) for i in session.bench.shelf.items if i.name == "Ebb tape 31"))
    page.refresh()


def day(session: Session) -> None:
    """The day of two mechanics as a board, with a pinned task."""
    bench = session.bench
    DaySettings(bench.settings).set("mechanics", ["M. Osier", "R. Sedge"])
    wheel(session, "Warden")
    bench.recorder.finish_stage("tape")
    bench.recorder.reopen_stage("strip")
    bench.recorder.record(StepEntry(stage="strip", step="strip.clean", completes=True))
    session.window.go_to("day")
    page = session.window.page_of("day").board
    while page.planned.looking:
        QApplication.processEvents()
    bar = next(one for one in page.view.day.bars if one.name.startswith("Dune"))
    page.view.moved.emit(bar.wheel, bar.task, bar.start + 10, bar.mechanic)
    while page.planned.looking:
        QApplication.processEvents()
    page.view.choose(next(one for one in page.view.day.bars if one.pinned))
    page.watch(False)


def practice(session: Session) -> None:
    """The shop's own practice."""
    session.window.go_to("practice")


def trace(session: Session) -> None:
    """A live trace with both pops, from the simulated wheel."""
    wheel(session, "Sandpiper 2 · front")
    page = session.window.page
    session.window.run("show_trace")
    QApplication.processEvents()
    at = 0.0
    for word in simulated_lines(session.bench.current.plan, "floor_pump", False, "none"):
        at += word.after_s
        if at > 26.0:
            break
        session.window.tools.gauge.take(float(word.data.split()[0]), at)
    trace = page.deck.trace
    trace.draw()
    trace.search.look()
    while trace.search.looking:
        QApplication.processEvents()
    trace.draw()


def advice(session: Session) -> None:
    """What to change next."""
    wheel(session, "Old Curlew")
    session.bench.recorder.attempt("no_pressure", 12.0)
    session.window.run("show_choices")


def hold(session: Session) -> None:
    """What the readings say."""
    wheel(session, "Ferry")
    bench, page = session.bench, session.window.page
    clock = [bench.time]
    bench._clock = lambda: clock[0]
    while page.now.answers[0].command != "read_gauge":
        commands = [answer.command for answer in page.now.answers]
        assert session.window.run("go_on" if "go_on" in commands else commands[0])
    for hours, kpa, air in ((0, 300.0, 19.0), (1.5, 293.0, 17.0), (2.5, 288.0, 15.0)):
        clock[0] += timedelta(hours=hours)
        bench.recorder.read_gauge(kpa, air)


def logbook(session: Session) -> None:
    """The logbook with a wheel's story."""
    session.window.go_to("logbook")
    page = session.window.page_of("logbook")
    page.search.setText("curlew")
    page.look_up()
    page.hits.choose_first()


def insights(session: Session) -> None:
    """What the log says, a mark open with its wheels."""
    session.window.go_to("insights")
    page = session.window.page_of("insights")
    with tempfile.TemporaryDirectory() as folder:
        store = demo_source(Path(folder) / "demo.sqlite", datetime.now(UTC)).open_store()
        visits = all_visits(store, session.bench.shop_methods.shop)
        store.close()
    practice = session.bench.shop_methods.shop.practice
    page.book.adopt(visits, topics_from(visits, session.bench.time, practice))


def training(session: Session) -> None:
    """The debrief of a careless play, after some wheels that went well."""
    session.window.go_to("training")
    page = session.window.page_of("training")
    page.who.setText("J Reed")
    page.book.who = "J Reed"
    for name in ("01-plain-gravel", "02-cold-morning", "05-low-spot"):
        wheel = page.book.named(name)
        page.book.finish(best_play(wheel, Solver(wheel)))
    scenario = page.book.named("07-spoke-hole")
    rules, play = Rules(scenario), begin(scenario)
    while not play.over:  # no look; a pump until it seats; handed over whatever the gauge says
        choices = rules.choices(play.course)
        pumps = play.course.phase == "seat" and not (
            play.moves and "no_pressure" in play.moves[-1].seen
        )
        play = choose(play, rules, choices[0] if pumps else choices[-1])
    page.book.finish(play)
    page.refresh()
    page.wheels.choose("07-spoke-hole")


#: The acts on a page of the manual, two or three beside each other.
ACTS: dict[str, tuple[str, ...]] = {
    "strip": ("strip.break_beads", "strip.tire_off", "rim.look"),
    "tape": ("tape.lay", "tape.press", "tape.look"),
    "valve": ("hole.open", "valve.fit", "valve.core_check"),
    "insert": ("insert.look", "insert.on", "tire.arrow"),
    "mount": ("bead.first", "bead.wet", "bead.second"),
    "seat": ("air.step", "line.look", "spin.look"),
    "sealant": ("sealant.pour", "sealant.inject", "core.in"),
    "leak-test": ("hold.shake", "hold.flat_left", "hold.soap"),
    "hand-over": ("set.pressure", "set.sign"),
}
ACT_PX = (420, 390)


def act_sheets(folder: Path) -> None:
    """Draw the acts of each page of the manual, for the jobs that are read whole."""
    theme, plans = Theme("light"), []
    for changes, _happens in JOBS.values():
        job = job_from_plain(job_of(changes))
        plans.append(plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf))
    folder.mkdir(parents=True, exist_ok=True)
    for name, codes in ACTS.items():
        wide, high = ACT_PX
        image = QImage(wide * len(codes), high, QImage.Format.Format_RGB32)
        image.fill(theme.color("card"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, code in enumerate(codes):
            plan, step = next((p, s) for p in plans for s in p.steps if s.code == code)
            box = QRectF(place * wide + 8, 8, wide - 16, high - 16)
            paint_scene(painter, box, draw_act(plan, step), METRIC, theme)
        painter.end()
        image.save(str(folder / f"{name}.png"))


SHOTS: dict[str, Shot] = {
    "bench-mount": mount,
    "bench-seat": seat,
    "bench-check-in": check_in,
    "bench-low-sector": low,
    "bench-why": why,
    "bench-stopped": stopped,
    "bench-dark-125": dark,
    "bench-hand-over": hand_over,
    "bench-finish": finish,
    "bench-far": far,
    "bench-trace": trace,
    "bench-advice": advice,
    "bench-hold": hold,
    "logbook": logbook,
    "insights": insights,
    "shelf": shelf,
    "day": day,
    "practice": practice,
    "training": training,
}


def main(folder: Path, names: list[str]) -> None:
    """Take the pictures that are named, or all."""
    app = QApplication([])
    load_font()
    folder.mkdir(parents=True, exist_ok=True)
    for name in names or SHOTS:
        with tempfile.TemporaryDirectory() as home:
            session = Session(Path(home), demo=True)
            session.start_storing = lambda: None  # type: ignore[method-assign]
            session.fill()
            session.bench.worker = None
            session.bench.shelf.adopt(demo_shelf())
            session.bench.day.put_in_order()
            session.show()
            while session.bench.at_first is not None:
                app.processEvents()
            for _ in range(4):
                app.processEvents()
            SHOTS[name](session)
            for _ in range(4):
                app.processEvents()
            session.shell.grab().save(str(folder / f"{name}.png"))
            session.shell.hide()
    if not names:
        act_sheets(folder.parent / "manual" / "acts")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER, sys.argv[2:])
