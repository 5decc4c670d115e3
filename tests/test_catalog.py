"""Texts that few wheels bring into view; every other test looks its own up (conftest, texts_are_in_the_catalog).

And the catalogs of other languages, and what else follows the locale.
"""

import ast
import io
import re
from collections import Counter
from datetime import datetime

import pytest
from babel.messages.pofile import read_po
from pypdf import PdfReader

from inner_rim.core.procedure.questions import QUESTIONS
from inner_rim.core.progress.diagnosis import ENDS, PATH
from inner_rim.core.record import job, practice
from inner_rim.core.record.line_entry import read_due, read_line
from inner_rim.core.record.moments import in_words
from inner_rim.core.record.spoken import spoken
from inner_rim.core.record.units import entry_text, local_units, parse, show
from inner_rim.core.record.why import Message
from inner_rim.desktop.commands.table import COMMANDS
from inner_rim.documents.printed_page import build, style, words
from inner_rim.words import FOLDER, Language, tr
from inner_rim.work.editing.fields import fields_of
from inner_rim.work.text.hours_words import week_of, week_text
from inner_rim.work.text.stage_fields import field_label


def test_every_choice_question_and_command_is_in_the_catalog(catalog):
    parts = (job.Rim, job.Tire, job.Insert, job.Arrival, job.Practice)
    choices = [choice for part in parts for spec in fields_of(part) for choice in spec.choices]
    assert len(choices) > 40
    for part in (*parts, job.Ride, job.OldSealant):
        for spec in fields_of(part):
            field_label(spec.path)
    for choice in choices:
        spoken(choice)
    for question in practice.QUESTIONS:
        for method in question.methods:
            spoken(method)
    for text in (
        *(text for q in QUESTIONS.values() for text in (q.name, q.words, q.stop)),
        *(q.words for q in PATH.values()),
        *ENDS.values(),
        *(command.title for command in COMMANDS),
    ):
        tr(text)
    assert len(catalog) > 2000


def test_messages_and_faults_are_sentences_that_a_translator_sees():
    """Of a `Message` a literal is collected; a fault's sentence goes through `tr`; neither may be put together."""
    english = []
    for file in FOLDER.parent.rglob("*.py"):
        tree = ast.parse(file.read_text("utf-8"))
        for function in (node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)):
            given = {a.targets[0].id: a.value for a in ast.walk(function) if isinstance(a, ast.Assign)
                     and isinstance(a.targets[0], ast.Name)}  # fmt: skip
            for call in (
                node for node in ast.walk(function) if isinstance(node, ast.Call) and node.args
            ):
                name, first = ast.unparse(call.func), call.args[0]
                text = given.get(first.id, first) if isinstance(first, ast.Name) else first
                marked = name == "Message" and text is first
                if name in ("Message", "InputError", "SizeAmbiguous", "Refused") and not marked:
                    words = [
                        part.value for part in ast.walk(text) if isinstance(part, ast.Constant)
                    ]
                    if isinstance(text, ast.Constant | ast.JoinedStr) and re.search(
                        "[a-z]{3}", " ".join(map(str, words))
                    ):
                        english.append((file.name, call.lineno))
    assert english == []


def test_a_table_of_words_marks_them_all():
    """One that is not marked is shown in English, and only where it comes into view."""
    unmarked = []
    for file in FOLDER.parent.rglob("*.py"):
        for table in (
            node
            for node in ast.walk(ast.parse(file.read_text("utf-8")))
            if isinstance(node, ast.Dict)
        ):
            if any(
                isinstance(value, ast.Call) and ast.unparse(value.func) == "N_"
                for value in table.values
            ):
                plain = (value.value for value in table.values if isinstance(value, ast.Constant))
                # a sign is no word
                unmarked += [text for text in plain if re.search(r"[^\W\d]", str(text))]
    assert unmarked == []


@pytest.mark.parametrize(
    "file", sorted(FOLDER.glob("*/LC_MESSAGES/*.po")), ids=lambda file: file.parents[1].name
)
def test_a_language_has_no_gap_and_keeps_every_placeholder(file, catalog):
    texts = {
        message.id: message.string
        for message in read_po(io.BytesIO(file.read_bytes()))
        if message.id
    }
    assert set(texts) == catalog  # else: make texts, and translate what came in
    compiled = Language([file.parents[1].name])
    for text, translated in texts.items():
        # else: the set-up compiles
        assert translated and compiled.gettext(text) == translated, text
        assert Counter(re.findall(r"\{[^}]*\}", translated)) == Counter(
            re.findall(r"\{[^}]*\}", text)
        ), text
        for edge in (lambda s: s[:1] == " ", lambda s: s[-1:] == " ", lambda s: s[-1:] == "…"):
            assert edge(translated) == edge(text), text
        assert Counter(re.findall(r"Ctrl\+\w+|F\d\b|\bEsc\b", translated)) == Counter(
            re.findall(r"Ctrl\+\w+|F\d\b|\bEsc\b", text)
        ), text
        assert len(translated) <= 1.9 * len(text) + 24, text


