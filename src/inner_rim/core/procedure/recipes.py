"""Recipes: the actions of a wheel in the order in which mechanics work, by kind of work and route (docs/job.md 1.3).

Each recipe is a short list; what is not needed for this wheel is left out of it.
"""

from collections.abc import Iterable, Iterator
from itertools import chain

from inner_rim.core.procedure.actions import Action
from inner_rim.core.procedure.check import check
from inner_rim.core.procedure.setup import Setup, start_of
from inner_rim.core.procedure.state import WheelState
from inner_rim.core.procedure.words import Words
from inner_rim.core.record.stages import Stage

Actions = Iterable[Action]


def procedure(setup: Setup, words: Words) -> tuple[Action, ...]:
    """Return the checked actions of one wheel, each with a key of its own.

    Raises:
        BrokenRecipe: they break a physical rule; a bug.
    """
    actions = tuple(_needed(RECIPES[setup.kind](setup, words), start_of(setup)))
    check(actions, start_of(setup), words.limit_kpa)
    return actions


#: Steps that take something apart, and what they are for: where all of it holds already, they are left out.
TAKES_APART = {
    "strip.deflate": ("air=flat",),
    "strip.break_beads": ("last=off|on",),
    "strip.open_one": ("last=off",),
    "strip.tire_off": ("first=off", "last=off"),
    "strip.tube_out": ("tube=out",),
    "strip.insert_out": ("insert=off",),
    "strip.old_insert_out": ("insert=off",),
    "strip.valve_out": ("valve=none",),
    "strip.rim_strip_off": ("bed=dirty|wet|dry|taped|sealed",),
    "strip.tape_off": ("tape=none",),
    "bead.open_one": ("last=off|on",),
    "bead.off_one": ("last=off",),
}


def _needed(actions: Actions, start: WheelState) -> Iterator[Action]:
    """The actions without those that take apart what has come in apart; only up to where something is put together."""
    state, apart = start, True
    for item in actions:
        done = TAKES_APART.get(item.code)
        apart = apart and item.stage in ("check_in", "strip", "sealant")
        if apart and done is not None and all(state.holds(fact) for fact in done):
            continue
        yield item
        state = state.after(item.gives)


def stages_of(actions: Actions) -> tuple[Stage, ...]:
    """Return the stages of a procedure in its order."""
    return tuple(dict.fromkeys(item.stage for item in actions))


# -- whole jobs ----------------------------------------------------------------------------------


def _tire_off_and_on(setup: Setup, words: Words) -> Iterator[Action]:
    """Convert, change the tire, tape again, change an insert: all of them take the tire off."""
    yield from _check_in(words)
    yield from _strip(setup, words)
    yield from _tape(setup, words)
    if not setup.press_home:
        yield from _valve(setup, words)
    yield from _mount(setup, words)
    yield from _finish(words)


def _refresh(setup: Setup, words: Words) -> Iterator[Action]:
    yield from _check_in(words)
    yield from _old_sealant_out(setup, words) if setup.opens else _through_the_valve(words)
    yield from _finish(words)


def _repair(setup: Setup, words: Words) -> Iterator[Action]:
    """A puncture is plugged from outside; where the tire is opened, it is patched inside."""
    yield from _check_in(words)
    if setup.found.air:
        yield words.do("strip", "repair.find")
    if setup.opens:
        yield from _old_sealant_out(setup, words, words.do("strip", "repair.patch"))
    else:
        yield words.do("strip", "repair.plug")
        yield from _through_the_valve(words)
    yield from _finish(words)


