"""What is painted is where the core says: pixels counted against figures."""

import pytest
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from inner_rim.core.drawing.loupe import draw_loupe
from inner_rim.core.drawing.section import draw_section
from inner_rim.core.record.log import StepEntry
from inner_rim.core.record.spoken import STAGES
from inner_rim.core.record.units import UnitChoice
from inner_rim.desktop.drawings.ring import paint_ring
from inner_rim.desktop.drawings.scale import BAR_PX, LEFT_PX, PressureScale
from inner_rim.desktop.drawings.section import SectionView
from inner_rim.desktop.drawings.sectors import WheelView
from inner_rim.desktop.widgets.theme import Theme, load_font
from inner_rim.work.bench import Bench
from inner_rim.work.storage.demo import demo_bench
from tests.samples import planned_after, stored


@pytest.fixture
def theme(qapp):
    load_font()
    made = Theme("light")
    made.apply(qapp)
    return made


def wheel_state(**changes):
    from datetime import UTC, datetime

    bench = Bench()
    state = demo_bench(datetime(2026, 11, 24, tzinfo=UTC))
    job = type(state.jobs[0])(job_id="j1", document=stored(**changes), drafts={}, revision=1)
    bench.sync.adopt(type(state)((job,), {}, 0))
    return bench.current


def near(image, point, color, reach=2):
    """Whether a color is painted at a point, or within `reach` pixels of it."""
    wanted = QColor(color)
    for dx in range(-reach, reach + 1):
        for dy in range(-reach, reach + 1):
            result = image.pixelColor(int(point.x()) + dx, int(point.y()) + dy)
            if all(abs(a - b) <= 6 for a, b in zip(result.getRgb(), wanted.getRgb(), strict=True)):
                return True
    return False


@pytest.fixture
def section_view(theme, qtbot):
    def show(**changes):
        state = wheel_state(**changes)
        view = SectionView(theme)
        qtbot.addWidget(view)
        view.resize(640, 560)
        section = draw_section(state.wheel, state.plan)
        view.show_section(state, section, UnitChoice())
        return view, section, state, view.grab().toImage()

    return show


@pytest.mark.parametrize(
    "changes",
    [
        {},
        {"rim__internal_width_mm": 30, "tire__size": "57-622"},
        {"rim__internal_width_mm": 17, "tire__size": "32-622", "rim__hook": "straight_side"},
        {"rim__internal_width_mm": 76, "tire__size": "102-622", "shelf__tape_widths_mm": [45]},
    ],
)
def test_tape_valve_pool_and_rim_are_painted_where_the_core_puts_them(section_view, theme, changes):
    view, section, state, image = section_view(**changes)
    frame = view._frame
    tokens = theme.tokens
    for path in section.paths.values():
        right = path[-1]  # labels stand on the left
        assert near(image, view._at((right[0] - 0.2, right[1]), frame), tokens.tape, 4)
    surface = (
        -state.plan.tire.section_height_mm + state.plan.tire.casing_mm + state.plan.sealant.dip_mm
    )
    aside = 0.12 * state.plan.tire.mounted_width_mm
    assert near(image, view._at((aside, surface - 1.0), frame), tokens.liquid)
    assert near(image, view._at((2.6 * aside, surface + 0.8), frame), tokens.air)
    top = max(y for _, y in section.outlines["valve_stem"])
    assert near(image, view._at((0.0, top - 1.0), frame), tokens.brass)
    assert not near(image, view._at((0.0, top + 1.5), frame), tokens.brass, 0)


def test_the_section_stays_inside_its_widget_for_odd_wheels(section_view):
    for changes in (
        {"rim__depth_at_valve_mm": 90},
        {"rim__internal_width_mm": 40, "tire__size": "100-622"},
    ):
        view, section, _state, _image = section_view(**changes)
        frame = view._frame
        for outline in section.outlines.values():
            for point in outline:
                at = view._at(point, frame)
                assert 0 <= at.x() <= view.width() and 0 <= at.y() <= view.height()


