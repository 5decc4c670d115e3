"""The cross-section of this wheel, to scale, painted from the core's outlines; a click goes to a
field.
"""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.core.drawing.loupe import SeatLoupe
from inner_rim.core.drawing.section import Dimension, Point, Section
from inner_rim.core.record.units import TRADE, UnitChoice, show
from inner_rim.desktop.drawings.loupe import TIMES, Lens, gap_words, paint_pair, polygon, to_mm
from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SMALL, TEXT, Theme
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel

#: Painted from back to front: outline, fill, edge (None for none).
_LAYERS: tuple[tuple[str, str, str | None], ...] = (
    ("air", "air", None),
    ("pool", "liquid", "ink"),
    ("insert", "foam", "ink"),
    ("tread", "rubber", None),
    ("casing", "rubber", "metal_edge"),
    ("valve_stem", "brass", None),
    ("rim", "metal", "metal_edge"),
    ("rim_cavity", "card", "metal_edge"),
    ("valve_stem", "brass", "rubber"),
    ("valve_nut", "metal_edge", "rubber"),
    ("bead_left", "rubber", "metal_edge"),
    ("bead_right", "rubber", "metal_edge"),
    ("valve_base", "rubber", "metal_edge"),
)
#: Outline -> the field a click goes to, frontmost first.
_FIELDS = (
    ("valve_nut", "rim.depth_at_valve_mm"),
    ("valve_base", "rim.depth_at_valve_mm"),
    ("valve_stem", "rim.depth_at_valve_mm"),
    ("rim", "rim.internal_width_mm"),
    ("insert", "insert.name"),
    ("pool", "practice.dose"),
    ("casing", "tire.size"),
    ("tread", "tire.size"),
    ("air", "tire.size"),
)
MARGIN_TOP, MARGIN_BOTTOM, MARGIN_SIDE = 14, 54, 88
ROOM_FOR_WORDS_PX = 112
#: How far a dimension line stands away from what it measures: to the right and down.
_AWAY_PX = {
    "internal_width": (0, 13),
    "mounted_width": (0, 14),
    "section_height": (12, 0),
    "standing_out": (26, 0),
}
#: A view smaller than this shows the outlines alone; the picks column has the figures.
ROOM_FOR_FIGURES_PX, MIN_MARGIN_PX = 200, 6
#: Lenses in the lower corners: their size, and the smallest that is useful.
LENS_PX, MIN_LENS_PX = 132, 72
#: Least and greatest radius that a lens shows, mm, even where that is not four times the
#: cross-section.
MIN_REACH_MM, MAX_REACH_MM = 3.6, 5.6