def _back_to_tube(setup: Setup, words: Words) -> Iterator[Action]:
    yield from _check_in(words)
    yield words.do("strip", "strip.deflate")
    yield words.do("strip", "strip.break_beads")
    yield words.do("strip", "strip.open_one")
    if setup.insert_was_on:
        yield words.do("strip", "strip.insert_out" if setup.insert != "none" else "strip.old_insert_out")
    if setup.sealant_in:
        yield words.do("strip", "strip.sealant_out")
    yield words.do("strip", "strip.valve_out")
    if setup.found.taped:
        yield words.ask("strip", "tape.keep_look", "tape_damaged")
    yield words.ask("strip", "tire.thorns", "thorns_left")
    if setup.found.tire == "off":
        yield from _tire(setup, words)
        yield words.do("mount", "bead.first")
    yield words.do("mount", "tube.in")
    yield words.do("mount", "bead.second")
    yield words.do("seat", "air.inflate", text=words.tube_inflate, pressure_kpa=words.ride_kpa)
    yield words.ask("seat", "line.look", "bead_line_low")
    yield words.do("set", "set.pressure", pressure_kpa=words.ride_kpa)
    yield words.do("set", "set.sign")


RECIPES = {
    "convert": _tire_off_and_on,
    "tire_change": _tire_off_and_on,
    "retape": _tire_off_and_on,
    "insert": _tire_off_and_on,
    "refresh": _refresh,
    "repair": _repair,
    "back_to_tube": _back_to_tube,
}


# -- parts of a job ------------------------------------------------------------------------------


def _check_in(words: Words) -> Iterator[Action]:
    yield words.do("check_in", "check_in.read")
    if words.straight_side:
        yield words.do("check_in", "check_in.approval")
    yield words.do("check_in", "check_in.weigh", asks="weight")


def _strip(setup: Setup, words: Words) -> Iterator[Action]:
    """Down to the bed, or to the tape that stays."""
    yield words.do("strip", "strip.deflate")
    yield words.do("strip", "strip.break_beads")
    yield words.do("strip", "strip.tire_off")
    if not setup.tubeless:
        yield words.do("strip", "strip.tube_out")
        if setup.lays_tape:
            yield words.do("strip", "strip.rim_strip_off")
    else:
        if setup.insert_was_on:
            kept = "strip.insert_out" if setup.keeps_insert else "strip.old_insert_out"
            yield words.do("strip", kept)
        if setup.sealant_in:
            yield words.do("strip", "strip.sealant_out")
        if setup.lays_tape or not setup.keeps_valve:
            yield words.do("strip", "strip.valve_out")
    bare = setup.lays_tape and not setup.adds_layer
    if bare and setup.found.taped:
        yield words.do("strip", "strip.tape_off")
    if bare:  # under a tape that stays nobody sees them
        yield words.ask("strip", "rim.look", "spoke_end_through")
    yield words.ask("strip", "rim.walls", words.rim_question)
    if not bare:
        yield words.do("strip", "rim.wipe")
        return
    yield words.do("strip", "rim.clean")
    yield words.do("strip", "rim.dry")
    if words.large_holes:
        yield words.do("strip", "strip.rim_strip_in")


def _tape(setup: Setup, words: Words) -> Iterator[Action]:
    if setup.sealed:
        return
    if not setup.lays_tape:
        yield words.ask("tape", "tape.keep_look", "tape_damaged")
        return
    if setup.adds_layer:
        yield words.ask("tape", "tape.keep_look", "tape_damaged")
    if words.no_tape:
        yield words.do("tape", "tape.find")
    else:
        if words.trims:
            yield words.do("tape", "tape.trim")
        for text in words.lays:
            yield words.do("tape", "tape.lay", text=text)
        if words.warms_tape:
            yield words.do("tape", "tape.warm")
        yield words.do("tape", "tape.press")
    yield words.ask("tape", "tape.look", "tape_laid_badly")
    yield words.do("tape", "hole.open")


def _valve(setup: Setup, words: Words) -> Iterator[Action]:
    there = setup.keeps_valve and not setup.lays_tape
    if there:
        yield words.ask("valve", "valve.core_check", "valve_core_stuck")
        return
    yield words.do("valve", "valve.fit")
    if setup.keeps_valve:
        yield words.ask("valve", "valve.core_check", "valve_core_stuck")


