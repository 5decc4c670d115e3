"""Expected faults of storage, each with a sentence for the user.

They are told apart by SQLite's result codes (https://sqlite.org/rescode.html), PostgreSQL's
SQLSTATE classes (PostgreSQL manual, appendix A) and SQLAlchemy's error classes, never by the words
of a message.
"""

from __future__ import annotations

import sqlite3

from inner_rim.core.record.texts import in_a_sentence
from inner_rim.words import N_, tr


class StoreError(Exception):
    """Storage could not do what was asked; `sentence` says it to the user.

    `passing` is True where trying again later may help, so that the work is kept in memory.
    """

    passing = False

    def __init__(self, sentence: str) -> None:
        self.sentence = in_a_sentence(sentence)
        super().__init__(self.sentence)


class StoreLocked(StoreError):
    """Another program holds the database."""

    passing = True


class StoreReadOnly(StoreError):
    """The database or its folder cannot be written."""

    passing = True


class StoreFull(StoreError):
    """The disk is full, or does not take the data."""

    passing = True


class StoreUnreachable(StoreError):
    """The database cannot be opened at all."""

    passing = True


class StoreDamaged(StoreError):
    """The file is not sound any more."""


class StoreForeign(StoreError):
    """The file is not one of this program's databases."""


class StoreNewer(StoreError):
    """The database was made by a newer version of the program."""


class StoreMisnamed(StoreError):
    """The database URL cannot be used."""


class StoreReplaced(StoreError):
    """The data were restored from a backup since they were opened; nothing was stored."""


class StoreMoved(StoreError):
    """The file that is open is not the one at its path any more: it was moved, deleted or replaced.

    Attributes:
        there: whether another file is there now.
    """

    passing = True

    def __init__(self, there: bool) -> None:
        super().__init__(tr(FILE_REPLACED if there else FILE_GONE))
        self.there = there


class StoreRefused(StoreError):
    """What was to be stored does not meet its definition; nothing was stored."""


class StoreFailed(StoreError):
    """An unexpected fault: a bug. `trace` is its traceback, for the log file."""

    def __init__(self, sentence: str, trace: str = "") -> None:
        super().__init__(sentence)
        self.trace = trace


class DuplicatePart(StoreError):
    """A part of that kind and name is already on the shelf."""

    def __init__(self, kind: str, name: str) -> None:
        super().__init__(
            tr(
                "“{name}” is already on the shelf ({kind}); change that one, or use another name."
            ).format(name=name, kind=tr(kind))
        )


class JobKnown(StoreError):
    """A job to be imported is in the data already."""

    def __init__(self, title: str) -> None:
        super().__init__(
            tr(
                "“{title}” is already in the data; nothing was imported. Use --replace to replace it."
            ).format(title=title)
        )


SENTENCES: dict[type[StoreError], str] = {
    StoreLocked: N_(
        "The data file is in use by another program. Your work is kept here and stored as soon as the file is free."
    ),
    StoreReadOnly: N_(
        "The data cannot be written: file or medium is read-only. Your work is kept here; free the file or export your work."
    ),
    StoreFull: N_(
        "The disk is full or does not accept the data. Your work is kept here; make room or export your work."
    ),
    StoreUnreachable: N_(
        "The data cannot be opened. Your work is kept here; check the folder's permissions, or export your work."
    ),
    StoreDamaged: N_("The data file is damaged. It was left as it is."),
    StoreForeign: N_("The data file is not a database of this program. It was left as it is."),
    StoreReplaced: N_("The data were restored from a backup in another window."),
    StoreRefused: N_("The database refused the entry; nothing of it was stored."),
}
FILE_GONE = N_(
    "The data file was moved or deleted while it was open. Nothing is stored until you choose; everything is kept here."
)
FILE_REPLACED = N_(
    "Another file was put in the place of the data file while it was open. Nothing is stored until you choose; everything is kept here."
)
SERVER_GONE = N_(
    "The shop's database does not answer, or refuses the sign-in. Your work is kept here and stored as soon as it answers."
)
SERVER_FULL = N_(
    "The shop's database has no room. Your work is kept here; make room on the server or export your work."
)

