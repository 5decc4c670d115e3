"""What there is to choose from at a stage, side by side, each with its reason: lines for the Choices view."""

from inner_rim.core.models.insert import VERDICT_WORDS as INSERT_WORDS
from inner_rim.core.models.mounting import ADVICE, GRADE_WORDS
from inner_rim.core.models.sealant import dip_table, pool_radii_mm
from inner_rim.core.models.tape import VERDICT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.practice import REASONS, TAPE_KINDS
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.store.rows import Visit
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.choices_later import hold_lines, seat_lines, set_lines, suggested_lines
from inner_rim.work.text.lines import Line, Tone, head

DIP_ROWS = 60
_TAPE_TONES: dict[str, Tone] = {
    "right": "calm",
    "narrow": "caution",
    "climbs": "caution",
    "too_narrow": "stop",
    "too_wide": "stop",
}
_INSERT_TONES: dict[str, Tone] = {"fits": "calm", "remarks": "caution", "does_not_fit": "stop"}
METHOD_WORDS = {
    "match": "match",
    "plus_two": "plus two",
    "wide": "wide",
    "contour": "contour",
}
EFFECT_WORDS = {"air_ml": "Air", "slack_mm": "Slack", "dose_ml": "Dose", "start_kpa": "Start"}


def choices_of(
    state: WheelState,
    stage: str,
    units: UnitChoice,
    changed: tuple[str, ...] = (),
    visits: tuple[Visit, ...] = (),
) -> tuple[Line, ...]:
    """Return what there is to choose from at a stage of this wheel; `changed` before the next try at seating;
    `visits` are those of this wheel in all its jobs.
    """
    plan = state.plan
    if plan is None:
        return (head(tr("Type rim and tire first")),)
    if stage == "seat":
        return (*suggested_lines(state, plan, units, changed), *seat_lines(state, plan, units))
    if stage == "check_in":
        return (*visit_lines(visits, units), *_compatibility(state, plan, units))
    made = _BY_STAGE.get(stage)
    return tuple(made(state, plan, units)) if made else tuple(_compatibility(state, plan, units))


def visit_lines(visits: tuple[Visit, ...], units: UnitChoice) -> list[Line]:
    """Return a wheel's earlier visits, newest first."""
    if not visits:
        return []
    found = [head(tr("Earlier visits"), tr("when it was handed over, at what pressure, by whom"))]
    found += [
        Line(
            in_words(local(moment(visit.at)), "%d %b %Y"),
            show(visit.pressure_kpa, "kpa", units),
            note=visit.by,
        )
        for visit in reversed(visits)
    ]
    return found


