"""Text that can be stored (no NUL, no half characters) and text that can be shown (nothing
invisible).
"""

import re

REPLACEMENT = "\N{REPLACEMENT CHARACTER}"
#: Characters that have no width, join their neighbors, or change the reading direction: two names
#: that look alike would differ, or one read as another.
_UNSEEN = re.compile("[\u00ad\u061c\u180e\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]")
#: How much of what was entered a sentence repeats.
MAX_SHOWN = 800


def is_clean(text: str) -> bool:
    """Whether a text can be stored and read back.

    >>> is_clean("Curlew, 27.5″"), is_clean("cut \\ud83d"), is_clean("a\\0b")
    (True, False, False)
    """
    return "\0" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def printable(text: str) -> str:
    """Return a text for a terminal: control characters, which could steer it, as a visible mark,
    and nothing unseen.

    >>> printable("a\\x1b[2Jb\\n") == "a" + REPLACEMENT + "[2Jb\\n"
    True
    """
    return re.sub(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff]", REPLACEMENT, seen(text))


def in_a_sentence(text: str) -> str:
    """Return a sentence that may repeat what somebody entered: one line, printable, and not too
    long.

    >>> in_a_sentence("a\\n b"), len(in_a_sentence("x" * 5000))
    ('a b', 800)
    """
    flat = " ".join(printable(text[: 4 * MAX_SHOWN]).split())
    return flat if len(flat) <= MAX_SHOWN else flat[: MAX_SHOWN - 1] + "…"


def seen(text: str) -> str:
    """Return a text without invisible characters.

    >>> seen("Tern\\u200b \\u202erear")
    'Tern rear'
    """
    return _UNSEEN.sub("", text)


def with_bytes_shown(text: str) -> str:
    """Return stored text whose bytes were no UTF-8, and stand as surrogates, with these written
    out.

    >>> with_bytes_shown("a\\udcff")
    'a\\\\xff'
    """
    return text.encode("utf-8", "surrogateescape").decode("utf-8", "backslashreplace")


def cleaned(text: str) -> str:
    """Return a text with what cannot be stored replaced by a visible mark, and without what cannot
    be seen.

    A paste may cut an emoji in half and leave a lone surrogate; NUL ends a text in C libraries and
    in PostgreSQL.

    >>> cleaned("cut \\ud83d") == "cut " + REPLACEMENT
    True
    """
    text = seen(text)
    if is_clean(text):
        return text
    whole = text.encode("utf-16-le", "surrogatepass").decode("utf-16-le", "replace")
    return whole.replace("\0", REPLACEMENT)
