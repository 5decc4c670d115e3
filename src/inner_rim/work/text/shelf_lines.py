"""Shelf, pick list, insights and logbook as lines for the pages."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

import msgspec

from inner_rim.core.plan.picking import PickLine
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.log import Correction
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.parts import KIND_WORDS, STOCK_KIND, Item
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, kind_of, show
from inner_rim.store.codec import UnreadableRow
from inner_rim.store.rows import Hit, StoredJob
from inner_rim.words import N_, tr, with_mark
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.text.lines import ListLine, Tone, head
from inner_rim.work.text.log_words import entry_text, marked_texts
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
MAX_FIGURES = 4
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
    return " · ".join(
        words for words in (str(spec.get("name", "")), figures_text(spec, units)) if words
    )


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
                show(value, kind, units)
                if kind
                else tr(_WORDS[str(value)])
                if value in _WORDS
                else spoken(str(value))
            )
        result.append(tr(FIGURE_WORDS[name]).format(text) if name in FIGURE_WORDS else text)
    return " · ".join(result[:MAX_FIGURES])


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


def glance_lines(
    items: Iterable[Item], picks: tuple[PickLine, ...], units: UnitChoice
) -> tuple[ListLine, ...]:
    """Return the stock at a glance: what is short, then what runs out."""
    short = [_pick_line(line, units) for line in picks if line.short > 0.0]
    out = shelf_lines((item for item in items if not item.retired and _is_low(item)), units)
    result: list[ListLine] = []
    if short:
        result += [
            head(tr("Missing for the bench"), tr("order or borrow before you start")),
            *short,
        ]
    if out:
        result += [head(tr("Running out"), tr("at or below what you set as low")), *out]
    if not result:
        result = [head(tr("Nothing runs out"), tr("every wheel on the bench has what it needs"))]
    return (*result, head(tr("Choose a part to see or change it")))


def pick_lines(
    lines: tuple[PickLine, ...], units: UnitChoice, plans: Sequence[WheelPlan] = ()
) -> tuple[ListLine, ...]:
    """Return the pick list as lines: shortages first, then what to take, then the tools of all
    these wheels.
    """
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
        if line.material:
            name = tr("electrical tape, {width}").format(width=name)
    note = ", ".join(line.wheels)
    if line.bottles:
        note = (
            (tr("1 bottle") if line.bottles == 1 else tr("{n} bottles").format(n=line.bottles))
            + " · "
            + note
        )
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


class Month(msgspec.Struct, frozen=True):
    """A figure in one month, or of one way, with its interval, nine times out of ten, and from how
    many.
    """

    name: str
    value: float
    low: float
    high: float
    n: int


class Mark(msgspec.Struct, frozen=True):
    """One mark of a topic.

    Attributes:
        share: where it stands on a scale from 0 to 1.
        note: a second line.
        band: where it stands nine times out of ten, on the same scale; None where it has no spread.
        sets: the shop's method that it proposes: its field and the way.
        sides: that way's figure and the one's in use.
    """

    name: str
    figure: str
    share: float | None = None
    wheels: tuple[WheelKey, ...] = ()
    note: str = ""
    band: tuple[float, float] | None = None
    sets: tuple[str, str | bool | int] | None = None
    sides: tuple[Month, ...] = ()


class Topic(msgspec.Struct, frozen=True):
    """What the log says of one question.

    Attributes:
        sentence, n: what it says, and from how many.
        months: how its figure moved, the oldest month first, in the unit `unit`.
    """

    code: str
    title: str
    sentence: str
    n: int
    marks: tuple[Mark, ...] = ()
    months: tuple[Month, ...] = ()
    unit: str = ""


def insight_lines(
    topics: Sequence[Topic] | None, unused_figures: Collection[str], in_use: Mapping[str, object]
) -> tuple[ListLine, ...]:
    """Return the topics that the log says something of; a line that says what is missing where
    there is none.

    Args:
        in_use: the shop's methods.
    """
    if topics is None:
        return (head(tr("Reading the log…")),)
    result = tuple(_lines(topics, unused_figures, in_use))
    if result:
        return result
    words = tr("It fills as wheels are seated, tested, promised, and come back")
    return (head(tr("The log says nothing yet"), words),)


def _lines(
    topics: Sequence[Topic], unused_figures: Collection[str], in_use: Mapping[str, object]
) -> Iterator[ListLine]:
    for topic in topics:
        if topic.marks:
            yield head(topic.title, topic.sentence)
        for place, mark in enumerate(topic.marks):
            chip = tr("not used") if topic.code in unused_figures else ""
            if mark.sets is not None and in_use.get(mark.sets[0]) == mark.sets[1]:
                chip = tr("in use")
            yield ListLine(
                mark.name,
                note=mark.note,
                right=mark.figure,
                chip=chip,
                share=mark.share,
                band=mark.band,
                key=(topic.code, place),
            )


#: What may be asked for: the words, and the kinds of entries.
KINDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "all": (N_("All"), ()),
    "seat": (N_("Seating"), ("attempt", "inspection")),
    "hold": (N_("Holding"), ("reading", "leak")),
    "set": ("Handed over", ("sign_off", "feedback")),
    "stop": (N_("Stops"), ("finding", "override", "correction")),
    "care": (N_("Care"), ("care", "dose", "dip")),
}


def hit_lines(
    hits: tuple[Hit, ...],
    units: UnitChoice,
    unreadable: tuple[UnreadableRow, ...] = (),
    asked: str | None = "",
) -> tuple[ListLine, ...]:
    """Return what was found as lines under their days, newest first, after what is stored and
    cannot be read.

    Args:
        asked: the words that were looked for, None while no answer has come.
    """
    odd = tuple(
        ListLine(
            tr("Unreadable: {table} {key}").format(table=tr(row.table), key=row.key),
            note=f"{row.why} · {' '.join(row.body.split())[:200]}",
            chip=tr("kept as it is"),
            tone="caution",
        )
        for row in unreadable
    )
    if not hits and asked is None:
        return odd
    if not hits:
        none = (
            tr("Nothing found")
            if asked
            else tr("Nothing logged yet. What is done at a wheel is listed here.")
        )
        return (*odd, head(none))
    result: list[ListLine] = []
    day = ""
    for hit in sorted(hits, key=lambda hit: moment(hit.item.at), reverse=True):
        when = local(moment(hit.item.at))
        if (today := in_words(when, "%a %d %b %Y")) != day:
            result.append(head(today))
            day = today
        result.append(
            ListLine(
                hit.name,
                in_words(when, "%H:%M"),
                note=entry_text(hit.item.entry, units),
                key=(hit.job_id, hit.item.wheel_id, hit.item.number),
            )
        )
    return (*odd, *result)


def story_lines(
    job: StoredJob | None, opened: WheelKey | None, units: UnitChoice
) -> tuple[ListLine, ...]:
    """Return a wheel's story as lines, oldest first; corrected entries say so."""
    if job is None or opened is None:
        return (head(tr("Choose an entry on the left")),)
    mine = [item for item in job.log if item.wheel_id == opened[1]]
    corrected = {item.entry.of for item in mine if isinstance(item.entry, Correction)}
    about = [
        str(job.document[key]) for key in ("customer", "bike", "title") if job.document.get(key)
    ]
    lines = [
        head(
            " · ".join(about) or tr("No customer named"),
            tr("off the bench") if job.archived else tr("on the bench"),
        )
    ]
    lines += [
        ListLine(
            text,
            _day(item.at),
            chip=tr("corrected below") if item.number in corrected else "",
            tone="caution" if item.number in corrected else "calm",
            key=item.number,
        )
        for item, text in zip(mine, marked_texts(mine, units), strict=True)
    ]
    return tuple(lines)


def _day(at: str) -> str:
    return in_words(local(moment(at)), "%d %b %H:%M")
