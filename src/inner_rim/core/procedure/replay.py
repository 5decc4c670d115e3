"""What the log says of the work itself: done again as another kind, with more layers; and the wheel's state now."""

from collections.abc import Iterable, Sequence

import msgspec

from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.setup import Setup, start_of
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.record.job import Arrival, OldSealant, Practice, Wheel, Work
from inner_rim.core.record.log import (
    AnyEntry,
    Attempt,
    Dose,
    Finding,
    Inspection,
    Logged,
    StepEntry,
    Unreadable,
)

#: Kind of work that doing a stage again leads to: the tire comes off, what is sound stays.
AGAIN = {"tape": "retape"}


def since_again(log: Sequence[Logged]) -> int:
    """Return where the present run of the procedure begins in a log: after the last doing-again, else 0."""
    for place in range(len(log) - 1, -1, -1):
        entry = log[place].entry
        if isinstance(entry, StepEntry) and entry.outcome == "again":
            return place + 1
    return 0


#: The step that a doing-again of the tape begins with where the good tape stays: one more layer over it.
LAYER = "layer"


def is_layer(entry: AnyEntry | Unreadable) -> bool:
    """Whether an entry begins another run for one more layer over good tape."""
    return isinstance(entry, StepEntry) and entry.outcome == "again" and entry.step == LAYER


def layers_added(log: Iterable[Logged]) -> int:
    """Return how many layers of tape were added as a remedy, at seating or at the dry test."""
    return sum(
        LAYER in item.entry.changed if isinstance(item.entry, Attempt) else is_layer(item.entry)
        for item in log
    )


def seated_kpa(log: Sequence[Logged]) -> float | None:
    """Return the pressure at which both beads came up in the present run, kPa; None before that.

    The peak that was reached, at most the limit of then: no other was looked at.
    """
    found = None
    for item in log[since_again(log) :]:
        entry = item.entry
        if isinstance(entry, Attempt):
            up = entry.outcome == "both_up" and not (entry.low_left or entry.low_right or entry.over_limit)
            found = entry.peak_kpa if up and entry.peak_kpa > 0.0 else None
        elif isinstance(entry, Inspection):
            found = None if entry.low_left or entry.low_right or entry.after_over_limit else found
        elif isinstance(entry, StepEntry) and entry.outcome == "reopened" and _reaches_climb(entry):
            found = None
    return found


def _reaches_climb(entry: StepEntry) -> bool:
    """Whether what is taken up again lies before the climb, so that the beads are seated once more."""
    if entry.stage == "seat":
        return entry.step in ("", "bead.wet", "core.out", "air.step", "air.burst")
    return entry.stage in ("check_in", "strip", "tape", "valve", "insert", "mount")


def as_logged(wheel: Wheel, log: Sequence[Logged], layers: int) -> Wheel:
    """Return the wheel as its log has made it: taped again, with layers that were added.

    Args:
        wheel: as it was checked in.
        log: its entries.
        layers: of tape that the methods ask for.
    """
    more, again = layers_added(log), since_again(log)
    changes: dict[str, object] = {"layers": layers + more} if more else {}
    tries = [item.entry for item in log[again:] if isinstance(item.entry, Attempt)]
    if tries and tries[-1].core_out:  # as a remedy too: then it goes back in before anything is judged
        changes["core_out"] = True
    if changes:
        own = msgspec.structs.replace(wheel.practice or Practice(), **changes)
        wheel = msgspec.structs.replace(wheel, practice=own)
    if again:
        entry = log[again - 1].entry
        kind = AGAIN.get(entry.stage) if isinstance(entry, StepEntry) else None
        if kind is not None:
            kept = True if is_layer(entry) else None  # a layer goes over good tape; else it comes off
            work = msgspec.structs.replace(wheel.work or Work(), kind=kind, keep_tape=kept)
            old, now = _sealant_now(wheel, log[:again]), _found_now(wheel, log[:again])
            wheel = msgspec.structs.replace(wheel, work=work, sealant=old, arrival=now)
    return wheel


