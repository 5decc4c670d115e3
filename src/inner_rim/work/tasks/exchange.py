"""Import and export: jobs with their logs, the shelf, the shop setup; all or nothing.

`inner-rim/job-with-log` (version 2) is a job with its identity, its log and what is typed but not
accepted; `inner-rim/work` is several of them with shelf and practice, written when storing does not
work; `inner-rim/practice` is the shop's settings. What was exported, imported into an empty folder
and exported again gives the same files.
"""

import contextlib
import re
from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from inner_rim.core.record.errors import InputError
from inner_rim.core.record.job import FORMAT as JOB_FORMAT
from inner_rim.core.record.log import AnyEntry, Logged, Unreadable
from inner_rim.core.record.moments import moment
from inner_rim.core.record.operations import Drafts
from inner_rim.core.record.parts import Item, checked_item, item_from
from inner_rim.core.record.paths import JsonObject, id_from, is_id
from inner_rim.core.record.reading import MAX_DEPTH, job_from_plain, plain_from_bytes
from inner_rim.core.record.texts import cleaned
from inner_rim.store.codec import checked_drafts, plain_drafts
from inner_rim.store.errors import JobKnown, StoreError, StoreRefused
from inner_rim.store.rows import BenchState, StoredJob
from inner_rim.words import tr
from inner_rim.work.editing.history import Set
from inner_rim.work.editing.settings import SHOP_SETTINGS, Settings
from inner_rim.work.editing.shelf import ShelfBook
from inner_rim.work.editing.state import WheelKey
from inner_rim.work.editing.sync import Sync
from inner_rim.work.storage.files import read_whole, write_saying, write_whole

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository

WITH_LOG, WORK, PRACTICE = "inner-rim/job-with-log", "inner-rim/work", "inner-rim/practice"
VERSION = 2
MAX_FILE_BYTES = 200_000_000
#: Highest number of a log entry: far beyond any log, and exact in every reader of JSON.
MAX_NUMBER = 10**15
#: Settings that are not the shop's practice: of a bench, of the search, of half-typed fields.
_NOT_PRACTICE = ("typed.", "unreadable.", "search.")


class Imported(msgspec.Struct):
    jobs: list[StoredJob] = []
    items: list[Item] = []
    settings: JsonObject = {}


# -- out -----------------------------------------------------------------------------------------


def job_file(
    job_id: str, document: JsonObject, drafts: Drafts, archived: bool, log: Iterable[Logged]
) -> JsonObject:
    """Return a job with its log as plain data; an entry that cannot be read is written as it is
    stored.
    """
    return {
        "format": WITH_LOG,
        "version": VERSION,
        "job_id": job_id,
        "archived": archived,
        "job": document,
        **({"typed": plain_drafts(drafts)} if drafts else {}),
        "log": [_entry_out(item) for item in log],
    }


def _entry_out(item: Logged) -> JsonObject:
    plain = {"number": item.number, "uid": item.uid, "at": item.at, "wheel_id": item.wheel_id}
    if isinstance(item.entry, Unreadable):
        return {**plain, "unreadable": item.entry.body, "why": item.entry.why}
    return {**plain, "entry": msgspec.to_builtins(item.entry)}


def practice_file(settings: JsonObject) -> JsonObject:
    kept = {name: settings[name] for name in sorted(settings) if not name.startswith(_NOT_PRACTICE)}
    return {"format": PRACTICE, "version": 1, "settings": kept}


def work_file(
    jobs: list[JsonObject], items: Iterable[Item], settings: JsonObject, kept: list[JsonObject]
) -> bytes:
    """Return everything a window holds as one file that `import` reads."""
    return pretty(
        {
            "format": WORK,
            "version": 1,
            "jobs": jobs,
            "shelf": [part_file(item) for item in items],
            "practice": practice_file(settings),
            "not_stored": kept,
        }
    )


def part_file(item: Item) -> JsonObject:
    """Return a part as plain data, without its identity."""
    plain = msgspec.to_builtins(item)
    plain.pop("item_id", None)
    return dict(plain)


def pretty(plain: object) -> bytes:
    """Return plain data as indented JSON; half a character, which a file cannot hold, becomes a
    visible mark.
    """
    try:
        body = msgspec.json.encode(plain)
    except UnicodeEncodeError:
        body = msgspec.json.encode(_cleaned(msgspec.to_builtins(plain)))
    return msgspec.json.format(body, indent=1)


