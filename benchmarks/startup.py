"""Start-up of the program and its memory as ratios to a bare PyQt6 window of the same run.

Run: .venv/bin/python benchmarks/startup.py [runs]
Figures to reach: first paint at most 2.1, first wheel usable at most 3.8, memory at most 2.3.
Times are from the start of the process to what it says; how long it takes to end is left out.
"""

from __future__ import annotations

import os
import re
import statistics
import subprocess
import sys
import time

BARE = """
import sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication([])
window = QWidget()
window.resize(1280, 800)
window.show()
def painted():
    print("painted", flush=True)
    app.quit()
QTimer.singleShot(0, painted if "stay" not in sys.argv else lambda: None)
app.exec()
"""
CLI = [sys.executable, "-m", "inner_rim.cli", "--demo"]
PRINTED = re.compile(r"first paint (\d+) ms, first wheel usable (\d+) ms")
ENV = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}


def said(command: list[str]) -> tuple[float, str]:
    """Return when a process said its first line, s from its start, and the line."""
    started = time.perf_counter()
    with subprocess.Popen(command, env=ENV, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        line = process.stdout.readline()
        return time.perf_counter() - started, line


def main(runs: int) -> None:
    """Measure bare window and program by turns, and print medians and ratios."""
    bare, first, usable = [], [], []
    for number in range(runs + 1):
        plain = said([sys.executable, "-c", BARE])[0]
        at, line = said([*CLI, "--smoke-start"])
        match = PRINTED.search(line)
        assert match, line
        if number:  # the first is cold
            bare.append(plain)
            usable.append(at)
            first.append(at - (float(match[2]) - float(match[1])) / 1000.0)
    base = statistics.median(bare)
    print(f"bare PyQt6 window      {1000 * base:6.0f} ms")
    for name, values, most in (("first paint", first, 2.1), ("first wheel usable", usable, 3.8)):
        value = statistics.median(values)
        print(f"{name:22} {1000 * value:6.0f} ms = {value / base:.2f} x bare (at most {most})")
    window, demo = memory_mb([sys.executable, "-c", BARE, "stay"]), memory_mb(CLI)
    print(f"memory of the demo     {demo:6.0f} MB = {demo / window:.2f} x bare (at most 2.3)")


def memory_mb(command: list[str]) -> float:
    """Return the most resident memory of a process in its first five seconds."""
    import psutil

    process = subprocess.Popen(command, env=ENV)
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
