"""A check of this installation: a line for each thing that must work, and what to do where it does
not.
"""

from __future__ import annotations

import os
import platform
import re
import shutil
import sqlite3
import sys
from collections.abc import Callable, Iterator
from datetime import datetime
from importlib import metadata
from pathlib import Path

import msgspec

from inner_rim import __version__
from inner_rim.assets import FONTS
from inner_rim.core.record.errors import InputError
from inner_rim.store.backup import backups, newest
from inner_rim.words import environment, language, tr
from inner_rim.work.editing.settings import read_bench_settings
from inner_rim.work.storage.files import (
    data_folder,
    database_file,
    database_url,
    folder_typed,
    settings_file,
    write_whole,
)


def _qt() -> object:
    from importlib import import_module

    return import_module("PyQt6.QtCore").qVersion()


def _numpy() -> object:
    import numpy as np

    return np.linalg.solve(np.eye(2), np.ones(2)).sum() == 2.0


def _sql() -> object:
    from sqlalchemy import create_engine, text

    return create_engine("sqlite://").connect().execute(text("SELECT 1")).scalar() == 1


def _msgspec() -> object:
    return msgspec.json.decode(b"[1]", type=list[int]) == [1]


def _ortools() -> object:
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    model.maximize(model.new_int_var(0, 3, "x"))
    return cp_model.CpSolver().solve(model) == cp_model.OPTIMAL


def _reportlab() -> object:
    from reportlab.pdfgen.canvas import Canvas

    page = Canvas("check.pdf")
    page.drawString(10, 10, "check")
    return page.getpdfdata()


def _serial() -> object:
    import serial

    return serial.VERSION


def _calendar() -> object:
    import icalendar

    return icalendar.Calendar().to_ical()


def _code() -> object:
    import segno

    return segno.make("check").matrix


#: Packages, and something small that each has to do.
PACKAGES: dict[str, Callable[[], object]] = {
    "PyQt6": _qt,
    "numpy": _numpy,
    "SQLAlchemy": _sql,
    "msgspec": _msgspec,
    "ortools": _ortools,
    "reportlab": _reportlab,
    "pyserial": _serial,
    "icalendar": _calendar,
    "segno": _code,
}
FONT_FILES = ("Inter-Regular.ttf", "Inter-SemiBold.ttf")
MIN_FREE_MB = 200.0


class CheckResult(msgspec.Struct, frozen=True):
    """One line of the check-up.

    Attributes:
        advice: what to do; empty where all is well.
    """

    name: str
    words: str
    advice: str = ""


def check_up() -> list[CheckResult]:
    """Return a line for each thing that must work."""
    return [result for check in _CHECKS for result in check()]


def check_text(results: list[CheckResult]) -> str:
    wide = max(len(one.name) for one in results)
    lines = [
        f"{'OK ' if not one.advice else '-> '} {one.name:<{wide}}  {one.words}" for one in results
    ]
    lines += [f"    {one.name}: {one.advice}" for one in results if one.advice]
    return "\n".join(lines) + "\n"


def _versions() -> Iterator[CheckResult]:
    yield CheckResult(
        tr("Program"),
        f"{__version__}, Python {platform.python_version()}, {platform.platform(terse=True)}",
    )
    for name, works in PACKAGES.items():
        try:
            version = metadata.version(name)
            fault = "" if works() else tr("gives a wrong result")
        except metadata.PackageNotFoundError:
            version, fault = tr("missing"), tr("missing")
        except Exception as error:  # noqa: BLE001 - whatever a broken installation raises
            fault = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        yield CheckResult(name, fault or version, tr("Install the program again.") if fault else "")


def _folder() -> Iterator[CheckResult]:
    folder = data_folder()
    place = next(one for one in (folder, *folder.parents) if one.exists())
    free = shutil.disk_usage(place).free / 1e6
    if not os.access(place, os.W_OK):
        yield CheckResult(
            tr("Data folder"), str(folder), tr("It cannot be written: check its permissions.")
        )
    elif free < MIN_FREE_MB:
        yield CheckResult(
            tr("Data folder"), tr("{mb:.0f} MB free").format(mb=free), tr("Make room on this disk.")
        )
    else:
        yield CheckResult(
            tr("Data folder"),
            tr("{folder}, {gb:.1f} GB free").format(folder=folder, gb=free / 1000.0),
        )


