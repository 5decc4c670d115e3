"""The steps of this wheel, in order, and its log."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QListView, QWidget

from inner_rim.core.procedure.actions import Action
from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.log import Logged
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.spoken import STAGE_WORDS
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.log_words import marked_texts
from inner_rim.work.text.wheel_words import head_lines

DONE, NOW, TO_COME = "✓", "▸", "·"
MINUTES_PER_HOUR = 60.0


def wait_text(minutes: float) -> str:
    if minutes <= 0.0:
        return ""
    if minutes >= MINUTES_PER_HOUR:
        return tr(" (then wait {hours:g} h)").format(hours=minutes / MINUTES_PER_HOUR)
    return tr(" (then wait {minutes:.0f} min)").format(minutes=minutes)


class StepsModel(QAbstractListModel):
    def __init__(self, theme: Theme, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.theme, self._units = theme, METRIC
        self._progress: Progress | None = None
        self._steps: tuple[Action, ...] = ()
        self._heads: tuple[str, ...] = ()
        self._shown: object = None

    def show_wheel(self, state: PlannedWheel | None, units: UnitChoice) -> None:
        plan = state.plan if state else None
        shown = (
            (*plan.behind, *plan.steps) if plan else (),
            state.progress if state else None,
            units,
        )
        if shown != self._shown:
            self.beginResetModel()
            self._shown, (self._steps, self._progress, self._units) = shown, shown
            self._heads = head_lines(state) if state is not None else ()
            self.endResetModel()

    @property
    def head_count(self) -> int:
        return len(self._heads)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's signature
        return 0 if parent.isValid() else len(self._heads) + len(self._steps)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        if index.row() < len(self._heads):
            return self._head(index.row(), role)
        step = self._steps[index.row() - len(self._heads)]
        sign = self._sign(step)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            text = step.text.read(self._units)
            minutes = tr(" · {minutes:g} min").format(minutes=step.minutes) + wait_text(
                step.wait_minutes
            )
            return f"{sign}  {tr(STAGE_WORDS[step.stage])}: {text}{minutes}"
        if role == Qt.ItemDataRole.ForegroundRole:
            return self.theme.color({DONE: "accent", NOW: "ink", TO_COME: "muted"}[sign])
        if role == Qt.ItemDataRole.FontRole:
            return self.theme.font(14, 600 if sign == NOW else 400)
        return None

    def _head(self, row: int, role: int) -> object:
        """The time that the whole procedure takes, shown before its first step."""
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return self._heads[row]
        return self.theme.font(13, 400) if role == Qt.ItemDataRole.FontRole else None

    def _sign(self, step: Action) -> str:
        progress = self._progress
        if progress is None:
            return TO_COME
        if step.key in progress.steps_done:
            return DONE
        if progress.step is not None:
            return NOW if step.key == progress.step.key else TO_COME
        return (
            NOW
            if step.stage == progress.stage and step.pressure_step == progress.seats_next
            else TO_COME
        )


class StepsView(QListView):
    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.steps = StepsModel(theme, self)
        self.setModel(self.steps)
        self.setAccessibleName(tr("Steps of this wheel"))
        self.setWordWrap(True)
        self.setSpacing(2)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSelectionMode(QListView.SelectionMode.NoSelection)

    def set_theme(self, theme: Theme) -> None:
        self.steps.theme = theme
        self.scheduleDelayedItemsLayout()

    def show_wheel(self, state: PlannedWheel | None, units: UnitChoice) -> None:
        self.steps.show_wheel(state, units)
        if self.isVisible():
            self._to_present()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        QTimer.singleShot(0, self._to_present)

    def _to_present(self) -> None:
        for row in range(self.steps.rowCount()):
            if str(self.steps.index(row).data()).startswith(NOW):
                first = row <= self.steps.head_count
                self.scrollTo(
                    self.steps.index(0 if first else row), QListView.ScrollHint.PositionAtTop
                )
                return


class LogModel(QAbstractListModel):
    """The selected wheel's entries, newest first."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._entries: list[Logged] = []
        self._texts: list[str] = []
        self._units = METRIC

    def show_log(self, log: Sequence[Logged], units: UnitChoice) -> None:
        entries = list(log)
        if entries != self._entries or self._units != units:
            self.beginResetModel()
            self._entries, self._units = entries, units
            self._texts = marked_texts(entries, units)
            self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's signature
        return 0 if parent.isValid() else len(self._entries)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid() or role not in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.ToolTipRole,
        ):
            return None
        place = len(self._entries) - 1 - index.row()  # the newest first
        at = local(moment(self._entries[place].at))
        return f"{in_words(at, '%d %b %H:%M')}   {self._texts[place]}"


class LogView(QListView):
    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.entries = LogModel(self)
        self.setModel(self.entries)
        self.setAccessibleName(tr("Log of this wheel"))
        self.setWordWrap(True)
        self.setSpacing(3)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def show_log(self, log: Sequence[Logged], units: UnitChoice) -> None:
        self.entries.show_log(log, units)