#: SQLite's primary result codes.
_SQLITE: dict[int, type[StoreError]] = {
    sqlite3.SQLITE_PERM: StoreReadOnly,
    sqlite3.SQLITE_BUSY: StoreLocked,
    sqlite3.SQLITE_LOCKED: StoreLocked,
    sqlite3.SQLITE_READONLY: StoreReadOnly,
    sqlite3.SQLITE_IOERR: StoreFull,
    sqlite3.SQLITE_CORRUPT: StoreDamaged,
    sqlite3.SQLITE_FULL: StoreFull,
    sqlite3.SQLITE_CANTOPEN: StoreUnreachable,
    sqlite3.SQLITE_PROTOCOL: StoreLocked,
    sqlite3.SQLITE_CONSTRAINT: StoreRefused,
    sqlite3.SQLITE_TOOBIG: StoreRefused,
    sqlite3.SQLITE_NOTADB: StoreForeign,
}
#: SQLSTATE classes; more than two characters where a whole class would be too much.
_SQLSTATE: tuple[tuple[str, type[StoreError], str], ...] = (
    ("53100", StoreFull, SERVER_FULL),
    ("25006", StoreReadOnly, SENTENCES[StoreReadOnly]),
    ("08", StoreUnreachable, SERVER_GONE),
    ("28", StoreUnreachable, SERVER_GONE),
    ("3D", StoreUnreachable, SERVER_GONE),
    ("53", StoreUnreachable, SERVER_GONE),
    ("57", StoreUnreachable, SERVER_GONE),
    ("58", StoreFull, SERVER_FULL),
    ("40", StoreLocked, SENTENCES[StoreLocked]),
    ("55", StoreLocked, SENTENCES[StoreLocked]),
    ("42501", StoreReadOnly, SENTENCES[StoreReadOnly]),
    ("22", StoreRefused, SENTENCES[StoreRefused]),
    ("23", StoreRefused, SENTENCES[StoreRefused]),
    ("XX001", StoreDamaged, SENTENCES[StoreDamaged]),
    ("XX002", StoreDamaged, SENTENCES[StoreDamaged]),
)


def sqlite_code(fault: BaseException) -> int | None:
    code = getattr(getattr(fault, "orig", None) or fault, "sqlite_errorcode", None)
    return code & 0xFF if isinstance(code, int) else None


#: What SQLite's driver raises; a sentence of SQLite's own that repeats damaged bytes cannot be
#: decoded.
SQLITE_FAULTS = (sqlite3.Error, UnicodeDecodeError)


def translated(fault: Exception) -> StoreError | None:
    """Return the fault of the database driver as an expected fault, or None where it is a bug."""
    if isinstance(fault, UnicodeDecodeError):
        return StoreDamaged(tr(SENTENCES[StoreDamaged]))
    code = sqlite_code(fault)
    if code is not None:
        kind = _SQLITE.get(code)
        return kind(tr(SENTENCES[kind])) if kind is not None else None
    original = getattr(fault, "orig", None) or fault
    if isinstance(original, sqlite3.Error):
        return None
    if getattr(fault, "connection_invalidated", False):
        return StoreUnreachable(tr(SERVER_GONE))
    state = getattr(original, "sqlstate", None)
    if state is None:
        return StoreUnreachable(tr(SERVER_GONE)) if _is_operational(original) else None
    for start, kind, sentence in _SQLSTATE:
        if state.startswith(start):
            return kind(tr(sentence))
    return None


def _is_operational(fault: BaseException) -> bool:
    """Whether a driver calls its fault one of operation (PEP 249), as for a connection that is
    refused.
    """
    return any(
        kind.__name__ in ("OperationalError", "InterfaceError") for kind in type(fault).__mro__
    )


def failed(fault: BaseException) -> StoreFailed:
    import traceback

    return StoreFailed(
        tr("Unexpected error ({kind}).").format(kind=type(fault).__name__),
        "".join(traceback.format_exception(fault)),
    )
