"""Commands of a training wheel: look, pump or read the gauge, read the thermometer."""

from __future__ import annotations

from inner_rim.core.record.units import entry_text
from inner_rim.desktop.commands.command import Context, Outcome
from inner_rim.work.text.questions import LowSpots


def is_training(context: Context) -> bool:
    return context.window.training is not None


def look(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    sight = training.look()
    context.bench.say(sight.words)
    if sight.bubbles:
        return context.look(picture="sectors", bubbles=sight.bubbles)
    if sight.low is None or context.bench.planned is None:
        return Outcome()
    sectors = frozenset({sight.low.sector})
    left, right = (sectors, frozenset[int]()) if sight.low.side == "left" else (frozenset[int](), sectors)
    if not context.offers("one_low"):
        return context.look(picture="sectors")
    low = LowSpots(sight.low.side, left, right, context.read("pressure"))
    return context.look("main", question=low, picture=None, drawer="", why=None)


def use_pump(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    sight = training.pump(context.read("pressure") if "pressure" in context.typed else None)
    context.bench.say(sight.words)
    if sight.kpa is None:
        return Outcome()
    return Outcome(focus="main", pressure=entry_text(sight.kpa, "kpa", context.bench.units))


def thermometer(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    context.bench.say(training.temperature().words)
    return Outcome()
