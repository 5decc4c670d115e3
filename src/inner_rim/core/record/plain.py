"""Plain data as JSON has it, where its shape is checked by the definitions of `job`, `log` and `parts`."""

from typing import Any

import msgspec

#: A JSON object: a job document, a part's figures, a log entry before it is decoded.
JsonObject = dict[str, Any]


def as_plain(value: object) -> Any:
    """Return a value as it is when it has been stored and read again.

    >>> as_plain((1, 2.0))
    [1, 2.0]
    """
    return msgspec.json.decode(msgspec.json.encode(value))
