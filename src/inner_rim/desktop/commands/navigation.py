"""Commands that change the view: wheels, stages, fields, drawings, the working behind a pick,
pages, lists.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import msgspec

from inner_rim.core.record.moments import in_words, naive_local
from inner_rim.core.record.paths import within_wheel
from inner_rim.core.record.resolved import LEARNED_FIGURES
from inner_rim.core.record.spoken import STAGES, Stage
from inner_rim.core.record.units import UNIT_SETS, set_words
from inner_rim.desktop.commands.command import MAIN, Complaint, Context, Outcome
from inner_rim.words import tr
from inner_rim.work.editing.state import PlannedWheel
from inner_rim.work.tasks.first_run import put_tapes
from inner_rim.work.text.lines import FieldChoice, LogChoice
from inner_rim.work.text.pick_rows import COUNT
from inner_rim.work.text.questions import Drawer, Picture, TopsUp
from inner_rim.work.text.stage_fields import stage_of


def go(page: str) -> Callable[[Context], Outcome]:
    def run(context: Context) -> Outcome:
        # the rest of the word must not become commands
        if context.window.typing and page == "bench":
            if context.window.page_shown == "bench":
                return Outcome()
            context.window.go_to(page)
            context.window.parking.park()
            return Outcome()
        context.window.go_to(page)
        return (
            MAIN
            if page == "bench"
            else Outcome(focus="search" if page in ("shelf", "logbook", "practice") else "")
        )

    return run


def show(picture: Picture) -> Callable[[Context], Outcome]:
    def run(context: Context) -> Outcome:
        there = context.looking.picture == picture and not context.looking.drawer
        return context.look(picture=None if there else picture, drawer="", why=None)

    return run


def open_drawer(drawer: Drawer) -> Callable[[Context], Outcome]:
    """Return the command that opens a list beside the step, or closes it."""

    def run(context: Context) -> Outcome:
        return context.look(drawer="" if context.looking.drawer == drawer else drawer, why=None)

    return run


def show_at(drawer: Drawer, stage: Stage) -> Callable[[Context], Outcome]:
    return lambda context: context.look(drawer=drawer, stage=stage, why=None)


def step_wheel(context: Context, by: int) -> Outcome:
    context.bench.step_selection(by)
    return Outcome()


def choose_wheel(context: Context) -> Outcome:
    if context.value != context.bench.selected:
        context.bench.select(context.value)
    return Outcome()


def what_now(context: Context) -> Outcome:
    """Select the wheel that the schedule has next, and say what and when."""
    bench = context.bench
    result = bench.day.plan.now().next_up()
    if not result:
        bench.say(tr("Nothing to do now: only stops, problems, or finished wheels are left."))
        return MAIN
    state, at, words = result[0]
    bench.day.put_in_order()
    bench.select(state.key)
    now = naive_local(bench.time)
    if state.standing == "problem":
        words = state.progress.action.read(bench.units)
    when = (
        tr("now") if at <= now else in_words(at, "%H:%M" if at.date() == now.date() else "%a %H:%M")
    )
    bench.say(tr("Next, {when}: {name}. {words}").format(when=when, name=state.name, words=words))
    return MAIN


def turn_stage(context: Context, by: int) -> Outcome | None:
    state = context.state
    if state is None:
        return None
    stages = state.progress.stages if isinstance(state, PlannedWheel) else STAGES
    here = stages.index(context.looking.stage) if context.looking.stage in stages else 0
    return context.look(stage=stages[(here + by) % len(stages)], drawer=_fields(context), why=None)


def _fields(context: Context) -> Drawer:
    """Where the fields are: in the middle at check-in, later in a drawer."""
    return "" if context.state is None or context.state.stage == "check_in" else "entries"


def look_at_stage(context: Context) -> Outcome:
    return context.look(stage=context.value, drawer=_fields(context), why=None)


def new_wheel(context: Context) -> Outcome:
    context.window.go_to("bench")
    context.bench.settings.set_own(asked=True)
    context.bench.editor.new_wheel()
    return context.look("first_field", picture=None, drawer="", why=None)


def first_units(context: Context) -> Outcome:
    """Take the units that were clicked in the first questions."""
    chosen = next(
        (units for units in UNIT_SETS if set_words(units) == context.value), context.bench.units
    )
    context.bench.set_units(chosen)
    return Outcome()


def first_air(context: Context) -> Outcome:
    """Take the source of air that was clicked in the first questions as the shop's."""
    context.bench.shop_methods.set("practice.air_source", context.value or None)
    return Outcome()


