"""Files that ship with the program: fonts and themes."""

from pathlib import Path

FOLDER = Path(__file__).parent
FONTS = FOLDER / "fonts"
THEMES = FOLDER / "themes"
