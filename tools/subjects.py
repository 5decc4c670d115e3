"""Check the subjects of new commits: imperative mood, at most 72 characters, no period.

Run: .venv/bin/python tools/subjects.py; ends with 1 where one is wrong, and does nothing outside a git clone.
"""

from __future__ import annotations

import re
import subprocess
import sys

#: Commits before this are left as they are.
SINCE = "2026-11-29T22:00:00+00:00"
MOST = 72
#: A first word that is a past form, a gerund or a third person; and imperatives that look like one.
OTHER_MOOD = re.compile(r"\w+(ed|ing|[^su]s)$")
IMPERATIVES = frozenset({"Bring", "Embed", "Feed", "Need", "Shed", "Speed", "String"})


def faults(subject: str) -> list[str]:
    """Return what is wrong with a subject.

    >>> faults("Wrap long names on the board"), faults("Fixed the board."), faults("Adds a row")
    ([], ['“Fixed” is not imperative', 'ends with a period'], ['“Adds” is not imperative'])
    """
    first = subject.split(" ")[0]
    result = []
    if len(subject) > MOST:
        result.append(f"{len(subject)} characters, at most {MOST}")
    if not first[:1].isupper() or (OTHER_MOOD.fullmatch(first) and first not in IMPERATIVES):
        result.append(f"“{first}” is not imperative")
    if subject.endswith("."):
        result.append("ends with a period")
    return result


def main() -> int:
    """Print what is wrong; return 1 where something is."""
    command = ["git", "log", f"--since={SINCE}", "--no-merges", "--format=%s"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    wrong = [(subject, faults(subject)) for subject in done.stdout.splitlines()]
    for subject, result in wrong:
        if result:
            print(f"{subject}: {', '.join(result)}", file=sys.stderr)
    return int(any(result for _subject, result in wrong))


if __name__ == "__main__":
    sys.exit(main())