def _tire(setup: Setup, words: Words) -> Iterator[Action]:
    yield words.ask("mount", "tire.look", "tire_unsound")
    yield words.do("mount", "tire.wipe")
    if setup.folded and setup.new:
        yield words.do("mount", "tire.warm")
    if setup.arrow:
        yield words.ask("mount", "tire.arrow", "arrow_not_confirmed")


def _insert(setup: Setup, words: Words) -> Iterator[Action]:
    yield words.ask("insert", "insert.look", "insert_worn")
    if setup.arrow:
        yield words.ask("insert", "tire.arrow_again", "arrow_not_confirmed_insert")
    yield words.do("insert", "insert.on")


def _wet(setup: Setup, words: Words, stage: Stage) -> Iterator[Action]:
    if setup.lubricant != "none":
        yield words.do(stage, "bead.wet")


def _last_bead(setup: Setup, words: Words, stage: Stage) -> Iterator[Action]:
    code = "bead.partial" if setup.route == "pour" else "bead.second"
    yield words.do(stage, code)


def _mount(setup: Setup, words: Words) -> Iterator[Action]:
    """From the bare tire to seated beads with sealant in, by insert order and route."""
    if setup.press_home:
        yield from _press_home(setup, words)
        return
    if setup.insert != "none" and setup.order == "insert_first":
        yield from _insert(setup, words)
    yield from _tire(setup, words)
    yield words.do("mount", "bead.first")
    if setup.insert != "none" and setup.order == "seat_first":
        yield from _seat_first(setup, words)
        return
    if setup.insert != "none" and setup.order == "bead_first":
        yield from _insert(setup, words)
        yield from _last_bead(setup, words, "insert")
    else:
        yield from _last_bead(setup, words, "mount")
    if setup.route == "pour":
        yield from _pour(words)
        yield from _climb(setup, words)
    else:
        yield from _climb(setup, words)
        yield from _dry_test(words, "seat")
        yield from _inject(setup, words)


def _press_home(setup: Setup, words: Words) -> Iterator[Action]:
    """A tube presses the tape into the rim well; the first bead then stays seated."""
    yield from _tire(setup, words)
    yield words.do("mount", "bead.first")
    for code in ("tube.in", "bead.second"):
        yield words.do("mount", code)
    yield words.do("mount", "air.press", pressure_kpa=words.settle_kpa)
    yield words.do("mount", "air.deflate")
    for code in ("bead.open_one", "bead.off_one", "tube.out"):
        yield words.do("mount", code)
    yield from _valve(setup, words)
    if setup.insert != "none":
        yield from _insert(setup, words)
    stage: Stage = "insert" if setup.insert != "none" else "valve"
    if setup.route == "pour":
        yield words.do(stage, "bead.partial")
        yield from _pour(words)
        yield from _climb(setup, words)
    else:
        yield words.do(stage, "bead.refit")
        yield from _climb(setup, words)
        yield from _dry_test(words, "seat")
        yield from _inject(setup, words)


def _seat_first(setup: Setup, words: Words) -> Iterator[Action]:
    """Tight rim with an insert: seat dry, open the narrow-shoulder side only, refit that one bead."""
    yield words.do("mount", "bead.second")
    yield from _climb(setup, words)
    yield words.do("insert", "air.deflate")
    yield words.do("insert", "bead.open_one")
    yield words.do("insert", "bead.off_one")
    yield from _insert(setup, words)
    yield from _wet(setup, words, "insert")
    if setup.route == "pour":
        yield words.do("insert", "bead.partial", text=words.refit_partial)
        yield from _pour(words)
        yield from _up_again(words, "sealant", "bead_line_low_again")
    else:
        yield words.do("insert", "bead.refit")
        yield from _up_again(words, "insert", "bead_line_low_again")
        yield from _dry_test(words, "insert")
        yield from _inject(setup, words)


def _pour(words: Words) -> Iterator[Action]:
    yield words.do("sealant", "sealant.shake")
    yield words.do("sealant", "sealant.pour", asks="dose")
    yield words.do("sealant", "bead.close")


