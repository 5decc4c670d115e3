"""Expected faults of storage, each with a sentence for the user."""

from __future__ import annotations

from inner_rim.words import tr


class StoreError(Exception):
    """Storage could not do what was asked; `sentence` says it to the user.

    `passing` is True where trying again later may help, so that the work is kept in memory.
    """

    passing = False

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


class StoreLocked(StoreError):
    """Another program holds the database."""

    passing = True


class StoreReadOnly(StoreError):
    """The database or its folder cannot be written."""

    passing = True


class StoreFull(StoreError):
    """The disk is full."""

    passing = True


class StoreDamaged(StoreError):
    """The file is not a sound database."""


class StoreNewer(StoreError):
    """The database was made by a newer version of the program."""


class StoreUnreachable(StoreError):
    """The database cannot be opened at all."""

    passing = True


class ChangedElsewhere(StoreError):
    """A job was changed by another window since it was read here."""

    def __init__(self, job_id: int) -> None:
        super().__init__(tr("This wheel was changed in another window."))
        self.job_id = job_id


class DuplicatePart(StoreError):
    """A part of that kind and name is on the shelf already."""

    def __init__(self, kind: str, name: str) -> None:
        super().__init__(
            tr("“{name}” is on the shelf already ({kind}); change that one, or take another name.").format(
                name=name, kind=tr(kind)
            )
        )


_SIGNS: tuple[tuple[str, type[StoreError], str], ...] = (
    (
        "locked",
        StoreLocked,
        "The data file is in use by another program; your work is kept here and stored as soon as it is free.",
    ),
    (
        "readonly",
        StoreReadOnly,
        "The data file cannot be written; your work is kept here. Free the file or export your work.",
    ),
    (
        "read-only",
        StoreReadOnly,
        "The data file cannot be written; your work is kept here. Free the file or export your work.",
    ),
    ("disk is full", StoreFull, "The disk is full; your work is kept here. Make room or export your work."),
    (
        "disk i/o",
        StoreFull,
        "The disk does not take the data; your work is kept here. Look at the disk or export your work.",
    ),
    (
        "malformed",
        StoreDamaged,
        "The data file is damaged. It was left as it is; restore a copy from the backup folder beside it.",
    ),
    (
        "not a database",
        StoreDamaged,
        "The data file is not a database of this program. It was left as it is; restore a copy from the backup folder beside it.",
    ),
    (
        "unable to open",
        StoreUnreachable,
        "The data file cannot be opened; your work is kept here. Look at the folder's permissions or export your work.",
    ),
)


def translated(fault: Exception) -> StoreError | None:
    """Return the fault of the database driver as an expected fault, or None where it is a bug."""
    text = str(getattr(fault, "orig", None) or fault).lower()
    for sign, kind, sentence in _SIGNS:
        if sign in text:
            return kind(tr(sentence))
    return None
