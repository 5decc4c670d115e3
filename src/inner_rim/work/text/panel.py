"""What the step panel can say and ask, as plain data: a head, an action, cautions, answers,
entries.
"""

from collections.abc import Callable
from datetime import datetime
from typing import Any, Literal, get_args

import msgspec

from inner_rim.core.models.sealant import top_up_ml
from inner_rim.core.plan.aftercare import sealant_left_ml
from inner_rim.core.plan.wheel_plan import dose_due_ml
from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import MAX_WHEELS
from inner_rim.core.record.log import (
    LONGEST_NAME,
    MAX_DIP_MM,
    MAX_DOSE_ML,
    MAX_G,
    MAX_KPA,
    MAX_WORDS,
    MIN_G,
)
from inner_rim.core.record.parts import Item
from inner_rim.core.record.units import TRADE, UnitChoice, entry_text, parse, to_set, whole
from inner_rim.core.schedule.hours import Hours
from inner_rim.core.schedule.promise import Promise
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import PlannedWheel

AskName = Literal[
    "pressure", "handed", "reading", "kept", "dose", "added", "dip", "layers", "valve", "count",
    "weight", "kind", "air", "went", "reason", "by", "signed",
]  # fmt: skip
ASK_NAMES: tuple[AskName, ...] = get_args(AskName)
#: The entries of the panel, in their order: one for a figure, one for words, one for a name.
Slot = Literal["figure", "reason", "signature"]
SLOTS: tuple[Slot, ...] = get_args(Slot)

MIN_DOSE_ML = 0.1
#: Possible layers of tape and lengths of valves.
MAX_LAYERS, VALVE_MM = 6, (5.0, 150.0)
#: Coldest and hottest air around a wheel.
MIN_C, MAX_C = -40.0, 60.0
#: How much more a weeping tire gets at a time (common practice, no published source).
WEEPING_ML = 15.0


class Ask(msgspec.Struct, frozen=True):
    """One thing that is asked for.

    Attributes:
        label: what is said beside its entry.
        prefill: what is in the entry before something is typed.
        stays: what is typed stays for the next time that it is asked.
    """

    name: AskName
    label: str
    slot: Slot
    prefill: str = ""
    stays: bool = False


class _AskKind(msgspec.Struct, frozen=True):
    label: str
    slot: Slot = "figure"
    prefill: Callable[[PlannedWheel, UnitChoice, datetime], str] = lambda state, units, now: ""
    stays: bool = False


def _kept(state: PlannedWheel, units: UnitChoice, now: datetime) -> str:
    """What the rider kept, as far as is known."""
    kept = state.value("previous_pressure_kpa")
    return entry_text(kept, "kpa", units) if isinstance(kept, float) else ""


def _added(state: PlannedWheel, units: UnitChoice, now: datetime) -> str:
    plan = state.plan
    if plan.log.signed is None:
        return entry_text(WEEPING_ML, "ml", units)
    added = top_up_ml(plan.sealant.dose_ml, sealant_left_ml(state.wheel, plan, now))
    return entry_text(added, "ml", units) if added else ""


def _due(state: PlannedWheel, units: UnitChoice, now: datetime) -> str:
    due = dose_due_ml(state.plan)
    return entry_text(due, "ml", units) if due is not None else ""


def _valve(state: PlannedWheel, units: UnitChoice, now: datetime) -> str:
    length = state.plan.valve.length_mm
    return entry_text(length, TRADE, units) if length is not None else ""


_KINDS: dict[AskName, _AskKind] = {
    "pressure": _AskKind(
        N_("Pressure reached"),
        prefill=lambda state, units, now: to_set(state.progress.seating.step_kpa, units),
    ),
    "handed": _AskKind(
        N_("Handed over at"),
        prefill=lambda state, units, now: to_set(state.plan.pressure.set_here_kpa, units),
    ),
    "reading": _AskKind(N_("Gauge")),
    "kept": _AskKind(N_("Pressure kept"), prefill=_kept),
    "dose": _AskKind(N_("Amount in"), prefill=_due),
    "added": _AskKind(N_("Amount in"), prefill=_added),
    "dip": _AskKind(N_("Dipstick")),
    "layers": _AskKind(N_("Layers"), prefill=lambda state, units, now: str(state.plan.tape.layers)),
    "valve": _AskKind(N_("Valve"), prefill=_valve),
    "count": _AskKind(N_("How many")),
    "weight": _AskKind(N_("Weight, g, if weighed"), "reason"),
    "kind": _AskKind(N_("Kind"), "reason", lambda state, units, now: state.sealant_name),
    "air": _AskKind(N_("Air, {unit}"), "reason", stays=True),
    "went": _AskKind(N_("How it went"), "reason"),
    "reason": _AskKind(N_("Reason"), "reason"),
    "by": _AskKind(N_("Name"), "signature", stays=True),
    "signed": _AskKind(N_("Signed by"), "signature", stays=True),
}


