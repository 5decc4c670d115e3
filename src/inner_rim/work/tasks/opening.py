"""Opening a job file: store it if it is new, and say which wheel the window should show."""

import contextlib
from pathlib import Path

from inner_rim.core.record.errors import InputError
from inner_rim.store.errors import JobKnown
from inner_rim.store.repository import Repository
from inner_rim.words import tr
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.tasks.exchange import Imported, import_files, read_file


def open_file(store: Repository, path: Path) -> WheelKey:
    """Store a job file unless the job is there already, which is never overwritten; return its first wheel.

    Raises:
        InputError: the file is not accepted, or holds no job; names it.
        StoreError: the data cannot be written.
    """
    content = Imported()
    try:
        read_file(path, content)
    except InputError as fault:
        raise InputError(f"{path}: {fault}") from fault
    if not content.jobs:
        raise InputError(tr("{file} holds no job; use inner-rim import").format(file=path.name))
    with contextlib.suppress(JobKnown):
        import_files(store, [path])
    job = content.jobs[0]
    return job.job_id, str(job.document["wheels"][0]["wheel_id"])
