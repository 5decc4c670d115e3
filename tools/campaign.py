"""Try to lose or spoil data, and count: kills at random moments, mutated files, benches that contradict each other.

Run: .venv/bin/python tools/campaign.py kills 500 | mutations 20000 | benches 60 [DATABASE_URL]
"""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from inner_rim.core.log import Note
from inner_rim.core.operations import SetField
from inner_rim.store.database import sqlite_url
from inner_rim.store.door import read_document
from inner_rim.store.repository import Repository

SLOW_SECONDS = 2.0
LATE_MS = 100.0

TYPIST = """
import itertools, sys, time
from pathlib import Path
from inner_rim.work.bench import Bench
from inner_rim.work.storage.source import opener
from inner_rim.work.storage.worker import StoreWorker
bench = Bench()
worker = StoreWorker(opener(Path(sys.argv[1])), lambda call: call(), bench.sync)
bench.worker = worker
worker.start()
bench.editor.new_wheel()
while worker.waiting:  # the data are open: what is accepted from here on is on its way at once
    time.sleep(0.001)
for n in itertools.count():
    print(n, time.time(), flush=True)
    bench.recorder.note(f"note {n}")
    bench.editor.type_into("name", f"typed {n}")
    time.sleep(0.03)  # a key that is held down repeats about so fast
"""

BENCH = """
import random, sys, time
from pathlib import Path
import msgspec
from inner_rim.work.bench import Bench
from inner_rim.work.storage.source import opener
from inner_rim.work.storage.worker import StoreWorker
file, url, seed, until = Path(sys.argv[1]), sys.argv[2] or None, int(sys.argv[3]), float(sys.argv[4])
dice, calls = random.Random(seed), []
bench = Bench()
worker = StoreWorker(opener(file, url), calls.append, bench.sync)
bench.worker = worker
worker.start()
bench.sync.reload()
bench.shelf.load()
notes = 0
def hear():
    while calls:
        calls.pop(0)()
while time.time() < until:
    hear()
    if bench.wheels and bench.shelf.items:
        bench.select(dice.choice(bench.wheels).key)
        act = dice.randrange(6)
        if act < 3:
            field = dice.choice(["rim.spokes", "rim.max_pressure_kpa", "rim.name", "bike"])
            bench.editor.type_into(field, str(dice.randrange(2, 40)))
        elif act == 3:
            bench.recorder.note(f"{seed}/{notes}")
            notes += 1
        elif act == 4:
            item = dice.choice(bench.shelf.items)
            bench.shelf.count(item.item_id, item.stock + dice.randrange(5), item.stock)
        else:
            bench.set_practice(dice.choice(["dose", "tape_start"]), None)
            bench.set_practice("dose", dice.choice(["lean", "standard"]))
    time.sleep(0.01)
while worker.waiting:
    hear()
    time.sleep(0.01)
time.sleep(3.0)  # until the others are done too
for ask in (bench.sync.reload, bench.shelf.load):
    ask()
while worker.waiting or calls:
    hear()
    time.sleep(0.01)
shown = [job.draft.document for job in bench.jobs], [(i.name, i.stock) for i in bench.shelf.items]
print(notes, len(worker.kept), msgspec.json.encode(shown, order="sorted").hex(), flush=True)
worker.stop()
"""


def kills(count: int) -> None:
    """Kill a typist at random moments; everything accepted more than 100 ms before must be there."""
    lost, unsound, dice = 0, 0, random.Random(7)
    for _ in range(count):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "inner-rim.sqlite"
            process = subprocess.Popen(
                [sys.executable, "-c", TYPIST, str(file)], stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            process.stdout.readline()
            time.sleep(dice.uniform(0.2, 1.2))
            process.kill()
            killed = time.time()
            whole = process.communicate()[0].splitlines()[:-1]  # the last may be half a line
            lines = [line.split() for line in whole]
            due = [int(n) for n, at in lines if killed - float(at) > LATE_MS / 1000.0]
            store = Repository(sqlite_url(file))
            bench = store.bench()
            store.close()
            there = {
                item.entry.text for job in bench.jobs for item in job.log if isinstance(item.entry, Note)
            }
            lost += sum(f"note {n}" not in there for n in due)
            unsound += len(bench.unreadable)
    print(f"kills: {count}; entries older than {LATE_MS:.0f} ms lost: {lost}; unreadable rows: {unsound}")


def mutations(count: int) -> None:
    """Mutate documents, tables and readings; nothing may be slow or end in a traceback."""
    from inner_rim.core.errors import InputError
    from inner_rim.documents.parts_table import from_csv, from_json
    from inner_rim.documents.readings_table import read_columns
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
    dice, faults, slow, refused = random.Random(11), 0, 0, 0
    for n in range(count):
        data, read = kinds[n % len(kinds)]
        for _ in range(dice.randrange(1, 4)):
            at = dice.randrange(len(data) + 1)
            data = data[:at] + dice.choice(pieces) + data[at + dice.randrange(4) :]
        began = time.perf_counter()
        try:
            read(data)  # type: ignore[no-untyped-call]
        except (InputError, ValueError):
            refused += 1
        except Exception as fault:  # noqa: BLE001 - what the campaign is looking for
            faults += 1
            print(f"{type(fault).__name__}: {fault} from {data[:200]!r}")
        slow += time.perf_counter() - began > SLOW_SECONDS
    print(f"mutations: {count}; refused with a sentence: {refused}; other faults: {faults}; over 2 s: {slow}")


def benches(seconds: float, url: str = "") -> None:
    """Let three processes contradict each other; all must end equal, nothing lost or doubled."""
    from inner_rim.core.ids import new_id
    from inner_rim.core.parts import item_from

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
            job_id, {"format": "inner-rim/job", "version": 1, "wheels": wheels}, "2026-01-01T00:00:00+00:00"
        )
        store.shelf.add(
            item_from("tape", {"name": "Ebb", "width_mm": 27}, stock=50.0), "2026-01-01T00:00:00+00:00", ""
        )
        until = str(time.time() + seconds)
        running = [
            subprocess.Popen(
                [sys.executable, "-c", BENCH, str(file), url, str(n), until],
                stdout=subprocess.PIPE,
                text=True,
            )
            for n in range(3)
        ]
        said = [process.communicate()[0].split() for process in running]
        (job,) = store.bench().jobs
        texts = [item.entry.text for item in job.log if isinstance(item.entry, Note)]
        wanted = [f"{n}/{i}" for n, words in enumerate(said) for i in range(int(words[0]))]
        again = store.edit(
            job_id, [SetField("", "bike", job.document.get("bike"), None)], "2026-01-01T00:00:00+00:00"
        )
        print(
            f"benches: {seconds:.0f} s; edits stored: {job.revision}; notes written: {len(wanted)}; "
            f"lost: {len(set(wanted) - set(texts))}; doubled: {len(texts) - len(set(texts))}; "
            f"kept aside: {sum(int(words[1]) for words in said)}; all benches show the same: {len({words[2] for words in said}) == 1}; document as stored: {again.document == job.document}; "
            f"unreadable: {len(store.logbook.unreadable())}"
        )
        store.close()


if __name__ == "__main__":
    what, amount = sys.argv[1], sys.argv[2]
    if what == "benches":
        benches(float(amount), *sys.argv[3:4])
    else:
        {"kills": kills, "mutations": mutations}[what](int(amount))
