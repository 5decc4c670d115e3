"""What the far view says: what the gauge reads, the next action, the limit with its origin, and an alarm in place of the action."""

import msgspec

from inner_rim.core.models.limit import limit_words
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelState
from inner_rim.work.text.panel import Now


class Far(msgspec.Struct, frozen=True):
    """The far view in words.

    Attributes:
        figure: what the gauge reads, empty where there is no gauge.
        action: the next action.
        limit: the limit, with what sets it.
        alarm: said in place of the action, empty where all is well.
        tone: none, near or over.
    """

    figure: str
    action: str
    limit: str
    alarm: str = ""
    tone: str = "none"


def far_of(
    state: WheelState | None, now: Now, gauge_kpa: float | None, alarm: str, said: str, units: UnitChoice
) -> Far:
    """Return what the far view says now.

    Args:
        state: the selected wheel.
        now: its next action.
        gauge_kpa: what the gauge says, None where it says nothing.
        alarm: none, near or over.
        said: the alarm in words.
        units: what is shown.
    """
    plan = state.plan if state is not None else None
    figure = "" if gauge_kpa is None else show(gauge_kpa, "kpa", units)
    if plan is None:
        return Far(figure, now.action, tr("No limit known yet: no air in before rim and tire are entered"))
    limit = plan.pressure.limit_kpa
    return Far(
        figure=figure,
        action=now.action,
        limit=tr("Never above {limit}, {origin}").format(
            limit=show(limit, "kpa", units), origin=tr(limit_words(plan.pressure))
        ),
        alarm=said,
        tone=alarm,
    )
