"""The bench card as text: one wheel's plan for a terminal or a plain printer."""

from __future__ import annotations

from inner_rim.core.models.insert import VERDICT_WORDS as VERDICT_OF_INSERT
from inner_rim.core.models.limit import limit_words
from inner_rim.core.models.mounting import GRADE_WORDS
from inner_rim.core.models.tape import VERDICT_WORDS, Overlay, edge_gap_mm, verdict
from inner_rim.core.plan.wheel_plan import WheelPlan, inside_ml
from inner_rim.core.record.spoken import STAGE_WORDS
from inner_rim.core.record.units import CUT, TRADE, UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.text.wheel_words import kept_tape, kept_valve, time_words, tool_words

_LABEL = 18


def text_card(plan: WheelPlan, choice: UnitChoice) -> str:
    lines = [plan.name, "=" * min(len(plan.name), 78)]
    lines += [tr("STOP") + "  " + stop.message.read(choice) for stop in plan.stops]
    lines += [f"{name:<{_LABEL}}{text}" for name, text in plan_rows(plan, choice)]
    lines.append("")
    lines += [
        f"{tr(STAGE_WORDS[caution.stage]):<{_LABEL}}! {caution.message.read(choice)}"
        for caution in plan.cautions
    ]
    lines += ["", time_words(plan), tr("Lay out: {tools}").format(tools=tool_words(plan.tools))]
    lines += ["", tr("Steps")]
    for number, step in enumerate((*plan.behind, *plan.steps), 1):
        wait = (
            tr(" (wait {minutes:.0f} min)").format(minutes=step.wait_minutes)
            if step.wait_minutes
            else ""
        )
        lines.append(
            f"{number:>3}  {tr(STAGE_WORDS[step.stage]):<{_LABEL}}{step.text.read(choice)}{wait}"
        )
    assumed = ", ".join(item.field for item in plan.assumed)
    if assumed:
        lines += ["", tr("Assumed, not entered: {fields}").format(fields=assumed)]
    return "\n".join(lines) + "\n"


def plan_rows(plan: WheelPlan, choice: UnitChoice) -> tuple[tuple[str, str], ...]:
    """Return the name and the text of each figure of a plan, the limit first."""
    return (
        (tr("Limit"), limit_text(plan, choice)),
        (tr("Tire"), _tire(plan, choice)),
        (tr("Tape"), tape_text(plan, choice)),
        (tr("Valve"), valve_text(plan, choice)),
        (tr("Insert"), insert_text(plan, choice)),
        (tr("Mounting"), mounting_text(plan, choice)),
        (tr("Sealant"), sealant_text(plan, choice)),
        (tr("Seat at"), " – ".join(show(p, "kpa", choice) for p in plan.pressure.seating_kpa)),
        (tr("Sealing pressure"), show(plan.pressure.settle_kpa, "kpa", choice)),
        (tr("Riding pressure"), start_text(plan, choice)),
    )


def limit_text(plan: WheelPlan, choice: UnitChoice) -> str:
    pressure = plan.pressure
    return f"{show(pressure.limit_kpa, 'kpa', choice)}, {tr(limit_words(pressure))}"


def _tire(plan: WheelPlan, choice: UnitChoice) -> str:
    tire = plan.tire
    return tr("{size}: {width} wide, {height} high on this rim; {volume} of air").format(
        size=plan.wheel.tire.parsed_size.iso,
        width=show(tire.mounted_width_mm, "mm", choice),
        height=show(tire.section_height_mm, "mm", choice),
        volume=show(tire.air_volume_ml / 1000.0, "liter", choice),
    )