class SectionView(Picture):
    """The drawing, which is the instrument: what is typed shows here at once."""

    clicked_part = pyqtSignal(str)

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._section: Section | None = None
        self._labels = True
        self._seats: tuple[SeatLoupe, ...] = ()
        self._bounds = (0.0, 0.0, 1.0, 1.0)
        self._state: PlannedWheel | None = None
        self._units = UnitChoice()
        self.setMinimumSize(180, 60)
        # so that nothing behind it is painted first
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_section(
        self,
        state: PlannedWheel | None,
        section: Section | None,
        units: UnitChoice,
        seats: tuple[SeatLoupe, ...] = (),
        labels: bool = True,
    ) -> None:
        """Show a wheel's cross-section; None shows an invitation. Without `labels` only the
        dimensions are written.
        """
        same = section is self._section and units == self._units and section is not None
        same = same and (bool(seats), labels) == (bool(self._seats), self._labels)
        self._labels = labels
        self._state, self._section, self._units, self._seats = state, section, units, seats
        if same:
            return
        self._bounds = section.bounds() if section is not None else (0.0, 0.0, 1.0, 1.0)
        self.setAccessibleName(tr("Section of the wheel"))
        self.setAccessibleDescription(self._described())
        self.update()

    def _described(self) -> str:
        if self._section is None:
            return tr("Nothing to draw yet")
        return "; ".join(
            f"{tr(d.name.replace('_', ' '))} {show(d.length_mm, 'mm', self._units)}"
            for d in self._section.dimensions
        )

    # -- geometry ----------------------------------------------------------------------------

    @property
    def _bare(self) -> bool:
        return min(self.width(), self.height()) < self._theme.px(ROOM_FOR_FIGURES_PX)

    def _margins(self) -> tuple[int, int, int]:
        if self._bare:
            return MIN_MARGIN_PX, MIN_MARGIN_PX, MIN_MARGIN_PX
        theme = self._theme
        return theme.column(MARGIN_SIDE), theme.px(MARGIN_TOP), theme.px(MARGIN_BOTTOM)

    @property
    def _frame(self) -> tuple[float, float, float]:
        """Return (pixels per mm, x of the middle, y of the bead seats)."""
        x0, y0, x1, y1 = self._bounds
        side, top, bottom = self._margins()
        high = max(1.0, self.height() - top - bottom)
        wide = max(1.0, self.width() - 2.0 * side)
        scale = min(high / (y1 - y0), wide / (x1 - x0))
        return scale, self.width() / 2.0, top + y1 * scale

    def _at(self, point: Point, frame: tuple[float, float, float]) -> QPointF:
        scale, x, y = frame
        return QPointF(x + point[0] * scale, y - point[1] * scale)

    def _polygon(self, points: tuple[Point, ...], frame: tuple[float, float, float]) -> QPolygonF:
        return QPolygonF([self._at(point, frame) for point in points])

    # -- painting ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        # before edges are smoothed: whole pixels
        painter.fillRect(self.rect(), self._theme.color("card"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._section is None or self._state is None:
            self._invite(painter)
            return
        frame = self._frame
        painter.save()
        to_mm(painter, QPointF(frame[1], frame[2]), frame[0])
        for name, fill, edge in _LAYERS:
            outline = self._section.outlines.get(name)
            if outline:
                painter.setPen(self._theme.outline(edge) if edge else Qt.PenStyle.NoPen)
                painter.setBrush(self._theme.color(fill))
                painter.drawPolygon(polygon(outline))
        painter.restore()
        self._paint_tape(painter, frame)
        if self._bare:
            return
        lenses = self.lenses()
        for dimension in self._section.dimensions:
            # the right lens covers it; the picks have it
            if dimension.name != "section_height" or not lenses:
                self._paint_dimension(painter, dimension, frame)
        self._paint_labels(
            painter, frame, min((lens.box.top() for lens in lenses), default=self.height())
        )
        self._paint_lenses(painter, lenses)

    def _invite(self, painter: QPainter) -> None:
        size = min(self._theme.px(150), self.height() // 3)
        ring = QRectF((self.width() - size) / 2, self.height() * 0.16, size, size)
        paint_ring(painter, ring, None, self._theme)
        painter.setFont(self._theme.font(TEXT))
        painter.setPen(self._theme.color("muted"))
        painter.drawText(
            QRectF(24, ring.bottom() + 20, self.width() - 48, self.height() - ring.bottom() - 30),
            Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap,
            tr("Type a tire size and a rim width: the cross-section appears here, to scale."),
        )

    def _paint_tape(self, painter: QPainter, frame: tuple[float, float, float]) -> None:
        assert self._section is not None
        thick = max(2.5, 0.5 * frame[0])
        edge = QPen(self._theme.color("rubber"), thick + 1.2, join=Qt.PenJoinStyle.MiterJoin)
        pen = QPen(self._theme.color("tape"), thick, join=Qt.PenJoinStyle.MiterJoin)
        for i, line in enumerate(self._section.paths.values()):
            lift = -1.5 * i
            points = [self._at(point, frame) + QPointF(0.0, 1.0 - lift) for point in line]
            for each in (edge, pen):  # edged, so that it is seen on metal
                painter.setPen(each)
                painter.drawPolyline(QPolygonF(points))

    def _paint_dimension(
        self, painter: QPainter, dimension: Dimension, frame: tuple[float, float, float]
    ) -> None:
        theme, (scale, x, y) = self._theme, frame
        right, down = (theme.px(pixels) for pixels in _AWAY_PX[dimension.name])
        (x0, y0), (x1, y1) = (
            (x + point[0] * scale + right, y - point[1] * scale + down)
            for point in (dimension.start, dimension.end)
        )
        level = dimension.start[1] == dimension.end[1]
        dx, dy = (0, 4) if level else (4, 0)
        ends = [QLineF(px - dx, py - dy, px + dx, py + dy) for px, py in ((x0, y0), (x1, y1))]
        painter.setPen(theme.outline("ink"))
        painter.drawLines(QLineF(x0, y0, x1, y1), *ends)
        text = show(dimension.length_mm, "mm", self._units)
        weight = 600 if dimension.name == "mounted_width" else 400
        painter.setFont(theme.font(SMALL, weight))
        wide, high = theme.width_of(text, SMALL, weight), painter.fontMetrics().height()
        middle, height = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
        left, top = (
            (middle - 0.5 * wide, height + 3) if level else (middle + 7, height - 0.5 * high)
        )
        box = QRectF(left, top, wide + 2, high)
        if dimension.name == "internal_width":
            self._plate(painter, box)
            if wide > x1 - x0:
                return  # no room between the walls; the picks have it
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _plate(self, painter: QPainter, box: QRectF) -> None:
        painter.fillRect(box.adjusted(-2, 0, 2, 0), self._theme.color("air", 215))

    def _paint_labels(
        self, painter: QPainter, frame: tuple[float, float, float], lowest: float
    ) -> None:
        """Label valve, tape and sealant; what is written beside the drawing ends above `lowest`."""
        assert self._section is not None and self._state is not None
        plan, units = self._state.plan, self._units
        if self._labels and plan.tape.width_mm is not None:
            words = show(plan.tape.trim_to_mm or plan.tape.width_mm, TRADE, units)
            if plan.tape.strips == 2:
                words = "2 × " + words
            lowest = self._label(painter, "tape", tr("Tape"), words, frame, (0.02, lowest))
        if self._labels and plan.valve.length_mm is not None:
            self._label(
                painter,
                "valve",
                tr("Valve"),
                show(plan.valve.length_mm, TRADE, units),
                frame,
                (-0.12, lowest),
            )
        if "pool" in self._section.outlines:
            dip = tr("{depth} deep").format(depth=show(plan.sealant.dip_mm, "mm", units))
            self._inside(
                painter, "sealant", f"{show(plan.sealant.dose_ml, 'ml', units)}", dip, frame
            )
        if "bed" in self._section.assumed:
            painter.setFont(self._theme.font(SMALL))
            painter.setPen(self._theme.color("caution"))
            painter.drawText(
                QRectF(4, self.height() - self._theme.px(18), self.width() - 8, self._theme.px(18)),
                Qt.AlignmentFlag.AlignRight,
                tr("typical well"),
            )

    def lenses(self) -> tuple[Lens, ...]:
        section = self._section
        if section is None or self._bare or not self._seats:
            return ()
        frame, theme = self._frame, self._theme
        x0, _, x1, _ = self._bounds
        beside = frame[1] - 0.5 * (x1 - x0) * frame[0] - 8.0
        size = float(int(min(float(theme.px(LENS_PX)), beside, 0.45 * self.height())))
        words = max(theme.width_of(gap_words(seat, self._units), SMALL) for seat in self._seats)
        if size < max(MIN_LENS_PX, words):  # the words below it must fit its width
            return ()
        top = float(int(self.height() - 2.2 * theme.px(18) - size))
        boxes = (QRectF(3.0, top, size, size), QRectF(self.width() - 3.0 - size, top, size, size))
        scale = max(0.5 * size / MAX_REACH_MM, min(TIMES * frame[0], 0.5 * size / MIN_REACH_MM))
        return tuple(Lens(box, seat, scale) for box, seat in zip(boxes, self._seats, strict=True))

    def _paint_lenses(self, painter: QPainter, lenses: tuple[Lens, ...]) -> None:
        theme = self._theme
        paint_pair(painter, lenses, theme)
        painter.setPen(theme.color("muted"))
        for lens in lenses:
            box, words = lens.box, gap_words(lens.seat, self._units)
            painter.setFont(theme.font(SMALL))
            below = QRectF(box.left(), box.bottom() + 1, box.width(), theme.px(17))
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, words)

    def _label(
        self,
        painter: QPainter,
        anchor: str,
        name: str,
        value: str,
        frame: tuple[float, float, float],
        place: tuple[float, float],
    ) -> float:
        """Label a part on its left; return where the label begins.

        Args:
            place: how far below the part, as a share of the height, and where there is no more
                room.
        """
        assert self._section is not None
        theme = self._theme
        point = self._at(self._section.anchors[anchor], frame)
        row = theme.px(17)
        left = 4.0
        width = max(theme.px(70.0), point.x() - theme.px(52) - left)
        fall, lowest = place
        top = min(point.y() - row + fall * self.height(), lowest - 2.0 * row)
        painter.setFont(theme.font(SMALL))
        painter.setPen(theme.color("muted"))
        box = QRectF(left, top, width, row)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, name)
        painter.setFont(theme.font(TEXT, 600))
        painter.setPen(theme.color("ink"))
        painter.drawText(box.translated(0, row), Qt.AlignmentFlag.AlignRight, value)
        painter.setPen(theme.outline("ink"))
        painter.drawLine(QPointF(left + width + 5, top + row), point)
        painter.setBrush(theme.color("ink"))
        painter.drawEllipse(point, 2.5, 2.5)
        return top

    def _inside(
        self,
        painter: QPainter,
        anchor: str,
        first: str,
        second: str,
        frame: tuple[float, float, float],
    ) -> None:
        """Write above the pool, inside the tire where there is always room."""
        assert self._section is not None and self._state is not None
        theme, plan = self._theme, self._state.plan
        surface = -plan.tire.section_height_mm + plan.tire.casing_mm + plan.sealant.dip_mm
        at = self._at((0.0, surface), frame)
        row = theme.px(18)
        wide = max(theme.px(60.0), 0.9 * plan.tire.mounted_width_mm * frame[0])
        box = QRectF(at.x() - wide / 2, at.y() - 2.1 * row, wide, row)
        painter.setPen(theme.color("ink"))
        painter.setFont(theme.font(TEXT, 600))
        # the internal width is written there
        under_walls = frame[2] + 6.0 * frame[0] + theme.px(34)
        insert = self._section.outlines.get("insert")
        if insert is not None:
            under_walls = max(under_walls, self._at((0.0, min(y for _, y in insert)), frame).y())
        wide_enough = plan.tire.mounted_width_mm * frame[0] >= theme.px(ROOM_FOR_WORDS_PX)
        roomy = wide_enough and box.top() >= under_walls
        if not roomy:
            box.moveTop(at.y() + 2)  # into the liquid
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, first)
        if not roomy:
            return
        painter.setFont(theme.font(SMALL))
        painter.drawText(box.translated(0, row), Qt.AlignmentFlag.AlignCenter, second)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._section is None:
            return
        seen = next(
            (result for lens in self.lenses() if (result := lens.field_at(event.position()))), None
        )
        if seen is not None:
            self.clicked_part.emit(seen)
            return
        frame = self._frame
        for name, target in _FIELDS:
            outline = self._section.outlines.get(name)
            if outline and self._polygon(outline, frame).containsPoint(
                event.position(), Qt.FillRule.OddEvenFill
            ):
                self.clicked_part.emit(target)
                return
