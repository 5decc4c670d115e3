"""The words beside the drawings: picks, cards and the labels of the scale."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel

from inner_rim.core.plan.wheel_plan import plan_job
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.desktop.drawings.scale import at_their_ticks
from inner_rim.desktop.widgets.base import PlainLabel
from inner_rim.desktop.widgets.theme import Theme, theme_choice
from inner_rim.work.text.card import text_card
from inner_rim.work.text.pick_rows import rows
from tests.samples import ordinary

IMPERIAL = UnitChoice("psi", "in", "floz")


def plan(**changes):
    return plan_job(job_from_plain(ordinary(**changes)))[0]


def row(title, units=METRIC, **changes):
    return next(result for result in rows(plan(**changes), units) if result.title == title)


@given(
    st.lists(st.tuples(st.floats(200, 1200), st.floats(20, 120)), min_size=1, max_size=6),
    st.lists(st.floats(200, 1200), max_size=3),
)
def test_labels_of_the_scale_are_at_their_ticks_and_cover_no_other_mark(labels, blocked):
    labels.sort()
    ticks, widths = [tick for tick, _ in labels], [width for _, width in labels]
    left, right, gap = 180.0, 1256.0, 8.0
    edges = at_their_ticks(ticks, widths, blocked, left, right, gap)
    shown = [one for one in zip(edges, ticks, widths, strict=True) if one[0] is not None]
    for edge, tick, width in shown:
        assert edge - 1e-6 <= tick <= edge + width + 1e-6 and left <= edge <= right - width
        assert not any(edge < x < edge + width for x in (*blocked, *ticks) if abs(x - tick) > 2.0)
    for before, after in itertools.pairwise(shown):
        assert before[0] + before[2] + gap <= after[0] + 1e-6
    alone = at_their_ticks(ticks[:1], widths[:1], [], left, right, gap)[0]
    assert alone is not None


def test_the_picks_stand_in_the_order_of_the_bench():
    titles = [result.title for result in rows(plan(), METRIC)]
    assert titles == [
        "Tire",
        "Tape",
        "Valve",
        "Insert",
        "Mounting",
        "Sealant",
        "Limit",
        "Seat",
        "Sealing",
        "Riding",
    ]


@pytest.mark.parametrize(
    ("title", "changes", "value", "tone"),
    [
        ("Tire", {}, "45.4 mm wide", "calm"),
        ("Tire", {"rim__bead_seat_diameter_mm": 584}, "45.4 mm wide", "stop"),
        ("Tape", {"shelf__tape_widths_mm": [27]}, "27 mm", "calm"),
        ("Tape", {"shelf__tape_widths_mm": [25]}, "25 mm", "caution"),
        ("Tape", {"shelf__tape_widths_mm": [45]}, "45 mm → 26.9 mm", "calm"),
        ("Tape", {"shelf__tape_widths_mm": [12]}, "none fits", "caution"),
        (
            "Tape",
            {"practice__layers": 2, "shelf__tape_widths_mm": [27]},
            "27 mm × 2 layers",
            "calm",
        ),
        (
            "Tape",
            {"rim__internal_width_mm": 76, "tire__size": "102-622", "shelf__tape_widths_mm": [45]},
            "2 × 45 mm",
            "calm",
        ),
        ("Valve", {"shelf__valve_lengths_mm": [40]}, "40 mm", "calm"),
        ("Valve", {"shelf__valve_lengths_mm": [30]}, "none reaches", "caution"),
        ("Valve", {"rim__depth_at_valve_mm": None}, "—", "caution"),
        ("Insert", {}, "none", "calm"),
        ("Insert", {"insert__tires_used": 3}, "fits, with remarks", "caution"),
        ("Insert", {"insert__bead_seat_diameter_mm": 406}, "does not fit", "stop"),
        (
            "Mounting",
            {"practice__layers": 4, "shelf__tape_thickness_mm": 1.0},
            "about -7 mm slack",  # with a deeper well than assumed it may go
            "caution",
        ),
        (
            "Mounting",
            {"practice__layers": 5, "shelf__tape_thickness_mm": 1.0},
            "about -13 mm slack",
            "stop",
        ),
        ("Sealant", {}, "60 ml", "calm"),
        ("Limit", {}, "3.40 bar", "calm"),
        (
            "Limit",
            {"tire__max_pressure_kpa": None, "rim__max_pressure_kpa": None},
            "2.88 bar",
            "caution",
        ),
        ("Limit", {"rim__max_pressure_kpa": 120}, "1.20 bar", "stop"),
        ("Seat", {}, "1.40 – 2.10 – 2.80 bar", "calm"),
        ("Riding", {"load_n": 3000}, "3.40 bar", "caution"),
    ],
)
def test_a_pick_says_its_value_in_its_tone(title, changes, value, tone):
    result = row(title, **changes)
    assert (result.value, result.tone) == (value, tone)
    assert result.why.formula and result.why.source


def test_a_figure_stays_with_its_unit_where_a_text_is_broken(qtbot):
    label = PlainLabel("Leave it at 3.00 bar for 15 min, 2 of 3")
    qtbot.addWidget(label)
    assert label.text() == "Leave it at 3.00 bar for 15 min, 2 of 3"
    assert QLabel.text(label) == "Leave it at 3.00\xa0bar for 15\xa0min, 2 of 3"


def test_picks_and_card_follow_the_units():
    for result in rows(plan(), IMPERIAL):
        text = f"{result.value} {result.note}"
        assert " bar" not in text and " ml" not in text
        # the trade names these in mm everywhere
        assert result.title in ("Tape", "Valve") or " mm" not in text
    card = text_card(plan(), IMPERIAL)
    assert "49.3 psi, printed on the tire" in card and " bar" not in card


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"rim__bead_seat_diameter_mm": 584}, "STOP  Different diameters"),
        ({"shelf__tape_widths_mm": [12]}, "none in stock fits; 26.9 mm needed"),
        ({"shelf__valve_lengths_mm": [20]}, "none in stock reaches 39.2 mm"),
        ({"rim__depth_at_valve_mm": None}, "measure the rim's depth at the valve"),
        ({"load_n": 3000}, "(at the limit)"),
        ({"load_n": 60}, "(raised to the minimum)"),
        ({"insert__bead_seat_diameter_mm": 406}, "does not fit; Made for 406"),
        ({"ride__temperature_c": -5}, "here"),
    ],
)
def test_the_text_card_says_what_matters(changes, says):
    assert says in text_card(plan(**changes), METRIC)


def test_a_theme_file_must_have_every_purpose_and_no_other(tmp_path):
    from inner_rim.desktop.widgets.theme import Tokens

    good = dict(Theme("light").tokens._values)
    assert Tokens(good).ink == good["ink"]
    for bad in ({k: v for k, v in good.items() if k != "tape"}, {**good, "glitter": "#FFFFFF"}):
        with pytest.raises(ValueError, match=r"tape|glitter"):
            Tokens(bad)
    with pytest.raises(AttributeError):
        _ = Tokens(good).glitter


@pytest.mark.parametrize("stored", [(None, None), ("neon", 9), (3, "large"), ("", 0.0)])
def test_an_odd_stored_theme_falls_back_to_the_usual(stored):
    assert theme_choice(*stored) == ("light", 1.0)
    assert theme_choice("dark", 1.25) == ("dark", 1.25)


@pytest.mark.parametrize(
    ("scheme", "contrast", "theme"),
    [
        ("Unknown", "NoPreference", "light"),
        ("Dark", "NoPreference", "dark"),
        ("Dark", "HighContrast", "contrast"),
    ],
)
def test_a_first_start_takes_the_desktop_s_theme(monkeypatch, scheme, contrast, theme):
    class Hints:
        def accessibility(self):
            return self

        def contrastPreference(self):
            return Qt.ContrastPreference[contrast]

        def colorScheme(self):
            return Qt.ColorScheme[scheme]

    monkeypatch.setattr(QApplication, "styleHints", Hints)
    assert theme_choice(None, None) == (theme, 1.0) and theme_choice("light", 1.5) == ("light", 1.5)


@pytest.mark.parametrize("scale", [1.0, 1.25, 1.5])
@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_the_list_of_keys_lies_whole_in_the_window(demo, scale, size):
    demo.shell.resize(*size)
    QApplication.processEvents()
    demo.window.use_theme(Theme("light", scale))
    QTest.keyClicks(demo.window, "?")
    shown = demo.window._lists.shown
    assert demo.window.rect().contains(shown.geometry())
    QApplication.processEvents()
    for label in shown.findChildren(QLabel):
        assert label.heightForWidth(label.width()) <= label.height() or not label.wordWrap()
        assert label.wordWrap() or label.sizeHint().width() <= label.width()
