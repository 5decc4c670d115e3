"""The now panel: for every state of a wheel one action, its cautions, and answers that do what they say."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from inner_rim.core.record.log import Attempt, Finding, Reading, StepEntry
from inner_rim.desktop.bench.step_panel import words_of
from inner_rim.desktop.commands.table import BY_ID, COMMANDS, by_key
from inner_rim.work.bench import Bench, panel_context
from inner_rim.work.text.next_action import now_of
from inner_rim.work.text.questions import LowSpots
from tests.desktop.drive import cautions_of, looking, run
from tests.samples import stored

BEFORE_SEAT = ("check_in", "strip", "tape", "valve", "mount", "sealant")


def bench_with(*entries, **changes):
    from inner_rim.core.record.log import Logged
    from inner_rim.store.rows import BenchState, StoredJob

    log = tuple(
        Logged(number=i + 1, at="2026-11-24T10:00:00+00:00", wheel_id="w1", entry=e)
        for i, e in enumerate(entries)
    )
    bench = Bench()
    bench.sync.adopt(
        BenchState(
            (
                StoredJob(
                    job_id="job-1", document=stored(**changes), drafts={}, revision=1, log=log
                ),
            ),
            {},
            0,
        )
    )
    return bench


def now(*entries, **changes):
    bench = bench_with(*entries, **{"practice__sealant_route": "pour", **changes})
    return now_of(bench.current, panel_context(bench, bench.current))


def test_an_empty_bench_invites_the_first_wheel():
    bench = Bench()
    said = now_of(None, panel_context(bench, None))
    assert said.answers[0].command == "new_wheel" and "first wheel" in said.action


def test_a_new_wheel_asks_for_what_it_needs_one_thing_at_a_time():
    bench = Bench()
    bench.editor.new_wheel()
    asked = []
    for field, text in (
        ("tire.size", "45-622"),
        ("rim.internal_width_mm", "24"),
        ("rim.bead_seat_diameter_mm", "622"),
    ):
        asked.append(now_of(bench.current, panel_context(bench, bench.current)).action)
        bench.editor.type_into(field, text)
    assert ["tire size" in asked[0], "inside width" in asked[1], "bead seat" in asked[2]] == [
        True
    ] * 3
    assert now_of(bench.current, panel_context(bench, bench.current)).answers[0].command == "finish"


@pytest.mark.parametrize(
    "stage", ["check_in", "strip", "tape", "valve", "mount", "sealant", "seat", "hold", "set"]
)
def test_every_stage_has_a_main_action_and_its_cautions(stage):
    order = [*BEFORE_SEAT, "seat", "hold", "set"]
    entries = [StepEntry(stage=s) for s in order[: order.index(stage)] if s != "seat"]
    if order.index(stage) > order.index("seat"):
        entries += [Attempt(peak_kpa=300, outcome="both_up", limit_kpa=340)]
    if stage == "seat":
        entries.append(StepEntry(stage="seat", step="bead.wet"))
    said = now(*entries)
    assert (said.action or said.steps) and said.answers
    if stage == "seat":
        assert any("Never above 3.40 bar" in caution for caution in said.cautions)
        assert [a.command for a in said.answers] == [
            "both_up", "one_low", "did_not", "no_pressure", "falls_off", "hisses", "back"
        ]  # fmt: skip


def test_at_most_two_cautions_and_the_bottle_s_where_it_is_opened():
    wet = (*(StepEntry(stage=s) for s in BEFORE_SEAT), StepEntry(stage="seat", step="bead.wet"))
    bottle = {"practice__air_source": "charge"}
    first = now(*wet, **bottle)
    assert ["Eye" in c or "bottle" in c for c in first.cautions] == [True, True]
    low = Attempt(peak_kpa=150, outcome="not_up", limit_kpa=340, target_kpa=150)
    later = now(*wet, low, **bottle)
    # each once
    assert "pressure 2 of" in later.head and ["Hissing" in c for c in later.cautions] == [True]
    bare = now(
        tire__max_pressure_kpa=None,
        rim__hook=None,
        tire__tubeless_ready=False,
        rim__internal_width_mm=37,
    )
    assert (
        len(bare.cautions) == 2
        and "both manufacturers" in bare.cautions[0]
        and "hookless" in bare.cautions[1]
    )


def test_a_stop_that_cannot_be_passed_offers_only_the_way_to_it():
    said = now(rim__bead_seat_diameter_mm=584)
    assert (
        said.head == "STOP"
        and [a.command for a in said.answers] == ["go_to_stop"]
        and said.asks == ()
    )
    both = now(rim__bead_seat_diameter_mm=584, rim__internal_width_mm=14)
    assert both.head == "STOP · 2 reasons"


def test_a_finding_is_put_right_by_hand_or_passed_by_name():
    said = now(StepEntry(stage="check_in"), Finding(check="tape_laid_badly", sound=False))
    assert [a.command for a in said.answers] == ["fixed", "override"]
    assert [ask.name for ask in said.asks] == ["reason", "by"]
    carbon = now(
        StepEntry(stage="check_in"), Finding(check="carbon_damaged", sound=False), rim__carbon=True
    )
    assert [a.command for a in carbon.answers] == ["fixed"] and carbon.cautions[0].startswith(
        "No override."
    )


def test_marking_low_sectors_shows_them_and_turns_them_over(session):
    pick = LowSpots("left").toggled("left", 3).toggled("right", 5).toggled("left", 3)
    assert (pick.left, pick.right, pick.side) == (frozenset(), frozenset({5}), "left")
    bench = session(demo=True).bench
    said = pick.says(bench.current, panel_context(bench, bench.current))
    assert said.action == "Low: right 5" and said.answers[0].command == "log_low"
    assert [a.checked for a in said.answers if a.checked is not None] == [True, False]


def test_every_answer_is_a_command_of_the_table(session):
    one = session(demo=True)
    for state in one.bench.wheels:
        for answer in now_of(state, panel_context(one.bench, state)).answers:
            command = BY_ID[answer.command]
            assert command.title and words_of(answer)


def test_a_key_alone_never_means_two_things_at_once():
    """Commands that share a key exclude each other: they are answers of the panel, or ask for different things."""
    for key, commands in by_key().items():
        free = [c for c in commands if c.listed and c.applies.__name__ != "<lambda>"]
        assert len(free) <= 1, (key, [c.id for c in free])
    assert len({command.id for command in COMMANDS}) == len(COMMANDS)


def press(window, text):
    from PyQt6.QtWidgets import QApplication

    QTest.keyClicks(QApplication.focusWidget() or window, text)


def test_keys_walk_wheels_stages_and_views(session, qtbot):
    one = session(demo=True)
    window, bench, page = one.window, one.bench, one.window.page
    page.now.focus_main()
    control = Qt.KeyboardModifier.ControlModifier
    first = bench.current.name
    QTest.keyClick(window, Qt.Key.Key_Down, control)
    assert bench.current.name != first
    QTest.keyClick(window, Qt.Key.Key_Up, control)
    assert bench.current.name == first
    shown = looking(page).stage
    QTest.keyClick(window, Qt.Key.Key_Right, control)
    assert looking(page).stage != shown
    QTest.keyClick(window, Qt.Key.Key_Left, control)
    assert looking(page).stage == shown
    run(page, "leave")
    own = page.deck.pictures
    for key, pictures in (
        ("z", ("loupe",)),
        ("f", ("finish",)),
        ("k", ("plot",)),
        ("s", ("section",)),
    ):
        press(window, key)
        assert page.deck.pictures == pictures
    press(window, "s")  # once more: the picture that the step needs
    assert page.deck.pictures == own
    for key, drawer in (("c", "choices"), ("t", "steps"), ("g", "log"), ("p", "plan")):
        press(window, key)
        assert looking(page).drawer == drawer
    press(window, "p")
    assert looking(page).drawer == ""
    press(window, "e")
    from PyQt6.QtWidgets import QApplication, QLineEdit

    assert isinstance(QApplication.focusWidget(), QLineEdit)
    assert looking(page).drawer == "entries"
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert not isinstance(QApplication.focusWidget(), QLineEdit) and looking(page).drawer == ""
    before = len(bench.wheels)
    press(window, "a")
    assert len(bench.wheels) == before + 1 and bench.current.name == f"{first} (2)"


def test_an_attempt_takes_the_figure_that_is_typed_and_complains_in_words(session, qtbot):
    one = session(demo=True)
    page, bench = one.window.page, one.bench
    before = len(bench.current.log)
    page.now.figure.setText("a lot")
    run(page, "both_up")
    assert "Type a pressure" in cautions_of(page) and len(bench.current.log) == before
    page.now.figure.setText("31 psi")
    run(page, "did_not")
    assert bench.current.log[-1].entry.peak_kpa == pytest.approx(213.7, abs=0.1)
    run(page, "one_low")
    run(page, "log_low")
    assert "at least one sector" in cautions_of(page)
    run(page, "leave")
    assert looking(page).low is None and len(bench.current.log) == before + 1


def test_a_wheel_that_is_handed_over_can_be_put_away_or_taken_up_again(session, qtbot):
    one = session(demo=True)
    bench = one.bench
    done = next(s for s in bench.wheels if s.progress.state == "finished")
    bench.select(done.key)
    assert [
        a.command for a in now_of(bench.current, panel_context(bench, bench.current)).answers
    ] == ["print", "archive", "new_visit", "show_care", "log_dip", "back"]
    one.window.run("back")
    assert bench.current.progress.state != "finished"
    count = len(bench.wheels)
    bench.archive()
    assert len(bench.wheels) == count - 1
    qtbot.waitUntil(lambda: not one.worker.waiting)


def test_a_weeping_tire_is_topped_up_as_long_as_the_readings_ask_for_it():
    """After each top-up the gauge is read; once it holds, no further one is asked for."""
    up = Attempt(peak_kpa=300, outcome="both_up", limit_kpa=340)
    flats = [
        StepEntry(stage="hold", step=code)
        for code in ("hold.shake", "hold.flat_left", "hold.flat_right")
    ]
    spun = Finding(check="bead_line_uneven", sound=True)
    held = (*(StepEntry(stage=s) for s in BEFORE_SEAT), up, spun, *flats)
    weeping = {"tire__tubeless_ready": False}
    first = now(*held, StepEntry(stage="hold", step="hold.flat_right", outcome="waited"), **weeping)
    assert "step_done" in [a.command for a in first.answers] and "read_gauge" not in [
        a.command for a in first.answers
    ]
    topped = (*held, StepEntry(stage="hold", step="hold.top_up"))
    waited = StepEntry(stage="hold", step="hold.top_up", outcome="waited")
    second = now(*topped, waited, Reading(pressure_kpa=200.0), **weeping)
    assert [a.command for a in second.answers] == [
        "read_gauge",
        "step_done",
        "stage_done",
        "did_not",
        "back",
    ]
    assert "Weeping" in second.action