def test_figures_days_and_what_is_typed_are_german(german):
    assert (
        show(216.0, "kpa") == "2,16 bar"
        and entry_text(340.0, "kpa") == "3,4"
        and parse("2,3", "kpa") == 230.0
    )
    assert tr("{loss:.1f} % a day").format(loss=1.25) == "1,2 % am Tag"
    # they are stored and sent as JSON
    assert type(tr("front")) is str and type(tr("{n} parts").format(n=2)) is str
    assert (
        Message("Pump to {step_kpa}. Stop. Check both sides", {"step_kpa": 215.0})
        .read()
        .startswith("Auf 2,15 bar")
    )
    now = datetime(2026, 11, 25, 9)
    assert in_words(datetime(2026, 12, 3, 16), "%a %d %b %H:%M") == "Do 03. Dez 16:00"
    assert (
        read_due("Do 03. Dez 16:00", now) == "2026-12-03T16:00"
        and read_due("morgen 9 Uhr", now) == "2026-11-26T09:00"
    )
    assert (
        read_due("Mo 30. Nov", now) == "2026-11-30T17:00"
        and read_due("24.12. mittags", now) == "2026-12-24T12:00"
    )
    typed, shown = (
        "Mo-Fr 8-12, Samstag 9-13, frei 2026-12-24",
        "Mo-Fr 8:00-12:00, Sa 9:00-13:00, frei 2026-12-24",
    )
    assert week_text(week_of(typed)) == shown == week_text(week_of(typed.replace("frei", "off")))


@pytest.mark.parametrize(
    ("line", "fields", "left"),
    [
        (
            "45-622 auf 24 mit Haken, max 3,4, 98 kg, Do 16:00",
            {
                "tire.size": "45-622",
                "rim.internal_width_mm": "24",
                "rim.hook": "hooked",
                "tire.max_pressure_kpa": "3,4",
                "ride.total_mass_kg": "98 kg",
                "due": "2026-11-26T16:00",
            },
            "",
        ),
        (
            "50-584 auf 27 hakenlos, Felge max 2,9 bar, Fahrer 82, vorn, Kunde M Schilf",
            {
                "tire.size": "50-584",
                "rim.internal_width_mm": "27",
                "rim.hook": "straight_side",
                "rim.max_pressure_kpa": "2,9 bar",
                "ride.total_mass_kg": "82",
                "position": "front",
                "customer": "M Schilf",
            },
            "",
        ),
        (
            "„Möwe alt“ 37-622, undicht am Ventil, platt, ohne Haken, Schotter, blau",
            {
                "name": "Möwe alt",
                "tire.size": "37-622",
                "work.kind": "repair",
                "work.leak": "valve",
                "arrival.air": "no",
                "rim.hook": "straight_side",
                "ride.use": "mixed",
            },
            "blau",
        ),
        ("45-622 on 24 hookless, Thu 16:00", {"tire.size": "45-622", "rim.internal_width_mm": "24",
         "rim.hook": "straight_side", "due": "2026-11-26T16:00"}, ""),
    ],
)  # fmt: skip
def test_a_line_is_read_in_german_and_in_the_english_of_the_trade(german, line, fields, left):
    result = read_line(line, datetime(2026, 11, 25, 9))
    assert {one.path: one.text for one in result.understood} == fields and result.left == left


def test_decimal_mark_paper_and_units_follow_the_locale(monkeypatch):
    def size(**environment):
        for name in ("LC_ALL", "LC_PAPER", "LC_MEASUREMENT", "LANG"):
            monkeypatch.delenv(name, raising=False)
        for name, value in environment.items():
            monkeypatch.setenv(name, value)
        page = PdfReader(io.BytesIO(build([words("x", style(9))], "x"))).pages[0].mediabox
        return round(page.width * 25.4 / 72), round(page.height * 25.4 / 72), local_units().kpa

    # sizes: ISO 216 A4; ANSI/ASME Y14.1 size A (Letter)
    assert size(LANG="de_DE.UTF-8") == (210, 297, "bar") and size() == (210, 297, "bar")
    assert size(LANG="en_US.UTF-8") == (216, 279, "psi")
    assert size(LANG="en_US.UTF-8", LC_PAPER="en_GB.UTF-8", LC_MEASUREMENT="en_GB.UTF-8") == (
        210,
        297,
        "bar",
    )
    assert size(LANG="de_DE.UTF-8", LC_ALL="es_MX.UTF-8") == (216, 279, "bar")