def _cleaned(plain: object) -> object:
    if isinstance(plain, str):
        return cleaned(plain)
    if isinstance(plain, dict):
        return {_cleaned(key): _cleaned(value) for key, value in plain.items()}
    return [_cleaned(value) for value in plain] if isinstance(plain, list | tuple) else plain


def export_to(store: "Repository", folder: Path) -> str:
    """Write everything into a folder: `jobs/`, `logbook.csv`, `shelf.json`, `practice.json`.

    Returns:
        What was written, in a sentence.

    Raises:
        InputError: the folder or a file cannot be written.
    """
    from inner_rim.core.record.units import METRIC
    from inner_rim.documents.parts_table import to_json
    from inner_rim.store.codec import UnreadableRow
    from inner_rim.work.tasks.export import hits_csv

    try:
        (folder / "jobs").mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise InputError(
            tr("{file} cannot be made: {why}. Choose another folder.").format(
                file=folder, why=fault.strerror
            )
        ) from fault
    count = 0
    for place, job_id in enumerate(store.logbook.job_ids(), 1):
        job = store.logbook.job(job_id)
        if job is None:
            continue
        if isinstance(job, UnreadableRow):
            write_whole(folder / "jobs" / f"{place:04d}-unreadable.txt", job.body.encode())
            continue
        plain = job_file(job.job_id, job.document, job.drafts, job.archived, job.log)
        write_whole(folder / "jobs" / f"{place:04d}-{_slug(job.document)}.json", pretty(plain))
        count += 1
    hits = store.logbook.search("", most=10**9)
    write_whole(folder / "logbook.csv", hits_csv(reversed(hits), METRIC))
    items = store.shelf.all()
    write_whole(folder / "shelf.json", to_json(items))
    write_whole(folder / "practice.json", pretty(practice_file(store.bench().settings)))
    unreadable = [row for row in store.logbook.unreadable() if row.table != "jobs"]
    if unreadable:
        write_whole(
            folder / "unreadable.json", pretty([msgspec.to_builtins(row) for row in unreadable])
        )
    return tr("{jobs} jobs, {entries} log entries and {parts} parts written to {folder}").format(
        jobs=count, entries=len(hits), parts=len(items), folder=folder
    )


def _slug(document: JsonObject) -> str:
    name = str(document.get("title") or document["wheels"][0].get("name") or "job")
    return re.sub(r"[^a-z0-9]+", "-", name.lower())[:40].strip("-") or "job"


# -- in ------------------------------------------------------------------------------------------


def files_in(paths: Iterable[Path]) -> Iterator[Path]:
    """Return the files to import: each as it is, and of a folder what `export` writes."""
    for path in paths:
        if path.is_dir():
            yield from sorted((path / "jobs").glob("*.json"))
            yield from (
                path / name for name in ("shelf.json", "practice.json") if (path / name).exists()
            )
        else:
            yield path


def read_file(path: Path, into: Imported) -> None:
    """Read one file into what is to be imported.

    Raises:
        InputError: it is not accepted; names field, value and what is accepted.
    """
    read_plain(plain_from_bytes(read_whole(path, MAX_FILE_BYTES), MAX_FILE_BYTES, MAX_DEPTH), into)


def read_plain(plain: Any, into: Imported) -> None:
    """Read one file's plain data into what is to be imported; see `read_file`."""
    kind = plain.get("format") if isinstance(plain, dict) else None
    if isinstance(plain, list):
        into.items += _parts(plain)
    elif kind == JOB_FORMAT:
        into.jobs.append(_bare_job(plain))
    elif kind == WITH_LOG:
        into.jobs.append(_job_with_log(plain))
    elif kind == PRACTICE:
        into.settings |= _settings(plain)
    elif kind == WORK:
        into.jobs += [_job_with_log(_object(job, "jobs")) for job in _list(plain, "jobs")]
        into.items += _parts(_list(plain, "shelf"))
        into.settings |= _settings(_object(plain.get("practice"), "practice"))
    else:
        raise InputError(
            tr(
                "use a job ({job}), one with its log ({log}), {work}, {practice}, or a list of parts"
            ).format(job=JOB_FORMAT, log=WITH_LOG, work=WORK, practice=PRACTICE),
            "format",
        )


