"""Two benches edit the same job: whatever they do and whenever they hear of it, both end with the same
document, nobody's edit is lost unseen, and no field changes that nobody set."""

import copy
from collections import deque

from hypothesis import given, settings
from hypothesis import strategies as st

from inner_rim.core.record.operations import (
    AddWheel,
    FieldKey,
    RemoveWheel,
    SetDraft,
    SetField,
    UnacceptedText,
    apply,
    leaves,
    value_at,
)
from inner_rim.store.rows import StoredJob
from inner_rim.work.editing.draft import JobDraft
from inner_rim.work.editing.state import JobState
from tests.samples import stored

FIELDS = (
    "rim.internal_width_mm",
    "rim.spokes",
    "rim.well.depth_mm",
    "tire.max_pressure_kpa",
    "insert.height_mm",
    "name",
)
JOB_FIELDS = ("bike", "ride.total_mass_kg", "shelf.tape_widths_mm")
VALUES = (None, 20, 24, 28, 340.0, "Tern", [21.0, 25.0], True)


class Server:
    """The store, as `Repository.edit` applies operations, without a disk."""

    def __init__(self):
        self.document, self.drafts, self.revision = stored(), {}, 1

    def edit(self, operations):
        joined = apply(self.document, self.drafts, operations)
        if joined.document != self.document or joined.drafts != self.drafts:
            self.revision += 1
        self.document, self.drafts = joined.document, joined.drafts
        return copy.deepcopy(joined.document), dict(joined.drafts), self.revision, joined.conflicts


class Client:
    """A bench: edits at once, sends in order, hears answers in order."""

    def __init__(self, server):
        self.server, self.number = server, 0
        self.job = JobState(StoredJob("job", server.document, {}, 1))
        self.heard = (server.document, {}, 1)
        self.sent, self.answers, self.conflicts = deque(), deque(), []

    def act(self, operation):
        self.number += 1
        self.job.expect(self.number, [operation])
        self.sent.append((self.number, operation))

    def set(self, target, path, value):
        document = self.job.draft.document
        node = (
            document
            if target == ""
            else next((w for w in document["wheels"] if w["wheel_id"] == target), None)
        )
        if node is not None:
            self.act(SetField(target, path, value, value_at(node, path)))

    def store_one(self):
        """The store does the next of what was sent; the bench has not heard of it yet."""
        if self.sent:
            number, operation = self.sent.popleft()
            self.answers.append((number, operation, *self.server.edit([operation])))

    def hear_one(self):
        if self.answers:
            number, _operation, document, drafts, revision, conflicts = self.answers.popleft()
            self.job.confirm(document, drafts, revision, [number])
            self.take(document, drafts, revision)
            self.conflicts += conflicts

    def reload(self):
        """Hear everything there is so far, then look at the data: answers come in order."""
        while self.answers:
            self.hear_one()
        stored = copy.deepcopy(self.server.document), dict(self.server.drafts), self.server.revision
        self.job.confirm(*stored)
        self.take(*stored)

    def take(self, document, drafts, revision):
        if revision >= self.heard[2]:
            self.heard = (document, drafts, revision)

    def joined(self):
        """What it is to show: what it has heard of, with all that is on its way on top."""
        waiting = [answer[1] for answer in self.answers] + [
            operation for _n, operation in self.sent
        ]
        joined = apply(*self.heard[:2], waiting)
        return JobDraft(joined.document, joined.drafts)


moves = st.one_of(
    st.tuples(st.just("set"), st.sampled_from(FIELDS), st.sampled_from(VALUES), st.integers(0, 2)),
    st.tuples(st.just("job"), st.sampled_from(JOB_FIELDS), st.sampled_from(VALUES), st.just(0)),
    st.tuples(
        st.just("draft"), st.sampled_from(FIELDS), st.sampled_from(("36", "x", None)), st.just(0)
    ),
    st.tuples(
        st.sampled_from(["add", "remove", "store", "hear", "reload"]),
        st.just(""),
        st.none(),
        st.integers(0, 2),
    ),
)


