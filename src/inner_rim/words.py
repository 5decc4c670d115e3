"""Text that a user reads, translated by the standard library's gettext.

A catalog lies in ``locale/LANG/LC_MESSAGES/inner_rim.mo`` beside this file; without one the
English of the source is shown.
"""

from __future__ import annotations

import gettext
from pathlib import Path

_CATALOGUE = gettext.translation("inner_rim", localedir=str(Path(__file__).with_name("locale")), fallback=True)


def tr(text: str) -> str:
    """Return `text` in the user's language, or unchanged where there is no translation."""
    return _CATALOGUE.gettext(text) if text else text


def N_(text: str) -> str:
    """Mark a text of a table for the catalog; `tr` translates it where it is shown."""
    return text
