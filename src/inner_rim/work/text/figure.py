"""The figure that stands ready in the panel's entry: what is most likely to be logged next."""

from inner_rim.core.plan.wheel_plan import dose_due_ml
from inner_rim.core.record.units import UnitChoice, entry_text
from inner_rim.work.editing.recorder import sealant_name
from inner_rim.work.editing.state import WheelState

Mark = tuple[object, ...]


def figure_mark(state: WheelState | None, units: UnitChoice) -> Mark:
    """Return what the figure depends on: it is put in anew only when this changes, never over what is typed."""
    if state is None or state.progress is None or state.plan is None:
        return ()
    progress = state.progress
    return (
        state.key,
        len(state.whole_log),
        progress.stage,
        progress.step.key if progress.step else "",
        units,
        state.plan.pressure.set_here_kpa,
        progress.seating.step_kpa,
    )


def kind_text(state: WheelState | None) -> str:
    """Return the kind of sealant that is ready to be logged where the panel asks for a dose, else nothing."""
    progress = state.progress if state is not None else None
    if state is None or progress is None or not progress.together or progress.together[-1].asks != "dose":
        return ""
    return sealant_name(state)


def figure_text(state: WheelState | None, units: UnitChoice) -> str:
    """Return the planned dose where the panel asks for a dose, the pressure that is due where it asks for one;
    empty where only a reading can say it (a dipstick, a standing wheel) and where nothing is asked.
    """
    if state is None or state.progress is None or state.plan is None:
        return ""
    progress, plan = state.progress, state.plan
    kept = state.value("previous_pressure_kpa")
    if progress.stage == "check_in" and state.value("work.kind") is None and isinstance(kept, float):
        return entry_text(kept, "kpa", units)  # what the rider kept, as far as is known
    if progress.together and progress.together[-1].asks == "dose":  # asked for with the steps before it
        return entry_text(dose_due_ml(plan), "ml", units)
    if progress.climbing:
        return entry_text(progress.seating.step_kpa, "kpa", units)
    if progress.stage == "set" and progress.state != "finished":
        return entry_text(plan.pressure.set_here_kpa, "kpa", units)
    return ""
