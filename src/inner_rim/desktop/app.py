"""The composition root: builds the bench, the store worker and the window, and runs them."""

from __future__ import annotations

import contextlib
import os
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QVBoxLayout, QWidget

from inner_rim.core.record.errors import InputError
from inner_rim.desktop.widgets.theme import NOTE, Theme, load_font, theme_choice
from inner_rim.words import tr
from inner_rim.work.editing.event import Event

if TYPE_CHECKING:
    from inner_rim.core.training.scenario import Scenario
    from inner_rim.desktop.background import GcScheduler
    from inner_rim.desktop.crash import FaultLog
    from inner_rim.desktop.hand_over import Receiver
    from inner_rim.desktop.training_window import TrainingWindow
    from inner_rim.desktop.widgets.base import Page
    from inner_rim.desktop.window import MainWindow
    from inner_rim.work.editing.state import WheelKey
    from inner_rim.work.storage.source import Source

EXIT_NO_DISPLAY = 2
#: How long nothing changes before storing begins, where nothing is to be stored, s.
REST_S = 0.3
#: How often, and how many times, to look whether an opened job has arrived.
LOOK_EVERY_MS, MAX_LOOKS = 100, 50


class Shell(QWidget):
    """The top-level window: background and name first, the bench a moment later.

    Attributes:
        may_close: asked before the window closes; False keeps it open.
    """

    first_painted = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._painted = False
        self._filled = False
        self.may_close: Callable[[], bool] = lambda: True
        self.setWindowTitle("Inner Rim")
        self.setMinimumSize(960, 600)
        self.resize(1280, 800)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the background and the name until the content covers them."""
        if not self._filled:
            painter = QPainter(self)
            painter.fillRect(self.rect(), self._theme.color("ground"))
            painter.setPen(self._theme.color("ink"))
            painter.setFont(self._theme.font(NOTE, 600))
            painter.drawText(self._theme.px(18), self._theme.px(33), "Inner Rim")
        if not self._painted:
            self._painted = True
            QTimer.singleShot(0, self.first_painted.emit)

    def fill(self, content: QWidget) -> None:
        self._filled = True
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(content)
        content.show()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.may_close():
            event.ignore()


def run(
    *, demo: bool, smoke: bool, smoke_start: bool, started: float, show: WheelKey | None = None
) -> int:
    """Open the desktop and return the exit status.

    Args:
        demo: on the shipped demo data, in a folder of its own that goes when the program ends.
        smoke: paint every page once, print start-up milliseconds, quit.
        started: `time.perf_counter()` when the command line began.
        show: the wheel to show first.
    """
    if not _has_display():
        if not (smoke or smoke_start):
            sys.stderr.write(
                tr(
                    "inner-rim: no display was found. Start it in a desktop session, or set QT_QPA_PLATFORM."
                )
                + "\n"
            )
            return EXIT_NO_DISPLAY
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    if not demo:
        from inner_rim.work.storage.files import data_folder

        return _run(data_folder(), False, smoke, smoke_start, started, show)
    import tempfile

    with tempfile.TemporaryDirectory(
        prefix="inner-rim-demo-", ignore_cleanup_errors=True
    ) as folder:
        return _run(Path(folder), True, smoke, smoke_start, started)


def _has_display() -> bool:
    names = ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")
    return not sys.platform.startswith("linux") or any(os.environ.get(name) for name in names)


def _run(
    folder: Path,
    demo: bool,
    smoke: bool,
    smoke_start: bool,
    started: float,
    show: WheelKey | None = None,
) -> int:
    from inner_rim.desktop.crash import FaultLog

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Inner Rim")
    app.setDesktopFileName("inner-rim")
    load_font()
    tries = smoke or smoke_start
    faults = FaultLog(folder, asks=not tries)
    faults.install()
    session = Session(folder, demo=demo, first=show, faults=faults)
    if tries:
        Smoke(session, app, every_page=smoke, started=started)
    session.show()
    status = app.exec()
    session.end()
    return 1 if tries and faults.count else status


class Session:
    """One window on one set of data, with all it needs, from start to finish.

    The shell is painted first; what costs imports (`fill`) follows, and the worker, with the
    heaviest imports, comes last, in a thread of its own.
    """

    def __init__(
        self,
        folder: Path,
        *,
        demo: bool = False,
        first: WheelKey | None = None,
        faults: FaultLog | None = None,
    ) -> None:
        from inner_rim.desktop.crash import FaultLog
        from inner_rim.work.storage.files import database_file, settings_file
        from inner_rim.work.storage.source import own_look

        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self._app, self._demo = app, demo
        self._folder, self._file = folder, database_file(folder)
        self._faults = faults if faults is not None else FaultLog(folder)
        self._settings_file = settings_file(folder)
        own = own_look(self._settings_file)
        self._theme = Theme(*theme_choice(*(own or (None, None))))
        self.shell = Shell(self._theme)
        self.shell.first_painted.connect(self._first_painted)
        self.shell.may_close = self._may_close
        self.first_paint: float | None = None
        self.ready = Event[[]]()
        self.window: MainWindow | None = None
        self.training: TrainingWindow | None = None
        self._tidy: GcScheduler | None = None
        self._started = False
        self._first = first
        self._receiver: Receiver | None = None

    def show(self) -> None:
        self.shell.show()

    def _first_painted(self) -> None:
        self.first_paint = time.perf_counter()
        if self.window is None:
            self.fill()
        self._app.processEvents()  # paint the bench
        QTimer.singleShot(0, self._ready)

    def _ready(self) -> None:
        """The bench is painted and the event loop is free: a key would be answered."""
        self.ready.emit()
        self._go_on()

    def _go_on(self) -> None:
        """Work the other wheels out one by one, with all that happens meanwhile between them."""
        if self.bench.load_more():
            QTimer.singleShot(0, self._go_on)
            return
        from inner_rim.desktop.background import GcScheduler

        self._tidy = GcScheduler(self.bench)
        self._start_at_rest()
        if self._first is not None:
            self.show_wheel(self._first)
            if self.window is not None:
                self.window.parking.unpark()  # nothing was typed before
        if not self._demo:
            from inner_rim.desktop.hand_over import Receiver

            self._receiver = Receiver(self._folder, self.show_wheel, self.shell)

    def show_wheel(self, key: WheelKey, waited: int = 0) -> None:
        """Show a wheel, as soon as the data that another program stored have arrived."""
        if self.window is None:
            return
        if any(state.key == key for state in self.bench.wheels):
            self.window.go_to("bench")
            self.window.parking.park()  # a word that is being typed ends here
            self.bench.select(key)
            self.bench.say(
                tr("{name} was opened. Press Enter to work on it.").format(name=self._name_of(key))
            )
            self.shell.raise_()
            self.shell.activateWindow()
        elif waited < MAX_LOOKS:
            QTimer.singleShot(LOOK_EVERY_MS, lambda: self.show_wheel(key, waited + 1))
        else:
            self.bench.say(tr("This job is off the bench: put it back from the logbook."))

    def _name_of(self, key: WheelKey) -> str:
        state = self.bench.wheel(key)
        return state.name if state is not None else ""

    def fill(self) -> None:
        from inner_rim.desktop.background import UiRunner
        from inner_rim.desktop.window import MainWindow
        from inner_rim.work.bench import Bench
        from inner_rim.work.storage.worker import StoreWorker

        source = self._source()
        self.run_in_ui = UiRunner()
        self.bench = Bench(settings_file=self._settings_file)
        if self.bench.settings.aside:
            self.bench.say(self.bench.settings.aside)
        self.worker = StoreWorker(
            source.open_store,
            self.run_in_ui,
            self.bench.sync,
            self._faults.write,
            source.every_look,
            self.run_in_ui.let_paint,
        )
        self.bench.worker = self.worker
        self.bench.sync.log_fault = self._faults.write
        self.bench.sync.patient = True
        self.bench.at_first = 1
        self.bench.backups = source.backups
        if source.backups is not None:
            with contextlib.suppress(InputError):  # Setup says so where the folder stands
                source.backups.use_folder(self.bench.settings.own.backup_folder)
        if source.first is not None:
            self.worker.seen(source.first.change)
            self.bench.sync.adopt(source.first)
        else:
            self.bench.sync.reload()
        self._theme.apply(self._app)
        words = tr("(demo)") if self._demo else ""
        self.window = MainWindow(self.bench, self._theme, self._app, self.run_in_ui, words)
        self.window.banner.data_file = source.file
        self.window.all_stored = self._all_stored
        self.window.training_wanted.connect(self._start_training)
        self.shell.fill(self.window)
        self.window.page.focus_start()

    def _start_training(self, page: Page, scenario: Scenario) -> None:
        """Open a training wheel in a window of its own, on data that nobody keeps."""
        from inner_rim.desktop.pages.training import TrainingPage
        from inner_rim.desktop.training_window import TrainingWindow
        from inner_rim.work.training import Training

        assert isinstance(page, TrainingPage)
        if not page.book.who:
            self.bench.say(tr("Type the apprentice's name first."))
            page.who.setFocus()
            return
        training = Training(scenario)
        training.over.connect(page.finish)
        self.training = TrainingWindow(training, self._theme, self._app)
        self.training.resize(self.shell.size())
        self.training.show()

    def _source(self) -> Source:
        """Return the first look at the data and what opens them."""
        if self._demo:
            from inner_rim.work.storage.demo import demo_source

            return demo_source(self._file, datetime.now(UTC))
        from inner_rim.work.storage.files import database_url
        from inner_rim.work.storage.source import own_source

        return own_source(self._file, database_url())

    def _start_at_rest(self) -> None:
        """Start storing once there is something to store, or no key has come for a while: its
        imports slow the window.
        """
        if self._tidy is not None and not self.worker.waiting and self._tidy.rested_s() < REST_S:
            QTimer.singleShot(round(500.0 * REST_S), self._start_at_rest)
        else:
            self.start_storing()

    def start_storing(self) -> None:
        """Start the worker's thread, and with it the imports that cost time."""
        if not self._started and self.window is not None:
            self._started = True
            self.worker.start()
            self.bench.shelf.load()
            self.bench.shop_methods.learn(self.bench.worker)
            self.bench.day.put_in_order()
            from inner_rim.work.tasks.day_plan import LEARNED

            self.worker.submit(lambda store: store.logbook.logs(LEARNED), self.bench.day.plan.learn)

    def _may_close(self) -> bool:
        if self.window is None or self.window.may_close():
            return True
        self.worker.resume()
        return False

    def _all_stored(self) -> bool:
        if self.worker.waiting:
            self.start_storing()
        return self.worker.stop() if self._started else True

    def end(self) -> None:
        """Finish, and delete the window while the application exists: Python may destroy them in
        either order.
        """
        from PyQt6 import sip

        self.finish()
        sip.delete(self.shell)

    def finish(self) -> None:
        if self._tidy is not None:
            self._tidy.end()
        if self._receiver is not None:
            self._receiver.end()
        if self.training is not None:
            self.training.close()
        if self.window is not None:
            self.window.end()
            self.bench.day.end()
        if self._started:
            self.worker.stop()


