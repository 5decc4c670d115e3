"""Papers are read back by other programs: PDF text by pypdf, QR by zxing, calendar by vobject."""

import io
import json
from datetime import UTC, datetime

import msgspec
import numpy as np
import pypdf
import pytest
import vobject

from inner_rim.core.record.units import UnitChoice
from inner_rim.documents.calendar_file import DueDate, to_ics
from inner_rim.documents.printed_page import label_pdf
from inner_rim.work.editing.state import planned
from inner_rim.work.storage.files import write_saying
from inner_rim.work.tasks import export
from inner_rim.work.text.papers import WAYS, code_of
from tests.desk import demo_on_bench

NOW = datetime(2026, 11, 25, 9, tzinfo=UTC)
BAR = UnitChoice()


@pytest.fixture(scope="module")
def bench():
    return demo_on_bench(NOW, shelf=False)


def wheel(bench, name):
    return next(state for state in bench.wheels if state.name.startswith(name))


def text_of(data):
    return " ".join(
        " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages).split()
    )


def test_the_bench_card_says_picks_limit_log_and_stops(bench):
    state = wheel(bench, "Kiosk")
    words = text_of(export.written_as("card", state, BAR, NOW))
    for said in (
        state.name,
        "2.50 bar, printed on the tire",
        "50-584",
        "29 mm",
        "60 ml",
        "signed M. Osier",
        "take precedence",
    ):
        assert said in words, said
    stopped = text_of(export.written_as("card", wheel(bench, "Tern"), BAR, NOW))
    assert "STOP" in stopped and "not approved for hookless rims" in stopped


def test_the_customer_s_sheet_names_pressures_limits_dates_and_what_to_do(bench):
    words = text_of(export.written_as("sheet", wheel(bench, "Kiosk"), BAR, NOW))
    for said in (
        "Ride at 2.40 bar",
        "Never above 2.50 bar",
        "Never below 1.20 bar",
        "Refresh the sealant",
        "burp",
        "fit a tube",
    ):
        assert said in words, said
    psi = text_of(export.written_as("sheet", wheel(bench, "Kiosk"), UnitChoice(kpa="psi"), NOW))
    assert "34.8 psi" in psi and "bar" not in psi.replace("flat bar", "")


def test_the_code_on_the_paper_brings_the_wheel_back(bench):
    import zxingcpp
    from PIL import Image, ImageDraw
    from segno import make

    state = wheel(bench, "Kiosk")
    code = export.wheel_code(state)
    assert code_of(code) == state.wheel_id.upper()
    rows = [list(row) for row in make(code, error="m", micro=False).matrix_iter(scale=8, border=4)]
    picture = Image.new("L", (len(rows), len(rows)), 255)
    draw = ImageDraw.Draw(picture)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            if dark:
                draw.point((x, y), 0)
    assert [result.text for result in zxingcpp.read_barcodes(picture)] == [code]


def test_the_calendar_is_read_by_a_second_parser(bench):
    data = export.written_as("calendar", wheel(bench, "Kiosk"), BAR, NOW)
    assert all(len(line) <= 75 for line in data.split(b"\r\n"))  # RFC 5545, 3.1
    events = vobject.readOne(data.decode()).vevent_list
    assert ["Refresh the sealant" in event.summary.value for event in events].count(True) == 1
    assert all(
        event.dtstart.value > NOW.date() and event.uid.value.endswith("@inner-rim")
        for event in events
    )
    awkward = DueDate("1-0-x", NOW.date(), "Rim; tire, “ä” \\ and\nmore" * 5, "note")
    again = vobject.readOne(to_ics([awkward], NOW).decode()).vevent
    assert again.summary.value == awkward.words and again.description.value == "note"


def test_job_and_log_come_as_json_and_csv_no_cell_a_formula(bench):
    state = wheel(bench, "Old Curlew")
    result = json.loads(export.written_as("job", state, BAR, NOW))
    assert len(result["log"]) == len(state.job.log) and result["job"] == state.job.draft.document
    table = export.written_as("log", state, BAR, NOW).decode("utf-8-sig").splitlines()
    assert len(table) == len(state.log) + 1 and table[0].startswith('"wheel","number","at","kind"')
    assert not any(cell.startswith(("=", "+", "@")) for row in table for cell in row.split('","'))


