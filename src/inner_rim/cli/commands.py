"""What each command does: read, have the work done below, print, and return the exit status."""

from __future__ import annotations

import sys
import time
from typing import TYPE_CHECKING

from inner_rim.cli import EXIT_INPUT, EXIT_STOPS, EXIT_WELL, open_desktop
from inner_rim.core.record.paths import JsonObject

if TYPE_CHECKING:
    import argparse
    from collections.abc import Callable, Iterable
    from pathlib import Path

    from inner_rim.core.plan.wheel_plan import WheelPlan
    from inner_rim.store.repository import Repository


def trace(args: argparse.Namespace) -> int:
    from inner_rim.work.measuring import trace_document, trace_text

    return _report(args, lambda: trace_document(args.file, args.limit_kpa), trace_text)


def hold(args: argparse.Namespace) -> int:
    from inner_rim.work.measuring import hold_document, hold_text

    figures = (
        args.volume_ml, args.gauge_ml, args.resolution_kpa, args.ambient_kpa, args.step_kpa, args.new_tire,
    )  # fmt: skip
    return _report(args, lambda: hold_document(args.file, *figures), hold_text)


def open_job(args: argparse.Namespace) -> int:
    started = time.perf_counter()
    if args.file is None:
        return open_desktop([], started)
    from inner_rim.words import tr
    from inner_rim.work.storage.files import data_folder
    from inner_rim.work.tasks.exchange import open_file

    keys: list[tuple[str, str]] = []

    def opened(store: Repository) -> str:
        keys.append(open_file(store, args.file))
        return tr("{file} is on the bench").format(file=args.file.name)

    status = _on_data(opened)
    if not keys:
        return status
    from inner_rim.desktop.hand_over import handed_over

    return EXIT_WELL if handed_over(data_folder(), keys[0]) else open_desktop([], started, keys[0])


