"""The wheel's log: every entry, newest first, in words."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, Qt
from PyQt6.QtWidgets import QListView, QWidget

from inner_rim.core.record.log import Logged
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.words import tr
from inner_rim.work.text.log_words import marked_texts


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
        if not index.isValid() or role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
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
