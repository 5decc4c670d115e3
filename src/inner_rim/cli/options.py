"""The commands and options of the command line, and which function carries each out."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import NoReturn

from inner_rim import __version__
from inner_rim.cli import EXIT_INPUT, commands
from inner_rim.core.record.units import number
from inner_rim.words import tr


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(EXIT_INPUT, f"{self.prog}: {message}\n")


def parser() -> argparse.ArgumentParser:
    """Return the parser of the whole command line; `run` carries out a command and returns the exit
    status.
    """
    top = _Parser(
        prog="inner-rim", description=tr("Plan and record tubeless conversions of bicycle wheels.")
    )
    top.add_argument("--version", action="version", version=f"inner-rim {__version__}")
    top.add_argument(
        "--demo",
        action="store_true",
        help=tr("open the desktop on the demo data, in a folder of its own"),
    )
    for flag in ("--smoke", "--smoke-start"):  # for tests and benchmarks
        top.add_argument(flag, action="store_true", help=argparse.SUPPRESS)
    top.set_defaults(run=None)
    into = top.add_subparsers(dest="command", metavar="COMMAND")
    _add_job_commands(into)
    _add_measuring_commands(into)
    _add_data_commands(into)
    _add_training(into)
    return top


def _add_job_commands(into: argparse._SubParsersAction[_Parser]) -> None:
    plan = into.add_parser("plan", help=tr("print the plan of a job file"))
    plan.add_argument(
        "job", type=Path, nargs="*", metavar="JOB.json", help=tr("a job document (inner-rim/job)")
    )
    plan.add_argument(
        "--say",
        metavar="LINE",
        help=tr("plan what a line says, such as 45-622 on 24 hooked, 98 kg"),
    )
    plan.add_argument(
        "--json", action="store_true", help=tr("print the plan document (inner-rim/plan)")
    )
    plan.add_argument(
        "--after", type=Path, metavar="LOG.json", help=tr("print what remains after this job's log")
    )
    plan.add_argument(
        "--card", type=Path, metavar="FILE.pdf", help=tr("write bench cards, with the steps")
    )
    plan.set_defaults(run=commands.plan)
    schema = into.add_parser("schema", help=tr("print the JSON Schema of a job document"))
    schema.set_defaults(run=commands.schema)
    day = into.add_parser(
        "schedule", help=tr("work out who does what when; status 1 where something is late")
    )
    day.add_argument(
        "day", type=Path, nargs="?", metavar="DAY.json", help=tr("a day document (inner-rim/day)")
    )
    day.add_argument(
        "--json", action="store_true", help=tr("print the schedule document (inner-rim/schedule)")
    )
    day.add_argument(
        "--schema", action="store_true", help=tr("print the JSON Schema of a day document")
    )
    day.set_defaults(run=commands.schedule)


def _add_measuring_commands(into: argparse._SubParsersAction[_Parser]) -> None:
    trace = into.add_parser("trace", help=tr("find peak and pops in a pressure trace"))
    trace.add_argument(
        "file", type=Path, metavar="TRACE.csv", help=tr("columns time_s,pressure_kpa")
    )
    trace.add_argument(
        "--limit-kpa", type=_positive, metavar="N", help=tr("list the readings above this pressure")
    )
    trace.add_argument("--json", action="store_true", help=tr("print JSON"))
    trace.set_defaults(run=commands.trace)
    hold = into.add_parser("hold", help=tr("work out the loss of air from readings"))
    hold.add_argument(
        "file",
        type=Path,
        metavar="READINGS.csv",
        help=tr("columns time_h,pressure_kpa,temperature_c"),
    )
    hold.add_argument(
        "--volume-ml", type=_positive, required=True, metavar="V", help=tr("air in the tire")
    )
    for name, usual, words in (
        ("gauge-ml", 5.0, tr("what a reading lets into the gauge")),
        ("resolution-kpa", 0.7, tr("standard error of one reading")),
        ("ambient-kpa", 101.325, tr("air pressure in the shop")),
    ):
        hold.add_argument(
            f"--{name}",
            type=_not_negative if name == "gauge-ml" else _positive,
            default=usual,
            metavar="N",
            help=f"{words} ({usual:g})",
        )
    hold.add_argument(
        "--step-kpa",
        type=_positive,
        metavar="S",
        help=tr(
            "finest step of the gauge: the error of a reading follows from it and from the temperature"
        ),
    )
    hold.add_argument("--new-tire", action="store_true", help=tr("its casing still grows"))
    hold.add_argument("--json", action="store_true", help=tr("print JSON"))
    hold.set_defaults(run=commands.hold)


def _add_data_commands(into: argparse._SubParsersAction[_Parser]) -> None:
    export = into.add_parser("export", help=tr("write all your data into a folder"))
    export.add_argument(
        "--to", type=Path, required=True, metavar="FOLDER", help=tr("made where it is missing")
    )
    export.set_defaults(run=commands.export)
    insights = into.add_parser("insights", help=tr("what your log has taught, figure by figure"))
    insights.add_argument("--json", action="store_true", help=tr("as JSON"))
    insights.set_defaults(run=commands.insights)
    take_in = into.add_parser("import", help=tr("read jobs, shelf and shop setup; all or nothing"))
    take_in.add_argument(
        "files", type=Path, nargs="+", metavar="FILE", help=tr("files, or a folder of an export")
    )
    take_in.add_argument(
        "--replace", action="store_true", help=tr("replace jobs that are in the data already")
    )
    take_in.set_defaults(run=commands.take_in)
    backup = into.add_parser("backup", help=tr("copy the data file, also while the program runs"))
    backup.add_argument("file", type=Path, metavar="FILE", help=tr("where the copy goes"))
    backup.set_defaults(run=commands.backup)
    restore = into.add_parser("restore", help=tr("put a backup in the place of the data"))
    restore.add_argument(
        "file",
        type=Path,
        metavar="FILE",
        help=tr("the backup, or a folder for the newest in it; the data before it are kept"),
    )
    restore.set_defaults(run=commands.restore)
    opening = into.add_parser(
        "open", help=tr("open a job file in the window that runs, or in a new one")
    )
    opening.add_argument(
        "file", type=Path, nargs="?", metavar="JOB.json", help=tr("the job; stored where it is new")
    )
    opening.set_defaults(run=commands.open_job)
    doctor = into.add_parser(
        "doctor", help=tr("check this installation; status 1 where something is wrong")
    )
    doctor.set_defaults(run=commands.doctor)


def _add_training(into: argparse._SubParsersAction[_Parser]) -> None:
    train = into.add_parser("train", help=tr("play a training wheel by a list of actions"))
    train.add_argument(
        "scenario", metavar="SCENARIO", help=tr("its number or id, a file, or random-SEED")
    )
    train.add_argument(
        "--play",
        default="",
        metavar="ACTIONS",
        help=tr("actions in order, divided by commas or spaces"),
    )
    train.add_argument("--json", action="store_true", help=tr("print JSON"))
    train.set_defaults(run=commands.train)


def _positive(text: str) -> float:
    value = _not_negative(text)
    if value == 0.0:
        raise ValueError(text)
    return value


def _not_negative(text: str) -> float:
    """Return a number for an option; argparse names option and value where it is none."""
    value = number(text)
    if not 0.0 <= value <= 1e6:
        raise ValueError(text)
    return value


_positive.__name__ = "number above 0 and up to 1000000"
_not_negative.__name__ = "number from 0 to 1000000"
