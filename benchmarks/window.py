"""A letter and an Enter, from the key to what is painted, as ratios to a bare PyQt6 form of the same run.

Run: QT_QPA_PLATFORM=offscreen .venv/bin/python benchmarks/window.py
To reach: a letter 1.3 times the bare form's at the median and 2 times at 95 %; an Enter 2.2 and 3.5 times.
"""

from __future__ import annotations

import statistics
import time

from bare import Form
from demo import opened
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from inner_rim.desktop.app import Session
from inner_rim.desktop.commands import keyboard

#: Ratios to reach: median, 95 %.
LETTER, ENTER = (1.3, 2.0), (2.2, 3.5)


def main() -> None:
    """Type widths into the demo's first wheel and into the form, by turns, then take wheels through their work."""
    keyboard.BOUNCE_MS = 0  # dry hands
    app = QApplication([])
    with opened(app) as session:
        form = Form()
        form.show()
        session.bench.settings.set_own(pace="step")
        wheel(session, "Dune")
        bare_letters, letters, bare_enters = list[float](), list[float](), list[float]()
        for _ in range(6):
            activate(app, form)
            form.fields[0].setFocus()
            bare_letters += typed(app, 10)
            bare_enters += [pressed(app) for _ in range(20)]
            activate(app, session.window)
            session.window.run("go_to_field", "rim.internal_width_mm")
            letters += typed(app, 10)
        say("letter", letters, bare_letters, LETTER)
        say("Enter", entered(app, session), bare_enters, ENTER)
        form.close()


def say(name: str, times: list[float], bare: list[float], most: tuple[float, float]) -> None:
    """Print median and 95 % of some times, and their ratios to those of the bare form."""
    parts = []
    for words, bound, of in (("median", most[0], statistics.median), ("95 %", most[1], late)):
        parts.append(
            f"{words} {of(times):.1f} ms = {of(times) / of(bare):.2f} x bare (at most {bound})"
        )
    print(f"{name}: {', '.join(parts)}, {len(times)} times")


def late(times: list[float]) -> float:
    return statistics.quantiles(times, n=100)[94]


def activate(app: QApplication, window: QWidget) -> None:
    window.activateWindow()
    while app.activeWindow() is not window.window():
        app.processEvents()


def pressed(app: QApplication) -> float:
    """Return how long an Enter takes where the focus is, painted, ms."""
    started = time.perf_counter()
    QTest.keyClick(app.focusWidget(), Qt.Key.Key_Return)
    app.processEvents()
    return 1000.0 * (time.perf_counter() - started)


def wheel(session: Session, name: str) -> None:
    """Select a wheel of the demo."""
    session.bench.select(next(one.key for one in session.bench.wheels if one.name.startswith(name)))


def entered(app: QApplication, session: Session) -> list[float]:
    """Return how long each Enter took that confirmed a step, ms; wheels are taken through their work and back."""
    window, times = session.window, []
    for name in ("Dune", "Warden", "Sandpiper 2 · rear") * 4:
        wheel(session, name)
        for _ in range(24):
            app.processEvents()
            now = window.page.now
            first = now.answers[0]
            if not first.enter or first.command not in ("step_done", "stage_done", "finish"):
                if not window.run(first.command if first.command != "read_gauge" else "did_not"):
                    break
                continue
            now.focus_main()
            app.processEvents()
            times.append(pressed(app))
        for _ in range(24):
            window.run("undo")
    return times


def typed(app: QApplication, widths: int) -> list[float]:
    """Return how long each letter took, ms."""
    entry = app.focusWidget()
    times = []
    for n in range(widths):
        entry.selectAll()
        for letter in f"7{n % 6}.{n % 10}":
            started = time.perf_counter()
            QTest.keyClick(entry, letter)
            app.processEvents()
            times.append(1000.0 * (time.perf_counter() - started))
    return times


if __name__ == "__main__":
    main()
