"""Try to lose or spoil data, and count: kills at random moments, mutated files, benches that contradict each other.

Run: .venv/bin/python tools/campaign.py kills 500 | loaded 500 | restores 200 | bits 600 | mutations 20000 | keys 3000 |
typing 40 | walks 20000 | benches 2000 [DATABASE_URL]

Each prints its counts and ends with 1 where one that must be 0 is not. The suite runs each of them short.
"""

from __future__ import annotations

import json
import os
import random
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import text

from inner_rim.core.procedure.achieve import NoWay
from inner_rim.core.record.log import Note, Unreadable
from inner_rim.core.record.operations import SetField
from inner_rim.store.codec import read_document
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.rows import BenchState
from inner_rim.store.statements import NewEntry

SLOW_SECONDS, MAX_MB = 2.0, 500.0
#: A machine that has more to do than it can: so many processes that do nothing but count.
LOAD = 4

TYPIST = """
import itertools, sys, time
from pathlib import Path
from inner_rim.work.bench import Bench
from inner_rim.work.storage.source import opener
from inner_rim.work.storage.worker import StoreWorker
bench = Bench()
worker = StoreWorker(opener(Path(sys.argv[1])), lambda call: call(), bench.sync)
bench.worker, bench.sync.patient = worker, True
worker.start()
bench.editor.new_wheel()
while worker.waiting:  # the data are open: what is accepted from here on is on its way at once
    time.sleep(0.001)
for n in itertools.count():
    bench.recorder.note(f"note {n}")
    bench.editor.type_into("name", f"typed {n}")
    time.sleep(0.03)  # a key that is held down repeats about so fast
    while worker.waiting and n % 10 == 9:
        time.sleep(0.001)
    if not worker.waiting:  # the worker says that all is stored up to here
        print(n, flush=True)
"""

BENCH = """
import random, sys, time
from pathlib import Path
import msgspec
from inner_rim.core.record.operations import SetField
from inner_rim.work.bench import Bench
from inner_rim.work.storage.source import opener
from inner_rim.work.storage.worker import StoreWorker
file, url, seed, acts = Path(sys.argv[1]), sys.argv[2] or None, int(sys.argv[3]), int(sys.argv[4])
rng, calls = random.Random(seed), []
bench = Bench()
worker = StoreWorker(opener(file, url), calls.append, bench.sync)
bench.worker, bench.sync.patient = worker, True
worker.start()
bench.sync.reload()
bench.shelf.load()
notes = done = 0
def hear():
    while calls:
        calls.pop(0)()
while done < acts:
    hear()
    if bench.wheels and bench.shelf.items:
        done += 1
        if done == acts // 3:
            (file.parent / f"third-{seed}").touch()
        bench.select(rng.choice(bench.wheels).key)
        act = rng.randrange(8)
        if act < 3:
            field = rng.choice(["rim.spokes", "rim.max_pressure_kpa", "rim.name", "bike"])
            bench.editor.type_into(field, str(rng.randrange(2, 40)))
        elif act == 3:
            bench.recorder.note(f"{seed}/{notes}")
            notes += 1
        elif act == 4:
            item = rng.choice(bench.shelf.items)
            bench.shelf.count(item.item_id, item.stock + rng.randrange(5), item.stock)
        elif act == 5:
            item = rng.choice(bench.shelf.items)
            operation = SetField(item.item_id, "spec.name", f"Ebb {rng.randrange(9)}", item.spec["name"])
            bench.shelf.edit(item.item_id, [operation])
        elif act == 6:
            bench.undo()
        else:
            bench.shop_methods.set("practice." + rng.choice(["dose", "tape_start"]), None)
            bench.shop_methods.set("practice.dose", rng.choice(["lean", "standard"]))
    time.sleep(0.01)
while worker.waiting:
    hear()
    time.sleep(0.01)
(file.parent / f"done-{seed}").touch()
while len(list(file.parent.glob("done-*"))) < 3:  # until the others are done too
    hear()
    time.sleep(0.05)
for ask in (bench.sync.reload, bench.shelf.load):
    ask()
while worker.waiting or calls:
    hear()
    time.sleep(0.01)
shown = [job.draft.document for job in bench.jobs], [(i.name, i.stock) for i in bench.shelf.items]
print(notes, len(worker.kept), msgspec.json.encode(shown, order="sorted").hex(), flush=True)
worker.stop()
"""


