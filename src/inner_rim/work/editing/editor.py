"""The plan's inputs: typed, put in, duplicated. Every edit is a list of operations."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from inner_rim.core.record.job import MAX_WHEELS
from inner_rim.core.record.operations import (
    JOB,
    FieldKey,
    Operation,
    SetDraft,
    SetField,
    node_of,
    set_part,
    value_at,
)
from inner_rim.core.record.paths import JsonObject, new_id
from inner_rim.words import tr
from inner_rim.work.editing.bench_port import BenchPort
from inner_rim.work.editing.draft import duplicate_wheel, empty_document, typed
from inner_rim.work.editing.history import FieldsEdited, Moved
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, usual_of
from inner_rim.work.editing.sync import Sync


def started(state: BenchWheel) -> bool:
    return isinstance(state, PlannedWheel) and bool(state.progress.done)


class Editor:
    """Edits the selected wheel and its job.

    Args:
        bench: what it needs of the bench: the selected wheel, the units, and who is told of a
            change.
    """

    def __init__(self, bench: BenchPort, sync: Sync) -> None:
        self._bench, self._sync = bench, sync

    def new_wheel(self) -> None:
        taken = {state.name for state in self._bench.wheels}
        name = next(
            name for n in range(1, 100000) if (name := tr("Wheel {n}").format(n=n)) not in taken
        )
        document = empty_document(name)
        job = self._sync.create(new_id(), document)
        self._sync.history.push(Moved(job.job_id, name, True, self._bench.selected))
        self._bench.selected = (job.job_id, document["wheels"][0]["wheel_id"])
        self._bench.message = ""
        self._bench.refresh(job)

    def duplicate(self, count: int = 1) -> None:
        """Put wheels with the same parts into the job: the other end of the bicycle, or the rest of
        a fleet.

        Never more than a job may have; one undo takes all of them back.
        """
        state: BenchWheel | None = self._bench.current
        if state is None:
            return
        draft, taken = state.job.draft, {other.name for other in self._bench.wheels}
        room = MAX_WHEELS - len(draft.document["wheels"])
        operations: list[Operation] = []
        for _ in range(min(count, room)):
            added = duplicate_wheel(draft, state.wheel_id, taken)
            taken.add(str(added.wheel["name"]))
            operations.append(added)
            wheels = [*draft.document["wheels"], added.wheel]
            draft = type(draft)({**draft.document, "wheels": wheels}, draft.drafts)
        if operations:
            self._edit(state, operations, None)
            self._bench.select((state.job.job_id, draft.document["wheels"][-1]["wheel_id"]))
        if count > room:
            self._bench.say(tr("A job holds at most {most} wheels").format(most=MAX_WHEELS))

    def type_into(self, field: str, text: str) -> None:
        state: BenchWheel | None = self._bench.current
        if state is not None and field == "work.kind" and started(state):
            self._bench.say(
                tr(
                    "The work on this wheel has started; go back to check-in to change the kind of work."
                )
            )
        elif state is not None:
            target = state.target(field)
            operations = typed(state.job.draft, target, field, text, self._bench.units)
            if operations:
                self._edit(state, operations, FieldKey(target, field))
            elif state.conflict(field) is not None:
                job = self._sync.job(state.job.job_id)
                job.drop_conflict(FieldKey(target, field))
                self._bench.refresh(job)

    def put_part(self, part: str, figures: JsonObject) -> None:
        """Use a rim, a tire or an insert again; what was typed into its fields is dropped."""
        state: BenchWheel | None = self._bench.current
        if state is None:
            return
        node = node_of(state.job.draft.document, state.wheel_id) or {}
        operations: list[Operation] = set_part(node, state.wheel_id, part, figures)
        operations += [
            SetDraft(*key, None, typed_now)
            for key, typed_now in state.job.draft.drafts.items()
            if key.target == state.wheel_id and key.path.startswith(f"{part}.")
        ]
        if operations:
            self._edit(state, operations, None)

    def take_mine(self, field: str) -> bool:
        """Set a field to the value that lost against another window's; return whether there was
        one.
        """
        state: BenchWheel | None = self._bench.current
        conflict = state.conflict(field) if state is not None else None
        mine = conflict.operation if conflict is not None else None
        if state is None or not isinstance(mine, SetField | SetDraft):
            return False
        if isinstance(mine, SetDraft):
            kept = mine.value
            operations = (
                typed(state.job.draft, mine.target, mine.path, kept.text, kept.units)
                if kept is not None
                else []
            )
            self._edit(state, operations, None)
            return True
        node = node_of(state.job.draft.document, mine.target)
        stored = value_at(node, mine.path)
        self._edit(state, [SetField(mine.target, mine.path, mine.value, stored)], None)
        return True

    def take_any_mine(self) -> bool:
        """Set the first field of the selected wheel, or of its job, whose own value another window
        has overwritten.
        """
        state: BenchWheel | None = self._bench.current
        for key in list(state.job.conflicts) if state is not None else ():
            if state is not None and key.target in (JOB, state.wheel_id):
                return self.take_mine(key.path)
        return False

    def end_of_typing(self) -> None:
        """The field was left: the next edit is an undo step of its own."""
        state: BenchWheel | None = self._bench.current
        if state is not None:
            self._sync.history.end_of_typing()
            self._bench.visits.look_for(state)

    def _edit(
        self, state: BenchWheel, operations: Sequence[Operation], field: FieldKey | None
    ) -> None:
        try:
            job = self._sync.job(state.job.job_id)
        except (
            KeyError
        ):  # another window took it off, or other data took its place, in the middle of a word
            self._bench.say(
                tr("{name} is off the bench: this was not stored.").format(name=state.name)
            )
            return
        self._sync.history.push(FieldsEdited(job.job_id, tuple(operations), field))
        self._bench.message = ""
        self._sync.edit(job, operations)
        self._bench.refresh(job)

    def known_parts(self, part: str, done: Callable[[list[JsonObject]], None]) -> None:
        """Give `done` every part of a kind used before that has a name, newest first."""

        def collect(documents: list[JsonObject]) -> list[JsonObject]:
            result: dict[str, JsonObject] = {}
            for document in documents:
                for wheel in document.get("wheels", ()):
                    item = wheel.get(part) or {}
                    if item.get("name"):
                        result.setdefault(item["name"], item)
            return list(result.values())

        worker = self._sync.worker
        if worker is not None:
            worker.submit(lambda store: collect(store.recent_documents()), done)
        else:
            done(collect([job.draft.document for job in reversed(self._sync.jobs)]))


NOT_SAID = {"tube": "", "tire": "", "seated": "", "air": ""}


#: What each answer says of the facts; one that it leaves out is the usual one.
FACTS: dict[str, dict[str, str]] = {
    "tube": {**NOT_SAID, "tube": "yes"},
    "air": {"tube": "no", "tire": "on", "seated": "yes", "air": "yes"},
    "flat": {"tube": "no", "tire": "on", "seated": "no", "air": "no"},
    "off": {**NOT_SAID, "tube": "no", "tire": "off"},
}


def came_in(state: BenchWheel) -> tuple[str | None, str | None]:
    """Return how the wheel came in as it was said, and how it usually does; None where neither is
    known.
    """
    said = {name: state.value(f"arrival.{name}") for name in NOT_SAID}
    usual = {name: usual_of(state, f"arrival.{name}") for name in NOT_SAID}
    if all(value is None for value in said.values()):
        return None, _answer(usual) if usual["tire"] is not None else None
    return _answer(
        {name: usual[name] if value is None else value for name, value in said.items()}
    ), None


def _answer(facts: dict[str, object]) -> str | None:
    if facts["tire"] == "off":
        return "off"
    if facts["tire"] == "one_bead_off":
        return None  # none of the four
    if facts["tube"]:
        return "tube"
    return "air" if facts["air"] else "flat"
