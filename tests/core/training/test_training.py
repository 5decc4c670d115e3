"""Training wheels: the best sequence against a search of everything, careless and textbook plays, and chance."""

import random
from datetime import UTC, datetime, timedelta

import msgspec
import pytest

from inner_rim.core.record.errors import InputError
from inner_rim.core.training.course import HAND_OVER, PUMP, Choice, Rules
from inner_rim.core.training.debrief import (
    MAX_CHOICES,
    Result,
    best_play,
    debrief,
    practice_next,
    skills,
)
from inner_rim.core.training.play import CHOICE_WORDS, Solver, begin, belief_of, choose, seen_words
from inner_rim.core.training.scenario import FACTS, FAULTS, LOOKS, generated, scenario_from
from inner_rim.work.tasks.scenarios import shipped

NOW = datetime(2026, 11, 30, 9, tzinfo=UTC)


def with_faults(scenario, faults):
    return msgspec.structs.replace(scenario, faults=tuple(sorted(faults)))


def expected(scenario, player):
    """The expected minutes of a way to play, over everything that may be true."""
    return sum(
        share * player(with_faults(scenario, faults)).cost.minutes
        for faults, share in scenario.hypotheses
    )


def textbook_play(scenario):
    """The fixed order of a textbook: every look, then the remedies as they are listed."""
    rules, play = Rules(scenario), begin(scenario)
    while not play.over and len(play.moves) < MAX_CHOICES:
        play = choose(play, rules, _by_the_book(play, rules))
    return play


def _by_the_book(play, rules):
    choices = rules.choices(play.course)
    if play.course.phase == "seat":
        failed = bool(play.moves) and play.moves[-1].choice == PUMP
        return choices[1] if failed and len(choices) > 1 else PUMP
    if play.course.phase != "test" or not play.course.reading:
        return choices[0]
    if play.course.reading == "holds":
        return HAND_OVER
    if choices[0].kind in ("temperature", "soap"):
        return choices[0]
    return Choice("spin" if "porous" in play.moves[-1].seen else "retape")


def careless_play(scenario):
    """Someone who skips every look and hands over whatever the gauge says."""
    rules, play = Rules(scenario), begin(scenario)
    while not play.over and len(play.moves) < MAX_CHOICES:
        choices = rules.choices(play.course)
        play = choose(
            play,
            rules,
            choices[0] if play.course.phase == "seat" and not _failed(play) else choices[-1],
        )
    return play


def _failed(play):
    return bool(play.moves) and "no_pressure" in play.moves[-1].seen


def test_at_least_sixteen_are_shipped_in_five_grades_with_every_fault():
    scenarios = shipped()
    assert len(scenarios) >= 16 and {one.grade for one in scenarios} == {1, 2, 3, 4, 5}
    assert {fault for one in scenarios for fault in one.faults} == set(FAULTS)
    assert len({one.id for one in scenarios}) == len(scenarios)
    assert sum(share for _faults, share in scenarios[0].hypotheses) == pytest.approx(1.0)


@pytest.mark.parametrize("scenario", shipped(), ids=lambda one: one.id)
def test_the_best_sequence_beats_the_textbook_order_and_a_careless_one(scenario):
    solver = Solver(scenario)
    best = solver.value(solver.rules.start(), belief_of(scenario)).minutes
    assert expected(scenario, lambda one: best_play(one, solver)) == pytest.approx(best, abs=0.1)
    assert best < expected(scenario, textbook_play) - 0.5 < expected(scenario, careless_play) - 10.0
    said = debrief(best_play(scenario, solver), solver)
    assert (
        said.lost_min == pytest.approx(0.0, abs=1e-6)
        and said.minutes == said.best_min
        and not said.late
    )
    assert debrief(careless_play(scenario), solver).lost_min > 1.0