def _compatibility(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    found = [head(tr("Do these parts go together?"))]
    tire, wheel = plan.tire, state.wheel
    assert wheel is not None
    stopped = {stop.code for stop in plan.stops}
    same = "diameter_mismatch" not in stopped
    found.append(
        Line(
            tr("Tire for {tire:g}, rim of {rim:g}").format(
                tire=tire.bead_seat_diameter_mm, rim=wheel.rim.bead_seat_diameter_mm
            ),
            tr("Diameter"),
            chip=tr("same") if same else tr("stop"),
            tone="calm" if same else "stop",
        )
    )
    ratio_ok = "width_ratio" not in stopped
    found.append(
        Line(
            tr("{ratio:.2f} times the rim's width").format(ratio=tire.width_ratio),
            tr("Ratio"),
            note=tr(
                "below 1.1 and above 2.8 stop; 1.1 to 1.3 only with both manufacturers' approval; 1.3 to 2.3 usual"
            ),
            chip=tr("stop")
            if not ratio_ok
            else tr("usual")
            if 1.3 <= tire.width_ratio <= 2.3
            else tr("mind"),
            tone="stop" if not ratio_ok else "calm" if 1.3 <= tire.width_ratio <= 2.3 else "caution",
        )
    )
    for field, words in (
        ("rim.hook", tr("Rim edge")),
        ("tire.tubeless_ready", tr("Tubeless mark")),
        ("tire.straight_side_approved", tr("Hookless approval")),
        ("rim.max_pressure_kpa", tr("Rim maximum")),
        ("tire.max_pressure_kpa", tr("Tire maximum")),
        ("tire.min_pressure_kpa", tr("Tire minimum")),
    ):
        part, name = field.split(".")
        value = getattr(getattr(wheel, part), name)
        found.append(_read_line(words, name, value, units))
    found += [
        Line(stop.message.read(units), chip=tr("stop"), tone="stop", key=stop.field) for stop in plan.stops
    ]
    return found


def _read_line(words: str, name: str, value: object, units: UnitChoice) -> Line:
    if value is None:
        return Line(tr("not read: counts as the worse case"), words, chip=tr("read it"), tone="caution")
    if isinstance(value, bool):
        return Line(tr("yes") if value else tr("no"), words)
    text = show(value, "kpa", units) if isinstance(value, float) else tr(str(value).replace("_", " "))
    return Line(text, words)


def _tape(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    tape = plan.tape
    bed = tr("measured") if tape.bed_measured else tr("assumed")
    found = [
        head(
            tr("Widths on the shelf"),
            tr("the bed is {width} from flange to flange, {bed}").format(
                width=show(tape.developed_width_mm, "mm", units), bed=bed
            ),
        )
    ]
    for option in tape.options:
        picked = option.width_mm == tape.width_mm
        gap = tr("{gap} bare at each edge") if option.edge_gap_mm >= 0.0 else tr("{gap} up each wall")
        verdict = tr(VERDICT_WORDS[option.verdict])
        found.append(
            Line(
                gap.format(gap=show(abs(option.edge_gap_mm), "mm", units)),
                show(option.width_mm, "mm", units),
                note=verdict.partition(": ")[2],
                chip=tr("picked") if picked else tr(option.verdict.replace("_", " ")),
                tone=_TAPE_TONES[option.verdict],
            )
        )
    found += [*_tape_result(plan, units), head(tr("Methods: what each would pick"))]
    for name, pick in tape.by_method.items():
        found.append(
            Line(
                show(pick, "mm", units) if pick is not None else tr("nothing in stock"),
                tr(METHOD_WORDS[name]),
                note=tr(REASONS[name]),
                chip=tr("used") if name == tape.method else "",
                key=f"practice.tape_width={name}",
            )
        )
    found.append(head(tr("Where to start")))
    for name in ("at_valve", "past_valve", "opposite"):
        found.append(
            Line(
                tr(REASONS[name]),
                tr(name.replace("_", " ")),
                chip=tr("used") if name == tape.start else "",
                key=f"practice.tape_start={name}",
            )
        )
    found.append(head(tr("Kinds of tape")))
    found += [
        Line(tr(words), tr(name), chip=tr("on the roll") if name == tape.material else "")
        for name, words in TAPE_KINDS.items()
    ]
    return found


def _tape_result(plan: WheelPlan, units: UnitChoice) -> list[Line]:
    tape = plan.tape
    found = [
        Line(
            tr("{length} a wheel, {n} wheels left on a full roll").format(
                length=show(tape.length_mm, "mm", units), n=tape.wheels_on_roll
            ),
            tr("Cut"),
            note=tr("overlap {overlap}").format(overlap=show(tape.overlap_mm, "mm", units)),
        )
    ]
    if tape.strips == 2 and tape.strip_overlap_mm is not None:
        found.append(
            Line(
                tr("two strips, each against its own wall, {overlap} over each other").format(
                    overlap=show(tape.strip_overlap_mm, "mm", units)
                ),
                tr("Strips"),
            )
        )
    if tape.trim_to_mm is not None:
        found.append(Line(show(tape.trim_to_mm, "mm", units), tr("Trim to"), tone="caution", chip=tr("trim")))
    fit = tape.bead_fit
    if fit is None:
        found.append(Line(tr("lay a tape round the bead seat to know it"), tr("Bead fit"), tone="muted"))
    else:
        found.append(
            Line(
                tr("{fit}: seat less bead {difference}").format(
                    fit=tr(fit.fit), difference=show(fit.difference_mm, "mm", units)
                ),
                tr("Bead fit"),
                note=tr("{n} layers make it snug").format(n=fit.layers_to_snug) if fit.fit == "loose" else "",
                chip=tr(fit.fit),
                tone="caution" if fit.fit != "snug" else "calm",
            )
        )
    return found


def _valve(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    valve = plan.valve
    need = show(valve.needed_mm, "mm", units) if valve.needed_mm is not None else tr("not measured")
    found = [head(tr("Valves on the shelf"), tr("needed: {need}").format(need=need))]
    for option in valve.options:
        remarks = " ".join(remark.read(units) for remark in option.remarks)
        picked = option.length_mm == valve.length_mm and option.name == valve.stem
        chip = {True: tr("reaches"), False: tr("too short"), None: ""}[option.reaches]
        tone: Tone = "muted" if option.reaches is None else "calm" if option.reaches else "stop"
        if option.reaches and option.remarks:
            tone = "caution"
        found.append(
            Line(
                option.name or tr("no name"),
                show(option.length_mm, "mm", units),
                note=remarks,
                chip=tr("picked") if picked else chip,
                tone=tone,
            )
        )
    return found


def _insert(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    insert = plan.insert
    if insert is None:
        return [
            head(tr("No insert")),
            Line(tr("Type the name of one at the left to see what it changes"), tone="muted"),
        ]
    tone = _INSERT_TONES[insert.verdict]
    found = [
        head(tr("Does it fit?")),
        Line(tr(INSERT_WORDS[insert.verdict]), chip=tr(insert.verdict.replace("_", " ")), tone=tone),
    ]
    found += [Line(reason.read(units), tone="muted") for reason in insert.reasons]
    found.append(head(tr("What it changes"), tr("without it → with it")))
    for name, (before, after) in insert.effects.items():
        kind = name.rpartition("_")[2]
        found.append(
            Line(
                f"{show(before, kind, units)}  →  {show(after, kind, units)}",
                tr(EFFECT_WORDS[name]),
            )
        )
    return found


def _mount(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    return [*_slack(plan, units), *_weights(state, plan)]


def _slack(plan: WheelPlan, units: UnitChoice) -> list[Line]:
    mounting = plan.mounting
    side = mounting.last_side
    return [
        head(tr("Slack of the last bead"), tr(ADVICE[mounting.grade])),
        Line(
            show(mounting.slack_mm, "mm", units),
            tr("In the well"),
            chip=tr(GRADE_WORDS[mounting.grade]),
            tone="stop" if mounting.grade == "will_not_go" else "calm",
        ),
        Line(
            show(mounting.slack_off_well_mm, "mm", units),
            tr("On the shelf"),
            note=tr("why it must lie in the well"),
        ),
        Line(
            show(mounting.slack_mm - mounting.finish_at_valve_gain_mm, "mm", units),
            tr("Opposite"),
            note=tr("finishing opposite the valve: its base holds the bead up"),
        ),
        head(tr("Which side")),
        Line(
            tr("Shoulders are equal: either side last")
            if side is None
            else tr("The {side} shoulder is narrower: that side goes on last and is broken first").format(
                side=tr(side)
            ),
        ),
    ]


def _weights(state: WheelState, plan: WheelPlan) -> list[Line]:
    found = [head(tr("Weights"))]
    found += [Line(f"{grams:+.0f} g", tr(name)) for name, grams in plan.weights.parts_g.items()]
    change = plan.weights.added_g - plan.weights.removed_g
    found.append(Line(f"{change:+.0f} g", tr("In all"), note=tr("against a tube of the usual weight")))
    others = [known[2].weights for known in state.job.last_plans.values()]
    if len(others) > 1:
        whole = sum(weights.added_g - weights.removed_g for weights in others)
        found.append(Line(f"{whole:+.0f} g", tr("Bicycle"), note=tr("{n} wheels").format(n=len(others))))
    return found


def _sealant(state: WheelState, plan: WheelPlan, units: UnitChoice) -> list[Line]:
    sealant = plan.sealant
    found = [
        head(
            tr("Dose"),
            tr("{free} pool, the rest coats the casing").format(free=show(sealant.free_ml, "ml", units)),
        )
    ]
    for name, value in (
        ("lean", sealant.lean_ml),
        ("standard", sealant.standard_ml),
        ("generous", sealant.generous_ml),
        ("label", sealant.label_ml),
    ):
        found.append(
            Line(
                show(value, "ml", units) if value is not None else tr("not read"),
                tr(name),
                note=tr(REASONS[name]),
                chip=tr("used") if name == sealant.method else "",
                key=f"practice.dose={name}",
            )
        )
    found += [
        Line("+" + show(value, "ml", units), tr(name), note=tr("allowance"), tone="muted")
        for name, value in sealant.allowances_ml.items()
    ]
    loads = " + ".join(show(x, "ml", units, symbol=False) for x in sealant.loads_ml)
    found.append(Line(loads, tr("Injector")))
    found.append(head(tr("Dipstick"), _dip_words(state)))
    found += dip_lines(state, plan, units)
    return found


def _dip_words(state: WheelState) -> str:
    factor = state.progress.dip_factor if state.progress else 1.0
    if factor == 1.0:
        return tr("by the round section; a dip right after dosing calibrates it")
    return tr("calibrated by a dip right after dosing (× {factor:.2f})").format(factor=factor)


def dip_lines(state: WheelState, plan: WheelPlan, units: UnitChoice, rows: int = DIP_ROWS) -> list[Line]:
    """Return the dipstick table of this wheel: depth to free sealant."""
    assert state.wheel is not None
    factor = state.progress.dip_factor if state.progress else 1.0
    radius, ring = pool_radii_mm(plan.tire, state.wheel.rim.bead_seat_diameter_mm)
    return [
        Line(show(ml, "ml", units), show(depth / factor, "mm", units), tone="muted")
        for depth, ml in dip_table(radius, ring, rows)
    ]


_BY_STAGE = {
    "tape": _tape,
    "valve": _valve,
    "insert": _insert,
    "mount": _mount,
    "sealant": _sealant,
    "hold": hold_lines,
    "set": set_lines,
}
