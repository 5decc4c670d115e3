"""README, docs, pictures and set-up say what is so."""

import re
import struct
import subprocess
from pathlib import Path

from inner_rim.core.record.spoken import STAGE_WORDS, STAGES

ROOT = Path(__file__).parents[1]
README = (ROOT / "README.md").read_text(encoding="utf-8")


def test_every_picture_is_current_size_and_linked():
    pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 5 <= len(pictures) < 20
    for picture in pictures:
        width, height = struct.unpack(">II", picture.read_bytes()[16:24])
        assert (width, height) == (1280, 800)
        assert f"docs/screenshots/{picture.name}" in README
    for page in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *ROOT.glob("docs/**/*.md")):
        for linked in re.findall(r"\]\(([^)#:]+)\)", page.read_text(encoding="utf-8")):
            assert (page.parent / linked).exists(), (page.name, linked)


def test_the_readme_is_five_minutes_with_six_pictures_and_the_manual_has_a_page_for_each_stage():
    assert len(README.split()) <= 5 * 230 and len(re.findall(r"^!\[", README, re.M)) == 6
    index = (ROOT / "docs" / "manual" / "README.md").read_text(encoding="utf-8")
    pages = re.findall(r"\]\(([a-z-]+)\.md\)", index)
    assert pages[: len(STAGES)] == [
        STAGE_WORDS[stage].lower().replace(" ", "-") for stage in STAGES
    ]
    assert {page.stem for page in (ROOT / "docs" / "manual").glob("*.md")} == {*pages, "README"}


def test_make_help_lists_every_target_of_the_readme():
    listed = subprocess.run(
        ["make", "help"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout
    for target in re.findall(r"(?:`|^ {4})make ([a-z]+)", README, re.M):
        assert re.search(rf"^{target}\b", listed, re.M), target


def test_the_nomenclature_knows_the_plan_s_names():
    from inner_rim.core.models import pressure, sealant, tape, tire, valve

    text = (ROOT / "docs" / "nomenclature.md").read_text(encoding="utf-8")
    for kind, names in (
        (
            tire.MountedTire,
            ("mounted_width_mm", "section_height_mm", "outer_radius_mm", "width_ratio"),
        ),
        (tape.TapePick, ("developed_width_mm", "edge_gap_mm")),
        (valve.ValvePick, ("needed_mm",)),
        (sealant.SealantPick, ("dose_ml", "dip_mm")),
        (
            pressure.PressurePick,
            ("limit_kpa", "limit_from", "seating_kpa", "settle_kpa", "start_kpa", "set_here_kpa"),
        ),
    ):
        for name in names:
            assert name in kind.__struct_fields__ and f"`{name}`" in text


def test_the_font_s_licence_lies_beside_the_font():
    fonts = ROOT / "src" / "inner_rim" / "assets" / "fonts"
    assert "SIL OPEN FONT LICENSE" in (fonts / "Inter-LICENSE.txt").read_text(encoding="utf-8")
    assert {p.suffix for p in fonts.iterdir()} == {".ttf", ".txt"}


def test_versions_are_pinned_in_a_plain_constraints_file():
    pins = (ROOT / "constraints.txt").read_text(encoding="utf-8").splitlines()
    assert all(re.fullmatch(r"[A-Za-z0-9_.-]+==[\w.]+", pin) for pin in pins)
    wanted = re.findall(
        r'^  "([A-Za-z0-9_-]+)', (ROOT / "pyproject.toml").read_text(encoding="utf-8"), re.M
    )
    pinned = {pin.split("==")[0].lower().replace("_", "-") for pin in pins}
    assert {
        name.lower() for name in wanted if name[0] not in "i(" and name != "inner_rim"
    } <= pinned


def test_the_picture_of_the_house_is_the_code_s_and_no_arrow_leads_up():
    from tools import house

    assert (ROOT / "docs" / "house.svg").read_text(encoding="utf-8") == house.drawing(), (
        "run tools/house.py"
    )
    at = house.places()
    assert [(here, there) for here, there in house.arrows() if at[here][1] > at[there][1]] == []


def test_every_file_that_the_docs_name_is_there():
    for page in (*(ROOT / "docs").glob("*.md"), ROOT / "CONTRIBUTING.md"):
        for name in re.findall(
            r"`((?:core|work|desktop|store|documents|devices|tools|docs|tests)/[\w/]+\.\w+)`",
            page.read_text(encoding="utf-8"),
        ):
            base = (
                ROOT if name.startswith(("tools", "docs", "tests")) else ROOT / "src" / "inner_rim"
            )
            parts = (base / name, base / name.rpartition(".")[0], (base / name).with_suffix(".py"))
            assert (
                any(path.exists() for path in parts)
                or (base / (name.rpartition(".")[0] + ".py")).exists()
            ), (page.name, name)


def test_a_job_file_that_is_exported_is_the_one_that_a_double_click_opens():
    from inner_rim.work.text.papers import JOB_ENDING, WAYS

    packaging = ROOT / "packaging"
    assert (
        f'pattern="*{JOB_ENDING}"' in (packaging / "inner-rim.xml").read_text()
        and WAYS["job"][0] == JOB_ENDING
    )
    entry = (packaging / "inner-rim.desktop").read_text()
    assert (
        "Exec=inner-rim open %f" in entry and "MimeType=application/x-inner-rim-job+json;" in entry
    )