KEYS_WINDOW = r"""
import gc, os, random, sys, time
from pathlib import Path
from PyQt6.QtCore import QEventLoop, QTimer, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit, QMessageBox, QPlainTextEdit, QPushButton
from inner_rim.desktop.commands import keyboard
from PyQt6.QtPrintSupport import QPrintDialog
from inner_rim.desktop.app import Session
from inner_rim.desktop.commands.table import COMMANDS as TABLE
from inner_rim.desktop.widgets.theme import load_font
folder, count, rng = Path(sys.argv[1]), int(sys.argv[2]), random.Random(int(sys.argv[3]))
faults = 0
def fault(kind, caught, trace):
    global faults
    faults += 1
    sys.__excepthook__(kind, caught, trace)
sys.excepthook = fault
app = QApplication([])
load_font()
keyboard.BOUNCE_MS = 0
(folder / "out").mkdir(exist_ok=True)
inside = 0
def paused(answer):  # what a dialog does: an event loop within the one that asked for it
    global inside
    inside += 1
    loop = QEventLoop()
    QTimer.singleShot(5, loop.quit)
    loop.exec()
    if rng.random() < 0.2:
        gc.collect()
        for field in rng.sample(fields := window.findChildren(QLineEdit), min(5, len(fields))):
            field.textEdited.emit("9")  # also of one that waits to be deleted
    inside -= 1
    return answer
def asked(parent, title="", offered="", pattern=""):  # shown in the campaign's own folder, written to there alone
    dialog = QFileDialog(parent, title, str(folder / "out"), pattern)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    dialog.show()
    QTest.keyClicks(dialog, rng.choice(["tern", "x.json", " ", "9"]))
    paused(None)
    dialog.reject()
    dialog.deleteLater()
    return (str(folder / "out" / f"{rng.randrange(50)}.json"), "") if rng.random() < 0.5 else ("", "")
QFileDialog.getSaveFileName = QFileDialog.getOpenFileName = staticmethod(asked)
QMessageBox.warning = staticmethod(lambda *a, **k: paused(QMessageBox.StandardButton.Discard))
QMessageBox.exec = lambda box: paused(0)
QPrintDialog.exec = lambda dialog: paused(0)
session = Session(folder)
session.show()
while not session._started:
    app.processEvents()
window = session.window
TEXTS = ["622", "24", "45-622", "hooked", "3.4", "9" * 400, "-1", "0", "1e309", "nan", "²", "1_0", "½", "\0", "\ud83d",
         "<img src=/dev/zero>", "x" * 5000, "27,5", "19 mm", "=1+1", "w\u0301", "\u202eabc", "2026-13-45", "250", "1x   y"]
session.bench.editor.new_wheel()
WHOLE = (("rim.bead_seat_diameter_mm", "622"), ("rim.internal_width_mm", "24"), ("rim.hook", "hooked"),
                    ("tire.size", "45-622"), ("tire.max_pressure_kpa", "3.4"), ("name", "Tern rear"))
def mend():  # a wheel that can be worked on, so that the log is reached as well
    for field, text in WHOLE:
        session.bench.editor.type_into(field, text)
mend()
slow = 0
COMMANDS = sorted(command.id for command in TABLE if command.title)
n = 0
def act_once():
    global n, slow
    if inside:
        return
    if n >= count:
        timer.stop()
        app.quit()
        return
    if n % 12 == 0:
        mend()
        window.go_to("bench")
        for done in rng.choices(["stage_done", "main_action", "leave", "did_not"], k=4):
            window.run(done)
    done = ""
    n += 1
    act, began = rng.randrange(11), time.perf_counter()
    if act < 4:
        fields = [f for f in window.findChildren((QLineEdit, QPlainTextEdit)) if f.isVisible() and f.isEnabled()]
        if fields:
            field = rng.choice(fields)
            field.setFocus()
            (field.setText if isinstance(field, QLineEdit) else field.setPlainText)(rng.choice(TEXTS))
            if isinstance(field, QLineEdit):
                field.textEdited.emit(field.text())
                QTest.keyClick(field, Qt.Key.Key_Return)
    elif act < 6:
        done = rng.choice(COMMANDS)
        window.run(done)
    elif act < 9:
        target = app.focusWidget() or window
        QTest.keyClick(target, rng.choice([*map(chr, range(0x20, 0x5b)), Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab,
                                            Qt.Key.Key_Backspace, Qt.Key.Key_Down]))
    elif act < 10:
        app.clipboard().setText(rng.choice(TEXTS).replace("\ud83d", ""))
        QTest.keyClick(app.focusWidget() or window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    else:
        buttons = [b for b in window.findChildren(QPushButton) if b.isVisible() and b.isEnabled()]
        if buttons:
            rng.choice(buttons).click()
    took = time.perf_counter() - began
    if took > 2.0:
        slow += 1
        sys.stderr.write(f"act {act} {done} took {took:.1f} s on {window.page_shown}, {type(app.focusWidget()).__name__}\n")
timer = QTimer()
timer.timeout.connect(act_once)
timer.start(0)
app.exec()
kept = len(session.worker.kept)
session.finish()
print(faults, kept, slow, flush=True)
os._exit(0)
"""


