"""The picture of each act, for one wheel: where to begin, which way, what to watch."""

from inner_rim.core.drawing import acts_air, acts_hold, acts_strip, acts_tape, acts_tire
from inner_rim.core.drawing.scene import Scene
from inner_rim.core.drawing.sketch import Sketch
from inner_rim.core.plan.wheel_plan import WheelPlan
from inner_rim.core.procedure.actions import Action, perform
from inner_rim.core.procedure.state import WheelState

SCENES = {
    **acts_strip.SCENES,
    **acts_tape.SCENES,
    **acts_tire.SCENES,
    **acts_air.SCENES,
    **acts_hold.SCENES,
}


def draw_act(plan: WheelPlan, step: Action) -> Scene:
    """Return the picture of a step of a plan, with what is in the wheel when its turn comes.

    Raises:
        KeyError: an action without a picture; a test holds that every code has one.
    """
    sketch = Sketch(plan, _before(plan, step), step)
    SCENES[step.code](sketch)
    return sketch.scene()


def _before(plan: WheelPlan, step: Action) -> WheelState:
    state = plan.log.state
    for one in plan.steps:
        if one.key == step.key:
            break
        state = perform(state, one.key)
    return state
