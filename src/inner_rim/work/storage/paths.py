"""Where the program keeps its files; one environment variable puts all of it under one folder."""

from __future__ import annotations

import os
from pathlib import Path

HOME_VARIABLE = "INNER_RIM_HOME"
DATABASE_VARIABLE = "INNER_RIM_DATABASE"


def data_folder() -> Path:
    """Return the folder of the user's data: $INNER_RIM_HOME, or the platform's place."""
    home = os.environ.get(HOME_VARIABLE)
    if home:
        return Path(home)
    from platformdirs import user_data_path

    return user_data_path("inner-rim", appauthor=False)


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
