from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.units import METRIC, UnitChoice
from inner_rim.core.schedule.hours import Hours, Opening, joined
from inner_rim.work.tasks.first_run import LOW_AT_MM, ROLL_MM, tapes_of
from inner_rim.work.tasks.scheduling import hands
from inner_rim.work.text.hours_words import (
    opening_of,
    opening_text,
    own_hours_of,
    own_hours_text,
    week_of,
    week_text,
)

#: One stretch, or several with breaks between them.
openings = (
    st.lists(st.integers(0, 1440), min_size=2, max_size=6, unique=True)
    .filter(lambda times: len(times) % 2 == 0)
    .map(lambda times: tuple(map(Opening, sorted(times)[::2], sorted(times)[1::2])))
    .map(lambda spans: spans[0] if len(spans) == 1 else spans)
)


@given(openings)
def test_hours_are_read_back_as_they_are_written(opening):
    assert opening_of(opening_text(opening)) == opening
    assert (
        opening_of(f"  {opening_text(opening).replace('-', ' – ').replace(':', '.')} ") == opening
    )


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("8-17", [(480, 1020)]),
        ("9 to 12:30", [(540, 750)]),
        ("0:00-24:00", [(0, 1440)]),
        ("9am-5pm", [(540, 1020)]),
        ("9-5pm", [(540, 1020)]),
        ("1-5 pm", [(780, 1020)]),
        ("9 a.m. until noon", [(540, 720)]),
        ("12am-12pm", [(0, 720)]),
        ("8h-17h", [(480, 1020)]),
        ("8-12, 13-17:30", [(480, 720), (780, 1050)]),
        ("13-17 and 8-12", [(480, 720), (780, 1020)]),
        ("8am-noon + 1pm-5:30pm", [(480, 720), (780, 1050)]),
    ],
)
def test_hours_in_usual_spellings(typed, meant):
    assert [(span.opens, span.closes) for span in joined(opening_of(typed))] == meant


@pytest.mark.parametrize("typed", ["", "closed", " - ", "Closed"])
def test_a_day_that_is_closed(typed):
    assert opening_of(typed) is None


@pytest.mark.parametrize(
    "typed",
    [
        "17-8",
        "8:60-9",
        "8-25",
        "noon",
        "8",
        "8-17-18",
        "²-9",
        "8:00-17:30x",
        "13pm-15",
        "8-12, 11-14",
    ],
)
def test_hours_that_are_none_are_refused_with_what_is_accepted(typed):
    with pytest.raises(InputError, match="13-17:30"):
        opening_of(typed)


def test_tapes_named_in_the_first_run_are_whole_parts_in_any_unit():
    mm, inch = (
        tapes_of("27 25,5", METRIC),
        tapes_of("25.4mm 1.1in", UnitChoice("psi", "in", "floz")),
    )
    assert [item.spec["width_mm"] for item in mm] == [25.5, 27.0]
    assert [item.spec["width_mm"] for item in inch] == pytest.approx([25.4, 27.94])
    assert all(
        item.stock == ROLL_MM and item.low_at == LOW_AT_MM and item.name for item in (*mm, *inch)
    )
    assert tapes_of("", METRIC) == []
    with pytest.raises(InputError):
        tapes_of("27 400", METRIC)  # wider than any rim


weeks = st.tuples(*(st.none() | openings,) * 7).filter(any)


@given(weeks, st.lists(st.dates(date(2026, 1, 1), date(2027, 12, 31)), max_size=3))
def test_a_mechanic_s_week_is_read_back_as_it_is_written(week, off):
    hours = Hours(week, tuple(sorted(set(off))))
    assert week_of(week_text(hours)) == hours
    own = {"R Sedge": hours}
    assert own_hours_of(own_hours_text(own, ["M Osier", "R Sedge"]), ["M Osier", "R Sedge"]) == own


def test_days_may_go_over_the_end_of_the_week_and_days_off_alone_leave_the_shop_s_hours():
    week = week_of("fri-mon 10-14").week
    assert [result is not None for result in week] == [True, False, False, False, True, True, True]
    shop = Hours(days_off=(date(2026, 12, 25),))
    (one,) = hands(["R Sedge"], own_hours_of("R Sedge: off 2026-12-24", ["R Sedge"]), shop)
    assert one.hours.week == shop.week and len(one.hours.days_off) == 2


@pytest.mark.parametrize(
    "typed",
    ["R Sedge", "R Sedge: mon", "R Sedge: funday 8-12", "N Tern: mon 8-12", "R Sedge: mon 12-8"],
)
def test_own_hours_that_are_not_understood_are_refused(typed):
    with pytest.raises(InputError, match="type "):
        own_hours_of(typed, ["R Sedge"])
