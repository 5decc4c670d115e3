"""Valve: the valves on the shelf."""

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import TRADE, UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import ListLine, Tone, head
from inner_rim.work.text.pick_rows import usual_stock


def valve_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """Return the valves on the shelf, each with what speaks against it."""
    valve = plan.valve
    need = show(valve.needed_mm, TRADE, units) if valve.needed_mm is not None else tr("not measured")
    usual = usual_stock(plan, "shelf.valve_lengths_mm")
    title = tr("Common lengths: none on the shelf yet") if usual else tr("Valves on the shelf")
    result = [head(title, tr("needed: {need}").format(need=need))]
    for option in valve.options:
        remarks = " ".join(remark.read(units) for remark in option.remarks)
        picked = option.length_mm == valve.length_mm and option.name == valve.stem
        chip = {True: tr("reaches"), False: tr("too short"), None: ""}[option.reaches]
        tone: Tone = "muted" if option.reaches is None else "calm" if option.reaches else "stop"
        if option.reaches and option.remarks:
            tone = "caution"
        result.append(
            ListLine(
                option.name or tr("no name"),
                show(option.length_mm, TRADE, units),
                note=remarks,
                chip=tr("picked") if picked else chip,
                tone=tone,
            )
        )
    return result