def _object(plain: object, path: str) -> JsonObject:
    if not isinstance(plain, dict):
        raise InputError(tr("use a JSON object"), path)
    return plain


def _list(plain: JsonObject, name: str) -> list[object]:
    result = plain.get(name, [])
    if not isinstance(result, list):
        raise InputError(tr("use a list"), name)
    return result


def _bare_job(plain: JsonObject) -> StoredJob:
    """A job document alone: its identity is that of its content, so that the same file is the same
    job.
    """
    job_id = id_from("job document", msgspec.json.encode(plain, order="sorted").decode())
    return StoredJob(job_id, _document(plain, job_id, "job"), {}, 1)


def _document(plain: object, job_id: str, path: str) -> JsonObject:
    """Return a job's document with identities, checked by the store's own definition."""
    from inner_rim.store.codec import encoded_document

    document = dict(_object(plain, path))
    wheels = document.get("wheels")
    if (
        not isinstance(wheels, list)
        or not wheels
        or not all(isinstance(wheel, dict) for wheel in wheels)
    ):
        raise InputError(tr("use a list of 1 to 200 wheels"), f"{path}.wheels")
    document["wheels"] = [
        {**wheel, "wheel_id": wheel.get("wheel_id") or id_from(job_id, place)}
        for place, wheel in enumerate(wheels)
    ]
    try:
        encoded_document(document)
    except StoreRefused as fault:
        raise InputError(fault.sentence, path) from fault
    return document


def _job_with_log(plain: JsonObject) -> StoredJob:
    version = plain.get("version")
    if version not in (1, VERSION):
        raise InputError(
            tr("{value}: use 1 or {version}").format(value=str(version)[:40], version=VERSION),
            "version",
        )
    job_id = plain.get("job_id") or id_from(
        "job", msgspec.json.encode(plain, order="sorted").decode()
    )
    if not is_id(job_id):
        raise InputError(tr("use up to 64 letters, digits and hyphens"), "job_id")
    document = _document(plain.get("job"), job_id, "job")
    places = [str(wheel["wheel_id"]) for wheel in document["wheels"]]
    try:
        drafts = checked_drafts(plain.get("typed", {}))
    except (ValueError, StoreRefused) as fault:
        raise InputError(" ".join(str(fault).split())[:200], "typed") from fault
    log = [
        _entry_in(_object(item, f"log[{n}]"), n, job_id, places)
        for n, item in enumerate(_list(plain, "log"), 1)
    ]
    return StoredJob(job_id, document, drafts, 1, bool(plain.get("archived", False)), tuple(log))


def _entry_in(plain: JsonObject, number: int, job_id: str, places: list[str]) -> Logged:
    path = f"log[{number - 1}]"
    place = plain.get("wheel", 0)
    wheel_id = plain.get("wheel_id") or (
        places[place]
        if isinstance(place, int) and 0 <= place < len(places)
        else id_from(job_id, place)
    )
    at = plain.get("at")
    try:
        moment(str(at))
        entry = _unread(plain) or msgspec.convert(plain.get("entry"), AnyEntry)
    except (ValueError, TypeError) as fault:
        raise InputError(" ".join(str(fault).split())[:200], path) from fault
    kept = plain.get("number", number)
    uid = plain.get("uid") or id_from("entry", job_id, number, at)
    if not (is_id(uid) and is_id(wheel_id)):
        raise InputError(tr("use letters, digits and hyphens"), path)
    if isinstance(kept, bool) or not isinstance(kept, int) or not 0 <= kept <= MAX_NUMBER:
        raise InputError(
            tr("use a number from 0 to {most}").format(most=MAX_NUMBER), f"{path}.number"
        )
    return Logged(number=kept, at=str(at), wheel_id=str(wheel_id), entry=entry, uid=str(uid))


def _unread(plain: JsonObject) -> Unreadable | None:
    """Return an entry that was exported byte for byte because it could not be read."""
    body = plain.get("unreadable")
    return Unreadable(body, str(plain.get("why", ""))[:200]) if isinstance(body, str) else None


def _parts(rows: list[object]) -> list[Item]:
    result = []
    for number, row in enumerate(rows, 1):
        plain = _object(row, f"part {number}")
        more = {name: plain[name] for name in ("stock", "low_at", "retired") if name in plain}
        spec = plain.get("spec")
        item = item_from(str(plain.get("kind")), spec if isinstance(spec, dict) else {}, **more)
        result.append(checked_item(item))
    return result