_AT_PRESSURE: dict[str, object] = {"tire": "on", "seated": True, "air": True}
#: What steps and stages that are done leave of a wheel that is worked on again, and answers that are no. A stage that was
#: confirmed whole may have left air in: it is said to be in, so that letting it out is never left out.
_LEAVES: dict[str, dict[str, object]] = {
    "seat": _AT_PRESSURE,
    "sealant": _AT_PRESSURE,
    "hold": _AT_PRESSURE,
    "set": _AT_PRESSURE,
    "strip.deflate": {"air": False},
    "air.deflate": {"air": False},
    "core.out": {"air": False},
    "strip": {"tire": "off", "seated": False, "air": False, "insert": False},
    "strip.tire_off": {"tire": "off", "seated": False, "air": False, "insert": False},
    "bead.first": {"tire": "one_bead_off"},
    "insert.on": {"insert": True},
    "insert": {"insert": True},
    "bead.second": {"tire": "on"},
    "bead.close": {"tire": "on"},
    "bead.refit": {"tire": "on"},
    "mount": {"tire": "on"},
    "air.inflate": {"seated": True, "air": True},
    "beads_unseat": {"seated": False, "air": False},
    "bead_line_low": {"seated": False},
    "bead_line_low_again": {"seated": False},
    "bead_line_low_last": {"seated": False},
    "bead_line_uneven": {"seated": False},
}


def _found_now(wheel: Wheel, before: Sequence[Logged]) -> Arrival:
    """How a wheel stands as a run begins, by what was done in the one before it; what nothing says is as usual."""
    facts: dict[str, object] = {}
    leaves = _LEAVES
    if wheel.work is not None and wheel.work.kind in ("refresh", "repair", "back_to_tube"):
        leaves = {code: left for code, left in _LEAVES.items() if code != "strip"}  # the tire stays on
    for item in before[since_again(before[:-1]) :]:
        entry = item.entry
        if isinstance(entry, Attempt):
            up = entry.outcome == "both_up" and not (entry.low_left or entry.low_right)
            facts |= {"seated": up, "air": up and not entry.core_out}
        elif isinstance(entry, StepEntry) and entry.outcome == "done":
            code = entry.step if entry.step.count(".") < 2 else entry.step.rpartition(".")[0]
            facts |= leaves.get(code or entry.stage, {})
        elif isinstance(entry, StepEntry) and entry.outcome == "reopened":
            facts |= {"seated": True, "air": True}  # a slip was taken back: the air may never have been out
        elif isinstance(entry, Finding) and not entry.sound:
            facts |= leaves.get(entry.check, {})
    return msgspec.convert(facts, Arrival)


def _sealant_now(wheel: Wheel, before: Sequence[Logged]) -> OldSealant | None:
    """What sealant is inside as a run begins: what was logged in the one before it; what came in, where nothing was done."""
    start = since_again(before[:-1])
    doses = [item.entry for item in before[start:] if isinstance(item.entry, Dose)]
    if doses:
        return OldSealant(name=doses[-1].name or None, in_ml=sum(dose.dose_ml for dose in doses))
    opened = any(
        isinstance(item.entry, StepEntry) and item.entry.stage == "strip" and item.entry.outcome == "done"
        for item in before[start:]
    )
    return OldSealant(in_ml=0.0) if opened else wheel.sealant


class Physical(msgspec.Struct, frozen=True):
    """What state a wheel is in now, by its log.

    Attributes:
        state: the facts.
        sealant_ml: that went in and was not taken out.
        sealant: of which kind, empty where it was not said.
        layers_added: of tape, as a remedy.
    """

    state: WheelState
    sealant_ml: float = 0.0
    sealant: str = ""
    layers_added: int = 0


