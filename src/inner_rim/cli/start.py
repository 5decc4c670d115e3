"""Open the desktop, and the exit statuses of every command."""

from __future__ import annotations

import gc

EXIT_WELL, EXIT_STOPS, EXIT_INPUT = 0, 1, 2


def open_desktop(flags: list[str], started: float, show: tuple[str, str] | None = None) -> int:
    """Open the desktop. Garbage collection is off until start-up is over."""
    gc.disable()
    from inner_rim.desktop.app import run

    smoke, smoke_start = "--smoke" in flags, "--smoke-start" in flags
    return run(
        demo="--demo" in flags, smoke=smoke, smoke_start=smoke_start, started=started, show=show
    )
