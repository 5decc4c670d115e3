"""A training wheel in a window of its own: the real bench on data that nobody keeps."""

from __future__ import annotations

from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QApplication, QVBoxLayout, QWidget

from inner_rim.core.training.play import Play
from inner_rim.desktop.background import UiRunner
from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.theme import TEXT, Theme
from inner_rim.desktop.window import MainWindow
from inner_rim.words import tr
from inner_rim.work.training import Training

#: How often the clock advances during a wait, ms, and how long the last words stay in view.
TICK_MS, LAST_WORDS_MS = 250, 4000


class TrainingWindow(QWidget):
    """The bench of a training wheel, below a line that says that it is training."""

    def __init__(self, training: Training, theme: Theme, app: QApplication) -> None:
        super().__init__()
        self._run_in_ui = UiRunner()
        self.training = training
        self.window_ = MainWindow(training.bench, theme, app, self._run_in_ui)
        self.window_.training = training
        self.window_.views.training = True
        training.over.connect(self._over)
        words = tr(
            "TRAINING · {title} · “{story}” · F2 look, F3 pump or read the gauge, F4 thermometer"
        )
        banner = PlainLabel(words.format(title=training.title, story=training.story))
        banner.setObjectName("training")
        banner.setFont(theme.font(TEXT, 600))
        banner.setWordWrap(True)
        banner.setContentsMargins(18, 8, 12, 8)
        banner.setStyleSheet(
            f"background: {theme.color('accent_soft').name()}; color: {theme.color('ink').name()};"
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(banner)
        column.addWidget(self.window_, 1)
        self.setWindowTitle(tr("Training: {title}").format(title=training.title))
        self._clock = QTimer(self)
        self._clock.setInterval(TICK_MS)
        self._clock.timeout.connect(training.tick)
        self._clock.start()
        self.window_.page.now.focus_main()

    def sizeHint(self) -> QSize:
        return QSize(1280, 800)

    def _over(self, play: Play) -> None:
        self._clock.stop()
        QTimer.singleShot(LAST_WORDS_MS, self.close)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._clock.stop()
        self.training.give_up()
        self.window_.end()
        self.training.bench.day.end()
        super().closeEvent(event)
