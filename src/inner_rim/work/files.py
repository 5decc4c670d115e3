"""Files written whole or not at all, and read with a sentence where they cannot be."""

from pathlib import Path

from inner_rim.core.errors import InputError
from inner_rim.words import tr


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that it is there whole or not at all.

    Raises:
        InputError: the folder or the file cannot be written.
    """
    partial = path.with_name(path.name + ".partial")
    try:
        partial.write_bytes(data)
        partial.replace(path)
    except OSError as fault:
        partial.unlink(missing_ok=True)
        raise InputError(
            tr("{file} cannot be written: {why}. Choose another folder.").format(
                file=path.name, why=fault.strerror
            )
        ) from fault


def read_whole(path: Path) -> bytes:
    """Return a file's bytes.

    Raises:
        InputError: it cannot be read.
    """
    try:
        return path.read_bytes()
    except OSError as fault:
        raise InputError(
            tr("{file} cannot be read: {why}").format(file=path.name, why=fault.strerror)
        ) from fault
