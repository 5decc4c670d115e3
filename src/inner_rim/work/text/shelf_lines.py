"""The shelf and the pick list as lines for the views."""

from collections.abc import Iterable, Sequence

from inner_rim.core.plan.picking import PickLine
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.parts import KIND_WORDS, STOCK_KIND, Item
from inner_rim.core.record.plain import JsonObject
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, kind_of, show
from inner_rim.words import N_, tr, with_mark
from inner_rim.work.text.lines import ListLine, Tone, head
from inner_rim.work.text.wheel_words import span_words

#: Figures that tell a part from its neighbours, in their order.
TELLING = (
    "size",
    "bead_seat_diameter_mm",
    "internal_width_mm",
    "width_mm",
    "length_mm",
    "height_mm",
    "width_min_mm",
    "width_max_mm",
    "hook",
    "base",
    "material",
    "max_pressure_kpa",
    "min_pressure_kpa",
    "depth_at_valve_mm",
    "bottle_ml",
    "thickness_mm",
)
MOST_FIGURES = 4
FIGURE_WORDS = {
    "bead_seat_diameter_mm": N_("Ø {}"),
    "internal_width_mm": N_("{} inside"),
    "width_mm": N_("{} wide"),
    "length_mm": N_("{} long"),
    "height_mm": N_("{} high"),
    "max_pressure_kpa": N_("at most {}"),
    "min_pressure_kpa": N_("at least {}"),
    "depth_at_valve_mm": N_("{} deep"),
    "bottle_ml": N_("bottles of {}"),
    "thickness_mm": N_("{} thick"),
    "width_min_mm": N_("from {}"),
    "width_max_mm": N_("to {}"),
}

_WORDS = {"straight_side": "hookless"}


def amount_text(kind: str, amount: float, units: UnitChoice) -> str:
    """Return an amount of a kind of part: pieces, a length or a volume.

    >>> amount_text("valve", 3.0, UnitChoice()), amount_text("sealant", 620.0, UnitChoice())
    ('3', '620 ml')
    """
    unit = {str(name): unit for name, unit in STOCK_KIND.items()}.get(kind)
    return show(amount, unit, units) if unit else with_mark(f"{amount:g}")


def part_text(spec: JsonObject, units: UnitChoice) -> str:
    """Return a part as it is suggested: its name, and the figures that tell it from its neighbors.

    >>> part_text({"name": "Canal", "bead_seat_diameter_mm": 622.0, "internal_width_mm": 24.0}, UnitChoice())
    'Canal · Ø 622 mm · 24 mm inside'
    """
    return " · ".join(words for words in (str(spec.get("name", "")), figures_text(spec, units)) if words)


def figures_text(spec: JsonObject, units: UnitChoice) -> str:
    result = []
    for name in TELLING:
        value = spec.get(name)
        if value is None:
            continue
        kind = kind_of(name)
        if name == "thickness_mm":
            text = with_mark(f"{value:g} mm")
        else:
            text = (
                show(value, kind, units) if kind else tr(_WORDS[str(value)]) if value in _WORDS else spoken(str(value))
            )
        result.append(tr(FIGURE_WORDS[name]).format(text) if name in FIGURE_WORDS else text)
    return " · ".join(result[:MOST_FIGURES])


def shelf_lines(items: Iterable[Item], units: UnitChoice) -> tuple[ListLine, ...]:
    result = []
    for item in items:
        chip = ""
        tone: Tone = "calm"
        if item.retired:
            chip, tone = tr("retired"), "caution"
        elif _is_low(item):
            gone = item.stock <= 0.0
            chip = tr("none left") if gone else tr("running out")
            tone = "stop" if gone else "caution"
        result.append(
            ListLine(
                item.name,
                note=f"{tr(KIND_WORDS[item.kind])} · {figures_text(item.spec, units)}",
                right=amount_text(item.kind, item.stock, units) if item.stock > 0.0 else "–",
                chip=chip,
                tone=tone,
                key=item.item_id,
            )
        )
    return tuple(result)


def _is_low(item: Item) -> bool:
    return 0.0 < item.low_at >= item.stock


def glance_lines(items: Iterable[Item], picks: tuple[PickLine, ...], units: UnitChoice) -> tuple[ListLine, ...]:
    """Return the stock at a glance: what is short, then what runs out."""
    short = [_pick_line(line, units) for line in picks if line.short > 0.0]
    out = shelf_lines((item for item in items if not item.retired and _is_low(item)), units)
    result: list[ListLine] = []
    if short:
        result += [head(tr("Missing for the bench"), tr("order or borrow before you start")), *short]
    if out:
        result += [head(tr("Running out"), tr("at or below what you set as low")), *out]
    if not result:
        result = [head(tr("Nothing runs out"), tr("every wheel on the bench has what it needs"))]
    return (*result, head(tr("Choose a part to see or change it")))


def pick_lines(lines: tuple[PickLine, ...], units: UnitChoice, plans: Sequence[WheelPlan] = ()) -> tuple[ListLine, ...]:
    """Return the pick list as lines: shortages first, then what to take, then the tools of all these wheels."""
    tools = _tool_lines(plans)
    if not lines:
        return (head(tr("Nothing to take: every wheel has what it needs")), *tools)
    short = [line for line in lines if line.short > 0.0]
    there = [line for line in lines if line.short <= 0.0]
    result: list[ListLine] = []
    if short:
        result.append(head(tr("Missing"), tr("order or borrow before you start")))
        result += [_pick_line(line, units) for line in short]
    if there:
        result.append(head(tr("Take from the shelf")))
        result += [_pick_line(line, units) for line in there]
    return (*result, *tools)


def _tool_lines(plans: Sequence[WheelPlan]) -> list[ListLine]:
    if not plans:
        return []
    hands = sum(plan.minutes_hands for plan in plans)
    tools = dict.fromkeys(tool for plan in plans for tool in plan.tools)
    result = [head(tr("Lay out"), tr("{span} hands-on in all").format(span=span_words(hands)))]
    return result + [ListLine(tr(tool), "") for tool in tools]


def _pick_line(line: PickLine, units: UnitChoice) -> ListLine:
    name = line.name or tr("not named")
    if line.figure_mm and line.on_hand is None:
        name = show(line.figure_mm, "mm", units)
    note = ", ".join(line.wheels)
    if line.bottles:
        note = (tr("1 bottle") if line.bottles == 1 else tr("{n} bottles").format(n=line.bottles)) + " · " + note
    if line.on_hand is None:
        chip = tr("not on the shelf")
    elif line.short > 0.0:
        chip = tr("{short} short").format(short=amount_text(line.kind, line.short, units))
    else:
        chip = ""
    return ListLine(
        name,
        tr(KIND_WORDS[line.kind]),
        note=note,
        right=amount_text(line.kind, line.amount, units),
        chip=chip,
        tone="stop" if chip else "calm",
    )
