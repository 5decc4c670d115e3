"""Tape: widths on the shelf, methods, starts, kinds."""

from inner_rim.core.models.tape_fit import VERDICT_MEANING, VERDICT_WORDS
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.practice import REASONS, TAPE_KINDS
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import CUT, TRADE, UnitChoice, show
from inner_rim.words import N_, tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.choices.methods import method_lines
from inner_rim.work.text.lines import FieldChoice, ListLine, Tone, head
from inner_rim.work.text.pick_rows import usual_stock

_TAPE_TONES: dict[str, Tone] = {
    "right": "calm",
    "narrow": "caution",
    "climbs": "caution",
    "too_narrow": "stop",
    "too_wide": "stop",
}


METHOD_WORDS = {"match": N_("match"), "plus_two": N_("plus two"), "wide": N_("wide"), "contour": N_("contour")}


def tape_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    """Return every width on the shelf with its verdict, methods, starts and kinds."""
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
        gap = tr("{gap} bare at each edge") if option.edge_gap_mm >= 0.0 else tr("{gap} up each wall")
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
        "practice.tape_width", METHOD_WORDS, tape.by_method, tape.method, TRADE, units, tr("nothing in stock")
    )
    result.append(head(tr("Where to start")))
    for name in ("at_valve", "past_valve", "opposite"):
        result.append(
            ListLine(
                tr(REASONS[name]),
                spoken(name),
                chip=tr("used") if name == tape.start else "",
                key=FieldChoice("practice.tape_start", name),
            )
        )
    result.append(head(tr("Kinds of tape")))
    result += [
        ListLine(tr(words), tr(name), chip=tr("on the roll") if name == tape.material else "")
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
    if tape.trim_to_mm is not None:
        result.append(ListLine(show(tape.trim_to_mm, TRADE, units), tr("Trim to"), tone="caution", chip=tr("trim")))
    fit = tape.bead_fit
    if fit is None:
        result.append(ListLine(tr("lay a tape around the bead seat to know it"), tr("Bead fit"), tone="muted"))
    else:
        result.append(
            ListLine(
                tr("{fit}: seat less bead {difference}").format(
                    fit=tr(fit.fit), difference=show(fit.difference_mm, "mm", units)
                ),
                tr("Bead fit"),
                note=tr("{n} layers make it snug").format(n=fit.layers_to_snug) if fit.fit == "loose" else "",
                chip=tr(fit.fit),
                tone="caution" if fit.fit != "snug" else "calm",
            )
        )
    return result
