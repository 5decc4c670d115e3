"""The command line: thin, the work is done below; without a command it opens the desktop."""

from __future__ import annotations

import gc
import sys
import time

EXIT_WELL, EXIT_STOPS, EXIT_INPUT = 0, 1, 2  # the statuses of every command

DESKTOP_FLAGS = {"--demo", "--smoke", "--smoke-start"}


def main(argv: list[str] | None = None) -> int:
    """Run the command line and return the exit status: 0 well, 1 stops, 2 unreadable input."""
    started = time.perf_counter()
    words = sys.argv[1:] if argv is None else argv
    if set(words) <= DESKTOP_FLAGS:  # straight to the window, past the parser's imports
        return open_desktop(words, started)
    from inner_rim.cli.options import parser

    args = parser().parse_args(words)
    if args.command is None:
        return open_desktop(words, started)
    try:
        status = int(args.run(args))
        sys.stdout.flush()
        return status
    except BrokenPipeError:  # the reader of the pipe is gone
        sys.stderr.close()
        return EXIT_WELL
    except OSError as fault:  # the output cannot be written: a full disk, a closed terminal
        from inner_rim.words import tr

        sys.stderr.write(
            tr("inner-rim: the output cannot be written: {why}").format(why=fault.strerror) + "\n"
        )
        _drop_output()
        return EXIT_INPUT


def _drop_output() -> None:
    """Drop what is still buffered; Python would complain about it at exit."""
    import os

    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def open_desktop(flags: list[str], started: float, show: tuple[str, str] | None = None) -> int:
    """Open the desktop. Garbage collection is off until start-up is over."""
    gc.disable()
    from inner_rim.desktop.app import run

    smoke, smoke_start = "--smoke" in flags, "--smoke-start" in flags
    return run(
        demo="--demo" in flags, smoke=smoke, smoke_start=smoke_start, started=started, show=show
    )
