"""Check-in: do these parts go together, and earlier visits of this wheel."""

from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.record.moments import in_words, local, moment
from inner_rim.core.record.paths import group_of, name_of
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.store.rows import StoredVisit
from inner_rim.words import tr
from inner_rim.work.editing.state import BenchWheel
from inner_rim.work.text.lines import FieldChoice, ListLine, head


def visit_lines(visits: tuple[StoredVisit, ...], units: UnitChoice) -> list[ListLine]:
    """Return a wheel's earlier visits, newest first."""
    if not visits:
        return []
    result = [head(tr("Earlier visits"), tr("when it was handed over, at what pressure, by whom"))]
    result += [
        ListLine(in_words(local(moment(visit.at)), "%d %b %Y"), show(visit.pressure_kpa, "kpa", units), note=visit.by)
        for visit in reversed(visits)
    ]
    return result


def compatibility_lines(state: BenchWheel, plan: WheelPlan, units: UnitChoice) -> list[ListLine]:
    result = [head(tr("Do these parts go together?"))]
    tire, wheel = plan.tire, state.wheel
    assert wheel is not None
    stopped = {stop.code for stop in plan.stops}
    same = "diameter_mismatch" not in stopped
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
    ratio_ok = "width_ratio" not in stopped
    result.append(
        ListLine(
            tr("{ratio:.2f} times the rim's width").format(ratio=tire.width_ratio),
            tr("Ratio"),
            note=tr(
                "below 1.1 and above 2.8 stop; 1.1 to 1.3 only with both manufacturers' approval; 1.3 to 2.3 usual"
            ),
            chip=tr("stop") if not ratio_ok else tr("usual") if 1.3 <= tire.width_ratio <= 2.3 else tr("mind"),
            tone="stop" if not ratio_ok else "calm" if 1.3 <= tire.width_ratio <= 2.3 else "caution",
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
            stop.message.read(units), chip=tr("stop"), tone="stop", key=FieldChoice(stop.field) if stop.field else None
        )
        for stop in plan.stops
    ]
    return result


def _read_line(words: str, name: str, value: object, units: UnitChoice) -> ListLine:
    if value is None:
        return ListLine(tr("not entered: the worse case counts"), words, chip=tr("enter it"), tone="caution")
    if isinstance(value, bool):
        return ListLine(tr("yes") if value else tr("no"), words)
    text = show(value, "kpa", units) if isinstance(value, float) else spoken(str(value))
    return ListLine(text, words)
