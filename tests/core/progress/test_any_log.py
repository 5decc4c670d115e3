"""Any wheel with any log: where it stands can always be told, and nothing unsafe is ever next."""

from typing import get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from inner_rim.core.drawing.acts import draw_act
from inner_rim.core.drawing.section import draw_section
from inner_rim.core.models.pressure import RIDE_STEPS, moved_kpa
from inner_rim.core.plan.aftercare import due_care
from inner_rim.core.plan.picking import needs_of, pick_list
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.procedure.state import conditions
from inner_rim.core.progress.progress import NOT_WALKED, derive
from inner_rim.core.record import log as logs
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.spoken import STAGES
from inner_rim.core.record.units import METRIC
from tests.samples import any_job

#: Codes of stops that nobody may override.
GRAVE = (
    "diameter_mismatch",
    "straight_side_not_approved",
    "untubed_straight_side",
    "unmarked_narrow_tire",
    "width_ratio",
)
SECTORS = st.lists(st.integers(1, 8), max_size=3).map(tuple)
GAUGE = st.floats(0, 900)


def entry_for(codes, checks):
    return st.one_of(
        st.builds(
            logs.StepEntry,
            stage=st.sampled_from(STAGES),
            outcome=st.sampled_from(["done", "failed", "reopened", "waited", "again"]),
            step=st.sampled_from(["", *codes]),
            completes=st.booleans(),
        ),
        st.builds(
            logs.Attempt,
            peak_kpa=GAUGE,
            outcome=st.sampled_from(get_args(logs.Outcome)),
            limit_kpa=st.floats(50, 600),
            low_left=SECTORS,
            source=st.sampled_from(["", "floor_pump", "compressor", "charge"]),
            core_out=st.none() | st.booleans(),
            changed=st.lists(
                st.sampled_from(["core_out", "wet", "strap", "layer"]), max_size=2
            ).map(tuple),
        ),
        st.builds(logs.Changed, remedy=st.sampled_from(get_args(logs.Remedy))),
        st.builds(logs.Inspection, low_right=SECTORS, after_over_limit=st.booleans()),
        st.builds(logs.Finding, check=st.sampled_from(checks), sound=st.booleans()),
        st.builds(logs.Reading, pressure_kpa=GAUGE, temperature_c=st.none() | st.floats(-20, 45)),
        st.builds(logs.Leak, place=st.sampled_from(get_args(logs.LeakPlace))),
        st.builds(
            logs.Feedback,
            said=st.sampled_from(list(RIDE_STEPS)),
            pressure_kpa=GAUGE,
            next_kpa=GAUGE,
        ),
        st.builds(
            logs.Care, what=st.sampled_from(["refilled", "retaped", "tire_changed", "checked"])
        ),
        st.builds(logs.Dose, dose_ml=st.floats(0, 300)),
        st.builds(
            logs.Dip, depth_mm=st.floats(0, 60), free_ml=st.floats(0, 300), calibrates=st.booleans()
        ),
        st.builds(logs.SignOff, by=st.just("M. Osier"), pressure_kpa=GAUGE),
        st.builds(
            logs.Override,
            code=st.sampled_from([*checks, *QUESTIONS, *GRAVE]),
            by=st.just("M. Osier"),
            reason=st.just("looked twice"),
        ),
    )


@st.composite
def stories(draw):
    """A wheel that parses, its plan, and a log of anything at any time, the clock running backwards too."""
    try:
        job = job_from_plain(draw(any_job()))
    except InputError:
        return None
    wheel = job.wheels[0]
    plan = plan_wheel(wheel, job.ride, job.practice, job.shelf)
    codes = [step.key for step in plan.steps]
    checks = [step.question for step in plan.steps if step.question]
    entries = draw(st.lists(entry_for(codes, checks), max_size=25))
    minutes = draw(st.lists(st.integers(0, 59), min_size=len(entries), max_size=len(entries)))
    days = draw(st.lists(st.integers(1, 28), min_size=len(entries), max_size=len(entries)))
    log = [
        logs.Logged(
            number=i, at=f"2026-11-{day:02}T10:{minute:02}:00+00:00", wheel_id="w1", entry=entry
        )
        for i, (entry, minute, day) in enumerate(zip(entries, minutes, days, strict=True), 1)
    ]
    plan = plan_wheel(wheel, job.ride, job.practice, job.shelf, log)
    return plan.wheel, plan, log


@settings(max_examples=120)
@given(stories())
def test_where_a_wheel_stands_can_always_be_told(story):
    if story is None:
        return
    wheel, plan, _log = story
    progress = derive(wheel, plan)
    limit = plan.pressure.limit_kpa
    assert progress.stage in plan.stages and progress.stages == plan.stages
    assert 0.0 < progress.seating.step_kpa <= limit
    assert progress.action.read(METRIC)
    ml, state = plan.log.sealant_ml, plan.log.state
    assert ml >= 0.0 and (state.sealant == "in" or ml == 0.0)
    assert all(stop in progress.open_stops for stop in plan.stops if not stop.overridable)
    assert not any(stop.overridable for stop in plan.stops if stop.code in GRAVE)
    if progress.state == "finished":
        assert plan.log.signed is not None
    if progress.step is not None:
        assert progress.stage not in NOT_WALKED and progress.step.stage == progress.stage
        assert progress.step.key not in progress.steps_done
        assert (progress.question is not None) == bool(progress.step.question)
    if progress.open_stops and progress.state != "finished":
        assert progress.state == "stopped" and progress.step is None
    if progress.stage in ("hold", "set") and progress.state == "working" and plan.steps[:1]:
        # nothing is held or set that was not seen even at pressure
        rule = conditions("air=up", "core=in", "line=even")
        assert plan.steps[0].stage not in ("hold", "set") or all(state.holds(one) for one in rule)
    if progress.holding.report is not None:
        assert (
            progress.holding.report.low_percent_per_day
            <= progress.holding.report.high_percent_per_day
        )


@settings(max_examples=60)
@given(stories())
def test_what_hangs_on_a_story_never_fails_and_never_passes_the_limit(story):
    if story is None:
        return
    wheel, plan, _log = story
    limit = plan.pressure.limit_kpa
    for care in due_care(wheel, plan):
        assert care.words.read(METRIC)
    for said in RIDE_STEPS:
        for now in (0.0, 0.5 * limit, limit, 2.0 * limit):
            assert moved_kpa(now, said, plan.pressure, 1.0) <= limit + 1e-9
    section = draw_section(wheel, plan)
    assert all(draw_act(plan, step).captions for step in plan.steps)
    x0, y0, x1, y1 = section.bounds()
    assert x0 < x1 and y0 < y1
    needs = needs_of(wheel, plan)
    for line in pick_list([("wheel", needs, frozenset())], ()):
        assert line.amount > 0.0 and line.short == line.amount
    assert len({step.key for step in plan.steps}) == len(plan.steps)
