"""Parts and their stock in the database. Stock changes only with a movement that says why."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec
from sqlalchemy import Connection, func, select, update

from inner_rim.core.parts import Item

from .errors import DuplicatePart
from .rows import item_of
from .tables import MOVEMENTS, PARTS

if TYPE_CHECKING:
    from .repository import Repository

_ENCODER = msgspec.json.Encoder()
_COLUMNS = (PARTS.c.id, PARTS.c.kind, PARTS.c.spec, PARTS.c.stock, PARTS.c.low_at, PARTS.c.retired)
ROWS_BETWEEN_LOOKS = 100


class Use(NamedTuple):
    """What a stage of a wheel takes from the shelf."""

    item_id: int
    amount: float


class ShelfStore:
    """The one way to the stored parts; the repository's transactions hold them."""

    def __init__(self, repository: Repository) -> None:
        self._repository = repository

    def all(self) -> tuple[Item, ...]:
        """Return every part, by kind and name."""
        with self._repository.reading() as connection:
            found = connection.execute(select(*_COLUMNS).order_by(PARTS.c.kind, PARTS.c.name))
            return tuple(item_of(row) for row in found)

    def put(self, item: Item, now: str, reason: str) -> Item:
        """Store a new or a changed part and return it with its number.

        Raises:
            DuplicatePart: another part of its kind has its name.
        """
        with self._repository.writing() as connection:
            taken = self._id_of(connection, item)
            if taken is not None and taken != item.item_id:
                raise DuplicatePart(item.kind, item.name)
            return self._write(connection, item, item.item_id, now, reason)

    def put_many(
        self,
        items: Sequence[Item],
        now: str,
        reason: str,
        told: Callable[[int], bool] = lambda done: True,
    ) -> int:
        """Store many parts, each over the one of its kind and name: all or nothing.

        Args:
            items: the parts.
            now: the time.
            reason: for the movements of stock.
            told: hears how many are done; False takes all of it back.

        Returns:
            How many were stored; 0 where `told` stopped it.
        """
        try:
            with self._repository.writing() as connection:
                known = {
                    (kind, name): number
                    for number, kind, name in connection.execute(
                        select(PARTS.c.id, PARTS.c.kind, PARTS.c.name)
                    )
                }
                for done, item in enumerate(items):
                    if done % ROWS_BETWEEN_LOOKS == 0 and not told(done):
                        raise _Stopped
                    self._write(connection, item, known.get((item.kind, item.name)), now, reason)
        except _Stopped:
            return 0
        return len(items)

    def book_out(self, uses: Iterable[Use], now: str, job_id: int, wheel: int, stage: str) -> None:
        """Take what a stage used off the shelf; never below nothing: the shelf then held less than it said."""
        with self._repository.writing() as connection:
            for use in uses:
                on_hand = connection.execute(
                    select(PARTS.c.stock).where(PARTS.c.id == use.item_id)
                ).scalar_one_or_none()
                taken = min(use.amount, on_hand or 0.0)
                if taken > 0.0:
                    self._move(connection, use.item_id, -taken, now, "used", job_id, wheel, stage)

    def give_back(self, now: str, job_id: int, wheel: int, stages: Iterable[str]) -> None:
        """Put back what these stages of a wheel took, when they are taken up again."""
        with self._repository.writing() as connection:
            took = connection.execute(
                select(MOVEMENTS.c.part_id, MOVEMENTS.c.stage, func.sum(MOVEMENTS.c.amount))
                .where(
                    MOVEMENTS.c.job_id == job_id,
                    MOVEMENTS.c.wheel == wheel,
                    MOVEMENTS.c.stage.in_(tuple(stages)),
                )
                .group_by(MOVEMENTS.c.part_id, MOVEMENTS.c.stage)
            ).all()
            for part_id, stage, amount in took:
                if amount < 0.0:
                    self._move(connection, part_id, -amount, now, "taken up again", job_id, wheel, stage)

    @staticmethod
    def _move(
        connection: Connection,
        part_id: int,
        amount: float,
        now: str,
        reason: str,
        job_id: int | None = None,
        wheel: int | None = None,
        stage: str | None = None,
    ) -> None:
        connection.execute(
            update(PARTS).where(PARTS.c.id == part_id).values(stock=PARTS.c.stock + amount, changed_at=now)
        )
        _note_movement(connection, part_id, amount, now, reason, job_id, wheel, stage)

    @staticmethod
    def _id_of(connection: Connection, item: Item) -> int | None:
        return connection.execute(
            select(PARTS.c.id).where(PARTS.c.kind == item.kind, PARTS.c.name == item.name)
        ).scalar_one_or_none()

    def _write(self, connection: Connection, item: Item, number: int | None, now: str, reason: str) -> Item:
        values: dict[str, Any] = {
            "kind": item.kind,
            "name": item.name,
            "spec": _ENCODER.encode(item.spec).decode(),
            "stock": item.stock,
            "low_at": item.low_at,
            "retired": int(item.retired),
            "changed_at": now,
        }
        before = 0.0
        if number is None:
            key = connection.execute(PARTS.insert().values(**values)).inserted_primary_key
            assert key is not None  # one row
            number = int(key[0])
        else:
            before = connection.execute(select(PARTS.c.stock).where(PARTS.c.id == number)).scalar_one()
            connection.execute(update(PARTS).where(PARTS.c.id == number).values(**values))
        if item.stock != before:
            _note_movement(connection, number, item.stock - before, now, reason)
        return msgspec.structs.replace(item, item_id=number)


class _Stopped(Exception):
    """The import was cancelled: the transaction is taken back."""


def _note_movement(
    connection: Connection,
    part_id: int,
    amount: float,
    now: str,
    reason: str,
    job_id: int | None = None,
    wheel: int | None = None,
    stage: str | None = None,
) -> None:
    connection.execute(
        MOVEMENTS.insert().values(
            part_id=part_id, at=now, amount=amount, reason=reason, job_id=job_id, wheel=wheel, stage=stage
        )
    )
