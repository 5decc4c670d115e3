"""What a wheel can be written out as, and the code that its papers carry; light, for the way to the
first paint.
"""

from inner_rim.core.record.paths import is_id
from inner_rim.words import N_

QR_PREFIX = "INNER-RIM"
#: A job file ends so, and a double-click on it opens this program; the same stands in
#: packaging/inner-rim.xml.
JOB_ENDING = ".rimjob.json"
#: What a wheel can be written out as: ending of the file, words, and what makes it.
WAYS: dict[str, tuple[str, str]] = {
    "card": (".pdf", N_("Bench card (PDF)")),
    "sheet": (".pdf", N_("Customer sheet (PDF)")),
    "label": (".pdf", N_("Wheel label (PDF)")),
    "calendar": (".ics", N_("Days for the calendar (ICS)")),
    "job": (JOB_ENDING, N_("Job and log (JSON)")),
    "log": (".csv", N_("Log (CSV)")),
}

#: What of it goes straight to a printer.
PRINTED = {
    "card": N_("Print the bench card"),
    "sheet": N_("Print the customer sheet"),
    "label": N_("Print the wheel label"),
}


def code_of(text: str) -> str | None:
    """Return the wheel that a scanned code names by its identity, None where it is no code.

    >>> code_of("inner-rim/7F3C-01"), code_of("Sandpiper")
    ('7F3C-01', None)
    """
    prefix, _slash, code = text.strip()[:100].partition("/")
    return code if prefix.upper() == QR_PREFIX and is_id(code) else None
