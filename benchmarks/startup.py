"""Start-up of the program as ratios to a bare PyQt6 window, and memory of the running demo.

Run: .venv/bin/python benchmarks/startup.py [runs]
Figures to reach: first paint at most 2.2, first wheel usable at most 4, memory at most 98 MB.
"""

from __future__ import annotations

import os
import re
import statistics
import subprocess
import sys
import time

BARE = """
import sys, time
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication([])
window = QWidget()
window.resize(1280, 800)
window.show()
QTimer.singleShot(0, app.quit)
app.exec()
"""
DEMO = [sys.executable, "-m", "inner_rim.cli", "--demo", "--smoke-start"]
PRINTED = re.compile(r"first paint (\d+) ms, first wheel usable (\d+) ms")


def seconds(command: list[str]) -> tuple[float, str]:
    """Return the wall time of a process and what it printed."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    started = time.perf_counter()
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=True)
    return time.perf_counter() - started, done.stdout


def main(runs: int) -> None:
    """Measure bare window and program by turns, and print medians and ratios."""
    bare, first, usable = [], [], []
    seconds(DEMO)
    seconds([sys.executable, "-c", BARE])
    for _ in range(runs):
        bare.append(seconds([sys.executable, "-c", BARE])[0])
        whole, text = seconds(DEMO)
        match = PRINTED.search(text)
        assert match, text
        outside = whole - float(match[2]) / 1000.0  # interpreter before, exit after
        usable.append(whole)
        first.append(outside + float(match[1]) / 1000.0)
    base = statistics.median(bare)
    print(f"bare PyQt6 window      {1000 * base:6.0f} ms")
    for name, values, most in (("first paint", first, 2.2), ("first wheel usable", usable, 4.0)):
        value = statistics.median(values)
        print(f"{name:22} {1000 * value:6.0f} ms = {value / base:.2f} x bare (at most {most})")
    print(f"memory of the demo     {memory_mb():6.0f} MB (at most 98)")


def memory_mb() -> float:
    """Return the resident memory of the running demo after everything is loaded."""
    import psutil

    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    process = subprocess.Popen([sys.executable, "-m", "inner_rim.cli", "--demo"], env=env)
    try:
        most = 0.0
        deadline = time.monotonic() + 5.0
        while time.monotonic() < deadline:
            most = max(most, psutil.Process(process.pid).memory_info().rss / 1e6)
            time.sleep(0.2)
        return most
    finally:
        process.terminate()
        process.wait()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 9)