class Counts(dict[str, object]):
    """What a campaign counted; `wrong` are those that must be 0, or true."""

    def __init__(self, wrong: int, **counts: object) -> None:
        super().__init__(counts)
        self.wrong = wrong

    def __str__(self) -> str:
        return "; ".join(f"{name.replace('_', ' ')}: {count}" for name, count in self.items())


def kills(count: int) -> Counts:
    """Kill a typist at random moments; everything that the worker said is stored must be there."""
    lost, unsound, said, rng = 0, 0, 0, random.Random(7)
    for _ in range(count):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "inner-rim.sqlite"
            process = subprocess.Popen(
                [sys.executable, "-c", TYPIST, str(file)], stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            first = process.stdout.readline()
            time.sleep(rng.uniform(0.2, 1.2))
            process.kill()
            # the last may be half a line
            whole = process.communicate()[0].rpartition("\n")[0].splitlines()
            due = range(int(max(whole, key=int, default=first)) + 1)
            store = Repository(sqlite_url(file))
            bench = store.bench()
            store.close()
            there = {
                item.entry.text
                for job in bench.jobs
                for item in job.log
                if isinstance(item.entry, Note)
            }
            lost += sum(f"note {n}" not in there for n in due)
            said += len(due)
            unsound += len(bench.unreadable)
    return Counts(
        lost + unsound,
        kills=count,
        said_to_be_stored=said,
        of_them_lost=lost,
        unreadable_rows=unsound,
    )


def loaded(count: int) -> Counts:
    """The same while the machine is busy with something else."""
    busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(LOAD)]
    try:
        return kills(count)
    finally:
        for process in busy:
            process.kill()
            process.wait()


def _filled(file: Path, names: list[str]) -> None:
    from inner_rim.work.storage.demo import demo_jobs

    document = demo_jobs()[0].job
    store = Repository(sqlite_url(file))
    for name in names:
        wheel = {**document["wheels"][0], "wheel_id": f"w-{name}"}
        store.create(
            name, {**document, "title": name, "wheels": [wheel]}, "2026-01-01T00:00:00+00:00"
        )
        note = NewEntry(f"note-{name}", "2026-01-01T00:00:00+00:00", Note(text=name))
        store.append(name, f"w-{name}", [note])
    store.close()


def restores(count: int) -> Counts:
    """Kill `restore` at random moments: the data are those before or those of the backup, and never gone."""
    from inner_rim.store.backup import copy

    rng, other, done, unkept = random.Random(5), 0, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        first = Path(folder) / "first.sqlite"
        _filled(first, ["a"])
        for n in range(count):
            home = Path(folder) / str(n)
            home.mkdir()
            file = home / "inner-rim.sqlite"
            copy(first, home / "backup.sqlite")
            _filled(file, ["a", "b"])
            if n % 3 == 2:  # a file that is no database any more
                file.write_bytes(b"gone " * 2000)
            command = [
                sys.executable,
                "-m",
                "inner_rim.cli",
                "restore",
                str(home / "backup.sqlite"),
            ]
            process = subprocess.Popen(
                command, env={**os.environ, "INNER_RIM_HOME": str(home)}, stdout=subprocess.DEVNULL
            )
            time.sleep(rng.uniform(0.1, 0.45))
            process.kill()
            process.wait()
            now = _jobs_in(file)
            done += now == ["a"]
            other += now not in (["a"], ["a", "b"]) and not (
                n % 3 == 2 and file.read_bytes()[:4] == b"gone"
            )
            kept = [path for path in home.glob("inner-rim.sqlite.old-*") if path.suffix != ".wal"]
            unkept += now == ["a"] and not kept
    return Counts(
        other + unkept,
        restores=count,
        restored=done,
        neither_old_nor_restored=other,
        old_data_not_kept=unkept,
    )


