"""Compile the catalogs of translated texts; with `update`, first bring them up to date with the source.

New texts come in untranslated, and those that are gone go. Translate in src/inner_rim/locale/LANG/LC_MESSAGES/inner_rim.po.

Run: .venv/bin/python tools/texts.py [update]
"""

from __future__ import annotations

import io
import json
import sys
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.extract import extract_from_dir
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

SOURCE = Path(__file__).parents[1] / "src" / "inner_rim"
KEYWORDS = {"tr": None, "N_": None, "Message": None}


def extracted() -> Catalog:
    """Return every text of the source, as a translator gets them."""
    result = Catalog()
    for file, _line, text, _comments, _context in extract_from_dir(
        SOURCE, [("**.py", "python")], keywords=KEYWORDS
    ):
        result.add(text, locations=[(file, 1)])
    for file in sorted(SOURCE.glob("training/*.json")):
        scenario = json.loads(file.read_text())
        for text in (scenario["title"], scenario["story"]):
            result.add(text, locations=[(f"training/{file.name}", 1)])
    return result


def main(update: bool) -> None:
    """Compile every catalog."""
    for file in SOURCE.glob("locale/*/LC_MESSAGES/*.po"):
        catalog = read_po(io.BytesIO(file.read_bytes()), locale=file.parents[1].name)
        if update:
            catalog.update(extracted(), no_fuzzy_matching=True)
            catalog.obsolete.clear()
            for message in catalog:
                message.flags.discard("python-format")  # "90 % of" is none
            with file.open("wb") as out:
                write_po(
                    out,
                    catalog,
                    width=120,
                    sort_by_file=True,
                    include_lineno=False,
                    omit_header=False,
                )
        with file.with_suffix(".mo").open("wb") as out:
            write_mo(out, catalog)


if __name__ == "__main__":
    main("update" in sys.argv[1:])
