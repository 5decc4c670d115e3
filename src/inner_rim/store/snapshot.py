"""A first read of the bench without SQLAlchemy's imports, for the first paint only.

Reads a local SQLite file with the standard library, writes nothing, and returns None whenever
anything is unusual: the repository then says what.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from inner_rim.store.rows import BenchState


def snapshot(file: Path) -> BenchState | None:
    if not _exists(file):
        return None
    import msgspec

    from inner_rim.store import rows
    from inner_rim.store.migrations import step_names

    try:
        connection = _connect(file)
        try:
            applied = [
                name for (name,) in connection.execute("SELECT name FROM migrations ORDER BY place")
            ]
            if applied != step_names():
                return None
            return rows.bench_state(
                connection.execute(rows.BENCH_JOBS).fetchall(),
                connection.execute(rows.BENCH_LOG).fetchall(),
                connection.execute(rows.SETTINGS).fetchall(),
                connection.execute(rows.CHANGE).fetchone()[0],
                connection.execute(rows.STOCKED).fetchall(),
            )
        finally:
            connection.close()
    except (sqlite3.Error, msgspec.MsgspecError, ValueError, TypeError):
        return None


def _exists(file: Path) -> bool:
    try:
        return file.stat().st_size > 0
    except OSError:
        return False


def _connect(file: Path) -> sqlite3.Connection:
    connection = sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True, timeout=0.2)
    connection.text_factory = _as_text
    return connection


def _as_text(stored: bytes) -> str:
    """See `database`; a row that cannot be read is left to the repository's readers."""
    return stored.decode("utf-8", "surrogateescape")
