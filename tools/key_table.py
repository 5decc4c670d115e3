"""Write the table of keys into the manual, between its marks. Run: .venv/bin/python tools/key_table.py"""

from __future__ import annotations

import re
from pathlib import Path

from inner_rim.desktop.commands.table import key_table

PAGE = Path(__file__).parents[1] / "docs" / "manual" / "keys.md"


def main() -> None:
    """Replace what stands between the marks."""
    text = PAGE.read_text(encoding="utf-8")
    marked = re.sub(
        r"(<!-- keys -->\n).*?(<!-- end of keys -->)",
        lambda result: f"{result[1]}{key_table()}\n{result[2]}",
        text,
        flags=re.DOTALL,
    )
    PAGE.write_text(marked, encoding="utf-8")


if __name__ == "__main__":
    main()
