"""What was done at this bench, in order, so that the last of it can be taken back.

Every deed has an opposite, which is a deed too: taking back and doing again are the same act
(`undo`).
"""

import contextlib
from collections.abc import Iterator

import msgspec

from inner_rim.core.record.log import Logged
from inner_rim.core.record.operations import FieldKey, Operation, SetField, merged
from inner_rim.core.record.parts import Item

MAX_STEPS = 500


class FieldsEdited(msgspec.Struct, frozen=True):
    """Fields of a job were edited, wheels added or removed; `field` is the one that is typed into."""

    job_id: str
    operations: tuple[Operation, ...]
    field: FieldKey | None = None


class Recorded(msgspec.Struct, frozen=True):
    """Entries of a wheel's log were made."""

    job_id: str
    wheel_id: str
    entries: tuple[Logged, ...]


class Counted(msgspec.Struct, frozen=True):
    """The stock of a part was changed by an amount."""

    item_id: str
    by: float


class PartEdited(msgspec.Struct, frozen=True):
    item_id: str
    operations: tuple[SetField, ...]


class PartAdded(msgspec.Struct, frozen=True):
    item: Item


class Set(msgspec.Struct, frozen=True):
    """A setting of the shop was changed; `typing` while it is typed into."""

    name: str
    before: object
    after: object
    typing: bool = False


class Moved(msgspec.Struct, frozen=True):
    """A job was put on the bench, or taken off it; `selected` is the wheel that was selected
    before.
    """

    job_id: str
    name: str
    on: bool
    selected: tuple[str, str] | None = None


Deed = FieldsEdited | Recorded | Counted | PartEdited | PartAdded | Set | Moved


class UndoStep(msgspec.Struct, frozen=True):
    """What is taken back at once.

    Attributes:
        deeds: of one command, in their order.
        said: what they are called, where they are the opposites of other deeds.
    """

    deeds: tuple[Deed, ...]
    said: tuple[Deed, ...] = ()


class History:
    """The steps that can be taken back, and those that can be done again."""

    def __init__(self) -> None:
        self.past: list[UndoStep] = []
        self.future: list[UndoStep] = []
        self._typing = False
        self._group: list[Deed] | None = None
        self._silent = False

    def clear(self) -> None:
        """Forget everything: other data were loaded."""
        self.past, self.future = [], []

    def push(self, deed: Deed) -> None:
        """Record a deed; what is typed into one field joins its step."""
        if self._silent:
            return
        self.future.clear()
        if self._group is not None:
            self._group.append(deed)
            return
        before = self.past[-1].deeds[-1] if self.past and self._typing else None
        joined = _joined(before, deed) if before is not None else None
        if joined is None:
            self.past = [*self.past[-MAX_STEPS + 1 :], UndoStep((deed,))]
        else:
            self.past[-1:] = [UndoStep((joined,))] if _changes(joined) else []
        self._typing = (
            deed.typing
            if isinstance(deed, Set)
            else isinstance(deed, FieldsEdited) and bool(deed.field)
        )

    def end_of_typing(self) -> None:
        self._typing = False

    @contextlib.contextmanager
    def grouped(self) -> Iterator[None]:
        if self._group is not None or self._silent:
            yield
            return
        self._group = []
        try:
            yield
        finally:
            deeds, self._group = self._group, None
            if deeds:
                self._typing = False
                self.past = [*self.past[-MAX_STEPS + 1 :], UndoStep(tuple(deeds))]

    @contextlib.contextmanager
    def silent(self) -> Iterator[None]:
        """Record nothing inside: it is an undo or a redo."""
        self._silent, self._typing = True, False
        try:
            yield
        finally:
            self._silent = False


def _joined(before: Deed, deed: Deed) -> Deed | None:
    """Return two deeds as one, None where they are not of the same typing."""
    if isinstance(before, FieldsEdited) and isinstance(deed, FieldsEdited):
        if deed.field is None or (before.job_id, before.field) != (deed.job_id, deed.field):
            return None
        joined = merged((*before.operations, *deed.operations))
        return msgspec.structs.replace(before, operations=joined)
    if (
        isinstance(before, Set)
        and isinstance(deed, Set)
        and deed.typing
        and before.name == deed.name
    ):
        return msgspec.structs.replace(before, after=deed.after)
    return None


def _changes(deed: Deed) -> bool:
    if isinstance(deed, FieldsEdited):
        return bool(deed.operations)
    return not isinstance(deed, Set) or deed.before != deed.after
