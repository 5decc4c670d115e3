"""Open the data: the local file or the shop's database, and a first look at it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from inner_rim.store.glance import glance, kept_setting
from inner_rim.words import tr

if TYPE_CHECKING:
    from inner_rim.store.repository import Repository
    from inner_rim.store.rows import BenchState


class Source(NamedTuple):
    """Where a window's data come from.

    Attributes:
        first: a first look, None where there is none without the repository.
        open_store: opens the repository; called in the keeper's thread.
    """

    first: BenchState | None
    open_store: Callable[[], Repository]


def own_source(file: Path, url: str | None) -> Source:
    """Return the user's own data: the local file, or the shop's database where a URL names it."""
    return Source(first_look(file) if url is None else None, opener(file, url))


def first_look(file: Path) -> BenchState | None:
    """Return the bench of a local file at once, or None where it needs the repository."""
    return glance(file)


def kept_theme(file: Path) -> object:
    """Return the theme setting of a local file before anything else is read."""
    return kept_setting(file, "theme")


def opener(file: Path, url: str | None = None) -> Callable[[], Repository]:
    """Return what opens the repository; called in the keeper's thread.

    Args:
        file: the local database.
        url: a SQLAlchemy URL to use in its place.
    """

    def open_repository() -> Repository:
        from inner_rim.store.errors import StoreReadOnly
        from inner_rim.store.repository import Repository, sqlite_url

        if url is not None:
            return Repository(url)
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise StoreReadOnly(
                tr("The data folder cannot be made ({why}); your work is kept here.").format(
                    why=fault.strerror
                )
            ) from fault
        return Repository(sqlite_url(file))

    return open_repository