def replay(
    setup: Setup, actions: Sequence[Action], log: Sequence[Logged], in_ml: float = 0.0, in_name: str = ""
) -> Physical:
    """Return the state of a wheel after its log.

    A step that is taken back is as if it had not been done, and so is all that came after it in its
    procedure; a stage that is done whole is every step of it.

    Args:
        setup: what decides its procedure.
        actions: the procedure.
        log: its entries, oldest first.
        in_ml: sealant that was in it when it came.
        in_name: of which kind.
    """
    told = _Told({item.key: item for item in actions})
    questions = {item.question: item for item in actions if item.question}
    for item in log[since_again(log) :]:
        _take(item.entry, told, actions, questions)
    state = start_of(setup)
    for action in actions:
        if action.climb:
            gives = action.gives if action.stage in told.whole else ()
            state = state.after(told.seated if told.seated is not None else gives)
        elif action.key in told.done:
            state = state.after(action.gives)
    if told.low:  # whatever was looked at before, a spot was seen low since
        state = state.after(("first=on", "last=on", "line=unseen"))
    stays = in_ml if setup.tubeless and state.sealant == "in" and not _emptied(told.done) else 0.0
    ml = stays + sum(dose.dose_ml for dose in told.doses) if state.sealant == "in" else 0.0
    name = next((dose.name for dose in reversed(told.doses) if dose.name), in_name if stays else "")
    return Physical(state, ml, name if ml else "", layers_added(log))


class _Told(msgspec.Struct):
    """What the log tells: the actions done, whole stages, doses, what the last attempt at seating left, and whether a
    spot was seen low since.
    """

    by_key: dict[str, Action]
    done: dict[str, Action] = {}
    whole: set[str] = set()
    doses: list[Dose] = []
    seated: tuple[str, ...] | None = None
    low: bool = False


def _take(
    entry: AnyEntry | Unreadable, told: _Told, actions: Sequence[Action], questions: dict[str, Action]
) -> None:
    """Take an entry into what is told."""
    if isinstance(entry, StepEntry):
        _take_outcome(entry, told, actions)
    elif isinstance(entry, Finding) and entry.check in questions:
        action = questions[entry.check]
        told.low = told.low and not (entry.sound and "line=even" in action.gives)
        if entry.sound:
            told.done[action.key] = action
        else:
            told.done.pop(action.key, None)
    elif isinstance(entry, Attempt):
        told.seated, told.low = _seated(entry), False
    elif isinstance(entry, Inspection):
        if entry.after_over_limit:
            core = tuple(fact for fact in told.seated or () if fact.startswith("core="))
            told.seated = (*core, "air=flat", "line=unseen")
        told.low = bool(entry.low_left or entry.low_right)
    elif isinstance(entry, Dose):
        told.doses.append(entry)


def _take_outcome(entry: StepEntry, told: _Told, actions: Sequence[Action]) -> None:
    if entry.outcome == "done" and not entry.step:
        told.whole.add(entry.stage)
    elif entry.outcome == "reopened":
        back = _from(entry, actions)
        told.whole -= {item.stage for item in back}
        if any(item.climb for item in back):
            told.seated = None
    if any(item.asks == "dose" for item in _take_step(entry, actions, told.by_key, told.done)):
        told.doses.clear()


def _emptied(done: dict[str, Action]) -> bool:
    return "strip.sealant_out" in done


def _take_step(
    entry: StepEntry, actions: Sequence[Action], by_key: dict[str, Action], done: dict[str, Action]
) -> list[Action]:
    """Take a step into what is done; return what was taken back with it."""
    if entry.outcome == "done":
        if entry.step in by_key:
            done[entry.step] = by_key[entry.step]
        if not entry.step or entry.completes:
            done.update({item.key: item for item in actions if item.stage == entry.stage and not item.climb})
    elif entry.outcome == "reopened":
        return [done.pop(item.key) for item in _from(entry, actions) if item.key in done]
    return []


def _from(entry: StepEntry, actions: Sequence[Action]) -> Sequence[Action]:
    """The actions from the one that an entry takes up again, or from its stage's first, to the end."""
    for place, item in enumerate(actions):
        if item.key == entry.step or (not entry.step and item.stage == entry.stage):
            return actions[place:]
    return ()


def _seated(entry: Attempt) -> tuple[str, ...]:
    core = "core=out" if entry.core_out else "core=in"
    if entry.outcome == "both_up" and not (entry.low_left or entry.low_right):
        if entry.core_out:
            return ("first=seated", "last=seated", core)
        return ("first=seated", "last=seated", core, "air=up", "line=even")
    return (core, "air=flat", "line=unseen")
