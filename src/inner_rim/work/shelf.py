"""The shelf in memory: parts with their figures and stock, searched at once, stored by the keeper."""

from collections.abc import Callable, Iterable
from typing import Any

import msgspec

from inner_rim.core.parts import Item, PartKind, item_from, search
from inner_rim.core.picking import Need, item_for
from inner_rim.store.errors import DuplicatePart

from .keeper import Keeper

MOST_OFFERED = 12


class ShelfBook:
    """Every part of the shop, and what may be done with it.

    Args:
        keeper: stores what changes; None keeps everything in memory only.
        now: the time as ISO 8601.
        changed: called after every change.
    """

    def __init__(self, keeper: Keeper | None, now: Callable[[], str], changed: Callable[[], None]) -> None:
        self.keeper, self.now, self._changed = keeper, now, changed
        self._items: tuple[Item, ...] = ()
        self._haystacks: tuple[str, ...] = ()
        self.loaded = False
        self._taken: list[tuple[int, int, str, int | None, float]] = []  # without a keeper, for giving back

    @property
    def items(self) -> tuple[Item, ...]:
        """Every part, by kind and name."""
        return self._items

    @items.setter
    def items(self, items: tuple[Item, ...]) -> None:
        self._items, self._haystacks = items, tuple(item.haystack for item in items)

    def load(self) -> None:
        """Read every part from the store."""
        if self.keeper is not None:
            self.keeper.order(lambda store: store.shelf.all(), self.adopt)

    def adopt(self, items: tuple[Item, ...]) -> None:
        """Take the parts over as they are stored."""
        self.items, self.loaded = items, True
        self._changed()

    def find(self, text: str, kind: str | None = None, most: int | None = None) -> list[Item]:
        """Return the parts that hold every word typed."""
        return search(self._items, text, kind, most, self._haystacks)

    def offered(self, text: str, kind: PartKind) -> list[Item]:
        """Return what a name field offers while it is typed into."""
        return [item for item in self.find(text, kind) if not item.retired][:MOST_OFFERED]

    def put(
        self,
        item: Item,
        reason: str = "counted",
        failed: Callable[[str], None] | None = None,
        done: Callable[[Item], None] | None = None,
    ) -> None:
        """Add a part, or change the one with its number.

        Args:
            item: a checked part (see `item_from`).
            reason: why its stock changes.
            failed: hears in a sentence that a part of that kind and name is there already.
            done: gets the part as it is stored.
        """
        twin = next((i for i in self.items if (i.kind, i.name) == (item.kind, item.name)), None)
        if twin is not None and twin.item_id != item.item_id:
            if failed is not None:
                failed(DuplicatePart(item.kind, item.name).sentence)
            return
        if self.keeper is None:
            number = item.item_id or max((i.item_id or 0 for i in self.items), default=0) + 1
            self._stored(msgspec.structs.replace(item, item_id=number), done)
            return
        now = self.now()
        self.keeper.order(
            lambda store: store.shelf.put(item, now, reason),
            lambda new: self._stored(new, done),
            (lambda fault: failed(fault.sentence)) if failed else None,
        )

    def _stored(self, item: Item, done: Callable[[Item], None] | None) -> None:
        others = [i for i in self.items if i.item_id != item.item_id]
        self.items = tuple(sorted([*others, item], key=lambda i: (i.kind, i.name)))
        self._changed()
        if done is not None:
            done(item)

    def retire(self, item: Item, retired: bool = True) -> None:
        """Offer a part no longer, or again."""
        self.put(msgspec.structs.replace(item, retired=retired))

    def learn(self, kind: PartKind, spec: dict[str, Any]) -> None:
        """Keep a part that was typed at check-in, if it has a name that the shelf does not know."""
        name = str(spec.get("name") or "")
        if not name.strip() or any(i.kind == kind and i.name == name for i in self.items):
            return
        own = {key: value for key, value in spec.items() if key not in _OF_THE_WHEEL}
        try:
            self.put(item_from(kind, own), "learned at check-in", failed=lambda sentence: None)
        except ValueError:  # not complete yet: learned another time
            return

    def keep_many(self, items: list[Item]) -> None:
        """Keep many parts in memory, each over the one of its kind and name."""
        known = {(i.kind, i.name): i.item_id for i in self.items}
        for item in items:
            self.put(msgspec.structs.replace(item, item_id=known.get((item.kind, item.name))))

    def book_out(self, needs: Iterable[Need], job: Any, wheel: int, stage: str) -> None:
        """Take what a finished stage used off the shelf; `job` has its number once it is stored."""
        uses = [(item, need.amount) for need in needs if (item := item_for(need, self.items))]
        if not uses:
            return
        for item, amount in uses:
            taken = min(amount, item.stock)
            self._in_memory(item.item_id, -taken)
            self._taken.append((id(job), wheel, stage, item.item_id, taken))
        if self.keeper is None:
            return
        now = self.now()
        wanted = [(item.item_id, amount) for item, amount in uses if item.item_id is not None]

        def work(store: Any) -> None:
            from inner_rim.store.shelf import Use

            store.shelf.book_out([Use(*use) for use in wanted], now, job.stored_id, wheel, stage)

        self.keeper.order(work)

    def give_back(self, job: Any, wheel: int, stages: Iterable[str]) -> None:
        """Put back what these stages of a wheel took."""
        now, names = self.now(), tuple(stages)
        if self.keeper is None:
            for entry in [t for t in self._taken if t[:2] == (id(job), wheel) and t[2] in names]:
                self._taken.remove(entry)
                self._in_memory(entry[3], entry[4])
            return

        def work(store: Any) -> tuple[Item, ...]:
            store.shelf.give_back(now, job.stored_id, wheel, names)
            return store.shelf.all()  # type: ignore[no-any-return]

        self.keeper.order(work, self.adopt)

    def _in_memory(self, item_id: int | None, amount: float) -> None:
        self.items = tuple(
            msgspec.structs.replace(i, stock=i.stock + amount) if i.item_id == item_id else i
            for i in self.items
        )


#: What belongs to one wheel and not to the part.
_OF_THE_WHEEL = frozenset(
    {"new", "tires_used", "measured_width_mm", "measured_on_rim_mm", "seat_circumference_mm"}
)
