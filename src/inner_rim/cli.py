"""The command line: plan, schema, and the door to the desktop. Thin: the work is done below."""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

from inner_rim import __version__
from inner_rim.words import tr

EXIT_WELL, EXIT_STOPS, EXIT_INPUT = 0, 1, 2


def main(argv: list[str] | None = None) -> int:
    """Run the command line and return the exit status: 0 well, 1 stops, 2 unreadable input."""
    started = time.perf_counter()
    args = parser().parse_args(argv)
    if args.command is None:
        from inner_rim.desktop.app import run

        return run(demo=args.demo, smoke=args.smoke, smoke_start=args.smoke_start, started=started)
    try:
        return int(args.run(args))
    except BrokenPipeError:  # the reader of the pipe has gone: nothing left to say
        sys.stderr.close()
        return EXIT_WELL


def parser() -> argparse.ArgumentParser:
    """Return the parser with every command and its help."""
    top = argparse.ArgumentParser(
        prog="inner-rim", description=tr("Plan and record tubeless conversions of bicycle wheels.")
    )
    top.add_argument("--version", action="version", version=f"inner-rim {__version__}")
    top.add_argument(
        "--demo", action="store_true", help=tr("open the desktop on the demo data, in a folder of its own")
    )
    top.add_argument(
        "--smoke",
        action="store_true",
        help=tr("open, paint every page once, print start-up milliseconds, leave"),
    )
    top.add_argument(
        "--smoke-start",
        action="store_true",
        help=tr("leave as soon as the first wheel can be worked on; print milliseconds"),
    )
    top.set_defaults(run=None)
    commands = top.add_subparsers(dest="command", metavar="COMMAND")
    plan = commands.add_parser("plan", help=tr("print the plan of a job file"))
    plan.add_argument("job", type=Path, metavar="JOB.json", help=tr("a job document (inner-rim/job)"))
    plan.add_argument("--json", action="store_true", help=tr("print the plan document (inner-rim/plan)"))
    plan.set_defaults(run=_plan)
    schema = commands.add_parser("schema", help=tr("print the JSON Schema of a job document"))
    schema.set_defaults(run=_schema)
    return top


def _plan(args: argparse.Namespace) -> int:
    from inner_rim.core.errors import InputError
    from inner_rim.core.plan import plan_job
    from inner_rim.work.card import text_card
    from inner_rim.work.planning import plan_of_job, read_job

    try:
        job = read_job(args.job)
    except InputError as fault:
        return _complain(args.job, fault)
    plans = plan_job(job)
    if args.json:
        _print_json(plan_of_job(job))
    else:
        sys.stdout.write("\n".join(text_card(plan) for plan in plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def _schema(args: argparse.Namespace) -> int:
    from inner_rim.core.job import schema

    _print_json(schema())
    return EXIT_WELL


def _print_json(document: object) -> None:
    import msgspec

    sys.stdout.write(msgspec.json.format(msgspec.json.encode(document), indent=2).decode() + "\n")


def _complain(file: Path, fault: Exception) -> int:
    line = " ".join(f"{file}: {fault}".split())
    sys.stderr.write(line + "\n")
    return EXIT_INPUT


if __name__ == "__main__":
    sys.exit(main())