def _jobs_in(file: Path) -> list[str]:
    from inner_rim.store.errors import StoreError

    try:
        store = Repository(sqlite_url(file))
    except (StoreError, OSError):
        return []
    result = [job.job_id for job in store.bench().jobs]
    store.close()
    return result


def bits(count: int) -> Counts:
    """Flip bits in a data file: what cannot be read is said, everything else opens, and nothing ends in a traceback."""
    from inner_rim.store.errors import StoreError
    from inner_rim.work.storage.source import DailyBackup, open_file
    from inner_rim.work.tasks.exchange import export_to

    rng, said, silent, alone, faults = random.Random(3), 0, 0, 0, 0
    names = [f"job-{n}" for n in range(12)]
    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder) / "whole.sqlite"
        _filled(whole, names)
        data = whole.read_bytes()
        for n in range(count):
            home = Path(folder) / str(n)
            home.mkdir()
            file = home / "inner-rim.sqlite"
            flipped = bytearray(data)
            for _ in range(rng.randrange(1, 4)):
                flipped[rng.randrange(len(flipped))] ^= 1 << rng.randrange(8)
            file.write_bytes(flipped)
            try:
                store = open_file(file)
                try:
                    bench = store.bench()
                    entries = sum(len(job.log) for job in bench.jobs)
                    lost = len(names) - len(bench.jobs)
                    told = len([row for row in bench.unreadable if row.table == "jobs"])
                    said += bool(told)
                    # it looks through every page
                    silent += lost > told and not DailyBackup(file)(store)
                    alone += entries < len(bench.jobs)
                    export_to(store, home / "out")
                finally:
                    store.close()
            except StoreError:
                said += 1
            except Exception as fault:  # noqa: BLE001 - what the campaign is looking for
                faults += 1
                print(f"{type(fault).__name__}: {fault}")
    return Counts(
        silent + faults,
        files=count,
        said=said,
        jobs_gone_in_silence=silent,
        jobs_without_their_entries=alone,  # a letter of an identity that became another: nothing shows it
        other_faults=faults,
    )


