"""The window: header, the page, the banner for troubles, and the keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QElapsedTimer, Qt
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.core.record.units import UnitChoice
from inner_rim.desktop.banner import StorageBanner
from inner_rim.desktop.bench.page import BenchPage
from inner_rim.desktop.commands.key_map import KeyMap
from inner_rim.desktop.commands.key_tables import CONTROL_KEYS, PLAIN_KEYS
from inner_rim.desktop.exporter import Exporter
from inner_rim.desktop.widgets.plain import PlainLabel
from inner_rim.desktop.widgets.theme import SCALES, TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench

if TYPE_CHECKING:
    from inner_rim.desktop.measuring.caliper import Caliper
    from inner_rim.desktop.measuring.gauge import Gauge

#: The same key again within this time is a bounce, not an answer.
BOUNCE_MS = 250
#: The pages of the window, in the order of their keys.
PLACES = {"bench": "Bench", "day": "Day", "shelf": "Shelf", "practice": "Practice", "logbook": "Logbook"}
UNIT_SETS = (
    UnitChoice("bar", "mm", "ml"),
    UnitChoice("psi", "mm", "ml"),
    UnitChoice("kpa", "mm", "ml"),
    UnitChoice("psi", "in", "floz"),
)


class MainWindow(QWidget):
    """What the user opens."""

    def __init__(
        self,
        bench: Bench,
        theme: Theme,
        app: QApplication,
        run_in_ui: Callable[[Callable[[], None]], None],
        data_words: str = "",
    ) -> None:
        super().__init__()
        self._bench, self._theme, self._app = bench, theme, app
        self.page = BenchPage(bench, theme)
        self._run_in_ui = run_in_ui
        self._caliper: Caliper | None = None
        self._gauge: Gauge | None = None

        trace = self.page.trace
        trace.simulator_wanted.connect(lambda fault: self.gauge.begin_simulator(fault))
        trace.connect_wanted.connect(lambda: self.gauge.connect_port())
        trace.off_wanted.connect(lambda: self.gauge.off())
        self._data_words = data_words
        self._key_map: KeyMap | None = None
        self._last_key = 0
        self._since_key = QElapsedTimer()
        self.all_stored: Callable[[], bool] = lambda: True
        self._name = PlainLabel("Inner Rim")
        self._units = QPushButton("")
        self._theme_button = QPushButton("")
        self._keys_button = QPushButton(tr("Keys  ?"))
        self._message = PlainLabel("")
        self._message.setProperty("role", "muted")
        self._message.setWordWrap(True)
        self.exporter = Exporter(bench, self)
        self.page.paper_wanted.connect(self.exporter.ask_paper)
        self.banner = StorageBanner(bench, theme, self.exporter.everything)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._header = QWidget()
        row = QHBoxLayout(self._header)
        row.setContentsMargins(theme.px(18), 0, theme.px(12), 0)
        row.addWidget(self._name)
        row.addSpacing(theme.px(16))
        self._places: dict[str, QPushButton] = {}
        for place, words in PLACES.items():
            button = QPushButton(tr(words))
            button.setProperty("role", "place")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _on, p=place: self.go_to(p))
            row.addWidget(button)
            self._places[place] = button
        row.addSpacing(theme.px(10))
        row.addWidget(self._message, 1)
        for button, command in (
            (self._units, "units"),
            (self._theme_button, "theme"),
            (self._keys_button, "key_map"),
        ):
            button.setProperty("role", "flat")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _on, c=command: self.obey(c))
            row.addWidget(button)
        column.addWidget(self._header)
        column.addWidget(self.banner)
        self._pages = QStackedWidget()
        self._pages.addWidget(self.page)
        self._made: dict[str, QWidget] = {"bench": self.page}
        column.addWidget(self._pages, 1)
        bench.subscribe(self.refresh)
        self._places["bench"].setChecked(True)
        self._size()
        self.refresh()

    def _size(self) -> None:
        theme = self._theme
        self._header.setFixedHeight(theme.px(52))
        self._name.setFont(theme.font(20, 700))
        for button in (self._units, self._theme_button, self._keys_button, *self._places.values()):
            button.setFixedHeight(theme.px(TARGET_PX))

    def refresh(self) -> None:
        """Show message, trouble and units."""
        bench = self._bench
        self._message.setText(bench.message or self._data_words)
        self.banner.refresh()
        units = bench.units
        symbols = [units.unit(kind).symbol for kind in ("kpa", "mm", "ml")]
        self._units.setText(" · ".join(symbols))
        self._units.setAccessibleName(tr("Units: {units}").format(units=", ".join(symbols)))
        self._theme_button.setText(tr("Dark") if self._theme.tokens.name == "light" else tr("Light"))

    @property
    def bench(self) -> Bench:
        """What the window shows."""
        return self._bench

    @property
    def data_file(self) -> Path | None:
        """The local data file, None on a server and for the demo."""
        return self.banner.data_file

    @data_file.setter
    def data_file(self, file: Path | None) -> None:
        self.banner.data_file = file

    # -- pages -------------------------------------------------------------------------------

    @property
    def place(self) -> str:
        """The name of the page that is shown."""
        return next(name for name, page in self._made.items() if page is self._pages.currentWidget())

    def page_of(self, place: str) -> QWidget:
        """Return a page, made when it is first wanted."""
        if place not in self._made:
            self._made[place] = self._make_page(place)
            self._pages.addWidget(self._made[place])
        return self._made[place]

    def _make_page(self, place: str) -> QWidget:
        if place == "day":
            from inner_rim.desktop.pages.day import DayPage

            day = DayPage(self._bench, self._theme)
            day.wheel_wanted.connect(self._to_wheel)
            return day
        if place == "shelf":
            from inner_rim.desktop.pages.shelf import ShelfPage

            return ShelfPage(self._bench, self._theme)
        if place == "logbook":
            from inner_rim.desktop.pages.logbook import LogbookPage

            book = LogbookPage(self._bench, self._theme)
            book.wheel_wanted.connect(self._take_out)
            return book
        from inner_rim.desktop.pages.practice import PracticePage

        return PracticePage(self._bench, self._theme, self.caliper, self.gauge)

    @property
    def caliper(self) -> Caliper:
        """The caliper, made when it is first wanted."""
        if self._caliper is None:
            from inner_rim.desktop.measuring.caliper import Caliper
            from inner_rim.work.tasks.tools import Tool

            self._caliper = Caliper(
                Tool("caliper", self._run_in_ui), self._bench, self.page.inputs.focused_row, self
            )
        return self._caliper

    @property
    def gauge(self) -> Gauge:
        """The gauge, made when it is first wanted."""
        if self._gauge is None:
            from inner_rim.desktop.measuring.gauge import Gauge
            from inner_rim.work.tasks.tools import Tool

            tool = Tool("gauge", self._run_in_ui)
            self._gauge = Gauge(tool, self._bench, self)
            self._gauge.pressure.connect(self.page.live_pressure)
            self._gauge.running.connect(self.page.trace.run)
            tool.on_progress = self._gauge.on_progress
        return self._gauge

    def let_go(self) -> None:
        """Let go of every tool."""
        if self._gauge is not None:
            self._gauge.tool.on_progress = lambda: None
            self._gauge.tool.off()
        if self._caliper is not None:
            self._caliper.tool.off()

    def go_to(self, place: str) -> None:
        """Show a page."""
        self._pages.setCurrentWidget(self.page_of(place))
        for name, button in self._places.items():
            button.setChecked(name == place)
        if place == "bench":
            self.page.now.focus_main()
        elif place in ("shelf", "logbook"):
            self.page_of(place).search.setFocus()  # type: ignore[attr-defined]

    def _take_out(self, job_id: str, wheel_id: str) -> None:
        self._bench.take_out(job_id, wheel_id)
        self.go_to("bench")

    def _to_wheel(self, key: str) -> None:
        job_id, _, wheel_id = key.partition("/")
        self._bench.select((job_id, wheel_id))
        self.go_to("bench")

    # -- commands ----------------------------------------------------------------------------

    def obey(self, command: str) -> bool:
        """Carry out a command; return whether it meant something now."""
        simple: dict[str, Callable[[], object]] = {
            "undo": self._bench.editor.undo,
            "redo": self._bench.editor.redo,
            "next_wheel": lambda: self._bench.step_selection(1),
            "previous_wheel": lambda: self._bench.step_selection(-1),
            "next_stage": lambda: self.page.step_stage(1),
            "previous_stage": lambda: self.page.step_stage(-1),
            "main_action": self.page.main_action,
            "units": self._next_units,
            "theme": self._other_theme,
            "larger": lambda: self._rescale(1),
            "smaller": lambda: self._rescale(-1),
            "key_map": self._toggle_keys,
            "export": self.exporter.job,
            "export_all": self.exporter.everything,
            "take_mine": self._bench.editor.take_any_mine,
            "show_section": lambda: self.page.show_view("section"),
            "show_wheel": lambda: self.page.show_view("wheel"),
            "show_finish": lambda: self.page.show_view("finish"),
            "show_trace": lambda: self.page.show_view("trace"),
            "show_choices": lambda: self.page.show_view("choices"),
            "show_steps": lambda: self.page.show_view("steps"),
            "show_log": lambda: self.page.show_view("log"),
            "leave": self._leave,
            "take_mean": lambda: self.caliper.take_questioned(),
            **{f"go_{place}": partial(self.go_to, place) for place in PLACES},
        }
        if command in simple:
            simple[command]()
            return True
        if self.place != "bench" and command in ("new_wheel", "same_again"):
            self.go_to("bench")
        if command == "did_not":
            command = next((c for c in ("answer_no", "guide_no") if self.page.offers(c)), command)
        if command in (
            "new_wheel",
            "first_field",
            "reached",
            "same_again",
            "fleet",
            "papers",
            "trouble",
        ) or self.page.offers(command):
            return self.page.obey(command)
        return False

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Obey the key table."""
        if event is None or not self._key(event):
            super().keyPressEvent(event)

    def _key(self, event: QKeyEvent) -> bool:
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        key = Qt.Key(event.key())
        if control:
            if key == Qt.Key.Key_Z:
                return self.obey("redo" if shift else "undo")
            command = CONTROL_KEYS.get(key)
            if command == "main_action" and self._bounced(event):
                return True
            return self.obey(command) if command else False
        if key == Qt.Key.Key_Escape:
            return self.obey("leave")
        if isinstance(self._app.focusWidget(), QLineEdit):
            return False
        if self.place != "bench":
            return event.text() == "?" and self.obey("key_map")
        if self._bounced(event):
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            focus = self._app.focusWidget()
            if isinstance(focus, QPushButton):
                focus.click()
                return True
            return self.obey("main_action")
        if event.text() == "?":
            return self.obey("key_map")
        if event.text() and event.text() in "0123456789":
            self.page.digit(int(event.text()))
            return True
        command = PLAIN_KEYS.get(event.text().lower())
        return self.obey(command) if command else False

    def _bounced(self, event: QKeyEvent) -> bool:
        """Whether a key is held down or bounces under a wet glove: it must not answer twice."""
        bounced = event.isAutoRepeat() or (
            event.key() == self._last_key
            and self._since_key.isValid()
            and self._since_key.elapsed() < BOUNCE_MS
        )
        self._last_key = event.key()
        self._since_key.start()
        return bounced

    def _leave(self) -> None:
        if self._key_map is not None:
            self._toggle_keys()
        elif self.place != "bench":
            self.go_to("bench")
        elif (
            self.page.answers.stop_marking()
            or isinstance(self._app.focusWidget(), QLineEdit)
            or not self.page.leave()
        ):
            self.page.now.focus_main()

    def _next_units(self) -> None:
        units = self._bench.units
        place = UNIT_SETS.index(units) if units in UNIT_SETS else -1
        self._bench.set_units(UNIT_SETS[(place + 1) % len(UNIT_SETS)])

    def _other_theme(self) -> None:
        name = "dark" if self._theme.tokens.name == "light" else "light"
        self.use_theme(Theme(name, self._theme.scale))

    def _rescale(self, by: int) -> None:
        place = min(range(len(SCALES)), key=lambda i: abs(SCALES[i] - self._theme.scale))
        scale = SCALES[min(max(place + by, 0), len(SCALES) - 1)]
        self.use_theme(Theme(self._theme.tokens.name, scale))

    def use_theme(self, theme: Theme) -> None:
        """Show in another theme or text size, and keep it."""
        self._theme = theme
        theme.apply(self._app)
        self._size()
        self.banner.set_theme(theme)
        for page in self._made.values():
            page.set_theme(theme)  # type: ignore[attr-defined]
        self._bench.settings.set_own(theme=theme.tokens.name, scale=theme.scale)
        self.refresh()

    def _toggle_keys(self) -> None:
        if self._key_map is not None:
            self._key_map.hide()
            self._key_map.deleteLater()
            self._key_map = None
        else:
            self._key_map = KeyMap(self._theme, self)
            self._key_map.place()
            self._key_map.show()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep the key map in the middle."""
        if self._key_map is not None:
            self._key_map.place()

    # -- closing -----------------------------------------------------------------------------

    def may_close(self) -> bool:
        """Return whether the window may close: everything is stored, or the user decided."""
        if not self.all_stored():
            left = self._bench.sync.kept
            names = "\n".join(f"· {kept.words[:100]}" for kept in left[:8]).replace("<", "‹")
            answer = QMessageBox.warning(
                self,
                tr("Not stored yet"),
                tr("Some of the work is not stored. Export it before you leave?")
                + (f"\n{names}" if names else ""),
                QMessageBox.StandardButton.Save
                | QMessageBox.StandardButton.Discard
                | QMessageBox.StandardButton.Cancel,
                QMessageBox.StandardButton.Save,
            )
            if answer == QMessageBox.StandardButton.Discard:
                return True
            if answer != QMessageBox.StandardButton.Save:
                return False
            return self.exporter.everything()  # nothing written: the window stays
        return True
