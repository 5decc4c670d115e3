"""Check-in: do these parts go together, and earlier visits of this wheel."""

from collections.abc import Mapping, Sequence

from inner_rim.core.models.insert import VERDICT_WORDS as INSERT_WORDS
from inner_rim.core.models.mounting import ADVICE, GRADE_WORDS
from inner_rim.core.models.tape import VERDICT_MEANING, VERDICT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.stops import RATIO
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.paths import group_of, name_of
from inner_rim.core.record.practice import QUESTION_WORDS, REASONS, TAPE_KINDS
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import CUT, TRADE, UnitChoice, show
from inner_rim.store.rows import StoredVisit
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.text.card import overlay_text
from inner_rim.work.text.lines import FieldChoice, ListLine, Tone, head
from inner_rim.work.text.pick_rows import usual_stock
from inner_rim.work.text.stage_fields import CLEANED, HOLE_SEAL, ORDER, TAPE_START, WET


def visit_lines(visits: tuple[StoredVisit, ...], units: UnitChoice) -> list[ListLine]:
    if not visits:
        return []
    result = [head(tr("Earlier visits"), tr("when it was handed over, at what pressure, by whom"))]
    result += [
        ListLine(
            in_words(local(moment(visit.at)), "%d %b %Y"),
            show(visit.pressure_kpa, "kpa", units),
            note=visit.by,
        )
        for visit in reversed(visits)
    ]
    return result


def compatibility_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    plan = state.plan
    result = [head(tr("Do these parts go together?"))]
    tire, wheel = plan.tire, state.wheel
    stopped = {stop.subject: stop for stop in plan.stops}
    same = "diameter" not in stopped
    result.append(
        ListLine(
            tr("Tire for {tire:g}, rim of {rim:g}").format(
                tire=tire.bead_seat_diameter_mm, rim=wheel.rim.bead_seat_diameter_mm
            ),
            tr("Diameter"),
            chip=tr("same") if same else tr("stop"),
            tone="calm" if same else "stop",
        )
    )
    stop, usual = stopped.get("ratio"), RATIO.usual
    possible = stop.bounds if stop is not None else RATIO.possible
    good = usual.holds(tire.width_ratio)
    result.append(
        ListLine(
            tr("{ratio:.2f} times the rim's width").format(ratio=tire.width_ratio),
            tr("Ratio"),
            note=tr(
                "below {least:g} and above {most:g} stop; {least:g} to {low:g} only with both manufacturers' approval; {low:g} to {high:g} usual"
            ).format(least=possible.min_, most=possible.max_, low=usual.min_, high=usual.max_),
            chip=tr("stop") if stop is not None else tr("usual") if good else tr("mind"),
            tone="stop" if stop is not None else "calm" if good else "caution",
        )
    )
    for field, words in (
        ("rim.hook", tr("Hook")),
        ("tire.tubeless_ready", tr("Tubeless mark")),
        ("tire.straight_side_approved", tr("Hookless approval")),
        ("rim.max_pressure_kpa", tr("Rim's max pressure")),
        ("tire.max_pressure_kpa", tr("Tire's max pressure")),
        ("tire.min_pressure_kpa", tr("Tire's min pressure")),
    ):
        value = getattr(getattr(wheel, group_of(field)), name_of(field))
        result.append(_read_line(words, name_of(field), value, units))
    result += [
        ListLine(
            stop.message.read(units),
            chip=tr("stop"),
            tone="stop",
            key=FieldChoice(stop.field) if stop.field else None,
        )
        for stop in plan.stops
    ]
    return result


def strip_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """Return how the bed is cleaned; an abrasive is not for carbon."""
    abrasive = state.plan.setup.lays_tape and not state.wheel.rim.carbon
    return [
        *(_cut_lines(state) if state.plan.setup.leak == "side_wall" else ()),
        *(ways(state.plan, "bed_cleaning", CLEANED) if abrasive else ()),
        *compatibility_lines(state, units),
    ]


def _cut_lines(state: PlannedWheel) -> list[ListLine]:
    """What can be done about a cut side wall."""
    work = state.wheel.work
    patched = work is not None and work.patch_cut is True
    boot, patch = ("", tr("used")) if patched else (tr("used"), "")
    return [
        head(tr("The cut in the side wall")),
        ListLine(tr("Boot it and fit a tube"), chip=boot, key=FieldChoice("work.patch_cut", "no")),
        ListLine(
            tr("Patch it from inside"),
            note=tr("only where the tire's manufacturer allows it"),
            chip=patch,
            key=FieldChoice("work.patch_cut", "yes"),
        ),
    ]


def _read_line(words: str, name: str, value: object, units: UnitChoice) -> ListLine:
    if value is None:
        return ListLine(
            tr("not entered: the worse case counts"), words, chip=tr("enter it"), tone="caution"
        )
    if isinstance(value, bool):
        return ListLine(tr("yes") if value else tr("no"), words)
    text = show(value, "kpa", units) if isinstance(value, float) else spoken(str(value))
    return ListLine(text, words)


