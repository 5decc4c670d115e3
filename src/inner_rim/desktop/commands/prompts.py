"""Commands that ask something besides the wheel's next step: how many copies, what to print, troubleshooting."""

from __future__ import annotations

from inner_rim.core.progress.diagnosis import PATH, asked
from inner_rim.core.record.job import MAX_WHEELS
from inner_rim.core.record.numbers import whole
from inner_rim.desktop.commands.command import MAIN, Context, Outcome
from inner_rim.words import tr
from inner_rim.work.text.papers import PRINTED, WAYS
from inner_rim.work.text.wheel_words import end_words, facts_of


def duplicate(context: Context) -> Outcome:
    context.bench.editor.duplicate()
    return MAIN


def undo(context: Context, again: bool) -> Outcome:
    """Take back what was done last, or do it again; what raises a limit while air is in the tire asks first."""
    raised = context.bench.undo(again=again)
    if raised is not None:
        context.window.go_to("bench")
        return context.look("main", asking="raise", raised=raised)
    return Outcome({"asking": ""} if context.looking.asking == "raise" else {})


def raise_limit(context: Context) -> Outcome | None:
    raised = context.looking.raised
    if raised is None:
        return None
    context.bench.undo(again=raised.again, sure=True)
    return context.look("main", asking="", raised=None)


def ask_fleet(context: Context) -> Outcome:
    return Outcome({"asking": "fleet"}, "figure", clear=("figure",))


def make_fleet(context: Context) -> Outcome:
    count = whole(context.typed.figure.strip(), 1, MAX_WHEELS)
    if count is None:
        return context.complain(tr("How many? Enter a whole number from 1 to {most}").format(most=MAX_WHEELS), "figure")
    context.bench.editor.duplicate(count)
    return context.look("main", asking="")


def ask_print(context: Context) -> Outcome:
    return context.look(asking="print")


def ask_printer(context: Context) -> Outcome:
    return context.look(asking="printer")


def print_out(context: Context, way: str) -> Outcome:
    context.window.exporter.print_paper(way)
    return context.look("main", asking="")


def print_by_number(context: Context) -> Outcome | None:
    number = context.digit or 0
    return print_out(context, list(PRINTED)[number - 1]) if 1 <= number <= len(PRINTED) else None


def write_out(context: Context, way: str) -> Outcome:
    context.window.exporter.export(way)
    return context.look("main", asking="")


def write_by_number(context: Context) -> Outcome | None:
    ways, number = list(WAYS), context.digit or 0
    if number == len(ways) + 1:
        return ask_printer(context)
    return write_out(context, ways[number - 1]) if 1 <= number <= len(ways) else None


def open_guide(context: Context) -> Outcome:
    return context.look("main", asking="guide", guide="start")


def guide_on(context: Context, yes: bool) -> Outcome | None:
    state, question = context.state, PATH.get(context.looking.guide)
    if question is None or state is None:
        return None
    code = question.yes if yes else question.no
    return context.look("main", guide=asked(code, facts_of(state, context.bench.shelf.items)))


def guide_log(context: Context) -> Outcome:
    state = context.state
    if state is not None:
        words = end_words(context.looking.guide, facts_of(state, context.bench.shelf.items))
        context.bench.recorder.note(tr("Diagnosis: {words}").format(words=words))
    return context.look("main", asking="", guide="")
