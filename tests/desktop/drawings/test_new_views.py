"""Loupe, plot, board, bars of shares: what is painted stands where its figure says."""

import itertools
from datetime import datetime, timedelta

import msgspec
import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPalette
from PyQt6.QtTest import QTest

from inner_rim.core.drawing.loupe import draw_loupe
from inner_rim.core.drawing.section import draw_section
from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import METRIC
from inner_rim.core.schedule.day import Day, DayWheel, Mechanic, Task
from inner_rim.core.schedule.listing import Help, list_schedule
from inner_rim.desktop.drawings.board import ZOOMS, BoardView
from inner_rim.desktop.drawings.loupe import Lens, gap_words, paint_pair, wall_words
from inner_rim.desktop.drawings.plot import PlotView
from inner_rim.desktop.widgets.lines_view import LinesView
from inner_rim.desktop.widgets.theme import NAMES, SMALL, Theme, load_font
from inner_rim.work.text.board import RowHelp, board_of
from inner_rim.work.text.lines import ListLine
from inner_rim.work.text.plots import Level, Plot
from tests.samples import ordinary


@pytest.fixture(params=NAMES)
def theme(request, qapp):
    load_font()
    return Theme(request.param)


def has(image, place, color, reach=3):
    """Whether a color lies within so many pixels of a place."""
    wanted = QColor(color)
    return any(
        abs(image.pixelColor(x, y).red() - wanted.red()) < 12
        and abs(image.pixelColor(x, y).green() - wanted.green()) < 12
        and abs(image.pixelColor(x, y).blue() - wanted.blue()) < 12
        for x in range(int(place.x()) - reach, int(place.x()) + reach + 1)
        for y in range(int(place.y()) - reach, int(place.y()) + reach + 1)
        if image.rect().contains(x, y)
    )


def seats(**changes):
    job = job_from_plain(ordinary(**changes))
    plan = plan_job(job)[0]
    hook = job.wheels[0].rim.hook
    return draw_loupe(
        draw_section(job.wheels[0], plan), plan, None if hook is None else hook == "hooked"
    )


def lens_of(seat, theme):
    image = QImage(300, 300, QImage.Format.Format_RGB32)
    image.fill(QColor("magenta"))
    painter = QPainter(image)
    lens = Lens(QRectF(10, 10, 280, 280), seat, 27.0)
    lens.paint(painter, theme)
    painter.end()
    return lens, image


WELL = {"depth_mm": 4.0, "floor_mm": 7.0, "left_shoulder_mm": 4.5, "right_shoulder_mm": 4.5}


