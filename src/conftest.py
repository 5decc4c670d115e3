"""What the doctests of the models share: a usual wheel with all that is worked out of it on the way to a plan."""

import msgspec
import pytest

from inner_rim.core.models.rim import bed_of
from inner_rim.core.models.tape import pick_tape
from inner_rim.core.models.tire import mount
from inner_rim.core.plan.resolve import resolve
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.job import Rim, Tire, Wheel


@pytest.fixture(autouse=True, scope="session")
def usual_wheel(doctest_namespace: dict[str, object]) -> None:
    """Put the usual wheel into every doctest's names."""
    rim = Rim(bead_seat_diameter_mm=622.0, internal_width_mm=24.0)
    wheel = Wheel(rim=rim, tire=Tire(size="45-622"), name="Tern")
    bed, resolved = bed_of(rim), resolve(wheel)
    doctest_namespace |= {
        "rim": rim,
        "bed": bed,
        "tire": wheel.tire,
        "wheel": wheel,
        "methods": resolved.methods,
        "stock": resolved.stock,
        "rider": resolved.rider,
        "mounted": mount(wheel.tire, rim, bed),
        "tape": pick_tape(rim, bed, resolved.methods, resolved.stock),
        "plan": plan_wheel(wheel),
        "msgspec": msgspec,
    }