def doctor(_args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.doctor import check_text, check_up

    results = check_up()
    _say(check_text(results))
    return EXIT_STOPS if any(one.advice for one in results) else EXIT_WELL


def train(args: argparse.Namespace) -> int:
    from pathlib import Path

    from inner_rim.work.tasks.scenarios import play_document, play_text, played, scenario_named

    args.file = Path(args.scenario)
    choices = args.play.replace(",", " ").split()
    return _report(
        args, lambda: play_document(played(scenario_named(args.scenario), choices)), play_text
    )


def _report(
    args: argparse.Namespace, made: Callable[[], JsonObject], in_words: Callable[[JsonObject], str]
) -> int:
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


def plan(args: argparse.Namespace) -> int:
    from inner_rim.core.plan.wheel_plan import plan_job
    from inner_rim.core.record.errors import InputError
    from inner_rim.words import tr
    from inner_rim.work.planning import plan_of_job, read_job

    if args.say is not None:
        return _plan_said(args)
    if not args.job:
        return _complain("plan", InputError(tr("name a job file, or say a line with --say")))
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
        _say(_cards_text(plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def _cards_text(plans: Iterable[WheelPlan]) -> str:
    from inner_rim.core.record.units import local_units
    from inner_rim.work.text.card import text_card

    return "\n".join(text_card(plan, local_units()) for plan in plans)


def _plan_said(args: argparse.Namespace) -> int:
    import sys

    from inner_rim.core.plan.wheel_plan import plan_job
    from inner_rim.core.record.errors import InputError
    from inner_rim.core.record.reading import job_from_plain
    from inner_rim.core.record.units import local_units
    from inner_rim.words import tr
    from inner_rim.work.planning import plan_of_job, said_job

    try:
        if args.job or args.after or args.card:
            raise InputError(tr("--say plans a line by itself"))
        said = said_job(args.say, local_units())
        job = job_from_plain(said.document)
    except InputError as fault:
        return _complain("--say", fault)
    if said.left:
        print(tr("Not understood: “{left}”.").format(left=said.left[:80]), file=sys.stderr)
    plans = plan_job(job)
    if args.json:
        _print_json({**plan_of_job(job, plans), "job": said.document, "left": said.left})
    else:
        _say(_cards_text(plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def _plan_after(args: argparse.Namespace) -> int:
    from inner_rim.core.record.errors import InputError
    from inner_rim.words import tr
    from inner_rim.work.planning import plan_of_job, plans_after, read_job, read_log

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
        _say(_cards_text(plans))
    return EXIT_STOPS if any(plan.stops for plan in plans) else EXIT_WELL


def export(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.exchange import export_to

    return _on_data(lambda store: export_to(store, args.to))


def insights(args: argparse.Namespace) -> int:
    from datetime import datetime

    import msgspec

    from inner_rim.work.shop_methods import stored_shop
    from inner_rim.work.tasks.insights import insights_text, topics_of
    from inner_rim.work.tasks.learning import ShopLearning, all_visits

    def said(store: Repository) -> str:
        shop = stored_shop(store.bench())
        visits = all_visits(store, shop)
        topics = topics_of(visits, ShopLearning(visits), datetime.now(), shop.practice)
        return (
            msgspec.json.format(msgspec.json.encode(topics)).decode()
            if args.json
            else insights_text(topics)
        )

    return _on_data(said)


def take_in(args: argparse.Namespace) -> int:
    from inner_rim.work.tasks.exchange import import_files

    return _on_data(lambda store: import_files(store, args.files, replace=args.replace))


def backup(args: argparse.Namespace) -> int:
    from inner_rim.words import tr
    from inner_rim.work.storage.files import data_folder, database_file, database_url

    def copied() -> str:
        from inner_rim.store.backup import copy
        from inner_rim.store.errors import StoreUnreachable

        if database_url() is not None:
            raise StoreUnreachable(tr("The data are on a server: use its own backup, or export."))
        copy(database_file(data_folder()), args.file)
        return tr("Copied to {file}").format(file=args.file)

    return _said(copied)


def restore(args: argparse.Namespace) -> int:
    from inner_rim.words import tr
    from inner_rim.work.storage.files import data_folder, database_file, database_url
    from inner_rim.work.tasks.rescue import restore_file

    def restored() -> str:
        from inner_rim.store.errors import StoreUnreachable

        if database_url() is not None:
            raise StoreUnreachable(tr("The data are on a server: use its own restore, or import."))
        return restore_file(args.file, database_file(data_folder()))

    return _said(restored)


def _on_data(work: Callable[[Repository], str]) -> int:
    def done() -> str:
        from inner_rim.work.storage.files import data_folder, database_file, database_url
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


def schedule(args: argparse.Namespace) -> int:
    from inner_rim.core.record.errors import InputError
    from inner_rim.core.schedule.day import faults, lateness
    from inner_rim.core.schedule.solver import improve
    from inner_rim.words import tr
    from inner_rim.work.tasks import scheduling
    from inner_rim.work.text.schedule_words import broken_words, schedule_text

    if args.schema:
        _print_json(scheduling.day_schema())
        return EXIT_WELL
    if args.day is None:
        sys.stderr.write(
            tr("inner-rim schedule: DAY.json is missing; --schema prints what it holds") + "\n"
        )
        return EXIT_INPUT
    try:
        day = scheduling.read_day(args.day)
    except InputError as fault:
        return _complain(args.day, fault)
    schedule = improve(day, effort=scheduling.EFFORT)
    wrong = faults(day, schedule)
    if wrong:
        sentence = tr("the pinned tasks cannot all stay where they are: {what}").format(
            what=broken_words(day, wrong[0])
        )
        return _complain(args.day, InputError(sentence, "wheels"))
    if args.json:
        _print_json(scheduling.schedule_document(day, schedule))
    else:
        _say(schedule_text(day, schedule))
    late = any(lateness(day, w, done) for w, done in enumerate(schedule.done))
    return EXIT_STOPS if late else EXIT_WELL


def schema(args: argparse.Namespace) -> int:
    from inner_rim.core.record.job import schema

    _print_json(schema())
    return EXIT_WELL


def _say(text: str) -> None:
    """Print for a terminal: names from a file must not control it; characters that it lacks become
    “?”.
    """
    from inner_rim.core.record.texts import printable

    encoding = sys.stdout.encoding or "utf-8"
    sys.stdout.write(printable(text).encode(encoding, "replace").decode(encoding))


def _warn(text: str) -> None:
    from inner_rim.core.record.texts import in_a_sentence

    encoding = sys.stderr.encoding or "utf-8"
    sys.stderr.write(in_a_sentence(text).encode(encoding, "replace").decode(encoding) + "\n")


def _trace_kept(fault: Exception) -> str:
    """Keep the traceback of an unexpected fault in the log file, and say where it is."""
    from inner_rim.words import tr
    from inner_rim.work.storage.files import data_folder, log_fault

    trace = getattr(fault, "trace", "")
    file = log_fault(data_folder(), trace) if trace else None
    return " " + tr("Details: {file}").format(file=file) if file is not None else ""


def _print_json(document: object) -> None:
    import msgspec

    text = msgspec.json.format(msgspec.json.encode(document), indent=2).decode()
    try:
        text.encode(sys.stdout.encoding or "utf-8")
    except UnicodeEncodeError:
        import json

        text = json.dumps(json.loads(text), indent=2)  # in ASCII: other characters are escaped
    sys.stdout.write(text + "\n")


def _complain(file: Path | str, fault: Exception) -> int:
    _warn(f"{file}: {fault}")
    return EXIT_INPUT