def play(client, move, place):
    act, path, value, which = move
    wheels = client.job.draft.document["wheels"]
    wheel = wheels[which % len(wheels)]
    if act == "set":
        client.set(wheel["wheel_id"], path, value)
    elif act == "job":
        client.set("", path, value)
    elif act == "draft":
        old = client.job.draft.drafts.get(FieldKey(wheel["wheel_id"], path))
        client.act(SetDraft(wheel["wheel_id"], path, UnacceptedText(value) if value else None, old))
    elif act == "add" and len(wheels) < 4:
        client.act(AddWheel({"name": "twin", "rim": {}, "tire": {}, "wheel_id": f"t{place}"}))
    elif act == "remove":
        client.act(RemoveWheel(wheel["wheel_id"], wheel))
    elif act == "store":
        client.store_one()
    elif act == "hear":
        client.hear_one()
    elif act == "reload":
        client.reload()


@settings(max_examples=2000)
@given(st.lists(st.tuples(st.integers(0, 1), moves), min_size=3, max_size=25))
def test_any_interleaving_of_two_benches_ends_the_same_on_both(story):
    server = Server()
    clients = [Client(server), Client(server)]
    sent = []
    for place, (who, move) in enumerate(story):
        before = len(clients[who].sent)
        play(clients[who], move, place)
        assert clients[who].job.draft == clients[who].joined()
        sent += [operation for _n, operation in list(clients[who].sent)[before:]]
    while any(client.sent or client.answers for client in clients):
        for client in clients:
            client.store_one()
            client.hear_one()
            assert client.job.draft == client.joined()
    for client in clients:
        client.reload()
    assert clients[0].job.draft == clients[1].job.draft
    assert clients[0].job.draft.document == server.document and not clients[0].job.pending
    _nothing_changed_that_nobody_set(server.document, sent)
    _nothing_is_lost_unseen(
        server.document, sent, [c for client in clients for c in client.conflicts]
    )


def _nothing_changed_that_nobody_set(document, sent):
    touched = {(o.target, o.path) for o in sent if isinstance(o, SetField)}
    first = leaves(stored()["wheels"][0])
    kept = next((w for w in document["wheels"] if w["wheel_id"] == "w1"), None)
    if kept is not None:
        now = leaves(kept)
        for path in {*first, *now}:
            assert ("w1", path) in touched or now.get(path) == first.get(path)


def _nothing_is_lost_unseen(document, sent, conflicts):
    """Whoever set a field last, or was told that another value stands: every set value is there, was shown, or was
    replaced by an edit that saw it."""
    shown = {id_of(conflict.operation) for conflict in conflicts}
    gone = {o.wheel_id for o in sent if isinstance(o, RemoveWheel)}
    for operation in sent:
        if (
            not isinstance(operation, SetField)
            or id_of(operation) in shown
            or operation.target in gone
        ):
            continue
        node = (
            document
            if operation.target == ""
            else next(w for w in document["wheels"] if w["wheel_id"] == operation.target)
        )
        now = value_at(node, operation.path)
        seen_by_others = any(
            isinstance(o, SetField)
            and (o.target, o.path) == (operation.target, operation.path)
            and o.base == operation.value
            for o in sent
        )
        assert now == operation.value or seen_by_others


def id_of(operation):
    return repr(operation)


@settings(max_examples=300)
@given(
    st.lists(st.tuples(st.sampled_from(FIELDS), st.sampled_from(VALUES)), min_size=1, max_size=8)
)
def test_lists_booleans_and_numbers_come_through_the_encoding_unchanged(edits):
    import msgspec

    from inner_rim.core.record.operations import Operation

    operations = [SetField("w1", path, value, None) for path, value in edits]
    again = msgspec.json.decode(msgspec.json.encode(operations), type=list[Operation])
    assert again == operations
