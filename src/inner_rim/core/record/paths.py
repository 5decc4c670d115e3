"""Paths of fields, such as ``rim.internal_width_mm`` or ``wheels[0].rim.hook``: the one place that knows their syntax."""


def parts_of(path: str) -> list[str]:
    """Return the names along a path.

    >>> parts_of("rim.hook")
    ['rim', 'hook']
    """
    return path.split(".")


def group_of(path: str) -> str:
    """Return the struct that a field is in.

    >>> group_of("practice.dose"), group_of("title")
    ('practice', 'title')
    """
    return path.partition(".")[0]


def name_of(path: str) -> str:
    """Return a field's own name.

    >>> name_of("wheels[0].rim.hook"), name_of("title")
    ('hook', 'title')
    """
    return path.rpartition(".")[2]


def within_wheel(path: str) -> str:
    """Return a path without the wheel it begins with.

    >>> within_wheel("wheels[0].rim.hook"), within_wheel("ride.use")
    ('rim.hook', 'ride.use')
    """
    return path.partition("].")[2] if path.startswith("wheels[") else path
