"""Whatever the hand does while the keeper is behind, the bench and the store end up the same."""

import tempfile
import time
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from inner_rim.core.log import Note
from tests.work.test_bench import Desk

ACTS = {
    "new": lambda bench, n: bench.new_wheel(),
    "type": lambda bench, n: bench.type_into("rim.internal_width_mm", str(20 + n)),
    "note": lambda bench, n: bench.record(Note(text=f"note {n}")),
    "away": lambda bench, n: bench.put_away(),
    "undo": lambda bench, n: bench.undo(),
    "again": lambda bench, n: bench.same_again(),
    "select": lambda bench, n: bench.step_selection(1),
    "setting": lambda bench, n: bench.set_setting("injector_ml", 20.0 + n),
    "read": lambda bench, n: bench.reload(),
    "read, then new": lambda bench, n: (bench.reload(), bench.new_wheel()),
    "read, then away": lambda bench, n: (bench.reload(), bench.put_away()),
}


def hear(desk):
    """Hear of the store only once it is done with all: the latest that news can come."""
    while desk.keeper.waiting:
        time.sleep(0.001)
    desk.settle()


def seen(bench):
    """What a window shows, by job: the document, what is half typed, and the log in words."""
    return sorted(
        (
            job.stored_id,
            job.sheet.document,
            job.sheet.drafts,
            [(item.number > 0, item.wheel, item.entry) for item in job.log],
        )
        for job in bench.jobs
    ), bench.settings


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(acts=st.lists(st.tuples(st.sampled_from(sorted(ACTS)), st.booleans()), min_size=4, max_size=20))
def test_the_bench_is_what_is_stored_whatever_was_done_and_in_which_order(acts):
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "inner-rim.sqlite"
        one = Desk(file)
        try:
            for number, (act, hears) in enumerate(acts):
                ACTS[act](one.bench, number)
                if hears:  # else the window goes on before it hears anything of the store
                    hear(one)
            hear(one)
            shown = seen(one.bench)
        finally:
            one.keeper.stop()
        two = Desk(file)
        try:
            assert seen(two.bench) == shown
        finally:
            two.keeper.stop()
