"""What a wheel can be written out as, and the code that its papers carry; light, for the way to the first paint."""

QR_PREFIX = "INNER-RIM"
#: What a wheel can be written out as: ending of the file, words, and what makes it.
WAYS: dict[str, tuple[str, str]] = {
    "card": (".pdf", "Bench card (PDF)"),
    "sheet": (".pdf", "Sheet for the customer (PDF)"),
    "calendar": (".ics", "Days for the calendar (ICS)"),
    "job": (".json", "Job and log (JSON)"),
    "log": (".csv", "Log (CSV)"),
}


def code_of(text: str) -> tuple[int, int] | None:
    """Return (job id, wheel) of a scanned code, None where it is none.

    >>> code_of("INNER-RIM/12/1"), code_of("Sandpiper")
    ((12, 1), None)
    """
    parts = text.strip().split("/")
    if len(parts) != 3 or parts[0].upper() != QR_PREFIX or not (parts[1].isdigit() and parts[2].isdigit()):
        return None
    return int(parts[1]), int(parts[2])
