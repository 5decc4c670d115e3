"""The last section of the bead: the wheel from the side, the last section moved around the rim.

The slack answers at once, by the core's model; what lies in the well can be put in and taken out.
"""

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from inner_rim.core.models.mounting import (
    ADVICE,
    GRADE_WORDS,
    LIFTED_MM,
    bead_loop_mm,
    finish_slack_mm,
    grade,
    insert_leg_mm,
    usable_well_mm,
)
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, TARGET_PX, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel

OTHER_BEAD_MM = 3.0  # a bead lying in the well takes about its own thickness (common practice)
STEP_RAD = math.radians(5.0)
BEAD_EXAGGERATION = 4.0  # the well's depth is drawn larger than it is, so that it can be seen


class FinishView(Picture):
    """A wheel with its valve, the bead, and the last section; drag it, or use the keys , and .
    (comma and point).
    """

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._state: PlannedWheel | None = None
        self._units = UnitChoice()
        self._finish = 0.0
        self._key: object = None
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 200)
        self._toggles: dict[str, QPushButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(4)
        for name, words in (
            ("valve", tr("valve base")),
            ("layer", tr("+1 layer")),
            ("leg", tr("insert leg")),
            ("bead", tr("other bead")),
        ):
            toggle = QPushButton(words)
            toggle.setCheckable(True)
            toggle.clicked.connect(lambda _on: self._answer())
            row.addWidget(toggle)
            self._toggles[name] = toggle
        self._toggles["valve"].setChecked(True)
        column.addLayout(row)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        for toggle in self._toggles.values():
            toggle.setStyleSheet(f"padding: 0 1px; font-size: {theme.type_px(SMALL)}px;")
            toggle.setFixedHeight(theme.px(TARGET_PX))
        self.update()

    def show_wheel(self, state: PlannedWheel | None, units: UnitChoice) -> None:
        key = state.key if state else None
        if key != self._key:
            self._finish = 0.0
            has_insert = state is not None and state.plan.wheel.insert is not None
            self._toggles["leg"].setChecked(has_insert)
        self._key, self._state, self._units = key, state, units
        self._answer()

    # -- the model ---------------------------------------------------------------------------

    def well_mm(self) -> float:
        """Return the depth left for the bead with the parts that are switched on."""
        assert self._state is not None
        plan, on = self._state.plan, self._toggles
        layers = 0 if plan.setup.sealed else plan.tape.layers
        tape = plan.tape.thickness_mm * (layers + on["layer"].isChecked())
        occupied = OTHER_BEAD_MM if on["bead"].isChecked() else 0.0
        if on["leg"].isChecked():
            occupied += insert_leg_mm(plan.wheel.insert) or OTHER_BEAD_MM
        return usable_well_mm(plan.bed, tape, occupied)

    def slack_mm(self) -> float:
        assert self._state is not None
        return finish_slack_mm(
            self._state.wheel.rim,
            bead_loop_mm(self._state.wheel.rim, self._state.wheel.tire),
            self.well_mm(),
            self._finish,
            valve_base=self._toggles["valve"].isChecked(),
        )

    def _answer(self) -> None:
        self.setAccessibleName(tr("Last section"))
        if self._state is not None and self.isVisible():
            slack = self.slack_mm()
            self.setAccessibleDescription(
                tr("{slack} of slack, {grade}").format(
                    slack=show(slack, "mm", self._units), grade=tr(GRADE_WORDS[grade(slack)])
                )
            )
        self.update()

    # -- painting ----------------------------------------------------------------------------

    def _circle(self) -> tuple[QPointF, float]:
        low = self._theme.px(TARGET_PX)
        height = self.height() - low
        radius = max(30.0, min(self.width(), height) / 2.0 - self._theme.px(16))
        return QPointF(self.width() / 2.0, height / 2.0), radius

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state = self._state
        if state is None:
            return
        theme = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        center, radius = self._circle()
        seat = 0.5 * state.wheel.rim.bead_seat_diameter_mm
        scale = radius * 0.86 / seat
        painter.setPen(QPen(theme.color("metal"), 0.1 * radius))
        painter.drawEllipse(center, radius * 0.93, radius * 0.93)
        painter.setPen(QPen(theme.color("metal_edge"), 1.0))
        for share in (0.88, 0.98):
            painter.drawEllipse(center, share * radius, share * radius)
        painter.setPen(QPen(theme.color("brass"), max(4.0, 0.05 * radius)))
        painter.drawLine(_polar(center, radius * 0.84, 0.0), _polar(center, radius * 0.66, 0.0))
        self._paint_bead(painter, center, seat * scale, scale)
        self._paint_words(painter, center, radius)

    def _paint_bead(self, painter: QPainter, center: QPointF, seat: float, scale: float) -> None:
        theme = self._theme
        well = seat - self.well_mm() * scale * BEAD_EXAGGERATION
        half = math.degrees(0.5 * LIFTED_MM * scale / seat)
        painter.setPen(QPen(theme.color("ink"), max(4.0, 0.03 * seat)))
        box = QRectF(center.x() - well, center.y() - well, 2 * well, 2 * well)
        start = 90.0 - math.degrees(self._finish) - half
        painter.drawArc(box, round(start * 16), round(-(360.0 - 2 * half) * 16))
        lifted = seat + 0.17 * seat
        painter.setPen(QPen(theme.color("accent"), max(6.0, 0.05 * seat)))
        box = QRectF(center.x() - lifted, center.y() - lifted, 2 * lifted, 2 * lifted)
        painter.drawArc(
            box, round((90.0 - math.degrees(self._finish) + half) * 16), round(-2 * half * 16)
        )

    def _paint_words(self, painter: QPainter, center: QPointF, radius: float) -> None:
        theme, slack = self._theme, self.slack_mm()
        word = grade(slack)
        tone = {"levers": "caution", "will_not_go": "stop"}.get(word, "ink")
        wide = 1.3 * radius

        def line(
            top: float, height: float, text: str, pixels: float, purpose: str, weight: int = 400
        ) -> None:
            painter.setFont(
                theme.fitted(text, wide, pixels, weight) if "\n" not in text else theme.font(pixels)
            )
            painter.setPen(theme.color(purpose))
            box = QRectF(center.x() - wide / 2, center.y() + top, wide, height)
            painter.drawText(
                box,
                Qt.AlignmentFlag.AlignHCenter
                | Qt.AlignmentFlag.AlignTop
                | Qt.TextFlag.TextWordWrap,
                text,
            )

        line(-theme.px(58), theme.px(36), show(slack, "mm", self._units), 28, tone, 600)
        line(
            -theme.px(22),
            theme.px(22),
            tr("of slack: {grade}").format(grade=tr(GRADE_WORDS[word])),
            15,
            tone,
            600,
        )
        painter.setFont(theme.font(SMALL))
        painter.setPen(theme.color("muted"))
        box = QRectF(center.x() - 0.5 * radius, center.y() + theme.px(4), radius, 0.6 * radius)
        flags, advice = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, tr(ADVICE[word])
        # half a sentence would mislead
        if painter.boundingRect(box, flags, advice).height() <= box.height():
            painter.drawText(box, flags, advice)

    # -- moving ------------------------------------------------------------------------------

    def turn_to(self, finish_rad: float) -> None:
        """Put the last section at an angle from the valve, clockwise."""
        self._finish = finish_rad % (2.0 * math.pi)
        self._answer()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._dragging = True
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._dragging:
            return
        center, _radius = self._circle()
        away = event.position() - center
        self.turn_to(math.atan2(away.x(), -away.y()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._dragging = False

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        turn = {",": -STEP_RAD, ".": STEP_RAD}.get(event.text() if event else "")
        if turn is None:
            super().keyPressEvent(event)
            return
        self.turn_to(self._finish + turn)


def _polar(center: QPointF, radius: float, angle: float) -> QPointF:
    return QPointF(center.x() + radius * math.sin(angle), center.y() - radius * math.cos(angle))