def test_the_best_sequence_is_the_one_that_a_search_of_every_policy_finds():
    """By histories instead of beliefs: after what was seen so far, every choice is tried, and the least kept."""
    plain = msgspec.to_builtins(shipped()[0])
    small = scenario_from(
        {**plain, "id": "small", "faults": [], "suspects": {"tape_lifted": 0.2, "cold_night": 0.3}}
    )
    solver = Solver(small)
    rules = Rules(small)

    def least(course, possible, depth):
        """possible: (faults left, probability); the least expected minutes, not scaled."""
        if course.phase == "done":
            return 0.0
        if depth == 0:
            return float("inf")
        best = float("inf")
        for choice in solver.allowed(course, belief_of(small)):
            if choice.kind == "change" and choice.name != "wet":
                continue  # these cannot help a bead that a wet one seats; they only cost
            total, after = 0.0, {}
            for left, share in possible:
                outcome = rules.apply(course, left, choice)
                total += share * outcome.cost.minutes
                after.setdefault((outcome.course, outcome.seen), []).append((outcome.left, share))
            for (there, _seen), some in after.items():
                if total >= best:
                    break
                total += least(there, some, depth - 1)
            best = min(best, total)
        return best

    start = rules.start()
    assert solver.value(start, belief_of(small)).minutes == pytest.approx(
        least(start, small.hypotheses, 13), abs=1e-6
    )


def test_chance_never_reaches_an_impossible_state():
    """10,000 plays by chance: nothing is seen that is not there, no fault comes back, no play goes on without end."""
    rng = random.Random(7)
    scenarios = [*shipped(), *(generated(seed) for seed in range(40))]
    rules = [Rules(one) for one in scenarios]
    for _ in range(10_000):
        place = rng.randrange(len(scenarios))
        play = begin(scenarios[place])
        for _move in range(200):
            choices = rules[place].choices(play.course)
            if not choices:
                break
            before, play = play, choose(play, rules[place], rng.choice(choices))
            move = play.moves[-1]
            assert (
                play.left <= before.left and min(move.cost) >= 0.0 and seen_words(move) is not None
            )
            truths = {one for one in move.seen if one in FACTS}
            assert truths - {"nipple"} <= before.left
            assert play.course.end != "blown" or "unread_limit" in play.left
        assert play.over or len(play.moves) == 200
        assert not (play.course.end == "handed_over" and play.course.phase != "done")


def test_a_limit_that_nobody_read_ends_the_play_and_is_said_soberly():
    scenario = next(one for one in shipped() if "unread_limit" in one.faults)
    said = debrief(careless_play(scenario))
    assert (
        said.over_limit
        and said.late == tuple(sorted(said.truth))
        and "lowest figure rules" in said.lesson
    )
    assert "Nobody was hurt" in " ".join(said.timeline[-1].told)


def test_every_choice_and_look_has_words_and_every_fault_says_what_it_costs():
    for scenario in shipped():
        rules = Rules(scenario)
        assert all(choice in CHOICE_WORDS for choice in rules.choices(rules.start()))
    assert {facts.look for facts in FACTS.values()} <= {*LOOKS, "", "soap", "temperature"}
    assert all(facts.late_min >= facts.fix_min for facts in FACTS.values())


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"faults": ["porous"]}, "suspects"),
        ({"grade": 9}, "grade"),
        ({"suspects": {"rust": 0.1}}, "suspects"),
        ({"story": ""}, "story"),
        ({"color": "red"}, "color"),
        ({"suspects": {"worn_insert": 0.2}}, "wheel.insert"),
    ],
)
def test_a_scenario_that_cannot_be_used_says_where(change, path):
    plain = msgspec.to_builtins(shipped()[0])
    with pytest.raises(InputError) as fault:
        scenario_from({**plain, **change})
    assert fault.value.path.startswith(path)


def test_random_wheels_are_the_same_for_the_same_seed_and_hide_what_is_weak():
    assert generated(5) == generated(5) != generated(6)
    assert generated(5, ("cold_night",), 1).faults == ("cold_night",)
    assert all(set(generated(seed).faults) <= set(generated(seed).suspects) for seed in range(200))


def test_progress_forgets_and_names_what_to_practice():
    def result(days, caught, late):
        return Result(
            "J Reed", NOW - timedelta(days=days), "x", caught, late, 80.0, 80.0, 0.0, False
        )

    fresh = [result(1, ("porous", "low_spot"), ("nipple",)) for _ in range(4)]
    by_fault = {skill.fault: skill for skill in skills(fresh, NOW)}
    assert (
        by_fault["porous"].share > 0.8 > 0.5 > by_fault["nipple"].share
        and by_fault["nipple"].seen == 4
    )
    assert practice_next(fresh, NOW)[0] == "nipple" and "porous" not in practice_next(fresh, NOW)
    later = {skill.fault: skill.share for skill in skills(fresh, NOW + timedelta(days=240))}
    assert later["porous"] < by_fault["porous"].share and "porous" in practice_next(
        fresh, NOW + timedelta(days=240)
    )
