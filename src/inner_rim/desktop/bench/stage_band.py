"""The band of stages under the wheel's name: where it stands, and which stage is looked at."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from inner_rim.core.progress.progress import Progress
from inner_rim.core.record.stages import STAGE_WORDS, STAGES, Stage
from inner_rim.desktop.widgets.theme import Theme
from inner_rim.words import tr


class StageBand(QWidget):
    """A segment for each stage of this wheel; a click looks at one."""

    looked_at = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._progress: Progress | None = None
        self._shown = "check_in"
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Paint in another theme."""
        self._theme = theme
        self.setFixedHeight(theme.px(44))
        self.update()

    def show_progress(self, progress: Progress | None, shown: str) -> None:
        """Show where the wheel stands and which stage's inputs are open."""
        if (progress, shown) == (self._progress, self._shown):
            return
        self._progress, self._shown = progress, shown
        here = progress.stage if progress else "check_in"
        self.setAccessibleName(
            tr("Stage: {stage}; shown: {shown}").format(
                stage=tr(STAGE_WORDS[here]), shown=tr(STAGE_WORDS[shown])
            )
        )
        self.update()

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The stages in the order of this wheel."""
        return self._progress.stages if self._progress is not None else STAGES

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint the segments and their names."""
        theme = self._theme
        painter = QPainter(self)
        width = self.width() / len(self.stages)
        for i, stage in enumerate(self.stages):
            purpose, weight = self._look(stage)
            high = theme.px(3 if purpose == "edge" else 7)  # to come: thin
            painter.fillRect(QRectF(i * width + 2, 2, width - 4, high), theme.color(purpose))
            word = tr(STAGE_WORDS[stage])
            painter.setFont(theme.fitted(word, width - 4, 13, min(10.5, 14.0 / theme.scale), weight))
            painter.setPen(theme.color(purpose if purpose != "edge" else "muted"))
            text = QRectF(i * width, theme.px(12), width, theme.px(22))
            painter.drawText(text, Qt.AlignmentFlag.AlignCenter, word)
            if stage == self._shown:
                painter.fillRect(QRectF(i * width + 8, theme.px(36), width - 16, 2), theme.color("ink"))

    def _look(self, stage: Stage) -> tuple[str, int]:
        progress = self._progress
        if progress is None:
            return ("ink", 600) if stage == "check_in" else ("edge", 400)
        if stage == progress.stage and progress.state != "finished":
            bad = progress.state in ("problem", "stopped")
            return ("stop" if bad else "ink"), 600
        return ("accent", 400) if stage in progress.done else ("edge", 400)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Look at the stage under the pointer."""
        if event is not None:
            place = int(event.position().x() * len(self.stages) / max(1, self.width()))
            self.looked_at.emit(self.stages[min(max(place, 0), len(self.stages) - 1)])
