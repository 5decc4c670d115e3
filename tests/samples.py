"""Job documents for tests: one ordinary wheel, and a strategy for any job that parses."""

import copy

from hypothesis import strategies as st
from msgspec import inspect

from inner_rim.core.record import job as jobs
from inner_rim.core.record.log import Logged
from inner_rim.core.record.reading import job_from_plain, plain_type

#: A spreadsheet runs a cell that begins like this (OWASP, CSV injection).
RISKY = ("=", "+", "-", "@", "\t", "\r")
ORDINARY = {
    "format": "inner-rim/job",
    "version": 1,
    "wheels": [
        {
            "name": "Sandpiper front",
            "position": "front",
            "rim": {
                "bead_seat_diameter_mm": 622,
                "internal_width_mm": 24,
                "hook": "hooked",
                "depth_at_valve_mm": 18,
                "max_pressure_kpa": 400,
                "spokes": 32,
            },
            "tire": {
                "size": "45-622",
                "max_pressure_kpa": 340,
                "min_pressure_kpa": 150,
                "tubeless_ready": True,
                "straight_side_approved": True,
                "new": True,
            },
        }
    ],
    "ride": {"use": "mixed", "total_mass_kg": 98, "position": "flat_bar"},
}


def ordinary(**changes):
    """Return the ordinary job with values put in by dotted path, such as rim__hook="straight_side"."""
    document = copy.deepcopy(ORDINARY)
    for path, value in changes.items():
        *way, last = path.split("__")
        node = (
            document if way and way[0] in ("ride", "practice", "shelf") else document["wheels"][0]
        )
        for key in way:
            node = node.setdefault(key, {})
        if value is None:
            node.pop(last, None)
        else:
            node[last] = value
    return document


def stored(**changes):
    """Return the ordinary job as it is stored: its wheel has an identity."""
    document = ordinary(**changes)
    for place, wheel in enumerate(document["wheels"], 1):
        wheel.setdefault("wheel_id", f"w{place}")
    return document


def logged(*entries, at="2026-11-24T10:00:00+00:00"):
    """Return entries as they stand in the log of the first wheel."""
    return [
        Logged(number=i, at=at, wheel_id="w1", entry=entry) for i, entry in enumerate(entries, 1)
    ]


def planned_after(*entries, **changes):
    """Return the plan of the ordinary wheel from where these entries leave it, and where it then stands."""
    from inner_rim.core.plan.wheel_plan import plan_wheel
    from inner_rim.core.progress.progress import derive

    job = job_from_plain(ordinary(**changes))
    plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf, logged(*entries))
    return plan, derive(plan.wheel, plan)


SIZES = (
    "45-622", "25-622", "37-590", "100-559", "20-451", "700x45C", "650x47B", "29x2.25", "27.5 x 2.4",
    "20x2.15", "26x4.0", "26 x 1 3/8", "28 x 1 1/2", "18-622", "120-559",
)  # fmt: skip


def _of(node):
    node = plain_type(node)
    if isinstance(node, inspect.FloatType):
        low = node.ge if node.ge is not None else node.gt
        return st.floats(low, node.le, exclude_min=node.ge is None)
    if isinstance(node, inspect.IntType):
        return st.integers(node.ge, node.le)
    if isinstance(node, inspect.LiteralType):
        return st.sampled_from(node.values)
    if isinstance(node, inspect.BoolType):
        return st.booleans()
    if isinstance(node, inspect.ListType):
        return st.lists(_of(node.item_type), max_size=8)
    if isinstance(node, inspect.StrType):
        return st.text(min_size=node.min_length or 0, max_size=12)
    return struct(node.cls)


def struct(kind, **fixed):
    """Return plain data for a struct with every field drawn from its own bounds, or left out."""
    required, optional = {}, {}
    for item in inspect.type_info(kind).fields:
        if item.encode_name in fixed:
            required[item.encode_name] = fixed[item.encode_name]
        elif item.required:
            required[item.encode_name] = _of(item.type)
        else:
            optional[item.encode_name] = _of(item.type)
    return st.fixed_dictionaries(required, optional=optional)


def any_job():
    """Plain data of a job; some of it does not parse, for fields are at odds with each other."""
    tire = struct(jobs.Tire, size=st.sampled_from(SIZES))
    wheel = struct(jobs.Wheel, tire=tire)
    return struct(
        jobs.Job,
        format=st.just("inner-rim/job"),
        version=st.just(1),
        wheels=st.lists(wheel, min_size=1, max_size=2),
        due=st.just("2026-11-26"),
    )
