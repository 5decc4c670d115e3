"""The picks column of a plan: one row per pick, and the working behind each."""

import msgspec

from inner_rim.core.models.inflation import own_source
from inner_rim.core.models.insert import VERDICT_WORDS as INSERT_WORDS
from inner_rim.core.models.limit import limit_words
from inner_rim.core.models.mounting import GRADE_WORDS
from inner_rim.core.models.tape import VERDICT_WORDS, edge_gap_mm, verdict
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.units import CUT, TRADE, UnitChoice, show
from inner_rim.core.record.why import Why
from inner_rim.words import N_, tr
from inner_rim.work.text.card import inside_text
from inner_rim.work.text.wheel_words import kept_tape, kept_valve

#: How many picks there are: the number keys 1 to 9 and 0 open their working.
COUNT = 10


class PickRow(msgspec.Struct, frozen=True):
    """A pick as shown in the column; `tone` is calm, caution or stop.

    `assumed` names the fields whose assumption matters to it; `field` is the one that its chip asks
    for.
    """

    title: str
    value: str
    note: str
    chip: str
    tone: str
    why: Why
    assumed: tuple[str, ...] = ()
    field: str = ""


def rows(plan: WheelPlan, units: UnitChoice) -> tuple[PickRow, ...]:
    return tuple(row_at(place, plan, units) for place in range(COUNT))


def row_at(place: int, plan: WheelPlan, units: UnitChoice) -> PickRow:
    makers = (_tire, _tape, _valve, _insert, _mounting, _sealant, _limit, _seat, _settle, _start)
    row = makers[place](plan, units)
    return msgspec.structs.replace(row, field=_asked(row, plan))


def _asked(row: PickRow, plan: WheelPlan) -> str:
    """The field that a remark beside a figure asks for: what was not entered, or was assumed."""
    if row.field or not row.chip:
        return row.field
    assumed = {item.field for item in plan.assumed}
    return (
        next((path for path in row.assumed if path in assumed), "") if row.tone == "caution" else ""
    )


def _tire(plan: WheelPlan, units: UnitChoice) -> PickRow:
    tire = plan.tire
    bad = any(stop.subject in ("ratio", "diameter") for stop in plan.stops)
    return PickRow(
        tr("Tire"),
        tr("{width} wide").format(width=show(tire.mounted_width_mm, "mm", units)),
        tr("{height} high · {volume}").format(
            height=show(tire.section_height_mm, "mm", units),
            volume=show(tire.air_volume_ml / 1000.0, "liter", units),
        ),
        tr("stop") if bad else tr("ratio {ratio:.2f}").format(ratio=tire.width_ratio),
        "stop" if bad else "calm",
        tire.why,
        ("tire.casing_mm", "tire.measured_width_mm"),
    )


def usual_stock(plan: WheelPlan, field: str) -> bool:
    """Whether the shelf has nothing of a kind, so that usual sizes are assumed."""
    return any(item.field == field for item in plan.assumed)


def _tape(plan: WheelPlan, units: UnitChoice) -> PickRow:
    tape = plan.tape
    if kept := kept_tape(plan):
        return PickRow(tr("Tape"), kept, plan.setup.tape_reason, "", "calm", tape.why)
    if tape.width_mm is None:
        return PickRow(
            tr("Tape"),
            tr("none fits"),
            tr("{need} needed").format(need=show(tape.developed_width_mm, TRADE, units)),
            tr("out of stock"),
            "caution",
            tape.why,
        )
    width = show(tape.width_mm, TRADE, units)
    value = f"2 × {width}" if tape.strips == 2 else width
    if tape.trim_to_mm is not None:
        value = tr("{width} → {trim}").format(width=width, trim=show(tape.trim_to_mm, TRADE, units))
    if tape.layers > 1:
        value += tr(" × {n} layers").format(n=tape.layers)
    if tape.overlay is not None:
        value += tr(" + {n} electrical").format(n=tape.overlay.strips)
    word = verdict(edge_gap_mm(tape.trim_to_mm or tape.width_mm, tape.developed_width_mm))
    note = tr("cut {length}").format(length=show(tape.length_mm, CUT, units))
    if usual_stock(plan, "shelf.tape_widths_mm"):
        note += " · " + tr("a usual width, none on the shelf yet")
    if tape.strips == 2:
        return PickRow(tr("Tape"), value, note, tr("two strips"), "calm", tape.why)
    chip = tr("trimmed") if tape.trim_to_mm is not None else tr(VERDICT_WORDS[word])
    tone = "calm" if word == "right" else "caution"
    return PickRow(tr("Tape"), value, note, chip, tone, tape.why, ("rim.well", "rim.spokes"))