def test_the_limit_stands_on_the_scale_where_its_pressure_is(theme, qtbot):
    state = wheel_state()
    scale = PressureScale(theme)
    qtbot.addWidget(scale)
    scale.resize(1280, scale.height())
    scale.show_plan(state.plan, UnitChoice(), None, state.progress.seating.step_kpa)
    image = scale.grab().toImage()
    bar = QRectF(theme.px(LEFT_PX), theme.px(BAR_PX), 1280 - theme.px(LEFT_PX + 20), theme.px(11))
    for kpa, purpose in (
        (340.0, "stop"),
        (150.0, "accent"),
        (320.0, "accent_soft"),
        (370.0, "stop_soft"),
        (60.0, "line"),
    ):
        x = scale._x(kpa, bar, 340.0) + (4 if purpose == "accent" else 0)
        assert near(
            image,
            QPointF(x, bar.center().y() + (8 if purpose == "stop" else 3)),
            getattr(theme.tokens, purpose),
            3,
        )
    assert "limit 3.40 bar, printed on the tire" in scale.accessibleDescription()
    scale.show_plan(state.plan, UnitChoice(kpa="psi"), None, None)
    assert "49.3 psi" in scale.accessibleDescription()


def test_the_ring_has_an_arc_a_stage_and_a_sign_for_its_state(theme):
    _plan, progress = planned_after(StepEntry(stage="check_in"), StepEntry(stage="strip"))
    image = QImage(200, 200, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    paint_ring(painter, QRectF(0, 0, 200, 200), progress, theme)
    painter.end()
    import math

    colors = {}
    stages = progress.stages
    # no arc for what this wheel does not get
    assert "insert" not in stages and set(stages) < set(STAGES)
    for i, stage in enumerate(stages):
        angle = 2 * math.pi * (i + 0.5) / len(stages)
        at = QPointF(100 + 85 * math.sin(angle), 100 - 85 * math.cos(angle))
        colors[stage] = image.pixelColor(at.toPoint()).name().upper()
    tokens = theme.tokens
    assert colors["check_in"] == colors["strip"] == tokens.accent
    assert colors["tape"] == tokens.ink and colors["seat"] == tokens.edge


@pytest.mark.parametrize(("side", "sector"), [("left", 1), ("left", 4), ("right", 8), ("right", 5)])
def test_a_hit_on_the_wheel_is_the_sector_that_is_painted_there(theme, qtbot, side, sector):
    import math

    from PyQt6.QtCore import Qt

    view = WheelView(theme)
    qtbot.addWidget(view)
    view.resize(700, 380)
    hits = []
    view.sector_clicked.connect(lambda s, n: hits.append((s, n)))
    center, radius = view._circles()[side]
    angle = 2 * math.pi * (sector - 0.5) / 8
    at = QPointF(
        center.x() + 0.85 * radius * math.sin(angle), center.y() - 0.85 * radius * math.cos(angle)
    )
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert hits == [(side, sector)]
    low = {"left": frozenset(), "right": frozenset()} | {side: frozenset({sector})}
    view.show_wheel(None, low["left"], low["right"], side)
    assert near(view.grab().toImage(), at, theme.tokens.stop, 4)
    assert f"Low: {side} {sector}" == view.accessibleDescription()


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("changes", [{}, {"shelf__tape_widths_mm": [21]}])
def test_what_stands_under_a_lens_is_whole_however_small_it_is(qapp, qtbot, scale, changes):
    load_font()
    theme, seen = Theme("light", scale), set()
    state = wheel_state(**changes)
    section = draw_section(state.wheel, state.plan)
    view = SectionView(theme)
    qtbot.addWidget(view)
    for wide in range(300, 800, 7):
        view.resize(wide, 380)
        view.show_section(state, section, UnitChoice(), draw_loupe(section, state.plan, True))
        image = view.grab().toImage()
        for lens in view.lenses():
            seen.add(int(lens.box.width()))
            rows = range(int(lens.box.bottom()) + 3, int(lens.box.bottom()) + theme.px(17))
            for x in (int(lens.box.left()), int(lens.box.right()) - 1):
                assert all(image.pixelColor(x, y) == theme.color("card") for y in rows), (
                    wide,
                    lens.box,
                )
    assert len(seen) > 5 and max(seen) > 120