def keys(count: int) -> Counts:
    """Type, press and click at random into the real window; then a new process opens and paints everything."""
    faults = kept = slow = broken = unreadable = entries = 0
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    rounds = max(1, count // 500)
    for n in range(rounds):
        with tempfile.TemporaryDirectory() as folder:
            environment["INNER_RIM_HOME"] = folder
            command = [sys.executable, "-c", KEYS_WINDOW, folder, str(count // rounds), str(n)]
            done = subprocess.run(
                command, env=environment, stdout=subprocess.PIPE, text=True, timeout=600
            )
            words = done.stdout.split() if done.returncode == 0 else ["1", "0", "0"]
            faults += int(words[0])
            kept += int(words[1])
            slow += int(words[2])
            again = [sys.executable, "-m", "inner_rim.cli", "--smoke"]
            opened = subprocess.run(
                again, env=environment, capture_output=True, text=True, timeout=120
            )
            broken += opened.returncode != 0 or bool(opened.stderr)
            sys.stderr.write(opened.stderr)
            store = Repository(sqlite_url(Path(folder) / "inner-rim.sqlite"))
            bench = store.bench()
            store.close()
            log = [item for job in bench.jobs for item in job.log]
            entries += len(log)
            unreadable += len(bench.unreadable) + sum(
                isinstance(item.entry, Unreadable) for item in log
            )
    return Counts(
        faults
        + kept
        + broken
        + unreadable,  # slow acts are counted, not judged: the machine may be busy
        acts=count,
        entries=entries,
        faults=faults,
        not_stored=kept,
        over_2_s=slow,
        not_opened_again=broken,
        unreadable=unreadable,
    )


#: What comes in the middle of a word: keys that open something over the field or change its look, and back.
INTERRUPTIONS = (
    ("ctrl+t",),
    ("ctrl+plus", "ctrl+minus"),
    ("F11", "Escape"),
    ("ctrl+space", "Escape"),
    ("ctrl+u",),
)

WORDS = ("Canal", "rim", "canoe", "new", "weir", "27", "C", "eel")


def typing(count: int) -> Counts:
    """Type names of wheels at the pace of a hand into a real window with a window manager, interrupted at random."""
    sys.path.insert(0, str(Path(__file__).parents[1]))
    from tests.desktop.real_window import RealWindow, managed_screen

    def names(state: BenchState | None) -> list[str]:
        jobs = state.jobs if state is not None else ()
        return [job.document["wheels"][0].get("rim", {}).get("name", "") for job in jobs]

    rng, wrong, interrupted = random.Random(23), 0, 0
    wanted: list[str] = []
    with (
        tempfile.TemporaryDirectory() as folder,
        managed_screen(Path(folder)) as env,
        RealWindow(env) as window,
    ):
        home = Path(folder)
        for n in range(count):
            window.key("ctrl+n")
            window.stored(home, lambda state, wheels=n + 1: len(names(state)) == wheels)
            window.key("Return", "Return", "Return", "Return")  # to the rim's name, which suggests
            words = " ".join(rng.sample(WORDS, rng.randrange(1, 5)))
            cut, pause_ms = rng.randrange(1, len(words) + 1), rng.choice([30, 70, 150])
            window.type(words[:cut], pause_ms)
            act = rng.randrange(4)
            if act == 0:
                window.other_window()
            elif act == 1:
                window.key("ctrl+e")
                window.dialog("Escape")
            elif act == 2:
                window.key(*rng.choice(INTERRUPTIONS))
            interrupted += act < 3
            window.type(words[cut:], pause_ms)
            wanted.append(words)
            result = names(window.stored(home, lambda state: names(state) == wanted, 15.0))
            if result != wanted:
                wrong += 1
                sys.stdout.write(
                    f"typed {words!r} with interruption {act}, stored {result[-1:]!r}\n"
                )
                wanted[:] = result
            window.key("Escape", "Escape")
    return Counts(wrong, names_typed=count, interrupted=interrupted, stored_otherwise=wrong)


def mutations(count: int) -> Counts:
    """Mutate documents, tables and readings; nothing may be slow or end in a traceback."""
    from inner_rim.core.record.errors import InputError
    from inner_rim.documents.csv_text import read_columns
    from inner_rim.documents.parts_table import from_csv, from_json
    from inner_rim.work.planning import job_from_bytes, plan_of_job
    from inner_rim.work.storage.demo import demo_jobs

    job = json.dumps(demo_jobs()[0].job).encode()
    csv = b"kind,name,stock,width_mm\ntape,Ebb,3,27\nvalve,Reed,2,\n"
    readings = b"time_s,pressure_kpa\n0,1\n0.1,20\n0.2,41.5\n"
    bounds = {"time_s": (-1e9, 1e9), "pressure_kpa": (-200.0, 10_000.0)}
    kinds = [
        (job, lambda data: plan_of_job(job_from_bytes(data))),
        (csv, from_csv),
        (b'[{"kind":"tape","spec":{"name":"Ebb","width_mm":27}}]', from_json),
        (readings, lambda data: read_columns(data, bounds, "time_s", strictly=True)),
        (job, lambda data: read_document(data.decode("utf-8", "replace"))),
    ]
    pieces = [
        b"\0",
        b"\xff",
        b'"',
        b"{",
        b"]",
        b"9" * 400,
        "²".encode(),
        b"1e999",
        b"NaN",
        b",",
        b"\n",
        b"\\ud83d",
    ]
    rng, faults, slow, refused = random.Random(11), 0, 0, 0
    before_mb = _most_mb()
    for n in range(count):
        data, read = kinds[n % len(kinds)]
        for _ in range(rng.randrange(1, 4)):
            at = rng.randrange(len(data) + 1)
            data = data[:at] + rng.choice(pieces) + data[at + rng.randrange(4) :]
        began = time.perf_counter()
        try:
            read(data)  # type: ignore[no-untyped-call]
        except (InputError, ValueError):
            refused += 1
        except Exception as fault:  # noqa: BLE001 - what the campaign is looking for
            faults += 1
            print(f"{type(fault).__name__}: {fault} from {data[:200]!r}")
        slow += time.perf_counter() - began > SLOW_SECONDS
    grown_mb = _most_mb() - before_mb
    wrong = faults + slow + (grown_mb > MAX_MB)
    return Counts(
        wrong,
        mutations=count,
        refused_with_a_sentence=refused,
        other_faults=faults,
        over_2_s=slow,
        grown_by_mb=round(grown_mb),
    )


def _most_mb() -> float:
    """The most memory this process has held, on Linux."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0


def benches(acts: int, url: str = "", disturb: Callable[[], None] = lambda: None) -> Counts:
    """Let three processes contradict each other; all must end equal, nothing lost or doubled.

    Args:
        disturb: called once each has done a third of its acts.
    """
    from inner_rim.core.record.parts import item_from
    from inner_rim.core.record.paths import new_id

    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "inner-rim.sqlite"
        store = Repository(url or sqlite_url(file))
        wheel = {
            "name": "w",
            "rim": {"bead_seat_diameter_mm": 622, "internal_width_mm": 24},
            "tire": {"size": "45-622"},
        }
        wheels = [{**wheel, "wheel_id": new_id(), "name": f"w{n}"} for n in range(2)]
        job_id = new_id()
        store.create(
            job_id,
            {"format": "inner-rim/job", "version": 1, "wheels": wheels},
            "2026-01-01T00:00:00+00:00",
        )
        store.shelf.add(
            item_from("tape", {"name": "Ebb", "width_mm": 27}, stock=50.0),
            "2026-01-01T00:00:00+00:00",
            "",
        )
        running = [
            subprocess.Popen(
                [sys.executable, "-c", BENCH, str(file), url, str(n), str(acts)],
                stdout=subprocess.PIPE,
                text=True,
            )
            for n in range(3)
        ]
        while len(list(file.parent.glob("third-*"))) < 3 and all(
            process.poll() is None for process in running
        ):
            time.sleep(0.01)
        disturb()
        said = [process.communicate()[0].split() for process in running]
        store.close()
        store = Repository(url or sqlite_url(file))  # the server may have been restarted meanwhile
        (job,) = store.bench().jobs
        texts = [item.entry.text for item in job.log if isinstance(item.entry, Note)]
        wanted = [f"{n}/{i}" for n, words in enumerate(said) for i in range(int(words[0]))]
        again = store.edit(
            job_id,
            [SetField("", "bike", job.document.get("bike"), None)],
            "2026-01-01T00:00:00+00:00",
        )
        lost, doubled = len(set(wanted) - set(texts)), len(texts) - len(set(texts))
        kept = sum(int(words[1]) for words in said)
        differing = len({words[2] for words in said}) - 1
        unreadable = len(store.logbook.unreadable())
        changed = again.document != job.document
        levels = {item.item_id: item.stock for item in store.shelf.all()}
        with store.database.reading() as connection:
            moved = connection.execute(
                text("SELECT part_uid, SUM(amount) FROM movements GROUP BY part_uid")
            )
            sums = {part: float(amount) for part, amount in moved}
        off = sum(abs(levels[part] - max(0.0, sums.get(part, 0.0))) > 1e-6 for part in levels)
        store.close()
        return Counts(
            lost + doubled + kept + differing + unreadable + changed + off,
            edits_stored=job.revision,
            notes_written=len(wanted),
            lost=lost,
            doubled=doubled,
            kept_aside=kept,
            benches_that_differ=differing,
            stored_otherwise_than_shown=int(changed),
            stock_other_than_its_movements=off,
            unreadable=unreadable,
        )


def walks(count: int) -> Counts:
    """Work at wheels of every kind to the end while things go wrong (`tests/core/procedure/walks.py`)."""
    sys.path.insert(0, str(Path(__file__).parents[1]))
    from tests.core.procedure.walks import walk

    wrong = entries = 0
    for seed in range(1_000_000, 1_000_000 + count):
        try:
            entries += len(walk(seed)[1].entries)
        except (AssertionError, NoWay) as fault:
            wrong += 1
            sys.stderr.write(f"walk {seed}: {fault!r}\n"[:400])
    return Counts(wrong, walks=count, entries=entries, broken_rules_or_never_ended=wrong)


def main() -> int:
    """Run one campaign; return 1 where a count is wrong."""
    what, amount = sys.argv[1], sys.argv[2]
    if what == "benches":
        counts = benches(int(amount), *sys.argv[3:4])
    else:
        kinds = (kills, loaded, restores, bits, mutations, keys, typing, walks)
        counts = {kind.__name__: kind for kind in kinds}[what](int(amount))
    sys.stdout.write(f"{what}: {counts}\n")
    return int(counts.wrong > 0)


if __name__ == "__main__":
    sys.exit(main())