def _climb(setup: Setup, words: Words) -> Iterator[Action]:
    """Up in steps, looking at each; with the core out first one burst, then the core in and the steps."""
    yield from _wet(setup, words, "seat")
    if setup.core_out:
        yield words.do("seat", "core.out")
        yield words.do("seat", "air.burst", pressure_kpa=words.ladder_kpa[-1], climb=True)
        yield words.do("seat", "core.in")
        yield words.do("seat", "air.inflate", pressure_kpa=words.settle_kpa)
        yield words.ask("seat", "line.look", "bead_line_low")
        return
    for step in words.ladder_kpa:
        yield words.do("seat", "air.step", text=words.step(step), pressure_kpa=step, climb=True)
    yield words.do("seat", "line.look", climb=True)


def _dry_test(words: Words, stage: Stage) -> Iterator[Action]:
    yield words.ask(stage, "dry.test", "dry_test_leaks")
    yield words.do(stage, "air.deflate")
    yield words.ask(stage, "dry.stay", "beads_unseat")


def _up_again(words: Words, stage: Stage, question: str) -> Iterator[Action]:
    yield words.do(stage, "air.inflate", pressure_kpa=words.settle_kpa)
    yield words.ask(stage, "line.look", question)


def _inject(setup: Setup, words: Words) -> Iterator[Action]:
    """Through the valve, then the core back in and the tire up again before anything is judged."""
    yield words.do("sealant", "core.out")
    yield words.do("sealant", "sealant.shake")
    yield words.do("sealant", "sealant.inject", asks="dose")
    if setup.insert == "none":
        yield words.do("sealant", "dip.read", asks="dip")
    yield words.do("sealant", "core.in")
    yield from _up_again(words, "sealant", "bead_line_low_last")


def _through_the_valve(words: Words) -> Iterator[Action]:
    """Dip, top up to the dose, core in, up again: the beads stay where they are."""
    yield words.do("sealant", "strip.deflate")
    yield words.do("sealant", "core.out")
    yield words.do("sealant", "dip.read", asks="dip", text=words.dip_before)
    yield words.do("sealant", "sealant.shake")
    yield words.do("sealant", "sealant.inject", asks="dose", text=words.top_up)
    yield words.do("sealant", "core.in")
    yield from _up_again(words, "sealant", "bead_line_low")


def _old_sealant_out(setup: Setup, words: Words, *inside: Action) -> Iterator[Action]:
    """One bead opened, the other left on its seat; the old sealant taken out, new poured in; seated like any wheel."""
    yield words.do("strip", "strip.deflate")
    yield words.do("strip", "bead.open_one")
    yield words.do("strip", "bead.off_one")
    if setup.sealant_in:
        yield words.do("strip", "strip.sealant_out")
    if setup.found.taped:
        yield words.ask("strip", "tape.keep_look", "tape_damaged")
    yield words.ask("strip", "valve.core_check", "valve_core_stuck")
    if setup.found.tire == "off":
        yield from _tire(setup, words)
        yield words.do("mount", "bead.first")
    else:
        yield words.ask("strip", "tire.look", "tire_unsound")
    yield from inside
    yield words.do(
        "sealant", "bead.partial", text=words.refit_partial if setup.insert_was_on else words.all_but_last
    )
    yield from _pour(words)
    yield from _climb(setup, words)


def _finish(words: Words) -> Iterator[Action]:
    """Hold and hand over."""
    yield words.ask("hold", "spin.look", "bead_line_uneven")
    yield words.do("hold", "hold.shake", pressure_kpa=words.settle_kpa)
    for code in ("hold.flat_left", "hold.flat_right"):
        yield words.do("hold", code, **words.flat_wait)
    yield from chain.from_iterable([words.do("hold", "hold.top_up", **more)] for more in words.top_ups)
    yield words.do("hold", "hold.read")
    yield words.do("set", "set.pressure", pressure_kpa=words.set_here_kpa)
    yield words.do("set", "set.weigh", asks="weight")
    yield words.do("set", "set.sign")
