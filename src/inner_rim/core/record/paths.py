"""Names in the data: paths of fields such as ``rim.internal_width_mm`` or ``wheels[0].rim.hook``,
identities, plain JSON.
"""

import re
from typing import Any


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


#: A JSON object: a job document, a part's figures, a log entry before it is decoded.
JsonObject = dict[str, Any]


_PATTERN = re.compile(r"[0-9A-Za-z-]{1,64}", re.ASCII)


def new_id() -> str:
    """Return a new identity (UUID version 4, RFC 9562)."""
    import uuid  # not on the way to the first paint

    return str(uuid.uuid4())


def id_from(*parts: object) -> str:
    """Return the identity that always belongs to these parts (UUID version 5, RFC 9562).

    >>> id_from("job", 12, 0) == id_from("job", 12, 0)
    True
    """
    import uuid

    return str(uuid.uuid5(uuid.NAMESPACE_OID, "/".join(map(str, parts))))


def is_id(text: object) -> bool:
    """Whether something can be an identity: letters, digits and hyphens, at most 64.

    >>> is_id("7f3c-01"), is_id("a b"), is_id("")
    (True, False, False)
    """
    return isinstance(text, str) and _PATTERN.fullmatch(text) is not None