def method_lines(
    field: str,
    names: Mapping[str, str],
    values: Mapping[str, float | None],
    used: str,
    kind: str,
    units: UnitChoice,
    without: str,
) -> list[ListLine]:
    """Return a line for each method.

    Args:
        field: the setting that chooses one, such as ``practice.tape_width``.
        kind: of the values, such as ``mm``.
    """
    return [
        ListLine(
            show(value, kind, units) if value is not None else without,
            tr(names[name]),
            note=tr(REASONS[name]),
            chip=tr("used") if name == used else "",
            key=FieldChoice(field, name),
        )
        for name, value in values.items()
    ]


def ways(plan: WheelPlan, field: str, names: Mapping[str, str]) -> list[ListLine]:
    """Return the methods of one question, each with what speaks for it.

    Args:
        field: the method's name among those of the practice.
        names: a short name of each, as in its field.
    """
    used = getattr(plan.methods, field)
    return [
        head(tr(QUESTION_WORDS[field])),
        *(
            ListLine(
                tr(REASONS[name]),
                tr(words),
                chip=tr("used") if name == used else "",
                key=FieldChoice(f"practice.{field}", name),
            )
            for name, words in names.items()
        ),
    ]


_TAPE_TONES: dict[str, Tone] = {
    "right": "calm",
    "narrow": "caution",
    "climbs": "caution",
    "too_narrow": "stop",
    "too_wide": "stop",
}


METHOD_WORDS = {
    "match": N_("match"),
    "plus_two": N_("plus two"),
    "wide": N_("wide"),
    "contour": N_("contour"),
}


def tape_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """Return every width on the shelf with its verdict, methods, starts and kinds."""
    plan = state.plan
    tape = plan.tape
    bed = tr("measured") if tape.bed_measured else tr("assumed")
    result = [
        head(
            tr("Usual widths: none on the shelf yet")
            if usual_stock(plan, "shelf.tape_widths_mm")
            else tr("Widths on the shelf"),
            tr("the bed is {width} from flange to flange, {bed}").format(
                width=show(tape.developed_width_mm, TRADE, units), bed=bed
            ),
        )
    ]
    for option in tape.options:
        picked = option.width_mm == tape.width_mm
        gap = (
            tr("{gap} bare at each edge") if option.edge_gap_mm >= 0.0 else tr("{gap} up each wall")
        )
        result.append(
            ListLine(
                gap.format(gap=show(abs(option.edge_gap_mm), TRADE, units)),
                show(option.width_mm, TRADE, units),
                note=tr(VERDICT_MEANING[option.verdict]),
                chip=tr("picked") if picked else tr(VERDICT_WORDS[option.verdict]),
                tone=_TAPE_TONES[option.verdict],
            )
        )
    result += [*_tape_result(plan, units), head(tr("Methods: what each would pick"))]
    result += method_lines(
        "practice.tape_width",
        METHOD_WORDS,
        tape.by_method,
        tape.method,
        TRADE,
        units,
        tr("nothing in stock"),
    )
    result += ways(plan, "tape_start", TAPE_START)
    result.append(head(tr("Kinds of tape")))
    result += [
        ListLine(
            tr(words),
            tr(name),
            chip=tr("on the roll") if name == tape.material else "",
            key=FieldChoice("practice.tape_kind", name),
        )
        for name, words in TAPE_KINDS.items()
    ]
    return result


