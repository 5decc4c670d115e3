"""The shelf in memory: parts with their figures and stock, searched at once, stored by the worker.

Figures are edited field by field and stock is counted or booked: both join with what other benches
do.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, TypeVar

import msgspec

from inner_rim.core.plan.picking import Booking, Need, PickLine, Use, item_for, needs_of, pick_list
from inner_rim.core.record.operations import Conflict, SetField
from inner_rim.core.record.parts import Item, PartKind, edited_item, item_from, search
from inner_rim.core.record.paths import JsonObject, new_id
from inner_rim.core.record.why import label
from inner_rim.store.errors import DuplicatePart, StoreError
from inner_rim.words import tr
from inner_rim.work.editing.history import Counted, PartAdded, PartEdited
from inner_rim.work.editing.state import BenchWheel, PlannedWheel, planned
from inner_rim.work.editing.sync import Sync
from inner_rim.work.storage.worker import CoalescedQuery

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository

#: Parts that a check-in teaches the shelf.
LEARNED: tuple[PartKind, ...] = ("rim", "tire", "insert")


class ShelfChange(msgspec.Struct, frozen=True):
    """What a change of a wheel takes from the shelf.

    Attributes:
        back: the stages whose parts go back.
        learned: parts that the shelf learns from a check-in.
    """

    needs: tuple[Need, ...] = ()
    back: tuple[str, ...] = ()
    learned: tuple[tuple[PartKind, JsonObject], ...] = ()


def taken(before: BenchWheel, after: BenchWheel) -> ShelfChange:
    """Return what a change of a wheel takes from the shelf."""
    if not isinstance(before, PlannedWheel) or not isinstance(after, PlannedWheel):
        return ShelfChange()
    then, now = before.plan.log, after.plan.log
    same_run = then.run == now.run
    ended = after.progress.done - before.progress.done
    opened = before.progress.done - after.progress.done if same_run else frozenset()
    needs = [
        need for need in needs_of_wheel(after) if need.stage in ended and need.kind != "sealant"
    ]
    slip = same_run and now.dosed_ml < then.dosed_ml  # what was poured before it stays used
    needs += _poured(after, now.dosed_ml - (then.dosed_ml if same_run and not slip else 0.0))
    back = {*opened, *(["sealant"] if slip else [])}
    run = now.run
    mark = f".{run}" if run > 1 else ""  # done again: what was used before stays used
    return ShelfChange(
        tuple(msgspec.structs.replace(need, stage=need.stage + mark) for need in needs),
        tuple(sorted(stage + mark for stage in back)),
        _learned(after) if "check_in" in ended else (),
    )


def _learned(after: BenchWheel) -> tuple[tuple[PartKind, JsonObject], ...]:
    parts = ((kind, after.value(kind)) for kind in LEARNED)
    return tuple((kind, part) for kind, part in parts if isinstance(part, dict))


def _poured(after: PlannedWheel, poured: float) -> list[Need]:
    wanted = [need for need in needs_of_wheel(after) if need.kind == "sealant"]
    return [msgspec.structs.replace(need, amount=poured) for need in wanted if poured > 0.0]


def needs_of_wheel(state: PlannedWheel) -> tuple[Need, ...]:
    return needs_of(state.wheel, state.plan, state.sealant_name)


def pick_list_of(states: Iterable[BenchWheel], items: tuple[Item, ...]) -> tuple[PickLine, ...]:
    return pick_list([(s.name, needs_of_wheel(s), s.progress.done) for s in planned(states)], items)


def in_scope(
    wheels: Iterable[BenchWheel], here: BenchWheel | None, scope: str
) -> list[PlannedWheel]:
    """Return the wheels that are worked on: the selected one, its bicycle's ("job"), or all
    ("bench").
    """
    return [
        state
        for state in planned(wheels)
        if state.progress.state != "finished"
        and (
            scope == "bench"
            or (
                here is not None
                and (state.key[0] == here.key[0] if scope == "job" else state.key == here.key)
            )
        )
    ]


MAX_OFFERED = 12
T = TypeVar("T")
Edited = tuple[Item, tuple[Conflict, ...]]


class ShelfBook:
    """Every part of the shop, and what may be done with it."""

    def __init__(self, sync: Sync, now: Callable[[], str], changed: Callable[[], None]) -> None:
        self._sync, self._now, self._changed = sync, now, changed
        self._items: tuple[Item, ...] = ()
        self._haystacks: tuple[str, ...] = ()
        self.loaded = False
        self._asking = CoalescedQuery(
            lambda store: store.shelf.all(), self.adopt, sync.on_failed_read
        )
        # without a store, for giving back
        self._taken: list[tuple[tuple[str, str], str, str, float]] = []

    @property
    def items(self) -> tuple[Item, ...]:
        return self._items

    @items.setter
    def items(self, items: tuple[Item, ...]) -> None:
        self._items, self._haystacks = items, tuple(item.haystack for item in items)

    def load(self) -> None:
        if self._sync.worker is not None:
            self._asking.ask(self._sync.worker)

    def adopt(self, items: tuple[Item, ...]) -> None:
        self.items, self.loaded = items, True
        self._changed()

    def item(self, item_id: str | None) -> Item | None:
        return next((item for item in self._items if item.item_id == item_id), None)

    def find(self, text: str, kind: str | None = None, most: int | None = None) -> list[Item]:
        return search(self._items, text, kind, most, self._haystacks)

    def offered(self, text: str, kind: PartKind) -> list[Item]:
        return [item for item in self.find(text, kind) if not item.retired][:MAX_OFFERED]

    # -- changing --------------------------------------------------------------------------------

    def add(
        self,
        item: Item,
        failed: Callable[[str], None] | None = None,
        done: Callable[[Item], None] = lambda item: None,
    ) -> None:
        """Add a part.

        Args:
            failed: called with a sentence where a part of that kind and name exists; by default the
                bench says it.
        """
        if any((i.kind, i.name) == (item.kind, item.name) for i in self.items):
            (failed or self._sync.say)(DuplicatePart(item.kind, item.name).sentence)
            return
        new = item if item.item_id else msgspec.structs.replace(item, item_id=new_id())
        self._sync.history.push(PartAdded(new))
        now = self._now()
        self._send(
            lambda store: store.shelf.add(new, now, tr("counted")),
            lambda stored: self._stored(stored, done),
            failed,
            tr("New part: {name}").format(name=new.name),
            {"part": msgspec.to_builtins(new)},
            lambda: new,
        )

    def edit(
        self,
        item_id: str,
        operations: Sequence[SetField],
        failed: Callable[[str], None] | None = None,
        done: Callable[[Item], None] = lambda item: None,
    ) -> None:
        """Change figures of a part; where another bench changed the same one, its value is kept and
        that is said.
        """
        item = self.item(item_id)
        if item is None or not operations:
            return
        self._sync.history.push(PartEdited(item_id, tuple(operations)))
        now = self._now()
        self._replace(edited_item(item, operations)[0])

        def edited(result: Edited) -> None:
            stored, conflicts = result
            if conflicts:
                fields = ", ".join(
                    label(c.operation.path.removeprefix("spec."))
                    for c in conflicts
                    if isinstance(c.operation, SetField)
                )
                (failed or self._sync.say)(
                    tr(
                        "{fields} was changed in another window at the same time; that value was kept."
                    ).format(fields=fields)
                )
            self._stored(msgspec.structs.replace(stored, stock=self._stock_of(stored)), done)

        self._send(
            lambda store: store.shelf.edit(item_id, operations, now),
            edited,
            failed,
            tr("Part {name}").format(name=item.name),
            {"part": item_id, "operations": msgspec.to_builtins(list(operations))},
            lambda: edited_item(item, operations),
        )

    def count(self, item_id: str, level: float, seen: float) -> None:
        item = self.item(item_id)
        if item is None or level == seen:
            return
        self._sync.history.push(Counted(item_id, level - seen))
        now, uid = self._now(), new_id()
        self._in_memory(item_id, level - seen)
        if self._sync.worker is None:
            self._changed()
            return
        self._send(
            lambda store: store.shelf.count(item_id, level, seen, now, "counted", uid),
            lambda _stored: self._changed(),
            None,
            tr("Count of {name}").format(name=item.name),
            {"part": item_id, "level": level, "seen": seen},
            lambda: item,
        )

    def retire(self, item: Item, retired: bool = True) -> None:
        if item.item_id is not None:
            self.edit(item.item_id, [SetField("", "retired", retired, item.retired)])

    def _send(
        self,
        work: "Callable[[Repository], T]",
        done: Callable[[T], None],
        failed: Callable[[str], None] | None,
        words: str,
        content: object,
        in_memory: Callable[[], T],
    ) -> None:
        if self._sync.worker is None:
            done(in_memory())
            return

        def refused(fault: StoreError) -> None:
            (failed or self._sync.say)(fault.sentence)
            self.load()

        self._sync.worker.submit(work, done, refused, words=words, content=content)

    def _stock_of(self, item: Item) -> float:
        known = self.item(item.item_id)
        return known.stock if known is not None else item.stock

    def _stored(self, item: Item, done: Callable[[Item], None]) -> None:
        self._replace(item)
        self._changed()
        done(item)

    def _replace(self, item: Item) -> None:
        others = [i for i in self.items if i.item_id != item.item_id]
        self.items = tuple(sorted([*others, item], key=lambda i: (i.kind, i.name)))

    def keep_many(self, items: list[Item]) -> None:
        result = {(i.kind, i.name): i for i in self.items}
        for item in items:
            old = result.get((item.kind, item.name))
            item_id = old.item_id if old is not None else item.item_id or new_id()
            result[(item.kind, item.name)] = msgspec.structs.replace(item, item_id=item_id)
        self.items = tuple(sorted(result.values(), key=lambda i: (i.kind, i.name)))
        self._changed()

    # -- booking ---------------------------------------------------------------------------------

    def booking(self, uid: str, wheel: tuple[str, str], taken: ShelfChange) -> Booking:
        """Return what follows from log entries for the shelf; what is in memory follows at once."""
        uses = [
            (need.stage, Use(item.item_id, need.amount))
            for need in taken.needs
            if (item := item_for(need, self.items)) is not None and item.item_id is not None
        ]
        for stage in taken.back:
            for entry in [t for t in self._taken if t[:2] == (wheel, stage)]:
                self._taken.remove(entry)
                self._in_memory(entry[2], entry[3])
        for stage, use in uses:
            item = self.item(use.item_id)
            used = min(use.amount, item.stock) if item is not None else 0.0
            self._in_memory(use.item_id, -used)
            self._taken.append((wheel, stage, use.item_id, used))
        taught = [
            item
            for kind, figures in taken.learned
            if (item := self._taught(kind, figures)) is not None
        ]
        if taught:
            self.keep_many(taught)
        return Booking(tuple(uses), taken.back, tuple(taught), uid)

    def booked(self, booking: Booking) -> None:
        """A booking is stored: what only the store knows of it is read again."""
        if booking.back or booking.learned:
            self.load()

    def _taught(self, kind: PartKind, figures: JsonObject) -> Item | None:
        """A part that was typed at check-in, if it has a name that the shelf does not know and is
        complete.
        """
        name = str(figures.get("name") or "")
        if not name.strip() or any(i.kind == kind and i.name == name for i in self.items):
            return None
        own = {key: value for key, value in figures.items() if key not in _OF_THE_WHEEL}
        try:
            return item_from(kind, own, item_id=new_id())
        except ValueError:  # not complete yet: learned another time
            return None

    def _in_memory(self, item_id: str, amount: float) -> None:
        self.items = tuple(
            msgspec.structs.replace(i, stock=max(0.0, i.stock + amount))
            if i.item_id == item_id
            else i
            for i in self.items
        )


#: What belongs to one wheel and not to the part.
_OF_THE_WHEEL = frozenset(
    {"new", "tires_used", "measured_width_mm", "measured_on_rim_mm", "seat_circumference_mm"}
)
