"""Whatever the hand does while the worker is behind, the bench and the store end up the same."""

import tempfile
import threading
from pathlib import Path

from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from inner_rim.core.record.log import Note
from inner_rim.work.editing.state import wheel_state
from inner_rim.work.text.tiles import shortened, tile_of
from inner_rim.work.views import Views
from tests.desk import Desk

ACTS = {
    "new": lambda bench, n: bench.editor.new_wheel(),
    "type": lambda bench, n: bench.editor.type_into("rim.internal_width_mm", str(20 + n)),
    "half": lambda bench, n: bench.editor.type_into("rim.internal_width_mm", f"{n}x"),
    "whole": lambda bench, n: [
        bench.editor.type_into(field, text)
        for field, text in (
            ("rim.bead_seat_diameter_mm", "622"),
            ("rim.internal_width_mm", "24"),
            ("tire.size", "45-622"),
        )
    ],
    "mass": lambda bench, n: bench.editor.type_into("ride.total_mass_kg", str(70 + n)),
    "note": lambda bench, n: bench.recorder.record(Note(text=f"note {n}")),
    "away": lambda bench, n: bench.archive(),
    "undo": lambda bench, n: bench.undo(),
    "again": lambda bench, n: bench.editor.duplicate(),
    "select": lambda bench, n: bench.step_selection(1),
    "setting": lambda bench, n: bench.shop_methods.set("shelf.injector_ml", 20.0 + n),
    "read": lambda bench, n: bench.sync.reload(),
    "read, then new": lambda bench, n: (bench.sync.reload(), bench.editor.new_wheel()),
    "read, then away": lambda bench, n: (bench.sync.reload(), bench.archive()),
}


def hear(desk):
    """Hear of the store only once it is done with all: the latest that news can come."""
    done = threading.Event()
    desk.worker.submit(lambda store: done.set())
    assert done.wait(15.0)
    desk.settle()


def seen(bench):
    """What a window shows, by job: the document, what is half typed, and the log in words."""
    return sorted(
        (
            job.job_id,
            job.draft.document,
            sorted(job.draft.drafts.items()),
            [(item.number > 0, item.wheel_id, item.entry) for item in job.log],
        )
        for job in bench.jobs
    ), {name: v for name, v in bench.settings.shop.items() if not name.startswith("search.")}


def shown_as_it_is(bench, views):
    """Nothing on the bench is kept from before that is another one now."""
    for job in bench.jobs:
        job.worked_out.clear()
    assert bench.wheels == [
        wheel_state(job, index, bench.shop)
        for job in bench.jobs
        for index in range(len(job.draft.document["wheels"]))
    ]
    begins = bench.day.begins
    assert views.view().tiles == shortened(
        [
            tile_of(one, bench.units, bench.time, begins.get(one.key), bench.day.hours)
            for one in bench.day.listed
        ]
    )


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@example(
    [
        (act, False)
        for act in ("new", "whole", "again", "mass", "note", "setting", "select", "mass", "half")
    ]
)
@given(
    acts=st.lists(st.tuples(st.sampled_from(sorted(ACTS)), st.booleans()), min_size=4, max_size=20)
)
def test_the_bench_is_what_is_stored_whatever_was_done_and_in_which_order(acts):
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "inner-rim.sqlite"
        one = Desk(file)
        one.settle()
        views = Views(one.bench)
        try:
            for number, (act, hears) in enumerate(acts):
                ACTS[act](one.bench, number)
                shown_as_it_is(one.bench, views)
                if hears:  # else the window goes on before it hears anything of the store
                    hear(one)
                    shown_as_it_is(one.bench, views)
            hear(one)
            shown = seen(one.bench)
        finally:
            one.worker.stop()
        two = Desk(file)
        two.settle()
        try:
            assert seen(two.bench) == shown
        finally:
            two.worker.stop()
