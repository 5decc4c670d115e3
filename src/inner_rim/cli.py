"""The command line: thin, the work is done below; without a command it opens the desktop."""

from __future__ import annotations

import gc
import sys
import time
from typing import TYPE_CHECKING, NoReturn, TypeVar

from inner_rim.core.record.plain import JsonObject

if TYPE_CHECKING:
    import argparse
    from collections.abc import Callable
    from pathlib import Path

    from inner_rim.store.repository import Repository

P = TypeVar("P", bound="argparse.ArgumentParser")
DESKTOP_FLAGS = {"--demo", "--smoke", "--smoke-start"}
EXIT_WELL, EXIT_STOPS, EXIT_INPUT = 0, 1, 2


def main(argv: list[str] | None = None) -> int:
    """Run the command line and return the exit status: 0 well, 1 stops, 2 unreadable input."""
    started = time.perf_counter()
    words = sys.argv[1:] if argv is None else argv
    if set(words) <= DESKTOP_FLAGS:  # straight to the window, past the parser's imports
        return _desktop(words, started)
    args = parser().parse_args(words)
    if args.command is None:
        return _desktop(words, started)
    try:
        status = int(args.run(args))
        sys.stdout.flush()
        return status
    except BrokenPipeError:  # the reader of the pipe is gone
        sys.stderr.close()
        return EXIT_WELL
    except OSError as fault:  # the output cannot be written: a full disk, a closed terminal
        sys.stderr.write(f"inner-rim: the output cannot be written: {fault.strerror}\n")
        _drop_output()
        return EXIT_INPUT


def _drop_output() -> None:
    """Drop what is still buffered; Python would complain about it at exit."""
    import os

    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _desktop(flags: list[str], started: float, show: tuple[str, str] | None = None) -> int:
    """Open the desktop. Garbage collection is off until start-up is over."""
    gc.disable()
    from inner_rim.desktop.app import run

    smoke, smoke_start = "--smoke" in flags, "--smoke-start" in flags
    return run(demo="--demo" in flags, smoke=smoke, smoke_start=smoke_start, started=started, show=show)


def parser() -> argparse.ArgumentParser:
    import argparse

    from inner_rim import __version__
    from inner_rim.words import tr

    class Parser(argparse.ArgumentParser):
        def error(self, message: str) -> NoReturn:
            self.exit(EXIT_INPUT, f"{self.prog}: {message}\n")

    top = Parser(prog="inner-rim", description=tr("Plan and record tubeless conversions of bicycle wheels."))
    top.add_argument("--version", action="version", version=f"inner-rim {__version__}")
    top.add_argument(
        "--demo", action="store_true", help=tr("open the desktop on the demo data, in a folder of its own")
    )
    for flag in ("--smoke", "--smoke-start"):  # for tests and benchmarks
        top.add_argument(flag, action="store_true", help=argparse.SUPPRESS)
    top.set_defaults(run=None)
    commands = top.add_subparsers(dest="command", metavar="COMMAND")
    _add_job_commands(commands)
    _add_measuring_commands(commands)
    _add_data_commands(commands)
    _add_training(commands)
    return top


def _add_job_commands(commands: argparse._SubParsersAction[P]) -> None:
    from pathlib import Path

    from inner_rim.words import tr

    plan = commands.add_parser("plan", help=tr("print the plan of a job file"))
    plan.add_argument("job", type=Path, nargs="+", metavar="JOB.json", help=tr("a job document (inner-rim/job)"))
    plan.add_argument("--json", action="store_true", help=tr("print the plan document (inner-rim/plan)"))
    plan.add_argument("--after", type=Path, metavar="LOG.json", help=tr("print what remains after this job's log"))
    plan.add_argument("--card", type=Path, metavar="FILE.pdf", help=tr("write bench cards, with the steps"))
    plan.set_defaults(run=_plan)
    schema = commands.add_parser("schema", help=tr("print the JSON Schema of a job document"))
    schema.set_defaults(run=_schema)
    day = commands.add_parser("schedule", help=tr("work out who does what when; status 1 where something is late"))
    day.add_argument("day", type=Path, nargs="?", metavar="DAY.json", help=tr("a day document (inner-rim/day)"))
    day.add_argument("--json", action="store_true", help=tr("print the schedule document (inner-rim/schedule)"))
    day.add_argument("--schema", action="store_true", help=tr("print the JSON Schema of a day document"))
    day.set_defaults(run=_schedule)


