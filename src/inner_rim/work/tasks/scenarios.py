"""Training scenarios as files, plays from a list of choices, and the results of apprentices."""

import contextlib
import csv
import io
import os
from collections.abc import Iterable
from functools import cache
from importlib import resources
from pathlib import Path
from typing import NamedTuple

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.paths import JsonObject
from inner_rim.core.record.reading import as_plain, plain_from_bytes
from inner_rim.core.training.course import Rules, choice_from
from inner_rim.core.training.debrief import Debrief, Result, debrief
from inner_rim.core.training.play import CHOICE_WORDS, Play, Solver, begin, choose, seen_words
from inner_rim.core.training.scenario import Scenario, generated, scenario_from
from inner_rim.documents.csv_text import safe_cell
from inner_rim.words import tr
from inner_rim.work.storage.files import read_whole, write_whole

#: Where a shop's own scenarios are, and the results, in the folder of its data.
OWN_FOLDER, RESULTS_FILE, OLD_RESULTS_FILE = "scenarios", "training.jsonl", "training.json"
MAX_FILE_BYTES = 1_000_000
RANDOM = "random"


@cache
def shipped() -> tuple[Scenario, ...]:
    """Return the scenarios that come with the program, the easiest first, in the user's language."""
    files = (
        file
        for file in resources.files("inner_rim").joinpath("training").iterdir()
        if file.name.endswith(".json")
    )
    result = [_translated(scenario_from(plain_from_bytes(file.read_bytes()))) for file in files]
    return tuple(sorted(result, key=lambda one: (one.grade, one.id)))


def quoted(words: str) -> str:
    return tr("“{words}”").format(words=words)


def _translated(one: Scenario) -> Scenario:
    return msgspec.structs.replace(one, title=tr(one.title), story=tr(one.story))


def own(folder: Path) -> tuple[list[Scenario], list[str]]:
    """Return the shop's own scenarios, and a sentence for each file that cannot be used."""
    good, bad = [], []
    for file in sorted((folder / OWN_FOLDER).glob("*.json")):
        try:
            good.append(read_scenario(file))
        except InputError as fault:
            bad.append(f"{file.name}: {fault}")
    return good, bad


def read_scenario(file: Path) -> Scenario:
    """Return the scenario in a file.

    Raises:
        InputError: it cannot be read or used.
    """
    return scenario_from(plain_from_bytes(read_whole(file, MAX_FILE_BYTES)))


def scenario_named(name: str) -> Scenario:
    """Return a shipped scenario by its id or number, ``random-SEED``, or one in a file.

    Raises:
        InputError: there is none.
    """
    prefix, _, seed = name.rpartition("-")
    if prefix == RANDOM and seed.isdecimal() and len(seed) < 10:
        return generated(int(seed))
    for scenario in shipped():
        if name in (scenario.id, scenario.id.partition("-")[0]):
            return scenario
    if Path(name).suffix == ".json":
        return read_scenario(Path(name))
    names = ", ".join(scenario.id for scenario in shipped())
    raise InputError(
        tr("“{name}”: use random-SEED, a file, or one of {names}").format(
            name=name[:60], names=names
        )
    )


def played(scenario: Scenario, choices: Iterable[str]) -> Play:
    """Return the play of a list of choices.

    Raises:
        InputError: a choice is not possible at its place in the list.
    """
    play, rules = begin(scenario), Rules(scenario)
    for number, choice in enumerate(choices, 1):
        try:
            play = choose(play, rules, choice_from(choice))
        except KeyError:
            possible = ", ".join(map(str, rules.choices(play.course))) or tr(
                "nothing: the wheel is finished"
            )
            raise InputError(
                tr("action {n}, “{choice}”: use {possible}").format(
                    n=number, choice=choice[:40], possible=possible
                ),
                "play",
            ) from None
    return play


def play_document(play: Play) -> JsonObject:
    """Return a play as plain data; the truth and the debrief only where the wheel is finished."""
    rules = Rules(play.scenario)
    document: JsonObject = {
        "format": "inner-rim/play",
        "version": 1,
        "scenario": play.scenario.id,
        "title": play.scenario.title,
        "story": play.scenario.story,
        "moves": [
            {
                "choice": str(move.choice),
                "words": tr(CHOICE_WORDS[move.choice]),
                "told": [tr(text) for text in seen_words(move)],
                "minutes": move.cost.minutes,
                "tape_mm": move.cost.tape_mm,
                "sealant_ml": move.cost.sealant_ml,
            }
            for move in play.moves
        ],
        "minutes": play.cost.minutes,
        "choices": [str(one) for one in rules.choices(play.course)],
        "finished": play.over,
    }
    if play.over:
        document["debrief"] = as_plain(msgspec.to_builtins(debrief(play)))
    return document


