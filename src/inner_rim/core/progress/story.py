"""What a log amounts to, entry by entry: which steps are done, what was found, how the beads sit."""

from collections.abc import Callable, Sequence

import msgspec

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import Action
from inner_rim.core.record.log import (
    Attempt,
    Dip,
    Feedback,
    Finding,
    Inspection,
    Leak,
    Logged,
    Override,
    Reading,
    SignOff,
    StepEntry,
)
from inner_rim.core.record.stages import Stage

#: Stages that have answers of their own; the steps of the others are ticked off one by one.
NOT_WALKED = frozenset({"check_in", "set"})
#: Where the peak of a try stays under this share of the first step, no pressure builds (docs/job.md 1.3).
NO_PRESSURE_SHARE = 0.2
#: A reading of a wheel that stands: ISO 8601, kPa, °C.
Read = tuple[str, float, float | None]


class SeatingStory(msgspec.Struct):
    """What the attempts so far amount to.

    Attributes:
        misses: steps that were climbed to since the last time anything came up.
        no_pressure: at the last try air escaped faster than it came.
        seated, one_low: how the beads sit.
        low_left, low_right: sectors that stay low.
        over_limit: the wheel saw more than its limit and was not inspected since.
    """

    misses: int = 0
    no_pressure: bool = False
    seated: bool = False
    low_left: tuple[int, ...] = ()
    low_right: tuple[int, ...] = ()
    one_low: bool = False
    over_limit: bool = False


class Story(msgspec.Struct):
    """What the log amounts to, entry by entry."""

    order: tuple[str, ...]
    done: set[str]
    failed: set[str]
    steps: list[str]
    answered: dict[str, bool]
    overridden: set[str]
    seating: SeatingStory
    signed: SignOff | None = None
    waiting: str = ""
    waiting_since: str = ""
    dip_factor: float = 1.0
    readings: list[Read] = []
    tries: list[Attempt] = []
    leak: str = ""
    feedback_kpa: float | None = None

    def behind(self, stage: str, other: str) -> bool:
        """Whether `stage` comes after `other` on this bench."""
        order = self.order
        return stage in order and (other not in order or order.index(stage) > order.index(other))


def tell(plan: WheelPlan, log: Sequence[Logged]) -> Story:
    """Return the story of a log, oldest entry first."""
    story = Story(
        order=plan.stages,
        done=set(),
        failed=set(),
        steps=[],
        answered={},
        overridden=set(),
        seating=SeatingStory(),
    )
    for item in log:
        take = _TAKES.get(type(item.entry))
        if take is not None:
            take(item, story, plan)
    for stage in plan.stages:
        if _all_done(plan, stage, story):
            story.done.add(stage)
    if story.signed is not None:
        story.done.add("set")
    return story


def _all_done(plan: WheelPlan, stage: Stage, story: Story) -> bool:
    """Whether every step of a stage is done; a hold ends only with what the gauge says."""
    if stage in NOT_WALKED or stage == "hold":
        return False
    seated = story.seating.seated and not story.seating.over_limit
    if stage == "seat" and seated and any(story.behind(later, stage) for later in story.done):
        return True
    steps = [step for step in plan.steps if step.stage == stage]
    first = next((place for place, step in enumerate(steps) if step.climb), len(steps))
    if seated and first < len(steps):  # whatever comes before the climb is behind beads that are up
        steps = steps[first:]
    return bool(steps) and all(seated if step.climb else is_done(step, story) for step in steps)


def is_done(step: Action, story: Story) -> bool:
    """Whether a step is done, or where it is a question, answered."""
    return step.key in story.steps or (bool(step.question) and story.answered.get(step.question) is not None)


def _take_step(item: Logged, story: Story, plan: WheelPlan) -> None:
    entry = item.entry
    assert isinstance(entry, StepEntry)
    waits = entry.outcome == "done" and any(
        step.key == entry.step and step.wait_minutes > 0.0 for step in plan.steps
    )
    story.waiting, story.waiting_since = (entry.step if waits else ""), item.at
    _tick(entry, story, plan)


