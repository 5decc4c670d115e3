"""Identities of jobs, wheels, parts and log entries: random, and the same in every copy of the data."""

import re

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
