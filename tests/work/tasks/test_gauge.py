import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inner_rim.core.record.units import UnitChoice
from inner_rim.work.tasks.gauge import GaugeSession, ThinTrace, alarm_words, simulated_lines
from tests.core.plan.test_advice import planned


def told(*readings, limit=340.0):
    session = GaugeSession()
    return session, [session.take(kpa, 0.1 * i, limit) for i, kpa in enumerate(readings)]


def test_an_attempt_begins_with_air_and_the_alarm_comes_before_the_limit():
    session, alarms = told(0, 2, 100, 305, 306, 339, 341, 200)
    assert alarms == ["none", "none", "none", "none", "near", "near", "over", "none"]
    assert session.peak_kpa == 341 and session.was_over and session.pressures[0] == 100
    session.take(345.0, 2.0, 340.0)
    assert "ABOVE THE LIMIT of 3.40 bar" in alarm_words(session, 340.0, UnitChoice())
    session.start_afresh()
    assert not session.begun and session.peak_kpa == 0.0 and not session.was_over


def test_33_bar_is_questioned_and_does_not_count():
    session, _alarms = told(100, 3300)
    assert session.peak_kpa == 100 and "33 bar" in alarm_words(session, 340.0, UnitChoice())
    session.take(120.0, 1.0, 340.0)
    assert session.questioned == ""


@given(st.lists(st.floats(0, 600), max_size=3000), st.integers(1, 100).map(lambda n: 4 * n))
def test_thinning_keeps_peak_trough_and_order(pressures, most):
    trace = ThinTrace(most)
    for i, kpa in enumerate(pressures):
        trace.add(0.02 * i, kpa)
    kept = trace.points()
    assert min(most // 2, len(pressures)) // 2 <= len(kept) <= most and list(kept) == sorted(kept)
    if pressures:
        assert max(p for _t, p in kept) == pytest.approx(max(pressures), abs=0.01)
        assert min(p for _t, p in kept) == pytest.approx(min(pressures), abs=0.01)


def test_half_an_hour_at_fifty_readings_a_second_loses_none():
    session = GaugeSession()
    for i in range(90_000):
        session.take(100.0 + i % 50, 0.02 * i, 340.0)
    assert len(session.times) == 90_000 and len(session.thin.points()) <= 304


def run(fault, seconds=30.0):
    _wheel, plan = planned()
    session, t = GaugeSession(), 0.0
    for word in simulated_lines(plan, "floor_pump", False, fault):
        t += word.after_s
        if word.unplug or t > seconds:
            return session, word.unplug
        session.take(float(word.data.split()[0]), t, plan.pressure.limit_kpa)
    return None


def test_the_simulator_shows_two_pops_and_its_faults_what_they_are():
    sound, _ = run("none")
    # at which its beads seat (docs/models.md 2.14)
    seats = planned()[1].seats.drawn(random.Random(1), 0.97 * 280)
    assert [pop.pressure_kpa for pop in sound.pops()] == pytest.approx(seats, abs=4)
    assert not sound.was_over
    assert len(run("low_sector")[0].pops()) == 1
    assert run("gap")[0].peak_kpa < 20
    assert run("cable")[1]