def first_tapes(context: Context) -> Outcome:
    """Put the tapes that were typed in the first questions on the shelf."""
    return Outcome({"fault": put_tapes(context.bench, context.value)})


def first_line(context: Context) -> Outcome:
    """Put a new wheel on the bench and take what was said of it in one line; what was not
    understood is kept.
    """
    from inner_rim.work.line_input import say_line  # not on the way to the first wheel

    begun = new_wheel(context)
    return msgspec.structs.replace(begun, focus="line", line=say_line(context.bench, context.value))


def first_field(context: Context) -> Outcome:
    return context.look("first_field", drawer=_fields(context), why=None)


def say_in_one_line(context: Context) -> Outcome:
    return context.look("line", stage="check_in", drawer=_fields(context), why=None)


def go_to_field(context: Context, path: str = "") -> Outcome:
    """Put the cursor into a field, whatever its stage."""
    path = path or context.value
    stage = stage_of(path, context.looking.stage)
    return Outcome({"why": None, "stage": stage, "drawer": _fields(context)}, field=path)


def go_to_missing(context: Context) -> Outcome | None:
    """Put the cursor into the first field that is missing or not accepted."""
    state = context.state
    paths = (*state.reading.missing, *state.reading.problems) if state is not None else ()
    if not paths:
        return None
    return go_to_field(context, within_wheel(paths[0]))


def go_to_stop(context: Context) -> Outcome:
    return go_to_field(context, context.planned.progress.open_stops[0].field or "tire.size")


def why(context: Context) -> Outcome | None:
    """Open or close the working behind the pick whose number was pressed; 0 is the tenth."""
    if context.bench.planned is None or context.digit is None:
        return None
    place = (context.digit - 1) % COUNT
    return context.look(why=None if context.looking.why == place else place)


def take_choice(context: Context) -> Outcome | None:
    """Take the line of the options that was clicked: a method, what was seen or done, or the way to
    a field.
    """
    choice: FieldChoice | LogChoice = context.value
    if isinstance(choice, FieldChoice):
        if choice.value is None:
            return go_to_field(context, choice.path)
        context.bench.editor.type_into(choice.path, choice.value)
    elif choice == LogChoice("care", "refilled"):
        return context.ask(TopsUp(), "added")
    else:
        recorder = context.bench.recorder
        log: dict[str, Callable[..., None]] = {
            "change": recorder.change,
            "leak": partial(recorder.found_leak, side=choice.side),
            "ride": recorder.feedback,
            "care": recorder.care,
            "ridden": recorder.ride_it,
        }
        log[choice.what](choice.value)
    return Outcome()


def leave(context: Context) -> Outcome:
    """Close what is open: a list, a question, a page, the field, the working behind a pick."""
    if context.window.leave_far():
        return Outcome() if context.window.typing else MAIN  # a name may be half typed
    if context.window.page_shown != "bench":
        context.window.go_to("bench")
        return MAIN
    looking = context.looking
    if looking.question is not None:
        return context.ask(None)
    if looking.why is not None:
        return context.look("main", why=None)
    if looking.drawer or looking.picture is not None:
        return context.look("main", drawer="", picture=None)
    return MAIN


def entered(context: Context) -> Outcome | None:
    """Enter in an entry of the panel: on to the next one that is empty, then to the main action."""
    reason, by = context.typed.get("reason"), context.typed.get("by")
    if reason and by:
        raise Complaint(tr("Enter passes no stop. Click Override, or press Ctrl+O."), "by")
    return Outcome(focus="by" if reason else "reason") if reason or by else MAIN


def next_pace(context: Context) -> None:
    """Confirm all plain steps at once, or each by itself."""
    bench = context.bench
    bench.settings.set_own(pace="step" if bench.settings.own.pace == "stage" else "stage")
    bench.changed()


def turn_learning(context: Context) -> None:
    """Use what the shop's log has taught, or only the usual figures."""
    on = context.bench.shop_methods.turn_learning(LEARNED_FIGURES)
    context.bench.say(
        tr("Learned figures are used") if on else tr("Only the usual figures are used")
    )


def next_units(context: Context) -> None:
    units = context.bench.units
    place = UNIT_SETS.index(units) if units in UNIT_SETS else -1
    context.bench.set_units(UNIT_SETS[(place + 1) % len(UNIT_SETS)])
