"""Sealant: doses by method, the dipstick table."""

from inner_rim.core.models.sealant import dip_table, pool_radii_mm
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.practice import REASONS
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import FieldChoice, ListLine, head

DIP_ROWS = 60


def sealant_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """Return the doses by method, and the dipstick table."""
    sealant = plan.sealant
    result = [
        head(tr("Dose"), tr("{free} pool, the rest coats the casing").format(free=show(sealant.free_ml, "ml", units)))
    ]
    for name, value in (
        ("lean", sealant.lean_ml),
        ("standard", sealant.standard_ml),
        ("generous", sealant.generous_ml),
        ("label", sealant.label_ml),
    ):
        result.append(
            ListLine(
                show(value, "ml", units) if value is not None else tr("not entered"),
                tr(name),
                note=tr(REASONS[name]),
                chip=tr("used") if name == sealant.method else "",
                key=FieldChoice("practice.dose", name),
            )
        )
    result += [
        ListLine("+" + show(value, "ml", units), tr(name), note=tr("allowance"), tone="muted")
        for name, value in sealant.allowances_ml.items()
    ]
    loads = " + ".join(show(x, "ml", units, symbol=False) for x in sealant.loads_ml)
    result.append(ListLine(loads, tr("Injector")))
    result.append(head(tr("Dipstick"), _dip_words(state)))
    result += dip_lines(state, plan, units)
    return result


def _dip_words(state: BenchWheel) -> str:
    factor = state.progress.dip_factor if state.progress else 1.0
    if factor == 1.0:
        return tr("by the round section; a dip right after dosing calibrates it")
    return tr("calibrated by a dip right after dosing (× {factor:.2f})").format(factor=factor)


def dip_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice, rows: int = DIP_ROWS) -> list[ListLine]:
    """Return the dipstick table of this wheel: depth to free sealant."""
    assert state.wheel is not None
    factor = state.progress.dip_factor if state.progress else 1.0
    radius, ring = pool_radii_mm(plan.tire, state.wheel.rim.bead_seat_diameter_mm)
    return [
        ListLine(show(ml, "ml", units), show(depth / factor, "mm", units), tone="muted")
        for depth, ml in dip_table(radius, ring, rows)
    ]
