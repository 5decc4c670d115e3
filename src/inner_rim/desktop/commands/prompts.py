"""Commands that ask something besides the next step, and those of a training wheel."""

from __future__ import annotations

from inner_rim.core.progress.diagnosis import PATH, asked
from inner_rim.core.record.units import entry_text
from inner_rim.desktop.commands.command import MAIN, Complaint, Context, Outcome
from inner_rim.words import tr
from inner_rim.work.text.questions import Fleet, Guide, LowSpots, Prints, RaisesLimit, WritesOut
from inner_rim.work.text.wheel_words import end_words, facts_of


def duplicate(context: Context) -> Outcome:
    context.bench.editor.duplicate()
    return MAIN


def undo(context: Context, again: bool) -> Outcome:
    """Take back what was done last, or do it again; what raises a limit while air is in the tire
    asks first.
    """
    raised = context.bench.undo(again=again)
    if raised is not None:
        context.window.go_to("bench")
        return context.ask(RaisesLimit(raised))
    return Outcome({"question": None} if isinstance(context.looking.question, RaisesLimit) else {})


def raise_limit(context: Context) -> Outcome | None:
    question = context.looking.question
    if not isinstance(question, RaisesLimit):
        return None
    context.bench.undo(again=question.raised.again, sure=True)
    return context.ask(None)


def ask_fleet(context: Context) -> Outcome:
    return context.ask(Fleet(), "count")


def make_fleet(context: Context) -> Outcome:
    context.bench.editor.duplicate(context.read("count"))
    return context.ask(None)


def ask_print(context: Context) -> Outcome:
    return context.ask(WritesOut(), "")


def ask_printer(context: Context) -> Outcome:
    return context.ask(Prints(), "")


def print_out(context: Context, way: str) -> Outcome:
    context.window.exporter.print_paper(way)
    return context.ask(None)


def write_out(context: Context, way: str) -> Outcome:
    context.window.exporter.export(way)
    return context.ask(None)


def by_number(context: Context) -> Outcome | None:
    """Give the answer whose number was pressed."""
    from inner_rim.desktop.commands.table import BY_ID

    answer = next((one for one in context.now.answers if one.number == context.digit), None)
    if answer is None:
        raise Complaint(tr("Press one of the numbers shown."))
    return BY_ID[answer.command].run(context)


def open_guide(context: Context) -> Outcome:
    return context.ask(Guide())


def guide_on(context: Context, yes: bool) -> Outcome | None:
    state, guide = context.state, context.looking.question
    question = PATH.get(guide.code) if isinstance(guide, Guide) else None
    if question is None or state is None:
        return None
    code = asked(question.yes if yes else question.no, facts_of(state, context.bench.shelf.items))
    return context.ask(Guide(code))


def guide_log(context: Context) -> Outcome:
    state, guide = context.state, context.looking.question
    if state is not None and isinstance(guide, Guide):
        words = end_words(guide.code, facts_of(state, context.bench.shelf.items))
        context.bench.recorder.note(tr("Diagnosis: {words}").format(words=words))
    return context.ask(None)


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
    left, right = (
        (sectors, frozenset[int]()) if sight.low.side == "left" else (frozenset[int](), sectors)
    )
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
