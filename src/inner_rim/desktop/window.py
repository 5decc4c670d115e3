"""The window: it brings bench, view state, pages and commands together."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMessageBox,
    QPlainTextEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from inner_rim.desktop.banner import Header, StorageBanner
from inner_rim.desktop.bench.field_row import PART_FIELDS
from inner_rim.desktop.bench.page import BenchPage
from inner_rim.desktop.command_lists import CommandLists, ListName
from inner_rim.desktop.commands.command import Command, Complaint, Context, Outcome
from inner_rim.desktop.commands.keyboard import Keyboard
from inner_rim.desktop.commands.table import BY_ID
from inner_rim.desktop.exporter import Exporter
from inner_rim.desktop.measuring.gauge import HeldPressure
from inner_rim.desktop.measuring.tools import Tools
from inner_rim.desktop.turns import CHOOSING, Parking, Promising, Turns
from inner_rim.desktop.widgets.base import Page, discard
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.bench import Bench
from inner_rim.work.editing.state import planned
from inner_rim.work.tasks.gauge import alarm_words
from inner_rim.work.text.stage_fields import open_text
from inner_rim.work.views import BenchView, Views

if TYPE_CHECKING:
    from inner_rim.desktop.command_lists import Tour, TourStop
    from inner_rim.desktop.measuring.gauge import Gauge
    from inner_rim.work.training import Training

#: How often the waits are refreshed.
CLOCK_MS = 5000
#: How long after a step the day's order is worked out.
ORDER_MS = 60


class MainWindow(QWidget):
    """The window. Commands come in through `run`, from keys, buttons and lists alike."""

    training_wanted = pyqtSignal(object, object)  # its page, and the scenario

    def __init__(
        self,
        bench: Bench,
        theme: Theme,
        app: QApplication,
        run_in_ui: Callable[[Callable[[], None]], None],
        data_words: str = "",
    ) -> None:
        super().__init__()
        self.bench, self._theme, self._app, self._data_words = bench, theme, app, data_words
        self.all_stored: Callable[[], bool] = lambda: True
        self.views = Views(bench)
        self.training: Training | None = None
        self.views.typing = lambda: self.typing
        self.views.live = lambda: self.tools.gauge_live
        self.turns = Turns(self.views.view, self._close_list, self._show, self)
        self._tour: Tour | None = None
        # the list of wheels follows the day once the step is painted
        self._order_soon = QTimer(self)
        self._order_soon.setSingleShot(True)
        self._order_soon.setInterval(ORDER_MS)
        self._order_soon.timeout.connect(
            lambda: bench.day.plan.list_aside(lambda: run_in_ui(self._put_in_order))
        )
        self.page = BenchPage(bench.gauge, bench.shelf.offered, theme)
        self.parking = Parking(self.page, self.page.focus_start)
        self.tools = Tools(bench, run_in_ui, self.page.focused_row, self._gauge_made, self)
        self.exporter = Exporter(bench, self)
        self._promising = Promising(bench, run_in_ui, self)
        self.banner = StorageBanner(bench, theme, self.exporter.everything)
        self.header = Header(theme)
        self._pages = QStackedWidget()
        self._pages.addWidget(self.page)
        self._made: dict[str, Page] = {"bench": self.page}
        column = self._column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part in (self.header, self.banner):
            column.addWidget(part)
        self._row = QHBoxLayout()  # the actions of another page go at its right
        self._row.addWidget(self._pages, 1)
        column.addLayout(self._row, 1)
        self._lists = CommandLists(
            self.page, self._row, self.views, self.run, self.turns.render_now
        )
        self._keyboard = Keyboard(self, self.context, self._carry_out)
        self._connect()
        theme.dress(self.header, self.banner, self.page)
        self._other_theme: set[str] = set()  # pages that are out of view and look as before
        self.header.show_page("bench")
        self.turns.render()

    def _focus_moved(self, _old: QWidget | None, new: QWidget | None) -> None:
        self.parking.focus_went(new)
        row = self.page.focused_row()
        cursor = row.path if row is not None else ""
        self.page.now.show_typing(self.typing)
        if cursor != self.views.cursor:
            self.views.cursor = cursor
            self.turns.refresh()

    def _connect(self) -> None:
        self._app.focusChanged.connect(self._focus_moved)
        self.header.commanded.connect(self.run)
        self.page.commanded.connect(self.run)
        inputs, editor = self.page.inputs, self.bench.editor
        inputs.typed.connect(self.turns.in_turn(self._type_into))
        inputs.left.connect(self.turns.in_turn(self._end_of_typing))
        inputs.left_open.connect(self.turns.in_turn(lambda path: self.bench.say(open_text(path))))
        inputs.mine_wanted.connect(self.turns.in_turn(editor.take_mine))
        inputs.part_chosen.connect(self.turns.in_turn(editor.put_part))
        inputs.line_said.connect(self._say_line)
        inputs.parts_wanted.connect(
            lambda path: editor.known_parts(
                PART_FIELDS[path], lambda parts: inputs.offer_parts(path, parts)
            )
        )
        self.bench.subscribe(self.turns.refresh)
        self.bench.before_moving.connect(self.parking.park)
        clock = QTimer(self)  # waits go on while nobody touches a key
        clock.setInterval(CLOCK_MS)
        clock.timeout.connect(self._tick)
        clock.start()

    def _gauge_made(self, gauge: Gauge) -> None:
        gauge.pressure.connect(lambda kpa: self.page.live_pressure(kpa, self.bench.gauge.peak_kpa))
        gauge.pressure.connect(lambda _kpa: self._show_alarm())
        held = HeldPressure(self.bench, self.run, self.turns.refresh)
        gauge.pressure.connect(lambda _kpa: held.look())
        gauge.running.connect(self.page.run_traces)
        gauge.running.connect(lambda _on: self.turns.refresh())

    def _type_into(self, path: str, text: str) -> None:
        from inner_rim.work.line_input import type_into  # not on the way to the first wheel

        type_into(self.bench, path, text)

    def _end_of_typing(self) -> None:
        from inner_rim.work.line_input import end_of_typing

        end_of_typing(self.bench)

    def _say_line(self, text: str) -> None:
        from inner_rim.work.line_input import say_line

        with self.turns.turn():
            left = say_line(self.bench, text)
        self.page.inputs.keep_line(left)  # what is missing is known now

    # -- showing -----------------------------------------------------------------------------

    def _close_list(self, view: BenchView) -> None:
        """Close the list of keys or actions after something was done, or something else opened."""
        listing = view.looking.drawer in ("actions", "keys")
        if self._lists.shown is not None and self.page_shown == "bench" and not listing:
            self._lists.close()

    def _show(self, view: BenchView) -> None:
        self.page.show_view(view)
        self.header.show_words(self.bench.message or self._data_words, self.demo)
        self.banner.refresh()
        self._promising.look()
        self._keyboard.follow(self._context_of(view))

    def _put_in_order(self) -> None:
        if not sip.isdeleted(self):  # closed meanwhile
            self.bench.day.put_in_order()

    def _tick(self) -> None:
        self._promising.look()
        if any(one.progress.waiting.until for one in planned(self.bench.wheels)):
            self.turns.refresh()

    # -- commands ----------------------------------------------------------------------------

    def context(self, value: object = "") -> Context:
        return self._context_of(self.turns.view(), value)

    def _context_of(self, view: BenchView, value: object = "") -> Context:
        return Context(self.bench, self, view.looking, view.now, self.page.now.typed(), value)

    def run(self, command: str, value: object = "") -> bool:
        """Carry out a command if it applies now; return whether it did."""
        result, context = BY_ID[command], self.context(value)
        if not result.applies(context):
            return False
        self._carry_out(result, context)
        return True

    def _carry_out(self, command: Command, context: Context) -> None:
        logged = self.bench.logged
        with self.turns.turn():
            with self.bench.history.grouped():  # one step to take back
                try:
                    outcome = command.run(context) or Outcome()
                except Complaint as complaint:
                    outcome = complaint.outcome
            if self.bench.logged != logged:
                self._order_soon.start()
            self.views.change(outcome.look)
            self.turns.refresh()
        if outcome.focus == "search":
            self.page_of(self.page_shown).focus_search()
        else:
            self.page.focus(outcome)
        focus = self._app.focusWidget()
        beside = self._lists.shown is None and (
            self._tour is None or not self._tour.isAncestorOf(focus)
        )
        if isinstance(focus, QPushButton) and self.page_shown == "bench" and beside:
            # after a click on a button the keyboard belongs to the panel
            self.page.take_keyboard(focus)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter, where no button, list or entry used it: press the button with the focus, or run
        the main action.
        """
        if event is not None and self.parking.parked and event.key() in CHOOSING:
            self.parking.unpark()
        elif event is None or event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)
        elif self.page_shown == "bench" and not self.typing:
            if self._keyboard.bounced("Return", event.isAutoRepeat()):
                return
            focus = self._app.focusWidget()
            if isinstance(focus, QPushButton) and focus.property("enter") is not False:
                focus.click()
            else:  # says which key does, where Enter does not
                self.run("main_action")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.parking.unpark()
        super().mousePressEvent(event)

    @property
    def typing(self) -> bool:
        return isinstance(self._app.focusWidget(), QLineEdit | QPlainTextEdit)

    # -- the window's own affairs ------------------------------------------------------------

    @property
    def page_shown(self) -> str:
        return next(
            name for name, page in self._made.items() if page is self._pages.currentWidget()
        )

    def page_of(self, name: str) -> Page:
        if name not in self._made:
            from inner_rim.desktop.make_pages import make_page

            page = self._made[name] = make_page(
                name, self.bench, self._theme, self.tools, self._to_bench
            )
            if name == "training":
                page.start_wanted.connect(partial(self.training_wanted.emit, page))  # type: ignore[attr-defined]
            self._theme.dress(page)
            self._pages.addWidget(page)
        return self._made[name]

    def _to_bench(self) -> None:
        self.run("go_bench")

    def go_to(self, page: str) -> None:
        if page != self.page_shown:
            self.bench.message = ""  # it belongs to the page that is left
            self._lists.close()
        self._in_theme(page)
        self._pages.setCurrentWidget(self.page_of(page))
        self.header.show_page(page)
        self._keyboard.on_bench(page == "bench")
        if page == "bench":
            self.bench.day.put_in_order()

    @property
    def theme(self) -> Theme:
        return self._theme

    def use_theme(self, theme: Theme) -> None:
        self._theme = theme
        theme.apply(self._app)
        theme.dress(self.header, self.banner)
        self.header.set_theme(theme)
        self.banner.set_theme(theme)
        self._other_theme = set(self._made)
        self._in_theme(self.page_shown)
        self.bench.settings.set_own(theme=theme.tokens.name, scale=theme.scale)
        self.turns.refresh()

    def _in_theme(self, name: str) -> None:
        """Give a page that comes into view the theme."""
        page = self.page_of(name)
        if name in self._other_theme:
            self._other_theme.discard(name)
            self._theme.dress(page)
            page.set_theme(self._theme)

    def toggle_list(self, name: ListName) -> None:
        self._lists.toggle(name, self.context(), self._theme)

    @property
    def demo(self) -> bool:
        return bool(self._data_words)

    def begin_tour(self) -> None:
        """Go through the demo in five stops."""
        from inner_rim.desktop.command_lists import Tour

        self._end_tour()
        tour = self._tour = Tour(self._theme)
        self._theme.dress(tour)
        tour.arrived.connect(self._show_stop)
        tour.left.connect(self._end_tour)
        self._column.insertWidget(2, tour)
        tour.go_on()

    def _show_stop(self, stop: TourStop) -> None:
        with self.turns.turn():
            self.go_to(stop.page)
            state = next(
                (one for one in self.bench.wheels if one.name.startswith(stop.wheel)), None
            )
            if stop.wheel and state is not None:
                self.bench.select(state.key)
                self.views.view()  # the stage of this wheel comes up
            self.views.change({"drawer": stop.drawer, "picture": None, "why": None})
            self.turns.refresh()

    def _end_tour(self) -> None:
        tour, self._tour = self._tour, None
        if tour is not None:
            discard(tour)
            self.page.now.focus_main()

    def toggle_far(self) -> None:
        """Show the step over the whole screen, larger and without the lists; or the page again."""
        if self.leave_far():
            return
        if self.page_shown != "bench":
            self.go_to("bench")
        self._set_far(True)

    def leave_far(self) -> bool:
        """Leave the tour, the far view, or a list of keys or actions; return whether there was one."""
        if self._tour is not None:
            self._end_tour()
            return True
        if self.page.far:
            self._set_far(False)
            return True
        return self._lists.close() is not None

    def _set_far(self, far: bool) -> None:
        self.header.setVisible(not far)
        self.page.set_far(far)
        top = self.window()
        if top is not None and top.isFullScreen() != far:
            top.setWindowState(top.windowState() ^ Qt.WindowState.WindowFullScreen)

    def _show_alarm(self) -> None:
        gauge, state = self.bench.gauge, self.bench.planned
        words = (
            alarm_words(gauge, state.plan.pressure.limit_kpa, self.bench.units)
            if state is not None
            else ""
        )
        self.page.now.show_alarm(words if gauge.alarm != "none" else "", gauge.alarm)

    def end(self) -> None:
        """Release what outlives the window: the tools, and the application's focus signal."""
        with contextlib.suppress(TypeError):  # released before
            self._app.focusChanged.disconnect(self._focus_moved)
        self.tools.disconnect()

    def may_close(self) -> bool:
        """Return whether the window may close: everything is stored, or the user decided."""
        return self.all_stored() or ask_before_closing(self, self.bench, self.exporter.everything)


def ask_before_closing(parent: QWidget, bench: Bench, export: Callable[[], bool]) -> bool:
    """Ask what to do with work that is not stored; return whether the window may close."""
    names = "\n".join(f"· {kept.words[:100]}" for kept in bench.sync.kept[:8]).replace("<", "‹")
    answer = QMessageBox.warning(
        parent,
        tr("Not stored yet"),
        tr("Some of your work is not stored. Export it before you close?")
        + (f"\n{names}" if names else ""),
        QMessageBox.StandardButton.Save
        | QMessageBox.StandardButton.Discard
        | QMessageBox.StandardButton.Cancel,
        QMessageBox.StandardButton.Save,
    )
    if answer == QMessageBox.StandardButton.Save:
        return export()  # nothing written: the window stays
    return answer == QMessageBox.StandardButton.Discard
