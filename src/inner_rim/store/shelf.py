"""Parts and their stock in the database. Stock is only movements: every level is their sum."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import msgspec
from sqlalchemy import Connection, select, text, update

from inner_rim.core.plan.picking import Booking
from inner_rim.core.record.operations import Conflict, SetField
from inner_rim.core.record.parts import Item, edited_item
from inner_rim.core.record.paths import JsonObject, new_id
from inner_rim.store.codec import encoded_item
from inner_rim.store.database import Database
from inner_rim.store.errors import DuplicatePart, StoreRefused
from inner_rim.store.rows import PART_COLUMNS, item_of
from inner_rim.store.tables import MOVEMENTS, PARTS
from inner_rim.words import tr

ROWS_BETWEEN_REPORTS = 100
#: A part and its figures as they are stored.
Prepared = tuple[Item, str]


class Cancelled(Exception):
    """An import was stopped: its transaction is rolled back."""


class ShelfStore:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> tuple[Item, ...]:
        with self._database.reading() as connection:
            levels = _levels(connection)
            rows = connection.execute(
                text("SELECT uid, kind, spec, low_at, retired FROM parts ORDER BY kind, name")
            )
            result = [
                item_of((uid, kind, spec, levels.get(uid, 0.0), low_at, retired))
                for uid, kind, spec, low_at, retired in rows
            ]
        return tuple(item for item in result if isinstance(item, Item))

    def add(self, item: Item, now: str, reason: str) -> Item:
        """Store a new part, with its stock as its first movement; a retry stores nothing twice.

        Raises:
            DuplicatePart: another part of its kind has its name.
        """
        item = item if item.item_id else msgspec.structs.replace(item, item_id=new_id())
        with self._database.writing() as connection:
            return _add(connection, item, now, reason)

    def edit(
        self, item_id: str, operations: Sequence[SetField], now: str
    ) -> tuple[Item, tuple[Conflict, ...]]:
        """Apply edits to a part and return it, and the edits that lost against someone else's.

        Paths are the part's figures (``spec.size``), ``low_at`` and ``retired``.

        Raises:
            DuplicatePart: another part of its kind has its name.
            StoreRefused: the part is gone, or the figures together are not accepted.
        """
        with self._database.writing() as connection:
            old = _one(connection, item_id)
            new, conflicts = edited_item(old, operations)
            spec = encoded_item(new)
            taken = _id_of(connection, new)
            if taken is not None and taken != item_id:
                raise DuplicatePart(new.kind, new.name)
            connection.execute(
                update(PARTS)
                .where(PARTS.c.uid == item_id)
                .values(
                    name=new.name,
                    spec=spec,
                    low_at=new.low_at,
                    retired=int(new.retired),
                    changed_at=now,
                )
            )
            return new, conflicts

    def count(
        self, item_id: str, level: float, seen: float, now: str, reason: str, uid: str
    ) -> Item:
        """Record that a part was counted: a movement from the level that was seen to the one
        counted.

        What was booked meanwhile stays booked.
        """
        with self._database.writing() as connection:
            _move(connection, uid, item_id, level - seen, now, reason)
            return _one(connection, item_id)

    def put_many(
        self,
        rows: Sequence[Prepared],
        now: str,
        reason: str,
        on_progress: Callable[[int], bool] = lambda done: True,
    ) -> int:
        """Store many parts, each over the one of its kind and name: all or nothing.

        Args:
            on_progress: called with the number done; returning False rolls all of it back.

        Returns:
            How many were stored; 0 where `on_progress` stopped it.
        """
        try:
            with self._database.writing() as connection:
                put_items(connection, rows, now, reason, on_progress)
        except Cancelled:
            return 0
        return len(rows)

    def book(
        self, connection: Connection, booking: Booking, now: str, job_id: str, wheel_id: str
    ) -> None:
        """Book what follows from log entries, in their transaction."""
        for stage in booking.back:
            took = connection.execute(
                text(
                    "SELECT part_uid, SUM(amount) FROM movements WHERE job_uid = :job AND wheel_id = :wheel "
                    "AND stage = :stage GROUP BY part_uid"
                ),
                {"job": job_id, "wheel": wheel_id, "stage": stage},
            ).all()
            for part_uid, amount in took:
                if amount < 0.0:
                    uid = f"{booking.uid}/{stage}/{part_uid}/back"
                    _move(
                        connection, uid, part_uid, -amount, now, "reopened", job_id, wheel_id, stage
                    )
        for stage, use in booking.uses:
            level = connection.execute(
                text("SELECT COALESCE(SUM(amount), 0.0) FROM movements WHERE part_uid = :part"),
                {"part": use.item_id},
            ).scalar_one()
            taken = min(use.amount, max(0.0, level))  # the shelf then held less than recorded
            uid = f"{booking.uid}/{stage}/{use.item_id}"
            if taken > 0.0:
                _move(connection, uid, use.item_id, -taken, now, "used", job_id, wheel_id, stage)
        for item in booking.learned:
            if _id_of(connection, item) is None:
                _add(connection, item, now, "learned at check-in")


def _add(connection: Connection, item: Item, now: str, reason: str) -> Item:
    spec = encoded_item(item)
    taken = _id_of(connection, item)
    if taken == item.item_id:
        return item
    if taken is not None:
        raise DuplicatePart(item.kind, item.name)
    connection.execute(PARTS.insert().values(**_row(item, spec, now)))
    if item.stock:
        _move(connection, f"{item.item_id}/first", str(item.item_id), item.stock, now, reason)
    return item


def put_items(
    connection: Connection,
    rows: Sequence[Prepared],
    now: str,
    reason: str,
    on_progress: Callable[[int], bool] = lambda done: True,
) -> None:
    """Store many parts (see `prepared`), each over the one of its kind and name, in the caller's
    transaction.

    Raises:
        Cancelled: `on_progress` said so.
    """
    known = {
        (kind, name): uid
        for uid, kind, name in connection.execute(select(PARTS.c.uid, PARTS.c.kind, PARTS.c.name))
    }
    levels = _levels(connection)
    for start in range(0, len(rows), ROWS_BETWEEN_REPORTS):
        if not on_progress(start):
            raise Cancelled
        chunk = rows[start : start + ROWS_BETWEEN_REPORTS]
        _put_chunk(connection, chunk, known, levels, now, reason)


def prepared(item: Item) -> Prepared:
    """Return a part with its figures as they are stored, for `put_items`.

    Raises:
        StoreRefused: they do not meet the definition of their kind.
    """
    return item, encoded_item(item)


def _put_chunk(
    connection: Connection,
    rows: Iterable[Prepared],
    known: dict[tuple[str, str], str],
    levels: dict[str, float],
    now: str,
    reason: str,
) -> None:
    new, changed, moves = [], [], []
    for item, spec in rows:
        uid = known.get((item.kind, item.name))
        if uid is None:
            uid = known[(item.kind, item.name)] = item.item_id or new_id()
            new.append(_row(msgspec.structs.replace(item, item_id=uid), spec, now))
        else:
            changed.append(
                {"u": uid, "s": spec, "l": item.low_at, "r": int(item.retired), "n": now}
            )
        rest = item.stock - levels.get(uid, 0.0)
        if rest:
            levels[uid] = item.stock
            moves.append(
                {"uid": new_id(), "part_uid": uid, "at": now, "amount": rest, "reason": reason}
            )
    if new:
        connection.execute(PARTS.insert(), new)
    if changed:
        connection.execute(
            text(
                "UPDATE parts SET spec = :s, low_at = :l, retired = :r, changed_at = :n WHERE uid = :u"
            ),
            changed,
        )
    if moves:
        connection.execute(MOVEMENTS.insert(), moves)


def _row(item: Item, spec: str, now: str) -> JsonObject:
    return {
        "uid": item.item_id,
        "kind": item.kind,
        "name": item.name,
        "spec": spec,
        "low_at": item.low_at,
        "retired": int(item.retired),
        "changed_at": now,
    }


def _levels(connection: Connection) -> dict[str, float]:
    rows = connection.execute(text("SELECT part_uid, SUM(amount) FROM movements GROUP BY part_uid"))
    return {row[0]: row[1] for row in rows}


def _one(connection: Connection, item_id: str) -> Item:
    row = connection.execute(
        text(f"SELECT {PART_COLUMNS} FROM parts WHERE uid = :uid"), {"uid": item_id}
    ).first()
    result = item_of(row) if row is not None else None
    if not isinstance(result, Item):
        raise StoreRefused(tr("This part is no longer on the shelf; add it again."))
    return result


def _id_of(connection: Connection, item: Item) -> str | None:
    result: str | None = connection.execute(
        select(PARTS.c.uid).where(PARTS.c.kind == item.kind, PARTS.c.name == item.name)
    ).scalar_one_or_none()
    return result


def _move(
    connection: Connection,
    uid: str,
    part_uid: str,
    amount: float,
    now: str,
    reason: str,
    job_id: str | None = None,
    wheel_id: str | None = None,
    stage: str | None = None,
) -> None:
    """Record a movement once: one of the same identity is a retry."""
    known = connection.execute(select(MOVEMENTS.c.id).where(MOVEMENTS.c.uid == uid)).first()
    if known is None and amount:
        connection.execute(
            MOVEMENTS.insert().values(
                uid=uid,
                part_uid=part_uid,
                at=now,
                amount=amount,
                reason=reason,
                job_uid=job_id,
                wheel_id=wheel_id,
                stage=stage,
            )
        )
