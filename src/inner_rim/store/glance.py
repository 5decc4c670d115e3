"""A first look at the bench without the weight of SQLAlchemy, for the first paint only.

Reads a local SQLite file with the standard library, writes nothing, and steps aside (None) whenever
anything is out of the ordinary: the repository then tells what it is.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path
from urllib.parse import quote

import msgspec

from . import rows
from .versions import STEP_NAMES


def glance(file: Path) -> rows.BenchState | None:
    """Return the bench of an up-to-date local database, or None."""
    if not file.exists():
        return None
    try:
        connection = sqlite3.connect(f"file:{quote(str(file))}?mode=ro", uri=True, timeout=0.2)
        try:
            applied = [name for (name,) in connection.execute("SELECT name FROM migrations ORDER BY place")]
            if applied != list(STEP_NAMES):
                return None
            return rows.bench_state(
                connection.execute(rows.BENCH_JOBS).fetchall(),
                connection.execute(rows.BENCH_LOG).fetchall(),
                connection.execute(rows.SETTINGS).fetchall(),
                connection.execute(rows.CHANGE).fetchone()[0],
            )
        finally:
            connection.close()
    except (sqlite3.Error, msgspec.MsgspecError, ValueError, TypeError):
        return None