def _settings(plain: JsonObject) -> JsonObject:
    """Return the shop's settings of a file, each decoded as what the program writes.

    Raises:
        InputError: with the path of the first that is not accepted.
    """
    found = _object(plain.get("settings", {}), "settings")
    result = {
        str(name): value for name, value in found.items() if not str(name).startswith(_NOT_PRACTICE)
    }
    sample: JsonObject = {
        "format": JOB_FORMAT,
        "version": 1,
        "wheels": [
            {
                "name": "x",
                "rim": {"bead_seat_diameter_mm": 622, "internal_width_mm": 24},
                "tire": {"size": "45-622"},
            }
        ],
    }
    for name, value in result.items():
        part, _, field = name.partition(".")
        if part in ("practice", "shelf") and field:
            sample.setdefault(part, {})[field] = value
            continue
        kind = SHOP_SETTINGS.get(f"{part}." if field else name)
        if kind is None:
            raise InputError(tr("is no setting of this program"), f"settings.{name[:60]}")
        try:
            msgspec.convert(value, kind)
        except (msgspec.ValidationError, RecursionError) as fault:
            raise InputError(str(fault), f"settings.{name[:60]}") from fault
    try:
        job_from_plain(sample)
    except InputError as fault:
        raise InputError(fault.sentence, f"settings.{fault.path}") from fault
    return result


def import_files(
    store: "Repository",
    paths: Iterable[Path],
    *,
    replace: bool = False,
    on_progress: Callable[[int], bool] = lambda done: True,
) -> str:
    """Import files, whole or not at all, and return what was done in a sentence.

    Raises:
        InputError: a file is not accepted; names it.
        StoreError: the data cannot be written, or a job is there already.
    """
    result = Imported()
    for path in files_in(paths):
        try:
            read_file(path, result)
        except InputError as fault:
            raise InputError(f"{path}: {fault}") from fault
    now = datetime.now(UTC).isoformat(timespec="seconds")
    new = store.import_all(
        result.jobs, result.items, result.settings, now, on_progress, replace=replace
    )
    if result.jobs:
        words = tr("{jobs} jobs, {entries} log entries and {parts} parts imported")
    else:
        words = (
            tr("Shop setup imported, and parts: {parts}")
            if result.settings
            else tr("Parts imported: {parts}")
        )
    words = words.format(jobs=len(result.jobs), entries=new or 0, parts=len(result.items))
    known = sum(len(job.log) for job in result.jobs) - (new or 0)
    return words + "; " + tr("{n} entries were there already").format(n=known) if known else words


def open_file(store: "Repository", path: Path) -> WheelKey:
    """Store a job file unless the job is there already, which is never overwritten; return its
    first wheel.

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


NAME = "inner-rim-setup.json"


def export_setup(
    settings: Settings, shelf: ShelfBook, path: Path, say: Callable[[str], None]
) -> bool:
    """Write the shop's setup and shelf, and say so; return whether it was written."""
    return write_saying(path, lambda: work_file([], shelf.items, settings.shop, []), say)


def import_setup(sync: Sync, shelf: ShelfBook, path: Path, say: Callable[[str], None]) -> None:
    """Take in whatever `import` reads, all or nothing, and say what came of it; settings are one
    step to take back.
    """

    def take_in(store: "Repository") -> tuple[str, JsonObject, BenchState | None]:
        from inner_rim.core.record.errors import InputError

        before = store.bench().settings  # here, where no other window's change comes between
        try:
            return import_files(store, [path]), before, store.bench()
        except InputError as fault:
            return fault.sentence, before, None

    def taken(result: tuple[str, JsonObject, BenchState | None]) -> None:
        words, before, state = result
        if state is not None:
            after = state.settings
            with sync.history.grouped():
                for name in sorted({*before, *after}):
                    if before.get(name) != after.get(name):
                        sync.history.push(Set(name, before.get(name), after.get(name)))
            sync.adopt(state)
            shelf.load()
        say(words)

    def refused(fault: StoreError) -> None:
        say(fault.sentence)

    if sync.worker is not None:
        sync.worker.submit(
            take_in, taken, refused, words=tr("Import from {file}").format(file=path.name)
        )