def asks(
    state: PlannedWheel | None, units: UnitChoice, now: datetime, signed_by: str, *names: AskName
) -> tuple[Ask, ...]:
    """Return what is asked for, each in its entry; a second figure takes that for words."""
    result: list[Ask] = []
    for name in names:
        kind = _KINDS[name]
        slot = "reason" if any(one.slot == kind.slot for one in result) else kind.slot
        label = tr(kind.label).format(unit=units.unit("c").symbol)
        prefill = (
            signed_by
            if slot == "signature"
            else kind.prefill(state, units, now)
            if state is not None
            else ""
        )
        result.append(Ask(name, label, slot, prefill, kind.stays))
    return tuple(result)


# -- what each accepts -----------------------------------------------------------------------------


def accept(name: AskName, text: str, units: UnitChoice) -> Any:
    """Return what was typed, a figure in its canonical unit; None where nothing was and nothing had
    to be.

    Raises:
        InputError: it cannot be that; one sentence says what can.
    """
    return _ACCEPTS[name](text.strip(), units)


def _figure(text: str, kind: str, units: UnitChoice, low: float, high: float) -> float | None:
    """What was typed in canonical units, None where it is not a figure within the bounds."""
    try:
        value = parse(text, kind, units)
    except InputError:
        return None
    return value if low <= value <= high else None


def _pressure(text: str, units: UnitChoice) -> float:
    value = _figure(text, "kpa", units, 0.0, MAX_KPA)
    if value is None:
        raise InputError(tr("Type a pressure, such as 2.3, 33 psi or 2,3 bar"))
    return value


def _dose(text: str, units: UnitChoice) -> float:
    value = _figure(text, "ml", units, MIN_DOSE_ML, MAX_DOSE_ML)
    if value is None:
        words = tr("“{typed}” cannot be a dose; type how much went in, such as 60")
        raise InputError(words.format(typed=text[:20]))
    return value


def _dip(text: str, units: UnitChoice) -> float | None:
    """Nothing typed is no dip."""
    value = _figure(text, "mm", units, 0.0, MAX_DIP_MM)
    if text and value is None:
        raise not_this_pool(text)
    return value


def not_this_pool(text: str) -> InputError:
    words = tr("“{typed}” cannot be this pool's depth; type the depth in mm, or leave it empty")
    return InputError(words.format(typed=text.strip()[:20]))


def _layers(text: str, units: UnitChoice) -> int:
    layers = whole(text, 1, MAX_LAYERS)
    if layers is None:
        words = tr("“{typed}” cannot be layers of tape; type 1 to {most}")
        raise InputError(words.format(typed=text[:20], most=MAX_LAYERS))
    return layers


def _valve_mm(text: str, units: UnitChoice) -> float | None:
    value = _figure(text, TRADE, units, *VALVE_MM)
    if text and value is None:
        raise InputError(
            tr("“{typed}” cannot be a valve's length; type it in mm, such as 44").format(
                typed=text[:20]
            )
        )
    return value


def _count(text: str, units: UnitChoice) -> int:
    count = whole(text, 1, MAX_WHEELS)
    if count is None:
        raise InputError(
            tr("How many? Enter a whole number from 1 to {most}").format(most=MAX_WHEELS)
        )
    return count


def _weight(text: str, units: UnitChoice) -> float | None:
    value = _figure(text, "g", units, MIN_G, MAX_G)
    if text and value is None:
        words = tr("“{typed}” cannot be a wheel's weight; type it in grams, or leave it empty")
        raise InputError(words.format(typed=text[:20]))
    return value


