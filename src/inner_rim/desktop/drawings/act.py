"""The picture of an act: the core's scene, as large as there is room."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from inner_rim.core.drawing.scene import BADGE_RADIUS, HIGH, NOTE, WIDE, Badge, Caption, Path, Scene
from inner_rim.core.record.units import UnitChoice
from inner_rim.desktop.widgets.base import Picture
from inner_rim.desktop.widgets.theme import SIZES, Theme
from inner_rim.words import tr

#: Around words, so that a line behind them does not run into them, px.
HALO = 3.0
CORNER_PX = 10.0
DASHES = (4.0, 3.0)


class ActView(Picture):
    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._scene: Scene | None = None
        self._units = UnitChoice()
        self.setMinimumSize(180, 120)

    def set_theme(self, theme: Theme) -> None:
        self._theme = theme
        self.update()

    def show_scene(self, scene: Scene | None, units: UnitChoice) -> None:
        if scene is self._scene and units == self._units:
            return
        self._scene, self._units = scene, units
        self.setAccessibleName(tr("Picture of the step"))
        self.setAccessibleDescription(described(scene, units) if scene is not None else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._scene is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("card"))
        painter.drawRoundedRect(QRectF(self.rect()), CORNER_PX, CORNER_PX)
        inner = QRectF(self.rect()).adjusted(HALO, HALO, -HALO, -HALO)
        paint_scene(painter, inner, self._scene, self._units, self._theme)


def described(scene: Scene, units: UnitChoice) -> str:
    """Return what a picture says, for a screen reader."""
    return "; ".join(one.words.read(units) for one in scene.captions)


def paint_scene(
    painter: QPainter, box: QRectF, scene: Scene, units: UnitChoice, theme: Theme
) -> None:
    """Paint a scene into a box, its shape kept."""
    scale = min(box.width() / WIDE, box.height() / HIGH)
    painter.save()
    painter.translate(
        box.left() + 0.5 * (box.width() - scale * WIDE),
        box.top() + 0.5 * (box.height() - scale * HIGH),
    )
    painter.setClipRect(QRectF(0.0, 0.0, scale * WIDE, scale * HIGH))
    for path in scene.paths:
        _paint_path(painter, path, scale, theme)
    for badge in scene.badges:
        _paint_badge(painter, badge, scale, theme)
    for words in scene.captions:
        _paint_words(painter, words, scale, units, theme)
    painter.restore()


def _paint_path(painter: QPainter, path: Path, scale: float, theme: Theme) -> None:
    points = QPolygonF([QPointF(scale * x, scale * y) for x, y in path.points])
    if path.edge:
        pen = QPen(theme.color(path.edge), max(1.0, scale * path.width))
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        if path.dashed:
            pen.setDashPattern(DASHES)
        painter.setPen(pen)
    else:
        painter.setPen(Qt.PenStyle.NoPen)
    if path.fill:
        painter.setBrush(theme.color(path.fill))
    else:
        painter.setBrush(Qt.BrushStyle.NoBrush)
    (painter.drawPolygon if path.closed else painter.drawPolyline)(points)


def _paint_badge(painter: QPainter, badge: Badge, scale: float, theme: Theme) -> None:
    at, radius = QPointF(scale * badge.at[0], scale * badge.at[1]), scale * BADGE_RADIUS
    painter.setPen(QPen(theme.color(badge.color), max(1.5, 3.0 * scale)))
    painter.setBrush(theme.color("card"))
    painter.drawEllipse(at, radius, radius)
    painter.setFont(theme.font(size_of(NOTE, scale, theme), 600))
    box = QRectF(at.x() - radius, at.y() - radius, 2.0 * radius, 2.0 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(badge.number))


def size_of(size: int, scale: float, theme: Theme) -> int:
    """Return the largest of the sizes of type that is no larger than the picture's scale makes it:
    what does not overlap in the core's layout does not overlap here.
    """
    room = size * scale / theme.scale
    return max((one for one in SIZES if one <= room + 0.5), default=SIZES[0])


def lines_of(
    words: Caption, scale: float, units: UnitChoice, theme: Theme
) -> tuple[list[str], int, QRectF]:
    """Return the lines of some words, their size of type, and their box."""
    pixels = size_of(words.size, scale, theme)
    text = words.words.read(units)
    lines = theme.wrapped(text, scale * words.wide, pixels, 600) if words.wide else [text]
    high = len(lines) * QFontMetricsF(theme.font(pixels, 600)).height()
    wide = max(theme.width_of(line, pixels, 600) for line in lines)
    left = scale * words.at[0] - (0.0, 0.5, 1.0)[(-1, 0, 1).index(words.align)] * wide
    return lines, pixels, QRectF(left, scale * words.at[1] - 0.5 * high, wide, high)


def _paint_words(
    painter: QPainter, words: Caption, scale: float, units: UnitChoice, theme: Theme
) -> None:
    lines, pixels, box = lines_of(words, scale, units, theme)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color("card", 215))
    painter.drawRoundedRect(box.adjusted(-HALO, 0.0, HALO, 0.0), HALO, HALO)
    painter.setFont(theme.font(pixels, 600))
    painter.setPen(theme.color(words.color))
    align = {
        -1: Qt.AlignmentFlag.AlignLeft,
        0: Qt.AlignmentFlag.AlignHCenter,
        1: Qt.AlignmentFlag.AlignRight,
    }
    painter.drawText(
        box.adjusted(-1.0, 0.0, 1.0, 1.0),
        align[words.align] | Qt.AlignmentFlag.AlignVCenter,
        "\n".join(lines),
    )