def play_text(document: JsonObject) -> str:
    lines = [document["title"], quoted(document["story"]), ""]
    for number, move in enumerate(document["moves"], 1):
        lines.append(f"{number:>3}  {move['words']}  {' '.join(move['told'])}".rstrip())
    lines += ["", tr("{minutes:.0f} minutes so far").format(minutes=document["minutes"])]
    if document["choices"]:
        lines.append(tr("Now: {choices}").format(choices=", ".join(document["choices"])))
    if "debrief" in document:
        said = document["debrief"]
        lines += [
            "",
            tr("What was wrong: {faults}").format(faults=", ".join(said["truth"]) or tr("nothing")),
        ]
        lines.append(
            tr("{minutes:.0f} minutes; the best sequence takes {best:.0f} on this wheel").format(
                minutes=said["minutes"], best=said["best_min"]
            )
        )
        lines.append(tr(said["lesson"]))
    return "\n".join(lines) + "\n"


# -- results ---------------------------------------------------------------------------------------


class ReadResults(NamedTuple):
    """Results that were kept, and how many lines of the file cannot be read; they stay in it."""

    results: tuple[Result, ...]
    unreadable: int = 0


def read_results(folder: Path) -> ReadResults:
    """Return what was kept of finished training wheels, each line by itself."""
    _take_over(folder)
    try:
        lines = (folder / RESULTS_FILE).read_bytes().splitlines()
    except OSError:
        lines = []
    results, odd = [], int((folder / OLD_RESULTS_FILE).exists())
    for line in filter(None, lines):
        try:
            results.append(msgspec.json.decode(line, type=Result))
        except (msgspec.MsgspecError, ValueError):
            odd += 1
    return ReadResults(tuple(results), odd)


def _take_over(folder: Path) -> None:
    """Take over the results of versions that kept them in one list, once; a file that cannot be
    read stays as it is.
    """
    old, file = folder / OLD_RESULTS_FILE, folder / RESULTS_FILE
    with contextlib.suppress(InputError, OSError, msgspec.MsgspecError, ValueError):
        results = msgspec.json.decode(old.read_bytes(), type=tuple[Result, ...])
        if not file.exists():
            write_whole(file, b"".join(msgspec.json.encode(one) + b"\n" for one in results))
        old.replace(old.with_name("training-taken-over.json"))


def keep_result(folder: Path, result: Result) -> None:
    """Add a result to the file, as a line of its own: neither another window nor a damaged line
    can take it away.

    Raises:
        InputError: it cannot be written.
    """
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        _append(folder / RESULTS_FILE, result)
    except OSError as fault:
        raise InputError(
            tr("{file} cannot be written: {why}. Choose another folder.").format(
                file=RESULTS_FILE, why=fault.strerror
            )
        ) from fault


def _append(file: Path, result: Result) -> None:
    """Append a line in one write and see it on the disk; after a line that was cut off, a new one
    begins.
    """
    with file.open("a+b", buffering=0) as out:
        end = out.seek(0, os.SEEK_END)
        out.seek(max(0, end - 1))
        begin = b"" if end == 0 or out.read(1) == b"\n" else b"\n"
        out.write(begin + msgspec.json.encode(result) + b"\n")
        os.fsync(out.fileno())


def results_csv(results: Iterable[Result]) -> bytes:
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(
        [
            "name",
            "at",
            "scenario",
            "caught",
            "late",
            "minutes",
            "best_minutes",
            "lost_minutes",
            "over_limit",
        ]
    )
    for one in results:
        words = (
            one.who,
            one.at.isoformat(),
            one.scenario,
            " ".join(one.caught),
            " ".join(one.late),
        )
        figures = (one.minutes, one.best_min, one.lost_min)
        writer.writerow(
            [
                *map(safe_cell, words),
                *(f"{minutes:.1f}" for minutes in figures),
                int(one.over_limit),
            ]
        )
    return text.getvalue().encode()


def debrief_of(play: Play) -> Debrief:
    """Return the debrief; the search for the best sequence takes a few seconds at most."""
    return debrief(play, Solver(play.scenario))
