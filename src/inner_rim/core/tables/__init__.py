"""Data files of the core, read once; each carries its source in its header."""

from __future__ import annotations

import tomllib
from functools import cache
from pathlib import Path
from typing import Any


@cache
def table(name: str) -> dict[str, Any]:
    """Return the table `name`.toml as a dict.

    Raises:
        FileNotFoundError: no such table.
    """
    return tomllib.loads(Path(__file__).with_name(f"{name}.toml").read_text(encoding="utf-8"))