def _air(text: str, units: UnitChoice) -> float | None:
    value = _figure(text, "c", units, MIN_C, MAX_C)
    if text and value is None:
        raise InputError(tr("Type the air temperature, such as 18 or 64 f, or leave it empty"))
    return value


def _name(text: str, units: UnitChoice) -> str:
    if len(text) > LONGEST_NAME:
        words = tr("The name has {n} characters: at most {most}.")
        raise InputError(words.format(n=len(text), most=LONGEST_NAME))
    return text


def _signed(text: str, units: UnitChoice) -> str:
    if not text:
        raise InputError(tr("Who signs? Type your name."))
    return _name(text, units)


def _by(text: str, units: UnitChoice) -> str:
    if not text:
        raise InputError(tr("To override, enter a reason and your name."))
    return _name(text, units)


def _reason(text: str, units: UnitChoice) -> str:
    if not text:
        raise InputError(tr("To override, enter a reason and your name."))
    if len(text) > MAX_WORDS:
        words = tr("The reason has {n} characters: at most {most}.")
        raise InputError(words.format(n=len(text), most=MAX_WORDS))
    return text


_ACCEPTS: dict[AskName, Callable[[str, UnitChoice], Any]] = {
    "pressure": _pressure,
    "handed": _pressure,
    "reading": _pressure,
    "kept": lambda text, units: _pressure(text, units) if text else None,
    "dose": _dose,
    "added": _dose,
    "dip": _dip,
    "layers": _layers,
    "valve": _valve_mm,
    "count": _count,
    "weight": _weight,
    "kind": _name,
    "air": _air,
    "went": lambda text, units: text[:MAX_WORDS],
    "reason": _reason,
    "by": _by,
    "signed": _signed,
}


class Answer(msgspec.Struct, frozen=True):
    """A button of the panel.

    Attributes:
        words: where they are not the command's own title.
        checked: whether it is pressed in; None for a button that does not stay in.
        number: the digit that gives it, 0 for none.
        enter: where it is the first, Enter gives it. Enter confirms work and nothing else: it skips
            no wait, answers no question that can stop the job, passes no stop, makes no second
            wheel.
    """

    command: str
    words: str = ""
    checked: bool | None = None
    enter: bool = True
    number: int = 0


class PanelContext(msgspec.Struct, frozen=True):
    """What the words depend on besides the wheel.

    Attributes:
        units: what figures are shown in.
        pace: whether one answer confirms all plain steps up to the next question, or each is
            confirmed by itself.
        promise: when the wheel can be promised, None while it is not known.
        hours: when the shop is open, None where that is not asked.
        held: a gauge has shown the step's pressure for two seconds.
        lost: the wheel in hand that another window took off the bench, empty for none.
        items: what is on the shelf.
        others: other wheels are on the bench.
    """

    units: UnitChoice
    time: datetime
    pace: Literal["stage", "step"] = "stage"
    promise: Promise | None = None
    cursor: str = ""
    hours: Hours | None = None
    held: bool = False
    lost: str = ""
    signed_by: str = ""
    items: tuple[Item, ...] = ()
    others: bool = False

    def asks(self, state: PlannedWheel, *names: AskName) -> tuple[Ask, ...]:
        return asks(state, self.units, self.time, self.signed_by, *names)


class GatheredStep(msgspec.Struct, frozen=True):
    """One of the steps that an answer confirms together: its sentence, its figure, its cautions."""

    words: str
    figure: str = ""
    cautions: tuple[str, ...] = ()


class Now(msgspec.Struct, frozen=True):
    """The content of the step panel.

    Attributes:
        head: the stage and how far it is.
        cautions: said before the hand acts.
        answers: its buttons, the first one the main action.
        asks: what is typed with them, one entry each.
        more: what else is to be known: a verdict, what a wait is for.
        quiet: the wheel's physical state.
        steps: that the first answer confirms together, in place of one action.
    """

    head: str
    action: str
    cautions: list[str]
    answers: tuple[Answer, ...]
    asks: tuple[Ask, ...] = ()
    more: tuple[str, ...] = ()
    quiet: str = ""
    steps: tuple[GatheredStep, ...] = ()


BACK = Answer("back")


def with_state(now: Now, quiet: str) -> Now:
    return msgspec.structs.replace(now, quiet=quiet)