def _database() -> Iterator[CheckResult]:
    url = database_url()
    file = database_file(data_folder())
    if url is not None:
        yield CheckResult(tr("Database"), tr("on a server"))
        return
    if not file.exists():
        yield CheckResult(tr("Database"), tr("none yet: it is made when something is stored"))
        return
    try:
        connection = sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True, timeout=2.0)
        try:
            (said,) = connection.execute("PRAGMA quick_check").fetchone()
            (jobs,) = connection.execute("SELECT count(*) FROM jobs").fetchone()
        finally:
            connection.close()
    except sqlite3.Error as fault:
        yield CheckResult(
            tr("Database"), str(fault), tr("Restore a backup: inner-rim restore FILE")
        )
        return
    if said != "ok":
        yield CheckResult(
            tr("Database"), str(said)[:200], tr("Restore a backup: inner-rim restore FILE")
        )
    else:
        yield CheckResult(tr("Database"), tr("sound, {n} jobs").format(n=jobs))
    settings, odd = read_bench_settings(settings_file(file.parent))
    if odd:
        names = ", ".join(odd)
        yield CheckResult(tr("Settings"), tr("not understood: {names}").format(names=names))
    yield _backup(tr("Newest backup"), newest(backups(file)))
    if settings is not None and settings.backup_folder:
        typed = settings.backup_folder
        try:
            yield _backup(typed, newest(backups(file, folder_typed(typed))))
        except InputError as fault:
            yield CheckResult(
                tr("Newest backup"), fault.sentence, tr("Choose another folder in Setup.")
            )


def _backup(place: str, made_at: datetime | None) -> CheckResult:
    none = tr("none yet: one is made each day that the program is opened")
    return CheckResult(place, f"{made_at:%Y-%m-%d %H:%M} UTC" if made_at is not None else none)


def _fonts() -> Iterator[CheckResult]:
    missing = [name for name in FONT_FILES if not (FONTS / name).is_file()]
    if missing:
        yield CheckResult(tr("Fonts"), tr("missing"), tr("Install the program again."))
    else:
        yield CheckResult(tr("Fonts"), tr("shipped"))


def _tools() -> Iterator[CheckResult]:
    from serial.tools import list_ports

    ports = [port.device for port in list_ports.comports()]
    closed = [port for port in ports if not os.access(port, os.R_OK | os.W_OK)]
    advice = tr("Add yourself to the group dialout, and sign in again.") if closed else ""
    yield CheckResult(tr("Serial ports"), ", ".join(ports) or tr("none found"), advice)


def _printer() -> Iterator[CheckResult]:
    there = shutil.which("lpstat") is not None
    yield CheckResult(
        tr("Printer"), tr("CUPS is there") if there else tr("no CUPS: papers are written as PDF")
    )


def _language() -> Iterator[CheckResult]:
    name = tr("{locale}, texts in {language}").format(
        locale=environment("LC_MESSAGES"), language=language()
    )
    utf8 = sys.stdout.encoding.lower().replace("-", "") == "utf8"
    yield CheckResult(
        tr("Locale"), name, "" if utf8 else tr("Choose a UTF-8 locale, such as en_US.UTF-8.")
    )


_CHECKS: tuple[Callable[[], Iterator[CheckResult]], ...] = (
    _versions, _folder, _database, _fonts, _tools, _printer, _language,
)  # fmt: skip


#: Lines of a traceback that cannot hold anything a user entered: where, the line of code there, and
#: the kind of fault.
_CODE = re.compile(r'Traceback \(most recent call last\):|  File "[^"]*", line \d+.*')
_KIND = re.compile(r"[\w.]*(Error|Exception|Warning|Interrupt|Fault)\b")


def without_messages(trace: str) -> str:
    """Return a traceback without what its exceptions say, as that may quote a customer.

    >>> print(without_messages("Traceback (most recent call last):\\n  File \\"a.py\\", line 3\\n    x(name)\\nKeyError: 'Ann'"))
    Traceback (most recent call last):
      File "a.py", line 3
        x(name)
    KeyError
    """
    result, in_code = [], False
    for line in trace.splitlines():
        if _CODE.fullmatch(line) or (in_code and line.startswith("    ")):
            result.append(line)
        elif kind := _KIND.match(line):
            result.append(kind.group())
        in_code = line.startswith("  File ")
    return "\n".join(result)


def save_report(folder: Path, trace: str) -> Path | None:
    """Write what a fault report needs, without anybody's data; return the file, None where it
    cannot be written.
    """
    file = folder / "report.txt"
    text = f"{check_text(check_up())}\n{without_messages(trace)}\n".replace(str(Path.home()), "~")
    try:
        write_whole(file, text.encode())
    except InputError:
        return None
    return file
