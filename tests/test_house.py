import ast
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


def contract(folder):
    return subprocess.run(
        [sys.executable, "-c", "from importlinter.cli import lint_imports; raise SystemExit(lint_imports())"],
        cwd=folder, capture_output=True, text=True, env={"PYTHONPATH": str(folder / "src"), "PATH": ""},
    )  # fmt: skip


@pytest.mark.parametrize(
    ("file", "line"),
    [
        ("core/models/tape.py", "from inner_rim.store import rows"),
        ("core/models/tape.py", "from inner_rim.core.plan import wheel_plan"),
        ("core/record/units.py", "from PyQt6 import QtCore"),
        ("documents/printed_page.py", "from inner_rim.desktop.widgets import theme"),
        ("work/text/card.py", "from inner_rim.desktop.widgets import theme"),
        ("work/text/lines.py", "from inner_rim.work import bench"),
        ("work/storage/paths.py", "from inner_rim.work.tasks import export"),
        ("desktop/drawings/ring.py", "import sqlite3"),
        ("desktop/drawings/ring.py", "from inner_rim.desktop.bench import page"),
        ("desktop/stray.py", "from inner_rim.desktop.bench import page"),
    ],
)
def test_the_import_contract_bites(tmp_path, file, line):
    import shutil

    shutil.copytree(
        ROOT / "src" / "inner_rim",
        tmp_path / "src" / "inner_rim",
        ignore=shutil.ignore_patterns("__pycache__"),
    )
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    broken = tmp_path / "src" / "inner_rim" / file
    with broken.open("a", encoding="utf-8") as end:
        end.write(f"\n{line}\n")
    done = contract(tmp_path)
    assert done.returncode == 1 and "BROKEN" in done.stdout


def test_nothing_heavy_is_imported_before_the_first_wheel_can_be_worked_on():
    code = """
import sys
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from inner_rim.desktop.app import Session
app = QApplication([])
session = Session(Path(sys.argv[1]), demo=True)
session.start_storing = app.quit
session.show()
app.exec()
assert session.window.page.now._figure.text(), "the first wheel's step is shown"
heavy = ("scipy", "sqlalchemy", "reportlab", "numpy", "argparse")
print([name for name in heavy if name in sys.modules])
"""
    done = subprocess.run(
        [sys.executable, "-c", code, "."],
        capture_output=True,
        text=True,
        env={"QT_QPA_PLATFORM": "offscreen"},
    )
    assert (done.stdout.strip(), done.returncode) == ("[]", 0), done.stderr


def test_the_repository_names_no_machine_and_no_registry():
    files = subprocess.run(
        ["git", "ls-files"], cwd=ROOT, capture_output=True, text=True
    ).stdout.split("\n")
    hosts = ("pypi" + ".org", "python" + "hosted", "npm" + "js", "/wo" + "rk/")
    for name in filter(None, files):
        if name.endswith((".ttf", ".png")) or not (ROOT / name).is_file():
            continue
        text = (ROOT / name).read_text(encoding="utf-8")
        assert not [host for host in hosts if host in text], name


def test_no_two_classes_have_one_name():
    where = {}
    for file in sorted((ROOT / "src" / "inner_rim").rglob("*.py")):
        for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ClassDef):
                where.setdefault(node.name.lstrip("_"), []).append(str(file.relative_to(ROOT)))
    assert {name: files for name, files in where.items() if len(files) > 1} == {}
