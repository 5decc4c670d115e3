"""Walk a procedure and check that every action's needs hold at its turn."""

from collections.abc import Iterable

from inner_rim.core.procedure.actions import Action, perform
from inner_rim.core.procedure.state import WheelState


class BrokenRecipe(Exception):
    """A procedure that breaks a physical rule: a bug of this program, never a wrong step on screen."""


def check(actions: Iterable[Action], start: WheelState, limit_kpa: float) -> WheelState:
    """Return the state a procedure ends in.

    Args:
        limit_kpa: no action may set more.

    Raises:
        BrokenRecipe: an action's needs do not hold, it sets more than the limit, or a question is asked twice.
    """
    state, asked = start, set()
    for item in actions:
        unmet = [condition for condition in item.needs if not state.holds(condition)]
        if unmet:
            raise BrokenRecipe(f"{item.key or item.code} needs {', '.join(map(str, unmet))}; the wheel is {state}")
        if item.pressure_kpa > limit_kpa:
            raise BrokenRecipe(f"{item.key} sets {item.pressure_kpa:g} kPa above {limit_kpa:g}")
        if item.question in asked:
            raise BrokenRecipe(f"{item.key} asks {item.question} again")
        asked |= {item.question} if item.question else set()
        state = perform(state, item.key)
    return state