class Smoke:
    """Times a start, prints how long it took, then quits."""

    def __init__(self, session: Session, app: object, *, every_page: bool, started: float) -> None:
        assert isinstance(app, QApplication)
        self._session, self._app = session, app
        self._every_page, self._started = every_page, started
        session.ready.connect(self._ready)

    def _ready(self) -> None:
        """Print how long it took; then quit, or paint every page first."""
        usable = time.perf_counter()
        first = self._session.first_paint or usable
        sys.stdout.write(
            tr("first paint {first:.0f} ms, first wheel usable {usable:.0f} ms").format(
                first=1000.0 * (first - self._started), usable=1000.0 * (usable - self._started)
            )
            + "\n"
        )
        sys.stdout.flush()
        if self._every_page:
            self._paint_pages()
        else:
            self._session.start_storing = lambda: None  # type: ignore[method-assign]
        self._app.quit()

    def _paint_pages(self) -> None:
        from inner_rim.core.record.parts import KIND_WORDS
        from inner_rim.core.record.spoken import STAGES
        from inner_rim.desktop.banner import PAGES
        from inner_rim.desktop.pages.shelf import ShelfPage
        from inner_rim.work.text.pick_rows import COUNT
        from inner_rim.work.text.questions import PICTURES

        window = self._session.window
        assert window is not None
        lists = ("plan", "choices", "steps", "log")
        for name in (*(picture for picture in PICTURES if picture != "sectors"), *lists):
            window.run(f"show_{name}")
            window.grab()
        for stage in STAGES:
            window.run("look_at_stage", stage)
            window.grab()
        for place in range(COUNT):
            window.run("why", str(place + 1))
            window.grab()
        window.run("leave")
        asked = (
            "print",
            "leave",
            "guide",
            "leave",
            "override",
            "leave",
            "fleet",
            "leave",
            "show_log",
        )
        # every kind of question: stops, overrides, waits, leak tests
        for state in list(window.bench.wheels):
            window.bench.select(state.key)
            for command in asked:
                window.run(command)
                window.grab()
        for command in ("keys", "actions"):
            window.run(command)
            window.grab()
            window.run(command)
        for name in PAGES:
            window.go_to(name)
            window.grab()
        shelf = window.page_of("shelf")
        if isinstance(shelf, ShelfPage):
            window.go_to("shelf")
            for kind in KIND_WORDS:
                shelf.show_kind(kind)
                shelf.new_part()
                window.grab()