def _add_measuring_commands(commands: argparse._SubParsersAction[P]) -> None:
    from pathlib import Path

    from inner_rim.words import tr

    trace = commands.add_parser("trace", help=tr("find peak and pops in a pressure trace"))
    trace.add_argument("file", type=Path, metavar="TRACE.csv", help=tr("columns time_s,pressure_kpa"))
    trace.add_argument("--limit-kpa", type=_positive, metavar="N", help=tr("list the readings above this pressure"))
    trace.add_argument("--json", action="store_true", help=tr("print JSON"))
    trace.set_defaults(run=_trace)
    hold = commands.add_parser("hold", help=tr("work out the loss of air from readings"))
    hold.add_argument("file", type=Path, metavar="READINGS.csv", help=tr("columns time_h,pressure_kpa,temperature_c"))
    hold.add_argument("--volume-ml", type=_positive, required=True, metavar="V", help=tr("air in the tire"))
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
        help=tr("finest step of the gauge: the error of a reading follows from it and from the temperature"),
    )
    hold.add_argument("--new-tire", action="store_true", help=tr("its casing still grows"))
    hold.add_argument("--json", action="store_true", help=tr("print JSON"))
    hold.set_defaults(run=_hold)


def _add_data_commands(commands: argparse._SubParsersAction[P]) -> None:
    from pathlib import Path

    from inner_rim.words import tr

    export = commands.add_parser("export", help=tr("write all your data into a folder"))
    export.add_argument("--to", type=Path, required=True, metavar="FOLDER", help=tr("made where it is missing"))
    export.set_defaults(run=_export)
    insights = commands.add_parser("insights", help=tr("what your log has taught, figure by figure"))
    insights.add_argument("--json", action="store_true", help=tr("as JSON"))
    insights.set_defaults(run=_insights)
    take_in = commands.add_parser("import", help=tr("read jobs, shelf and shop setup; all or nothing"))
    take_in.add_argument("files", type=Path, nargs="+", metavar="FILE", help=tr("files, or a folder of an export"))
    take_in.add_argument("--replace", action="store_true", help=tr("replace jobs that are in the data already"))
    take_in.set_defaults(run=_import)
    backup = commands.add_parser("backup", help=tr("copy the data file, also while the program runs"))
    backup.add_argument("file", type=Path, metavar="FILE", help=tr("where the copy goes"))
    backup.set_defaults(run=_backup)
    restore = commands.add_parser("restore", help=tr("put a backup in the place of the data"))
    restore.add_argument(
        "file",
        type=Path,
        metavar="FILE",
        help=tr("the backup, or a folder for the newest in it; the data before it are kept"),
    )
    restore.set_defaults(run=_restore)
    opening = commands.add_parser("open", help=tr("open a job file in the window that runs, or in a new one"))
    opening.add_argument("file", type=Path, nargs="?", metavar="JOB.json", help=tr("the job; stored where it is new"))
    opening.set_defaults(run=_open)
    doctor = commands.add_parser("doctor", help=tr("check this installation; status 1 where something is wrong"))
    doctor.set_defaults(run=_doctor)


def _add_training(commands: argparse._SubParsersAction[P]) -> None:
    from inner_rim.words import tr

    train = commands.add_parser("train", help=tr("play a training wheel by a list of actions"))
    train.add_argument("scenario", metavar="SCENARIO", help=tr("its number or id, a file, or random-SEED"))
    train.add_argument(
        "--play", default="", metavar="ACTIONS", help=tr("actions in order, divided by commas or spaces")
    )
    train.add_argument("--json", action="store_true", help=tr("print JSON"))
    train.set_defaults(run=_train)


def _positive(text: str) -> float:
    value = _not_negative(text)
    if value == 0.0:
        raise ValueError(text)
    return value


def _not_negative(text: str) -> float:
    """Return a number for an option; argparse names option and value where it is none."""
    from inner_rim.core.record.numbers import number

    value = number(text)
    if not 0.0 <= value <= 1e6:
        raise ValueError(text)
    return value


_positive.__name__ = "number above 0 and up to 1000000"
_not_negative.__name__ = "number from 0 to 1000000"


