"""Write what the commands of a package that is tried are given: a job, a gauge's trace, readings of a leak test, a day.

Run: .venv/bin/python tools/package_inputs.py FOLDER
"""

from __future__ import annotations

import json
import math
import sys
from pathlib import Path

from inner_rim.work.storage.demo import FOLDER

DAY = {
    "format": "inner-rim/day",
    "version": 1,
    "start": "2026-11-25T08:00:00",
    "wheels": [
        {
            "name": name,
            "tasks": [
                {"words": "Seat", "minutes": 20, "wait_minutes": 60},
                {"words": "Leak test", "minutes": 4},
            ],
        }
        for name in ("Tern", "Curlew", "Dune")
    ],
}


def main() -> int:
    """Write the files."""
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "try-job.json").write_bytes((FOLDER / "01-sandpiper-2.json").read_bytes())
    rise = [
        (n / 20.0, 330.0 * (1.0 - math.exp(-n / 120.0)) - (9.0 if n > 110 else 0.0))
        for n in range(400)
    ]
    lines = "".join(f"{at:.2f},{kpa:.1f}\n" for at, kpa in rise)
    (folder / "try-trace.csv").write_text("time_s,pressure_kpa\n" + lines, encoding="utf-8")
    held = "time_h,pressure_kpa,temperature_c\n0,300,20\n1,299.5,20\n14,297,18\n"
    (folder / "try-hold.csv").write_text(held, encoding="utf-8")
    (folder / "try-day.json").write_text(json.dumps(DAY), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
