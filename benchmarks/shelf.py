"""Times of the shelf, the dipstick table, the finish point, and a plan with every part.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/shelf.py
Figures to reach: a plan with every part 3 ms median; a mouse move of the finish one frame (16 ms); a dipstick
table of 60 rows 20 ms; type-ahead among 5,000 parts 30 ms; an import of 5,000 parts with progress (no figure).
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from demo import opened
from PyQt6.QtWidgets import QApplication
from timing import median_ms, say

from inner_rim.core.models.sealant import dip_table
from inner_rim.core.record.parts import item_from
from inner_rim.desktop.app import Session
from inner_rim.documents.parts_table import from_csv, to_csv
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.store.shelf import prepared
from inner_rim.work.bench import Bench
from inner_rim.work.planning import plan_document
from inner_rim.work.storage.demo import demo_jobs, demo_shelf

PARTS = 5000


def whole_job() -> dict:
    """Return a job with a wheel that has everything: measured well, insert, tapes, valves of the shelf."""
    job = demo_jobs()[0].job
    rim = {**job["wheels"][0]["rim"], "seat_circumference_mm": 1953.0}
    rim["well"] = {
        "depth_mm": 4.0,
        "floor_mm": 7.0,
        "left_shoulder_mm": 4.0,
        "right_shoulder_mm": 5.0,
    }
    kinds = {"tape": "tapes", "valve": "valves"}
    shelf = {
        name: [item.spec for item in demo_shelf() if item.kind == kind]
        for kind, name in kinds.items()
    }
    insert = next(item.spec for item in demo_shelf() if item.kind == "insert")
    wheel = {**job["wheels"][0], "rim": rim, "insert": insert}
    return {**job, "wheels": [wheel], "shelf": shelf}


def plans(job: dict) -> Callable[[int], object]:
    """Return what plans the job, each time with another width, so that no cache helps."""

    def work(i: int) -> object:
        (wheel,) = job["wheels"]
        rim = {**wheel["rim"], "internal_width_mm": 24.0 + 0.001 * i}
        return plan_document({**job, "wheels": [{**wheel, "rim": rim}]})

    return work


def finish(session: Session, app: QApplication) -> float:
    """Drag the finish point round the rim, painting after every move."""
    page = session.window.page
    session.window.run("show_finish")
    app.processEvents()

    def move(i: int) -> None:
        page.deck.finish.turn_to(0.1 * i)
        app.processEvents()

    return median_ms(move)


def main() -> None:
    say("plan with every part", median_ms(plans(whole_job())), 3.0)
    say("dipstick table of 60 rows", median_ms(lambda i: dip_table(21.0 + 0.01 * i, 330.0)), 20.0)
    items = tuple(
        item_from("tape", {"name": f"Tape {i}", "width_mm": 20.0 + i % 30}, item_id=f"part {i}")
        for i in range(PARTS)
    )
    book = Bench().shelf
    book.adopt(items)
    say(
        "type-ahead among 5,000 parts", median_ms(lambda i: book.offered(f"tape {i}", "tape")), 30.0
    )
    app = QApplication([])
    with opened(app) as session:
        say("finish point, move to paint", finish(session, app), 16.0)
    with tempfile.TemporaryDirectory() as folder:
        data = to_csv(items)
        store = Repository(sqlite_url(Path(folder) / "shelf.sqlite"))
        started = time.perf_counter()
        store.shelf.put_many([prepared(item) for item in from_csv(data)], "", "imported")
        print(f"import of 5,000 parts from CSV     {time.perf_counter() - started:7.2f} s")
        store.close()


if __name__ == "__main__":
    main()