def _valve(plan: WheelPlan, units: UnitChoice) -> PickRow:
    valve = plan.valve
    if kept := kept_valve(plan):
        return PickRow(tr("Valve"), kept, "", "", "calm", valve.why)
    if valve.needed_mm is None:
        return PickRow(
            tr("Valve"),
            "—",
            tr("measure the depth at the valve"),
            tr("not entered"),
            "caution",
            valve.why,
            field="rim.depth_at_valve_mm",
        )
    need = tr("needs {need}").format(need=show(valve.needed_mm, TRADE, units))
    if valve.length_mm is None or valve.standing_out_mm is None:
        return PickRow(
            tr("Valve"), tr("none reaches"), need, tr("out of stock"), "caution", valve.why
        )
    out = tr("{out} out").format(out=show(valve.standing_out_mm, TRADE, units))
    chip, tone = (
        (tr("check {what}").format(what=", ".join(tr(name) for name in valve.remarks)), "caution")
        if valve.remarks
        else ("", "calm")
    )
    return PickRow(
        tr("Valve"),
        show(valve.length_mm, TRADE, units),
        f"{need} · {out}"
        if not usual_stock(plan, "shelf.valve_lengths_mm")
        else tr("{need} · a common length").format(need=need),
        chip,
        tone,
        valve.why,
        ("rim.well",),
    )


NO_INSERT = Why(
    formula=N_("no insert is fitted"),
    figures={"insert": "none"},
    source=N_("as checked in"),
    what_changes_it=N_("to add one, type its name at Insert"),
)


def _insert(plan: WheelPlan, units: UnitChoice) -> PickRow:
    insert = plan.insert
    if insert is None:
        later = plan.wheel.work is not None and plan.wheel.work.insert_later
        value = tr("at the next visit") if later else tr("none")
        return PickRow(tr("Insert"), value, "", "", "calm", NO_INSERT)
    tone = {"fits": "calm", "remarks": "caution", "does_not_fit": "stop"}[insert.verdict]
    note = insert.reasons[0].read(units) if insert.reasons else ""
    return PickRow(tr("Insert"), tr(INSERT_WORDS[insert.verdict]), note, "", tone, insert.why)


TONES = {
    "by_hand": "calm",
    "technique": "calm",
    "levers": "caution",
    "will_not_go": "stop",
    "unknown": "caution",
}


def _mounting(plan: WheelPlan, units: UnitChoice) -> PickRow:
    mounting = plan.mounting
    tone = TONES[mounting.grade]
    low, high = mounting.band_mm
    if high - low > 1.0:  # the well was assumed, or a leg not entered
        note = tr("{low} to {high}").format(
            low=show(round(low), "mm", units, symbol=False), high=show(round(high), "mm", units)
        )
        value = tr("about {slack} slack").format(slack=show(round(mounting.slack_mm), "mm", units))
    else:
        note = tr("{gain} more at the valve").format(
            gain=show(mounting.finish_at_valve_gain_mm, "mm", units)
        )
        value = tr("{slack} slack").format(slack=show(round(mounting.slack_mm), "mm", units))
    return PickRow(
        tr("Mounting"),
        value,
        note,
        tr(GRADE_WORDS[mounting.grade]),
        tone,
        mounting.why,
        ("rim.well",),
        field="rim.well.depth_mm" if mounting.grade == "unknown" else "",
    )


#: Short words where a chip has little room.
ALLOWANCE_CHIPS = {"no tubeless marking": N_("no mark")}


