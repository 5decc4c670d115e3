"""Plain data as JSON has it, where its shape is checked by the definitions of `job`, `log` and `parts`."""

from typing import Any

#: A JSON object: a job document, a part's figures, a log entry before it is decoded.
JsonObject = dict[str, Any]
