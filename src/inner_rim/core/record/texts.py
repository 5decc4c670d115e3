"""Text that can be stored: no NUL, no half of a character."""

import re

REPLACEMENT = "\N{REPLACEMENT CHARACTER}"


def is_clean(text: str) -> bool:
    """Whether a text can be stored and read back.

    >>> is_clean("Curlew, 27.5″"), is_clean("cut \\ud83d"), is_clean("a\\0b")
    (True, False, False)
    """
    return "\0" not in text and not any("\ud800" <= c <= "\udfff" for c in text)


def printable(text: str) -> str:
    """Return a text for a terminal: control characters, which could steer it, as a visible mark.

    >>> printable("a\\x1b[2Jb\\n") == "a" + REPLACEMENT + "[2Jb\\n"
    True
    """
    return re.sub(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff]", REPLACEMENT, text)


def cleaned(text: str) -> str:
    """Return a text with what cannot be stored replaced by a visible mark.

    A paste may cut an emoji in half and leave a lone surrogate; NUL ends a text in C libraries and in
    PostgreSQL.

    >>> cleaned("cut \\ud83d") == "cut " + REPLACEMENT
    True
    """
    if is_clean(text):
        return text
    whole = text.encode("utf-16-le", "surrogatepass").decode("utf-16-le", "replace")
    return whole.replace("\0", REPLACEMENT)