def test_every_way_has_a_name_and_many_cards_can_be_stopped(bench, tmp_path):
    state, said = wheel(bench, "Sandpiper"), []
    for way, (ending, _words) in WAYS.items():
        name = export.file_name(way, state)
        assert name.endswith(ending) and "/" not in name
        assert write_saying(
            tmp_path / name, lambda way=way: export.written_as(way, state, BAR, NOW), said.append
        )
        assert said[-1] == f"Written: {name}"
    assert export.cards_pdf(bench.wheels, BAR, lambda done: done < 3) is None
    pages = pypdf.PdfReader(io.BytesIO(export.cards_pdf(bench.wheels, BAR))).pages
    wheels = planned(bench.wheels)
    begun = [page for page in pages if "Bench card" in page.extract_text()]
    # front and back each; the log below the pictures
    assert len(begun) == len(wheels) and len(pages) <= 2 * len(wheels)


def test_a_card_is_a_front_and_a_back_with_pictures_and_nothing_of_a_long_log_is_lost():
    from inner_rim.documents.printed_page import Sheet, SheetRow, to_pdf
    from inner_rim.work.bench import Bench
    from tests.work.tasks.test_visits_and_diagnosis import check_in

    fresh = Bench()
    check_in(fresh)
    card = pypdf.PdfReader(io.BytesIO(export.written_as("card", fresh.current, BAR, NOW)))
    front, back = card.pages
    assert len(fresh.current.plan.steps) > 25 and "Readings" in front.extract_text()
    words = " ".join(back.extract_text().split())
    tape = fresh.current.plan.tape  # the acts, with this wheel's figures
    for said in (
        f"{tape.width_mm:.0f} mm ×",
        "second bead",
        "finish at the valve",
        "even",
        "cut here",
    ):
        assert said in words, said
    log = tuple(f"line {number} " * 20 for number in range(90))
    sheet = Sheet(
        "A very long name " * 12, "x", (SheetRow("n", "word " * 80),) * 14, (), (("Log", log),)
    )
    words = text_of(to_pdf([sheet]))
    assert all(f"line {number} " in words for number in range(90))


@pytest.mark.parametrize(
    "name",
    ["Tern", "Sandpiper 2 · rear", "The reserve's long-tail cargo bicycle with the blue bags, second wheel from the left · rear"],
)  # fmt: skip
def test_a_label_is_of_its_own_size_and_says_name_time_and_code_whole(bench, name, tmp_path):
    import zxingcpp
    from PyQt6.QtCore import QSize
    from PyQt6.QtPdf import QPdfDocument

    state = wheel(bench, "Sandpiper")
    data = label_pdf(msgspec.structs.replace(export.wheel_label(state), name=name))
    page = pypdf.PdfReader(io.BytesIO(data)).pages[0]
    assert [
        round(float(x) / 72 * 25.4, 1) for x in (page.mediabox.width, page.mediabox.height)
    ] == [62.0, 29.0]
    words = " ".join(page.extract_text().split())
    assert (
        name in words
        and "due Thu 26 Nov" in words
        and export.wheel_code(state) in words.replace(" ", "")
    )
    # printed at 300 dots for an inch, the code can still be read, by another library
    (tmp_path / "label.pdf").write_bytes(data)
    document = QPdfDocument(None)
    document.load(str(tmp_path / "label.pdf"))
    picture = document.render(0, QSize(732, 342))
    document.close()
    picture = picture.convertToFormat(picture.Format.Format_RGBA8888)
    raw = np.frombuffer(picture.constBits().asstring(picture.sizeInBytes()), np.uint8).reshape(
        342, 732, 4
    )
    gray = np.where(raw[..., 3] < 128, 255, raw[..., 0]).astype(np.uint8)
    assert [result.text for result in zxingcpp.read_barcodes(gray)] == [export.wheel_code(state)]
