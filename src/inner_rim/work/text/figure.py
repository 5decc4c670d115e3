"""The figure that is prefilled in the panel's entry: what is most likely to be logged next."""

from datetime import datetime

from inner_rim.core.models.sealant import top_up_ml
from inner_rim.core.plan.aftercare import sealant_left_ml
from inner_rim.core.plan.wheel_plan import dose_due_ml
from inner_rim.core.procedure.actions import Asks
from inner_rim.core.record.units import TRADE, UnitChoice, entry_text, to_set
from inner_rim.work.editing.recorder import sealant_name
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.view_selection import Asking

Mark = tuple[object, ...]


def figure_mark(state: BenchWheel | None, units: UnitChoice, asking: Asking) -> Mark:
    """Return what the figure depends on: it is set again only when this changes, never over what is typed."""
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
        asking == "top_up",
    )


def second_text(state: BenchWheel | None, units: UnitChoice, asking: Asking) -> str:
    """Return what is prefilled in the second entry: the kind of sealant with a dose, else what is asked besides."""
    progress = state.progress if state is not None else None
    if state is None or progress is None:
        return ""
    if asking == "top_up" or progress.asked == ("dose",):
        return sealant_name(state)
    return _planned(state, progress.asked[1], units) if len(progress.asked) > 1 else ""


def _planned(state: BenchWheel, asks: Asks, units: UnitChoice) -> str:
    plan = state.plan
    if plan is None:
        return ""
    if asks == "dose":
        return entry_text(dose_due_ml(plan), "ml", units)
    if asks == "layers":
        return str(plan.tape.layers)
    valve = plan.valve.length_mm if asks == "valve" else None
    return entry_text(valve, TRADE, units) if valve is not None else ""


#: How much more a weeping tire gets at a time (common practice, no published source).
WEEPING_ML = 15.0


def figure_text(state: BenchWheel | None, units: UnitChoice, asking: Asking, now: datetime) -> str:
    """Return what was planned: the dose, the layers, the valve; or the pressure that is due; empty where only a
    reading can tell (a dipstick, a leak test) and where nothing is asked.
    """
    if state is None or state.progress is None or state.plan is None:
        return ""
    progress, plan = state.progress, state.plan
    if asking == "top_up":
        if plan.log.signed is None or state.wheel is None:
            return entry_text(WEEPING_ML, "ml", units)
        added = top_up_ml(plan.sealant.dose_ml, sealant_left_ml(state.wheel, plan, now))
        return entry_text(added, "ml", units) if added else ""
    kept = state.value("previous_pressure_kpa")
    if progress.stage == "check_in" and state.value("work.kind") is None and isinstance(kept, float):
        return entry_text(kept, "kpa", units)  # what the rider kept, as far as is known
    if progress.asked:
        return _planned(state, progress.asked[0], units)
    if progress.seats_next:
        return to_set(progress.seating.step_kpa, units)
    if progress.stage == "set" and progress.state != "finished":
        return to_set(plan.pressure.set_here_kpa, units)
    return ""
