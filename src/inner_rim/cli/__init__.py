"""The command line: thin, the work is done below; without a command it opens the desktop."""

from __future__ import annotations

import sys
import time

from inner_rim.cli.start import EXIT_INPUT, EXIT_WELL, open_desktop

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
