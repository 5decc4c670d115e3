"""Text that a user reads, in the user's language, by the standard library's gettext.

A catalog is ``locale/LANG/LC_MESSAGES/inner_rim.po`` beside this file; the set-up compiles it.
Without one the English of the source is shown. The decimal mark is the locale's, or the language's
where the system lacks that locale.
"""

from __future__ import annotations

import gettext
import locale
import os
import re
import string
from collections.abc import Sequence
from pathlib import Path
from typing import Any

FOLDER = Path(__file__).with_name("locale")
#: Decimal marks of the languages there is a catalog for, where they are not a point.
_MARKS = {"de": ","}
#: Territories that print on Letter (Unicode CLDR, supplemental data: paper size US-Letter).
_LETTER = frozenset(
    ["BZ", "CA", "CL", "CO", "CR", "GT", "MX", "NI", "PA", "PH", "PR", "SV", "US", "VE"]
)


def environment(category: str) -> str:
    """Return what the environment names as the locale of a category such as LC_PAPER; the first
    that is set counts.
    """
    return next(
        (value for name in ("LC_ALL", category, "LANG") if (value := os.environ.get(name))), "C"
    )


def prints_on_letter() -> bool:
    """Whether papers are Letter here; else they are A4."""
    return environment("LC_PAPER").partition(".")[0].partition("_")[2] in _LETTER


def in_united_states() -> bool:
    """Whether measures are those of the United States here."""
    return environment("LC_MEASUREMENT").partition(".")[0].endswith("_US")


def _mark_of(language: str) -> str:
    kept = locale.setlocale(locale.LC_NUMERIC)
    try:
        locale.setlocale(locale.LC_NUMERIC, "")
        mark = str(locale.localeconv()["decimal_point"])
    except locale.Error:  # named, but not installed
        return _MARKS.get(language, ".")
    finally:
        locale.setlocale(locale.LC_NUMERIC, kept)
    if environment("LC_NUMERIC") in ("C", "C.UTF-8", "POSIX"):
        return _MARKS.get(language, ".")
    return "," if mark == "," else "."  # no other is read back from a field


class _Formatter(string.Formatter):
    def format_field(self, value: Any, format_spec: str) -> str:
        text: str = super().format_field(value, format_spec)
        return with_mark(text) if isinstance(value, float) else text


#: A placeholder that formats a figure itself; every other value comes as text that has its mark
#: already.
_FIGURE = re.compile(r"\{\w*:")


class _Template(str):
    """A text with such placeholders, whose figures get the locale's decimal mark; what it formats
    is a plain string.
    """

    __slots__ = ()

    def format(self, *args: object, **values: object) -> str:
        return _Formatter().vformat(self, args, values)


class Language:
    """A catalog and what goes with it.

    Args:
        languages: in order of preference; None for what the environment names.
    """

    def __init__(self, languages: Sequence[str] | None = None) -> None:
        self._catalog = gettext.translation("inner_rim", str(FOLDER), languages, fallback=True)
        self.code = self._catalog.info().get("language", "en")
        self.mark = _mark_of(self.code)

    def gettext(self, text: str) -> str:
        result = self._catalog.gettext(text)
        return _Template(result) if self.mark != "." and _FIGURE.search(result) else result


_language = Language()


def language() -> str:
    """Return the code of the language that texts are shown in, such as ``en``."""
    return _language.code


def tr(text: str) -> str:
    """Return `text` in the user's language, or unchanged where there is no translation."""
    return _language.gettext(text) if text else text


def N_(text: str) -> str:
    """Mark a text of a table for the catalog; `tr` translates it where it is shown."""
    return text


def with_mark(figure: str) -> str:
    """Return a figure with the locale's decimal mark."""
    return figure if _language.mark == "." else figure.replace(".", _language.mark)


def sentence_case(text: str) -> str:
    """Return a text with its first letter in upper case.

    >>> sentence_case("rim width, ISO")
    'Rim width, ISO'
    """
    return text[:1].upper() + text[1:]


def inside_sentence(text: str) -> str:
    """Return a title as it is written inside a sentence: in lower case, except where nouns are
    capitalized.
    """
    return text.lower() if language() == "en" else text