def _tape_result(plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    tape = plan.tape
    result = [
        ListLine(
            tr("{length} a wheel: a full roll does {n} wheels").format(
                length=show(tape.length_mm, CUT, units), n=tape.wheels_on_roll
            ),
            tr("Cut"),
            note=tr("overlap {overlap}").format(overlap=show(tape.overlap_mm, CUT, units)),
        )
    ]
    if tape.strips == 2 and tape.strip_overlap_mm is not None:
        result.append(
            ListLine(
                tr("two strips, each against its own wall, {overlap} over each other").format(
                    overlap=show(tape.strip_overlap_mm, "mm", units)
                ),
                tr("Strips"),
            )
        )
    if tape.overlay is not None:
        result.append(ListLine(overlay_text(tape.overlay, units), tr("Over it")))
    if tape.trim_to_mm is not None:
        result.append(
            ListLine(
                show(tape.trim_to_mm, TRADE, units), tr("Trim to"), tone="caution", chip=tr("trim")
            )
        )
    fit = tape.bead_fit
    if fit is None:
        result.append(
            ListLine(tr("lay a tape around the bead seat to know it"), tr("Bead fit"), tone="muted")
        )
    else:
        result.append(
            ListLine(
                tr("{fit}: seat less bead {difference}").format(
                    fit=tr(fit.fit), difference=show(fit.difference_mm, "mm", units)
                ),
                tr("Bead fit"),
                note=tr("{n} layers make it snug").format(n=fit.layers_to_snug)
                if fit.fit == "loose"
                else "",
                chip=tr(fit.fit),
                tone="caution" if fit.fit != "snug" else "calm",
            )
        )
    return result


def valve_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    """Return the valves on the shelf, each with what speaks against it."""
    plan = state.plan
    valve = plan.valve
    need = (
        show(valve.needed_mm, TRADE, units) if valve.needed_mm is not None else tr("not measured")
    )
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
    return [*result, *ways(plan, "hole_seal", HOLE_SEAL)]


_INSERT_TONES: dict[str, Tone] = {"fits": "calm", "remarks": "caution", "does_not_fit": "stop"}
EFFECT_WORDS = {
    "air_ml": N_("Air"),
    "slack_mm": N_("Slack"),
    "dose_ml": N_("Dose"),
    "start_kpa": N_("Start"),
}


def insert_lines(state: PlannedWheel, units: UnitChoice) -> list[ListLine]:
    plan = state.plan
    insert = plan.insert
    if insert is None and state.wheel.insert is not None:
        return [
            head(tr("No insert today")),
            ListLine(tr("Put it in today after all"), key=FieldChoice("work.insert_later", "no")),
        ]
    if insert is None:
        return [
            head(tr("No insert")),
            ListLine(tr("Type the name of one on the left to see what it changes"), tone="muted"),
        ]
    tone = _INSERT_TONES[insert.verdict]
    result = [
        head(tr("Does it fit?")),
        ListLine(tr(INSERT_WORDS[insert.verdict]), chip=spoken(insert.verdict), tone=tone),
    ]
    result += [ListLine(reason.read(units), tone="muted") for reason in insert.reasons]
    result.append(head(tr("What it changes"), tr("without it → with it")))
    for name, (before, after) in insert.effects.items():
        kind = name.rpartition("_")[2]
        result.append(
            ListLine(
                f"{show(before, kind, units)}  →  {show(after, kind, units)}",
                tr(EFFECT_WORDS[name]),
            )
        )
    if plan.setup.tire_goes_on:
        result += ways(plan, "insert_order", ORDER)
    if plan.setup.new and plan.setup.tire_goes_on and plan.log.state.insert == "off":
        result += [
            head(tr("A new tire is hard on an insert")),
            ListLine(
                tr("Ride it a day without"),
                note=tr(
                    "a tire that was ridden goes on more easily; the insert goes in at the next visit"
                ),
                key=FieldChoice("work.insert_later", "yes"),
            ),
        ]
    return result


def mount_lines(plan: WheelPlan, units: UnitChoice, plans: Sequence[WheelPlan]) -> list[ListLine]:
    """Return the slack by what lies in the well, and the weights; `plans` are those of the whole
    bicycle.
    """
    return [*_slack(plan, units), *ways(plan, "lubricant", WET), *_weights(plan, plans)]


def _slack(plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    mounting = plan.mounting
    side = mounting.last_side
    return [
        head(tr("Slack of the last bead"), tr(ADVICE[mounting.grade])),
        ListLine(
            show(mounting.slack_mm, "mm", units),
            tr("In the well"),
            chip=tr(GRADE_WORDS[mounting.grade]),
            tone="stop" if mounting.grade == "will_not_go" else "calm",
        ),
        ListLine(
            show(mounting.slack_off_well_mm, "mm", units),
            tr("On the shelf"),
            note=tr("why it must lie in the well"),
        ),
        ListLine(
            show(mounting.slack_mm - mounting.finish_at_valve_gain_mm, "mm", units),
            tr("Opposite"),
            note=tr("finishing opposite the valve: its base holds the bead up"),
        ),
        head(tr("Which side")),
        ListLine(
            tr("Shoulders are equal: either side last")
            if side is None
            else tr(
                "The {side} shoulder is narrower: that side goes on last and is broken first"
            ).format(side=tr(side))
        ),
    ]


def _weights(plan: WheelPlan, plans: Sequence[WheelPlan]) -> list[ListLine]:
    result = [head(tr("Weights"))]
    result += [
        ListLine(f"{grams:+.0f} g", tr(name)) for name, grams in plan.weights.parts_g.items()
    ]
    change = plan.weights.added_g - plan.weights.removed_g
    result.append(
        ListLine(f"{change:+.0f} g", tr("In all"), note=tr("against a tube of the usual weight"))
    )
    weighed = {"before": tr("Weighed before"), "after": tr("Weighed after")}
    result += [
        ListLine(f"{grams:.0f} g", weighed[when]) for when, grams in plan.log.weighed_g.items()
    ]
    if len(plans) > 1:
        whole = sum(one.weights.added_g - one.weights.removed_g for one in plans)
        result.append(
            ListLine(f"{whole:+.0f} g", tr("Bicycle"), note=tr("{n} wheels").format(n=len(plans)))
        )
    return result
