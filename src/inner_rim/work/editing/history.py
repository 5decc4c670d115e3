"""Undo and redo: one's own operations in reverse, field by field."""

from collections.abc import Callable, Sequence

import msgspec

from inner_rim.core.record.operations import Conflict, Operation, SetDraft, SetField, Typed, apply, inverse
from inner_rim.core.record.plain import JsonObject

MOST_UNDO = 500


class History:
    """What one bench has done to a job: groups of operations, each one step of undo."""

    def __init__(self) -> None:
        self._past: list[tuple[Operation, ...]] = []
        self._future: list[tuple[Operation, ...]] = []
        self._field: str | None = None

    def push(self, operations: Sequence[Operation], field: str | None) -> None:
        """Remember operations; those of the field that is still being typed into join its step.

        Args:
            operations: what was done.
            field: the field that is typed into, None for a step of its own.
        """
        self._future.clear()
        if field is not None and field == self._field and self._past:
            joined = _joined((*self._past.pop(), *operations))
            if joined:
                self._past.append(joined)
        else:
            self._past = [*self._past[-MOST_UNDO + 1 :], tuple(operations)]
        self._field = field

    def end_of_typing(self) -> None:
        """The next edit is a step of its own."""
        self._field = None

    def back(
        self, document: JsonObject, drafts: dict[str, Typed], has_log: Callable[[str], bool]
    ) -> tuple[list[Operation], tuple[Conflict, ...]] | None:
        """Return the operations that undo the last step, and what of it was changed by someone else since.

        None where there is nothing to undo.
        """
        return self._step(self._past, self._future, document, drafts, has_log, reverse=True)

    def forward(
        self, document: JsonObject, drafts: dict[str, Typed]
    ) -> tuple[list[Operation], tuple[Conflict, ...]] | None:
        """Return the operations that do the last undone step again; None where there is none."""
        return self._step(self._future, self._past, document, drafts, lambda wheel: False, reverse=False)

    def _step(
        self,
        source: list[tuple[Operation, ...]],
        target: list[tuple[Operation, ...]],
        document: JsonObject,
        drafts: dict[str, Typed],
        has_log: Callable[[str], bool],
        *,
        reverse: bool,
    ) -> tuple[list[Operation], tuple[Conflict, ...]] | None:
        self._field = None
        if not source:
            return None
        group = source.pop()
        wanted = [inverse(operation) for operation in reversed(group)] if reverse else list(group)
        conflicts = apply(document, drafts, wanted, has_log).conflicts
        barred = [conflict.operation for conflict in conflicts]
        possible = [operation for operation in wanted if operation not in barred]
        if possible:
            target.append(tuple(inverse(o) for o in reversed(possible)) if reverse else tuple(possible))
        return possible, conflicts


def _joined(operations: Sequence[Operation]) -> tuple[Operation, ...]:
    """Return operations on the same fields as one each: from the first base to the last value."""
    fields: dict[tuple[type, str, str], SetField | SetDraft] = {}
    others: list[Operation] = []
    for operation in operations:
        if isinstance(operation, SetField | SetDraft):
            key = (type(operation), operation.target, operation.path)
            first = fields.get(key)
            base = first.base if first is not None else operation.base
            fields[key] = msgspec.structs.replace(operation, base=base)
        else:
            others.append(operation)
    return (*others, *(o for o in fields.values() if o.value != o.base))