@pytest.mark.parametrize("sharp", [1.0, 1.25])
@pytest.mark.parametrize("well", [WELL, {**WELL, "right_shoulder_mm": 6.0}])
def test_a_pair_of_lenses_is_what_each_is_alone(theme, well, sharp):
    pair = seats(rim__well=well)
    assert pair[0].even == (well == WELL)
    images = []
    for paint in (
        lambda p, lenses: [one.paint(p, theme) for one in lenses],
        lambda p, lenses: paint_pair(p, lenses, theme),
    ):
        image = QImage(int(300 * sharp), int(150 * sharp), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(sharp)
        image.fill(theme.color("card"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        boxes = (QRectF(4, 4, 120, 120), QRectF(160, 4, 120, 120))
        paint(painter, tuple(Lens(box, seat, 12.0) for box, seat in zip(boxes, pair, strict=True)))
        painter.end()
        images.append(image)
    other = sum(
        abs(a - b) > 60
        for x in range(images[0].width())
        for y in range(images[0].height())
        for a, b in zip(
            images[0].pixelColor(x, y).getRgb(), images[1].pixelColor(x, y).getRgb(), strict=True
        )
    )
    most = 0.001 if sharp == 1.0 else 0.04  # half a pixel of the device at the edges
    assert other < most * images[0].width() * images[0].height()


def test_a_lens_shows_tape_metal_and_bead_and_the_band_only_where_the_well_was_assumed(theme):
    left, right = seats(rim__well=WELL, practice__layers=3, shelf__tape_widths_mm=[26])
    for seat in (left, right):
        lens, image = lens_of(seat, theme)
        for layer in seat.layers:
            assert has(image, lens.at(layer[0]), theme.tokens.tape), seat.side
        sign = -1.0 if seat.side == "left" else 1.0
        assert has(image, lens.at((sign * 12.8, -2.0)), theme.tokens.metal, 1)
        assert not has(image, lens.at((sign * 12.4, 0.3)), theme.tokens.caution, 2)
        assert image.pixelColor(12, 12) == theme.color("card")  # nothing outside the lens
        assert lens.field_at(QPointF(12, 12)) is None
    assumed, _ = seats()
    lens, image = lens_of(assumed, theme)
    middle = assumed.band[len(assumed.band) // 2]
    assert has(image, lens.at(middle) + QPointF(0, 3), theme.tokens.caution, 8)


@pytest.mark.parametrize(
    ("hook", "words"),
    [
        ("hooked", "hooked wall"),
        ("straight_side", "hookless wall"),
        (None, "hook not entered, drawn hooked"),
    ],
)
def test_a_lens_says_what_wall_it_is_and_how_the_tape_lies(hook, words, qapp):
    seat, _ = seats(rim__hook=hook, rim__well=WELL, shelf__tape_widths_mm=[26])
    assert wall_words(seat) == words and "bare" in gap_words(seat, METRIC)
    bare, _ = seats(shelf__tape_widths_mm=[])
    assert gap_words(bare, METRIC) == "no tape"


def plot(**changes):
    usual = {
        "title": "t", "x_range": (0.0, 10.0), "y_range": (2.0, 3.0), "dots": ((0.0, 2.9), (5.0, 2.6)),
        "line": ((0.0, 2.9), (5.0, 2.6), (10.0, 2.3)),
        "band": ((0.0, 2.85, 2.95), (5.0, 2.5, 2.7), (10.0, 2.1, 2.5)),
        "levels": (Level(2.8, "limit 2.80", "stop"),), "y_ticks": ((2.5, "2.5"),), "x_ticks": ((5.0, "12:00"),),
    }  # fmt: skip
    return Plot(**{**usual, **changes})


def test_a_plot_has_its_dots_band_and_levels_where_their_figures_are(theme, qtbot):
    view = PlotView(theme)
    qtbot.addWidget(view)
    # The theme's own ground: an earlier test's light one is near the dark theme's ink.
    view.setPalette(QPalette(theme.color("card")))
    view.setAutoFillBackground(True)
    view.resize(420, 320)
    view.show_plot(plot())
    image = view.grab().toImage()
    assert has(image, view.at(5.0, 2.6), theme.tokens.ink)
    assert has(image, view.at(8.0, 2.8), theme.tokens.stop, 2)
    assert has(image, view.at(9.0, 2.42) + QPointF(0, 6), theme.tokens.accent_soft, 2)
    assert not has(image, view.at(9.0, 2.05), theme.tokens.accent_soft, 1)
    assert "limit 2.80" in view.accessibleDescription()
    view.show_plot(plot(dots=(), line=(), band=(), levels=(), note="nothing yet"))
    assert "nothing yet" in view.accessibleDescription()
    assert not has(view.grab().toImage(), QPointF(210, 160), theme.tokens.ink)


def board_day():
    """A wheel that is late, one in time, one that is done tomorrow, and short steps in a row."""
    start = datetime(2026, 11, 25, 8)
    hold = [Task("Lay it flat", 2, 15, stage="hold"), Task("Turn it", 1, 720, stage="hold")]
    return Day(
        start,
        (
            DayWheel(
                "Ferry crate · front",
                (Task("Tape", 60, 120, stage="tape"), Task("Mount", 45, stage="mount")),
                start + timedelta(hours=2),
                key="job/ferry",
            ),
            DayWheel(
                "Tern",
                (Task("Pump", 90, stage="seat"),),
                start + timedelta(hours=9),
                key="job/tern",
            ),
            DayWheel(
                "Knot",
                (*hold, Task("Sign", 5, stage="set")),
                start + timedelta(hours=30),
                key="job/knot",
            ),
        ),
        (Mechanic("one"),),
    )


def test_a_board_is_hit_where_its_bars_lie_and_opens_their_wheel(theme, qtbot):
    day = board_day()
    view = BoardView(theme)
    qtbot.addWidget(view)
    view.resize(1100, 400)
    view.show_day(board_of(day, list_schedule(day)))
    image = view.grab().toImage()
    opened = []
    view.opened.connect(opened.append)
    assert {group.bars[0].late for group in view.groups if group.bars[0].key == "job/ferry"} == {
        True
    }
    for group in view.groups:
        box = view.places.group_box(group)
        first = view.places.box(group.bars[0])
        soft = theme.tokens.stop_soft if group.bars[0].late else theme.tokens.accent_soft
        assert has(image, QPointF(first.left() + 3, first.top() + 3), soft, 2)
        QTest.mouseDClick(view, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert opened == [group.bars[0].key for group in view.groups]
    assert has(image, QPointF(view.places.x(0), 60), theme.tokens.stop, 2)  # the line of now
    shut = day.minute(datetime(2026, 11, 25, 20))
    assert has(image, QPointF(view.places.x(shut), 40), theme.tokens.ground, 2)  # the night, folded
    assert view.places.x(24 * 60) - view.places.x(570) < 30


@pytest.mark.parametrize("wide", [620, 1100, 1700])
@pytest.mark.parametrize("by_wheel", [True, False])
def test_every_bar_says_what_it_is_at_every_zoom_and_none_is_a_minute(theme, qtbot, wide, by_wheel):
    day = board_day()
    view = BoardView(theme)
    qtbot.addWidget(view)
    view.resize(wide, 400)
    view.show_day(board_of(day, list_schedule(day), by_wheel))
    for _ in ZOOMS:
        view.zoom(-1)
    # an hour has all the room
    assert view.places.axis.per_min * 60 == pytest.approx(view.places.room_px)
    for _zoom in ZOOMS:
        shown = [bar for group in view.groups for bar in group.bars]
        assert len(shown) == sum(len(wheel.tasks) for wheel in day.wheels) == len(set(shown))
        rows = sorted(view.groups, key=lambda one: (one.bars[0].row, one.start))
        for group, after in zip(rows, [*rows[1:], None], strict=True):
            box, words = view.places.group_box(group), theme.width_of(group.words, SMALL)
            if group.inside:
                assert words <= box.width(), group.words
            elif after is not None and after.bars[0].row == group.bars[0].row:
                assert group.words and box.right() + words <= view.places.group_box(after).left(), (
                    group.words
                )
        flat = next(
            group
            for group in view.groups
            if any(bar.words.endswith("Lay it flat") for bar in group.bars)
        )
        # two steps of a minute or two are one bar
        assert any(bar.words.endswith("Turn it") for bar in flat.bars)
        view.zoom(1)


def test_a_share_is_a_bar_of_that_length(theme, qtbot):
    view = LinesView(theme, "Likelihoods")
    qtbot.addWidget(view)
    view.resize(400, 200)
    view.show_lines(
        (
            ListLine("25 %", "floor pump", share=0.25, tone="caution"),
            ListLine("90 %", "compressor", share=0.9),
        )
    )
    view.show()
    image = view.grab().toImage()
    for row, share, color in ((0, 0.25, theme.tokens.caution), (1, 0.9, theme.tokens.accent)):
        rect = view.visualRect(view.rows.index(row))
        y = rect.bottom() - 4
        left, right = rect.left() + 10, rect.right() - 12
        full = left + share * (right - left)
        assert has(image, QPointF(full - 8, y), color, 2)
        assert not has(image, QPointF(full + 10, y), color, 2)


@pytest.mark.parametrize("wide", [500, 900, 1300])
def test_buttons_that_help_lie_in_their_row_beside_or_below_each_other(theme, qtbot, wide):
    day = board_day()
    board = board_of(day, list_schedule(day))
    helps = tuple(
        RowHelp(words, 0, Help("stay"))
        for words in (
            "Do it before Old Curlew · rear",
            "Stay 20 min longer",
            "Promise Thu 26 Nov 08:10",
            "Hm",
        )
    )
    rows = tuple(
        msgspec.structs.replace(row, helps=helps if row.late else ()) for row in board.rows
    )
    view = BoardView(theme)
    qtbot.addWidget(view)
    view.resize(wide, 600)
    view.show_day(msgspec.structs.replace(board, rows=rows))
    (place,) = (place for place, row in enumerate(rows) if row.late)
    boxes = [button.geometry() for button in view.helps]
    assert len(boxes) == 4 and not any(a.intersects(b) for a, b in itertools.combinations(boxes, 2))
    top, bottom = view.places.tops[place : place + 2]
    assert all(top < box.top() and box.bottom() < bottom and box.right() < wide for box in boxes)
    pressed = []
    view.helped.connect(pressed.append)
    QTest.mouseClick(view.helps[1], Qt.MouseButton.LeftButton)
    assert pressed == [helps[1]]