def _sealant(plan: WheelPlan, units: UnitChoice) -> PickRow:
    sealant = plan.sealant
    loads = " + ".join(show(x, "ml", units, symbol=False) for x in sealant.loads_ml)
    note = tr("{loads} · {lean} to {generous}").format(
        loads=loads,
        lean=show(sealant.lean_ml, "ml", units, symbol=False),
        generous=show(sealant.generous_ml, "ml", units, symbol=False),
    )
    if plan.log.sealant_ml and not plan.log.dosed_ml:
        note += " · " + inside_text(plan, units)
    names = (tr(ALLOWANCE_CHIPS.get(name, name)) for name in sealant.allowances_ml)
    chip = ", ".join(names) or tr(sealant.method)
    return PickRow(
        tr("Sealant"),
        show(sealant.dose_ml, "ml", units),
        note,
        chip,
        "calm",
        sealant.why,
        ("tire.new", "tire.tubeless_ready", "tire.casing_mm"),
    )


def _limit(plan: WheelPlan, units: UnitChoice) -> PickRow:
    pressure = plan.pressure
    bad = any(stop.subject == "limit" for stop in plan.stops)
    tone = "stop" if bad else "caution" if pressure.limit_from == "unread" else "calm"
    return PickRow(
        tr("Limit"),
        show(pressure.limit_kpa, "kpa", units),
        tr(limit_words(pressure)),
        tr("stop") if bad else tr("not entered") if tone == "caution" else tr("never above"),
        tone,
        pressure.why_limit,
        ("rim.hook",),
        field=f"{pressure.limit_part}.max_pressure_kpa"
        if tone == "caution" and pressure.limit_part
        else "",
    )


def _seat(plan: WheelPlan, units: UnitChoice) -> PickRow:
    pressure = plan.pressure
    unit = units.unit("kpa").symbol
    steps = " – ".join(show(p, "kpa", units, symbol=False) for p in pressure.seating_kpa)
    coming = plan.seating_odds
    lines = (*pressure.why_seating.others, *coming.why.others)
    why = msgspec.structs.replace(pressure.why_seating, others=lines)
    tone = "caution" if coming.easiest is None else "calm"
    note = own_source(coming).read(units)
    if coming.easiest is None:
        note = tr("nothing is likely: make the gap smaller")
    return PickRow(tr("Seat"), f"{steps} {unit}", note, "", tone, why, ("tire.tubeless_ready",))


def _settle(plan: WheelPlan, units: UnitChoice) -> PickRow:
    pressure = plan.pressure
    return PickRow(
        tr("Sealing"),
        show(pressure.settle_kpa, "kpa", units),
        tr("until the leak test passes"),
        "",
        "calm",
        pressure.why_settle,
    )


def _start(plan: WheelPlan, units: UnitChoice) -> PickRow:
    pressure = plan.pressure
    drop = tr("drop {n} %").format(n=f"{100 * pressure.drop_share:.0f}")
    chip = {
        "limit": tr("at the limit"),
        "minimum": tr("at the minimum"),
        "floor": tr("usual minimum"),
    }.get(pressure.clamped or "", drop if pressure.method == "drop" else tr(pressure.method))
    here = tr("set {here} here").format(here=show(pressure.set_here_kpa, "kpa", units))
    note = (
        here
        if pressure.set_here_kpa != pressure.start_kpa
        else tr("load {load}").format(load=show(pressure.load_n, "n", units))
        if pressure.band_kpa[0] == pressure.band_kpa[1]
        else tr("{low} to {high} for {load}").format(
            low=show(pressure.band_kpa[0], "kpa", units, symbol=False),
            high=show(pressure.band_kpa[1], "kpa", units, symbol=False),
            load=show(pressure.load_n, "n", units),
        )
    )
    tone = "caution" if pressure.clamped else "calm"
    return PickRow(
        tr("Riding"),
        show(pressure.start_kpa, "kpa", units),
        note,
        chip,
        tone,
        pressure.why,
        ("load_n", "position"),
    )
