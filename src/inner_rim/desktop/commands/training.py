"""Commands of a training wheel: look, pump or read the gauge, read the thermometer."""

from __future__ import annotations

from inner_rim.core.record.units import entry_text
from inner_rim.desktop.commands.command import Context, Outcome
from inner_rim.desktop.commands.steps import pressure_typed
from inner_rim.work.text.view_selection import LowPick


def is_training(context: Context) -> bool:
    return context.window.training is not None


def look(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    sight = training.look()
    context.bench.say(sight.words)
    if sight.bubbles:
        return context.look(picture="sectors", bubbles=sight.bubbles)
    if sight.low is None or context.state is None or context.state.progress is None:
        return Outcome()
    sectors = frozenset({sight.low.sector})
    left, right = (sectors, frozenset[int]()) if sight.low.side == "left" else (frozenset[int](), sectors)
    if not context.state.progress.seats_next:
        return context.look(picture="sectors")
    return context.look(
        "main", asking="low", low=LowPick(sight.low.side, left, right), picture=None, drawer="", why=None
    )


def use_pump(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    sight = training.pump(pressure_typed(context))
    context.bench.say(sight.words)
    if sight.kpa is None:
        return Outcome()
    return Outcome(focus="main", figure=entry_text(sight.kpa, "kpa", context.bench.units))


def thermometer(context: Context) -> Outcome:
    training = context.window.training
    assert training is not None
    context.bench.say(training.temperature().words)
    return Outcome()
