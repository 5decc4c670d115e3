"""Write the table of keys into the README, between its marks. Run: .venv/bin/python tools/readme_keys.py"""

from __future__ import annotations

import re
from pathlib import Path

from inner_rim.desktop.commands.table import readme_table

README = Path(__file__).parents[1] / "README.md"


def main() -> None:
    """Replace what stands between the marks."""
    text = README.read_text(encoding="utf-8")
    marked = re.sub(
        r"(<!-- keys -->\n).*?(<!-- end of keys -->)",
        lambda result: f"{result[1]}{readme_table()}\n{result[2]}",
        text,
        flags=re.DOTALL,
    )
    README.write_text(marked, encoding="utf-8")


if __name__ == "__main__":
    main()
