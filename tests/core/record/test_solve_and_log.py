import math

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.optimize import brentq

from inner_rim.core.models.tire import integrate_even, root
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Correction,
    Dose,
    Finding,
    Inspection,
    Logged,
    Note,
    Override,
    Promised,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.units import METRIC
from inner_rim.work.text.log_words import entry_text


@given(st.floats(0.1, 5), st.floats(0.2, 6), st.floats(-3, 3))
def test_root_against_brentq(steepness, power, shift):
    def rising(x):
        return steepness * ((x - shift) + power * (x - shift) ** 3)

    result = root(rising, -4.0, 4.0)
    reference = brentq(rising, -4.0, 4.0, xtol=1e-14)
    assert result == pytest.approx(reference, abs=1e-9)


@pytest.mark.parametrize(("low", "high", "result"), [(1.0, 2.0, 1.0), (-3.0, -1.0, -1.0)])
def test_no_crossing_gives_the_nearer_end(low, high, result):
    assert root(lambda x: x, low, high) == result


@given(st.floats(0.05, 1.4), st.floats(0.5, 3))
def test_quadrature_against_scipy(half, power):
    def f(x):
        return max(0.0, math.cos(x) - math.cos(half)) ** (0.5 + power)

    reference = quad(f, -half, half)[0]
    assert integrate_even(f, half) == pytest.approx(reference, rel=2e-3, abs=1e-12)


ENTRIES = [
    (StepEntry(stage="tape"), "Tape: done"),
    (StepEntry(stage="hold", outcome="failed", text="bubbles at the valve"), "Leak test: failed. bubbles at the valve"),
    (Attempt(peak_kpa=220, outcome="both_up", limit_kpa=340), "Seating, 2.20 bar: seated"),
    (Attempt(peak_kpa=400, outcome="not_up", limit_kpa=340), "ABOVE THE LIMIT of 3.40 bar. Seating, 4.00 bar: not yet"),
    (Attempt(peak_kpa=150, outcome="one_low", limit_kpa=340, low_left=(3, 4), low_right=(8,)), "Seating, 1.50 bar: low spot, left 3, 4; right 8"),
    (Inspection(), "Even all around"),
    (Inspection(low_left=(2,)), "Low in sector left 2"),
    (Inspection(after_over_limit=True), "Inspected after going above the limit"),
    (Finding(check="tape_damaged", sound=False), "FOUND: Old tape"),
    (Finding(check="rim_dented", sound=True), "Rim walls OK"),
    (Reading(pressure_kpa=231), "Read 2.31 bar"),
    (Dose(dose_ml=65), "Sealant in: 65 ml"),
    (Promised(due="2026-11-27T08:30"), "Promised for Fri 27 Nov 08:30"),
    (SignOff(by="M. Osier", pressure_kpa=190), "Handed over at 1.90 bar, signed M. Osier"),
    (Note(text="as result"), "as result"),
    (Override(code="tape_damaged", by="M. Osier", reason="under the bead"), "Stop “tape_damaged” overridden by M. Osier: under the bead"),
    (Correction(of=7, text="it was the rear wheel"), "Correction of entry 7: it was the rear wheel"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("entry", "text"), ENTRIES, ids=[type(e).__name__ + str(i) for i, (e, _) in enumerate(ENTRIES)]
)
def test_every_kind_of_entry_reads_in_words_and_comes_back_from_json(entry, text):
    assert entry_text(entry, METRIC) == text
    assert msgspec.json.decode(msgspec.json.encode(entry), type=AnyEntry) == entry
    logged = Logged(number=1, at="2026-11-24T10:00:00+00:00", wheel_id="w1", entry=entry)
    assert msgspec.convert(msgspec.to_builtins(logged), Logged) == logged


@pytest.mark.parametrize(
    "body",
    [
        {"kind": "attempt", "peak_kpa": -1, "outcome": "both_up", "limit_kpa": 300},
        {"kind": "attempt", "peak_kpa": 100, "outcome": "perhaps", "limit_kpa": 300},
        {
            "kind": "attempt",
            "peak_kpa": 100,
            "outcome": "one_low",
            "limit_kpa": 300,
            "low_left": [9],
        },
        {"kind": "sign_off", "by": "", "pressure_kpa": 190},
        {"kind": "override", "code": "x", "by": "M. Osier", "reason": ""},
        {"kind": "note", "text": "x", "extra": 1},
        {"kind": "unheard_of"},
    ],
)
def test_what_is_no_entry_is_refused(body):
    with pytest.raises(msgspec.ValidationError):
        msgspec.convert(body, AnyEntry)
