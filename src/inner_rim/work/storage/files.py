"""Where files are, and how they are written whole or not at all, and read with a sentence where
they cannot be.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from pathlib import Path

from inner_rim.core.record.errors import InputError
from inner_rim.words import tr


def write_whole(path: Path, data: bytes) -> None:
    """Write a file so that it is there whole or not at all.

    The data go to a new file of a name nobody else uses, in the same folder, which then takes the
    place of `path`; a symbolic link there is replaced, not followed.

    Raises:
        InputError: the folder or the file cannot be written.
    """
    partial = path.with_name(f".inner-rim-{os.urandom(8).hex()}.partial")
    try:
        handle = os.open(partial, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(path)
    except (OSError, ValueError) as fault:
        with contextlib.suppress(OSError):
            partial.unlink(missing_ok=True)
        why = fault.strerror if isinstance(fault, OSError) else tr("the name cannot be used")
        raise InputError(
            tr("{file} cannot be written: {why}. Choose another folder.").format(
                file=path.name, why=why
            )
        ) from fault


def write_saying(path: Path, make: Callable[[], bytes | None], say: Callable[[str], None]) -> bool:
    """Write a file whole and say what became of it; return whether it was written."""
    try:
        data = make()
        if data is None:
            say(tr("Stopped: nothing was written"))
            return False
        write_whole(path, data)
    except InputError as fault:
        say(fault.sentence)
        return False
    say(tr("Written: {file}").format(file=path.name))
    return True


def log_fault(folder: Path, trace: str) -> Path | None:
    """Append the traceback of an unexpected fault to the log file; return the file, None where it
    cannot be written.
    """
    file = folder / "faults.log"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with file.open("a", encoding="utf-8", errors="backslashreplace") as log:
            log.write(trace + "\n")
    except OSError:
        return None
    return file


def read_whole(path: Path, max_bytes: int) -> bytes:
    """Return a file's bytes; of a device or a pipe too; never more than `max_bytes` are read.

    Raises:
        InputError: it cannot be read, or is larger.
    """
    try:
        with path.open("rb") as file:
            data = file.read(max_bytes + 1)
            size = max(os.fstat(file.fileno()).st_size, len(data))
    except (OSError, ValueError) as fault:
        why = fault.strerror if isinstance(fault, OSError) else tr("the name cannot be used")
        raise InputError(
            tr("{file} cannot be read: {why}").format(file=path.name, why=why)
        ) from fault
    if len(data) > max_bytes:
        raise InputError(
            tr("the file has {size} bytes: at most {most}").format(
                size=size
                if size > max_bytes + 1
                else tr("more than {most}").format(most=max_bytes),
                most=max_bytes,
            )
        )
    return data


HOME_VARIABLE = "INNER_RIM_HOME"
DATABASE_VARIABLE = "INNER_RIM_DATABASE"


def data_folder() -> Path:
    """Return the folder of the user's data: $INNER_RIM_HOME, or the platform's place."""
    home = os.environ.get(HOME_VARIABLE)
    if home:
        return Path(home)
    from platformdirs import user_data_path

    return user_data_path("inner-rim", appauthor=False)


def folder_typed(text: str) -> Path:
    """Return the folder that somebody typed, ``~`` read as the home folder.

    Raises:
        InputError: there is no such user, or no folder can have that name.
    """
    try:
        folder = Path(text).expanduser()
        os.fsencode(folder)
    except (RuntimeError, ValueError):
        folder = None
    if folder is None or "\0" in text:
        raise InputError(
            tr("“{typed}” is no folder: type its whole path, such as /media/drive.").format(
                typed=text[:60]
            )
        )
    return folder


def database_file(folder: Path) -> Path:
    return folder / "inner-rim.sqlite"


def settings_file(folder: Path) -> Path:
    return folder / "bench.json"


def database_url() -> str | None:
    """Return the shop's own database URL ($INNER_RIM_DATABASE), None for the local file."""
    return os.environ.get(DATABASE_VARIABLE) or None


def documents_folder() -> Path:
    """Return the folder in which files are offered: the user's documents, else the home folder."""
    from platformdirs import user_documents_path

    folder = user_documents_path()
    return folder if folder.is_dir() else Path.home()