def _trace(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.measuring import trace_document
    from inner_rim.work.text.measuring_words import trace_text

    return _report(args, lambda: trace_document(args.file, args.limit_kpa), trace_text)


def _hold(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.measuring import hold_document
    from inner_rim.work.text.measuring_words import hold_text

    figures = (
        args.volume_ml, args.gauge_ml, args.resolution_kpa, args.ambient_kpa, args.step_kpa, args.new_tire,
    )  # fmt: skip
    return _report(args, lambda: hold_document(args.file, *figures), hold_text)


def _open(args: argparse.Namespace) -> int:
    started = time.perf_counter()
    if args.file is None:
        return _desktop([], started)
    from inner_rim.words import tr
    from inner_rim.work.storage.paths import data_folder
    from inner_rim.work.tasks.opening import open_file

    keys: list[tuple[str, str]] = []

    def opened(store: Repository) -> str:
        keys.append(open_file(store, args.file))
        return tr("{file} is on the bench").format(file=args.file.name)

    status = _on_data(opened)
    if not keys:
        return status
    from inner_rim.desktop.hand_over import handed_over

    return EXIT_WELL if handed_over(data_folder(), keys[0]) else _desktop([], started, keys[0])


def _doctor(_args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.doctor import check_text, check_up

    results = check_up()
    _say(check_text(results))
    return EXIT_STOPS if any(one.advice for one in results) else EXIT_WELL


def _train(args: argparse.Namespace) -> int:
    from pathlib import Path

    from inner_rim.work.tasks.scenarios import play_document, play_text, played, scenario_named

    args.file = Path(args.scenario)
    choices = args.play.replace(",", " ").split()
    return _report(args, lambda: play_document(played(scenario_named(args.scenario), choices)), play_text)


def _report(args: argparse.Namespace, made: Callable[[], JsonObject], in_words: Callable[[JsonObject], str]) -> int:
    from inner_rim.core.record.errors import InputError

    try:
        result = made()
    except InputError as fault:
        return _complain(args.file, fault)
    if args.json:
        _print_json(result)
    else:
        _say(in_words(result))
    return EXIT_WELL


def _plan(args: argparse.Namespace) -> int:
    from inner_rim.core.plan.wheel_plan import plan_job
    from inner_rim.core.record.errors import InputError
    from inner_rim.work.tasks.planning import plan_of_job, read_job
    from inner_rim.work.text.card import text_card

    if args.after is not None:
        return _plan_after(args)
    jobs = []
    for path in args.job:
        try:
            jobs.append(read_job(path))
        except InputError as fault:
            return _complain(path, fault)
    if args.card is not None:
        from inner_rim.work.tasks.export import write_cards

        try:
            write_cards(jobs, args.card)
        except InputError as fault:
            return _complain(args.card, fault)
    plans = [plan for job in jobs for plan in plan_job(job)]
    if args.json:
        documents = [plan_of_job(job) for job in jobs]
        _print_json(documents[0] if len(documents) == 1 else documents)
    else:
        _say("\n".join(text_card(plan) for plan in plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def _plan_after(args: argparse.Namespace) -> int:
    from inner_rim.core.record.errors import InputError
    from inner_rim.words import tr
    from inner_rim.work.tasks.planning import plan_of_job, read_job
    from inner_rim.work.tasks.remaining import plans_after, read_log
    from inner_rim.work.text.card import text_card

    file = args.job[0]
    try:
        if len(args.job) > 1:
            raise InputError(tr("a log belongs to one job: name one file"))
        job, file = read_job(file), args.after
        plans = plans_after(job, read_log(file))
    except InputError as fault:
        return _complain(file, fault)
    if args.json:
        _print_json(plan_of_job(job, plans))
    else:
        _say("\n".join(text_card(plan) for plan in plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def _export(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.exchange import export_to

    return _on_data(lambda store: export_to(store, args.to))


def _insights(args: argparse.Namespace) -> int:
    from datetime import datetime

    import msgspec

    from inner_rim.work.shop_methods import stored_shop
    from inner_rim.work.tasks.insights import insights_text, topics_of
    from inner_rim.work.tasks.learning import ShopLearning, all_visits

    def said(store: Repository) -> str:
        visits = all_visits(store, stored_shop(store.bench()))
        topics = topics_of(visits, ShopLearning(visits), datetime.now())
        return msgspec.json.format(msgspec.json.encode(topics)).decode() if args.json else insights_text(topics)

    return _on_data(said)


def _import(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.exchange import import_files

    return _on_data(lambda store: import_files(store, args.files, replace=args.replace))


def _backup(args: argparse.Namespace) -> int:
    from inner_rim.words import tr
    from inner_rim.work.storage.paths import data_folder, database_file, database_url

    def copied() -> str:
        from inner_rim.store.backup import copy
        from inner_rim.store.errors import StoreUnreachable

        if database_url() is not None:
            raise StoreUnreachable(tr("The data are on a server: use its own backup, or export."))
        copy(database_file(data_folder()), args.file)
        return tr("Copied to {file}").format(file=args.file)

    return _said(copied)


def _restore(args: argparse.Namespace) -> int:
    from inner_rim.words import tr
    from inner_rim.work.storage.paths import data_folder, database_file, database_url
    from inner_rim.work.tasks.rescue import restore_file

    def restored() -> str:
        from inner_rim.store.errors import StoreUnreachable

        if database_url() is not None:
            raise StoreUnreachable(tr("The data are on a server: use its own restore, or import."))
        return restore_file(args.file, database_file(data_folder()))

    return _said(restored)


def _on_data(work: Callable[[Repository], str]) -> int:
    def done() -> str:
        from inner_rim.work.storage.paths import data_folder, database_file, database_url
        from inner_rim.work.storage.source import opener

        store = opener(database_file(data_folder()), database_url())()
        try:
            return work(store)
        finally:
            store.close()

    return _said(done)


def _said(work: Callable[[], str]) -> int:
    from inner_rim.core.record.errors import InputError
    from inner_rim.store.errors import StoreError

    try:
        words = work()
    except (InputError, StoreError) as fault:
        _warn(f"inner-rim: {fault}{_trace_kept(fault)}")
        return EXIT_INPUT
    _say(words + "\n")
    return EXIT_WELL


def _schedule(args: argparse.Namespace) -> int:
    from inner_rim.core.record.errors import InputError
    from inner_rim.core.schedule.day import faults, lateness
    from inner_rim.core.schedule.solver import improve
    from inner_rim.words import tr
    from inner_rim.work.tasks import scheduling
    from inner_rim.work.text.schedule_words import schedule_text

    if args.schema:
        _print_json(scheduling.day_schema())
        return EXIT_WELL
    if args.day is None:
        sys.stderr.write(tr("inner-rim schedule: DAY.json is missing; --schema prints what it holds") + "\n")
        return EXIT_INPUT
    try:
        day = scheduling.read_day(args.day)
    except InputError as fault:
        return _complain(args.day, fault)
    schedule = improve(day, effort=scheduling.EFFORT)
    wrong = faults(day, schedule)
    if wrong:
        sentence = tr("the pinned tasks cannot all stay where they are: {what}").format(what=wrong[0])
        return _complain(args.day, InputError(sentence, "wheels"))
    if args.json:
        _print_json(scheduling.schedule_document(day, schedule))
    else:
        _say(schedule_text(day, schedule))
    late = any(lateness(day, w, done) for w, done in enumerate(schedule.done))
    return EXIT_STOPS if late else EXIT_WELL


def _schema(args: argparse.Namespace) -> int:
    from inner_rim.core.record.job import schema

    _print_json(schema())
    return EXIT_WELL


def _say(text: str) -> None:
    """Print for a terminal: names from a file must not control it; characters that it lacks become “?”."""
    from inner_rim.core.record.texts import printable

    encoding = sys.stdout.encoding or "utf-8"
    sys.stdout.write(printable(text).encode(encoding, "replace").decode(encoding))


def _warn(text: str) -> None:
    from inner_rim.core.record.texts import in_a_sentence

    encoding = sys.stderr.encoding or "utf-8"
    sys.stderr.write(in_a_sentence(text).encode(encoding, "replace").decode(encoding) + "\n")


def _trace_kept(fault: Exception) -> str:
    """Keep the traceback of an unexpected fault in the log file, and say where it is."""
    from inner_rim.work.storage.files import log_fault
    from inner_rim.work.storage.paths import data_folder

    trace = getattr(fault, "trace", "")
    file = log_fault(data_folder(), trace) if trace else None
    return f" Details: {file}" if file is not None else ""


def _print_json(document: object) -> None:
    import msgspec

    text = msgspec.json.format(msgspec.json.encode(document), indent=2).decode()
    try:
        text.encode(sys.stdout.encoding or "utf-8")
    except UnicodeEncodeError:
        import json

        text = json.dumps(json.loads(text), indent=2)  # in ASCII: other characters are escaped
    sys.stdout.write(text + "\n")


def _complain(file: Path, fault: Exception) -> int:
    _warn(f"{file}: {fault}")
    return EXIT_INPUT


if __name__ == "__main__":
    sys.exit(main())