def tape_text(plan: WheelPlan, choice: UnitChoice) -> str:
    tape = plan.tape
    if kept := kept_tape(plan):
        return kept
    if tape.width_mm is None:
        return tr("none in stock fits; {need} needed").format(
            need=show(tape.developed_width_mm, TRADE, choice)
        )
    what = show(tape.width_mm, TRADE, choice)
    if tape.strips == 2:
        what = tr("two strips of {width}").format(width=what)
    if tape.trim_to_mm is not None:
        what += tr(", trimmed to {width}").format(width=show(tape.trim_to_mm, TRADE, choice))
    laid = tape.trim_to_mm or tape.width_mm
    word = (
        ""
        if tape.strips == 2
        else "; " + tr(VERDICT_WORDS[verdict(edge_gap_mm(laid, tape.developed_width_mm))])
    )
    if tape.layers > 1:
        what += tr(" × {n} layers").format(n=tape.layers)
    what = f"{what}, {show(sum(tape.strip_lengths_mm), CUT, choice)}{word}"
    return what if tape.overlay is None else f"{what}; {overlay_text(tape.overlay, choice)}"


def overlay_text(over: Overlay, choice: UnitChoice) -> str:
    """Return the strips of electrical tape over a rim tape: how many, of what width and length."""
    return tr("electrical tape: {n} × {length} of {width}").format(
        n=over.strips,
        length=show(over.length_mm, CUT, choice),
        width=show(over.width_mm, TRADE, choice),
    )


def valve_text(plan: WheelPlan, choice: UnitChoice) -> str:
    valve = plan.valve
    if kept := kept_valve(plan):
        return kept
    if valve.needed_mm is None:
        return tr("measure the rim's depth at the valve")
    need = show(valve.needed_mm, TRADE, choice)
    if valve.length_mm is None:
        return tr("none in stock reaches {need}").format(need=need)
    return tr("{length} (needs {need})").format(
        length=show(valve.length_mm, TRADE, choice), need=need
    )


def insert_text(plan: WheelPlan, choice: UnitChoice) -> str:
    if plan.insert is None:
        return tr("none")
    reason = f"; {plan.insert.reasons[0].read(choice)}" if plan.insert.reasons else ""
    return tr(VERDICT_OF_INSERT[plan.insert.verdict]) + reason


def mounting_text(plan: WheelPlan, choice: UnitChoice) -> str:
    return tr("about {slack} of slack: {grade}").format(
        slack=show(round(plan.mounting.slack_mm), "mm", choice),
        grade=tr(GRADE_WORDS[plan.mounting.grade]),
    )


def sealant_text(plan: WheelPlan, choice: UnitChoice) -> str:
    """Return the dose in one line, and what is inside; that alone once the dose went in."""
    sealant = plan.sealant
    if plan.log.dosed_ml:
        return inside_text(plan, choice)
    inside = f"; {inside_text(plan, choice)}" if plan.log.sealant_ml else ""
    loads = " + ".join(show(x, "ml", choice, symbol=False) for x in sealant.loads_ml)
    dosed = tr("{dose} ({method}), injector {loads}; lean {lean}, generous {generous}").format(
        dose=show(sealant.dose_ml, "ml", choice),
        method=tr(sealant.method),
        loads=loads,
        lean=show(sealant.lean_ml, "ml", choice),
        generous=show(sealant.generous_ml, "ml", choice),
    )
    return dosed + inside


def inside_text(plan: WheelPlan, choice: UnitChoice) -> str:
    """Return how much sealant is inside, and of which kind where that was said."""
    dose, kind = show(inside_ml(plan), "ml", choice), plan.log.sealant
    if kind:
        return tr("{dose} inside: {kind}").format(dose=dose, kind=kind)
    return tr("{dose} inside").format(dose=dose)


def start_text(plan: WheelPlan, choice: UnitChoice) -> str:
    pressure = plan.pressure
    text = show(pressure.start_kpa, "kpa", choice)
    if pressure.clamped == "limit":
        text += tr(" (at the limit)")
    elif pressure.clamped is not None:
        text += tr(" (raised to the minimum)")
    if pressure.set_here_kpa != pressure.start_kpa:
        text += tr("; set {here} here").format(here=show(pressure.set_here_kpa, "kpa", choice))
    return text