def _tick(entry: StepEntry, story: Story, plan: WheelPlan) -> None:
    if entry.outcome == "done":
        if entry.step:
            story.steps.append(entry.step)
        if not entry.step or entry.completes:
            story.done.add(entry.stage)
        story.failed.discard(entry.stage)
    elif entry.outcome == "failed":
        story.readings.clear()
        story.failed.add(entry.stage)
        story.done.discard(entry.stage)
    elif entry.outcome == "reopened":
        _reopen(entry, story, plan)
    elif entry.outcome == "again":
        _begin_again(story)


def _begin_again(story: Story) -> None:
    """The wheel goes through its procedure once more, as what it is now."""
    story.done = {"check_in"}
    story.failed.clear()
    story.steps.clear()
    story.answered.clear()
    story.overridden.clear()
    story.seating = SeatingStory(over_limit=story.seating.over_limit)
    story.readings.clear()
    story.tries.clear()
    story.signed, story.leak = None, ""


def _reopen(entry: StepEntry, story: Story, plan: WheelPlan) -> None:
    """What is taken up again is looked at again, and all that stands on it."""
    stage = entry.stage
    later = {name for name in story.order if story.behind(name, stage)}
    story.done -= later | {stage}
    story.failed.clear()
    story.signed = None  # whatever was signed stood on this
    again = [step for step in plan.steps if step.stage in later or step.stage == stage]
    keys = [step.key for step in again]
    if entry.step in keys:
        again = again[keys.index(entry.step) :]
    story.steps = [key for key in story.steps if key not in {step.key for step in again}]
    for step in again:
        story.answered.pop(step.question, None)
    if stage == "hold" or "hold" in later:
        story.readings.clear()
        story.leak = ""
    if any(step.climb for step in again):  # a step after the climb leaves the beads where they are
        story.tries.clear()
        story.seating = SeatingStory(over_limit=story.seating.over_limit)


def _take_attempt(item: Logged, story: Story, plan: WheelPlan) -> None:
    entry, seating = item.entry, story.seating
    assert isinstance(entry, Attempt)
    story.tries.append(entry)
    story.readings.clear()  # whatever stood before does not stand now
    seating.over_limit = seating.over_limit or entry.over_limit
    uneven = bool(entry.low_left or entry.low_right)
    seating.seated = entry.outcome == "both_up" and not uneven
    seating.one_low = entry.outcome == "one_low" or uneven
    seating.low_left, seating.low_right = entry.low_left, entry.low_right
    seating.no_pressure = (
        entry.outcome == "not_up" and entry.peak_kpa < NO_PRESSURE_SHARE * plan.pressure.seating_kpa[0]
    )
    if entry.outcome != "not_up":
        seating.misses = 0
    elif not seating.no_pressure:  # a higher step would not be reached either
        seating.misses += 1


def _take_inspection(item: Logged, story: Story, plan: WheelPlan) -> None:
    entry, seating = item.entry, story.seating
    assert isinstance(entry, Inspection)
    if entry.after_over_limit:  # the air is out: the line is looked at again at pressure
        seating.over_limit = seating.seated = seating.no_pressure = False
        seating.misses = 0
    uneven = bool(entry.low_left or entry.low_right)
    seating.low_left, seating.low_right = entry.low_left, entry.low_right
    if uneven:  # any low sector: not seated, whatever the pressure
        seating.seated = False
    seating.one_low = uneven


def _take_reading(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Reading)
    story.readings.append((item.at, item.entry.pressure_kpa, item.entry.temperature_c))


def _take_leak(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Leak)
    story.leak = item.entry.place


def _take_feedback(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Feedback)
    story.feedback_kpa = item.entry.next_kpa


def _take_finding(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Finding)
    story.answered[item.entry.check] = item.entry.sound
    story.overridden.discard(item.entry.check)
    story.waiting = ""


def _take_override(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Override)
    story.overridden.add(item.entry.code)


def _take_dip(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, Dip)
    if item.entry.calibrates:
        story.dip_factor = item.entry.factor


def _take_sign_off(item: Logged, story: Story, plan: WheelPlan) -> None:
    assert isinstance(item.entry, SignOff)
    story.signed = item.entry


_TAKES: dict[type, Callable[[Logged, Story, WheelPlan], None]] = {
    StepEntry: _take_step,
    Attempt: _take_attempt,
    Inspection: _take_inspection,
    Reading: _take_reading,
    Leak: _take_leak,
    Feedback: _take_feedback,
    Finding: _take_finding,
    Override: _take_override,
    Dip: _take_dip,
    SignOff: _take_sign_off,
}
