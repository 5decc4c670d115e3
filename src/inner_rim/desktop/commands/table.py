"""Every command of the program, once. Window, buttons, the list of keys, the list of actions, and
the manual's table are made from it.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import msgspec

from inner_rim.core.plan.advisor import REMEDY_WORDS
from inner_rim.desktop.commands import navigation, prompts, steps
from inner_rim.desktop.commands.command import GROUPS, Command, Complaint, Context, Outcome, Scope
from inner_rim.words import N_, tr
from inner_rim.work.text.papers import PRINTED, WAYS
from inner_rim.work.text.stage_fields import WORK_WORDS
from inner_rim.work.views import TRAINING_ANSWERS

DIGITS = tuple("1234567890")


def _wheel(context: Context) -> bool:
    return context.state is not None


def _planned(context: Context) -> bool:
    return context.bench.planned is not None


def _marking(context: Context) -> bool:
    return context.looking.low is not None


def _numbered(context: Context) -> bool:
    return any(answer.number for answer in context.now.answers)


def _gathered(context: Context) -> bool:
    return bool(context.now.steps)


def _plan_open(context: Context) -> bool:
    return context.looking.drawer == "plan" or context.looking.why is not None


def _digits_for_list(context: Context) -> bool:
    """The number keys are the list's, unless the plan beside it says what its own ones do; a click
    on the list, which comes as a number, always is.
    """
    return _gathered(context) and (isinstance(context.value, int) or not _plan_open(context))


def _digits_for_why(context: Context) -> bool:
    taken = _marking(context) or _numbered(context) or _digits_for_list(context)
    return _planned(context) and not taken


def _several(context: Context) -> bool:
    return len(context.bench.wheels) > (0 if context.bench.lost else 1)


def _aside(context: Context) -> bool:
    return context.state is not None and bool(context.state.job.conflicts)


def _on_panel(
    command: str,
    title: str,
    run: Callable[[Context], Outcome | None],
    *keys: str,
    scope: Scope = "bench",
) -> Command:
    return Command(command, title, run, keys, scope, lambda context: context.offers(command))


def _inner(command: str, run: Callable[[Context], Outcome | None]) -> Command:
    return Command(command, "", run, listed=False)


def _window(run: Callable[[Context], object]) -> Callable[[Context], Outcome | None]:
    def done(context: Context) -> None:
        run(context)

    return done


def main_action(context: Context) -> Outcome | None:
    """Give the panel's first answer if Enter may; else say which key does."""
    answers = context.now.answers
    if not answers:
        return None
    if answers[0].enter:
        return BY_ID[answers[0].command].run(context)
    beside = {"back", *TRAINING_ANSWERS}
    keys = [
        key
        for answer in answers
        if answer.command not in beside and (key := shown_key(answer.command))
    ]
    if not keys:
        raise Complaint(tr("Enter does not do this. Choose a button."))
    raise Complaint(
        tr("Enter does not answer this. Press {keys}.").format(keys=tr(" or ").join(keys))
    )


_PAGES = (
    Command("go_bench", N_("Bench"), navigation.go("bench"), ("Ctrl+1",), "anywhere"),
    Command("go_day", N_("Day: what to do when, and what to take"), navigation.go("day"), ("Ctrl+2",), "anywhere"),
    Command("go_shelf", N_("Shelf: parts and stock"), navigation.go("shelf"), ("Ctrl+3",), "anywhere"),
    Command("go_practice", N_("Shop setup: methods, figures, hours, tools"), navigation.go("practice"), ("Ctrl+4",), "anywhere"),
    Command("go_logbook", N_("Logbook: find anything"), navigation.go("logbook"), ("Ctrl+5", "Ctrl+K"), "anywhere"),
    Command("go_insights", N_("Insights: what the log says"), navigation.go("insights"), ("Ctrl+6",), "anywhere"),
    Command("go_training", N_("Training: wheels to practice on"), navigation.go("training"), ("Ctrl+7",), "anywhere"),
)  # fmt: skip

_WHEELS = (
    Command("new_wheel", N_("New wheel"), navigation.new_wheel, ("Ctrl+N",), "anywhere"),
    Command("duplicate", N_("Duplicate this wheel"), prompts.duplicate, ("A",), applies=_wheel),
    Command("fleet", N_("Many wheels like this one"), prompts.ask_fleet, ("M",), applies=_wheel),
    Command("next_wheel", N_("Next wheel"), partial(navigation.step_wheel, by=1), ("Ctrl+Down",), "anywhere", _several),
    Command("previous_wheel", N_("Previous wheel"), partial(navigation.step_wheel, by=-1), ("Ctrl+Up",), "anywhere", _several),
    Command("what_now", N_("What now? The wheel that the schedule wants next"), navigation.what_now, ("J",), applies=_wheel),
    _on_panel("archive", N_("Take a finished wheel off the bench"), steps.archive, "Delete"),
    _on_panel("new_visit", N_("New visit: a wheel that was handed over is back"), steps.new_visit, "Ctrl+R", scope="anywhere"),
    Command("undo", N_("Undo"), partial(prompts.undo, again=False), ("Ctrl+Z",), "anywhere"),
    Command("redo", N_("Redo"), partial(prompts.undo, again=True), ("Ctrl+Shift+Z",), "anywhere"),
    _on_panel("raise_limit", N_("Raise the limit"), prompts.raise_limit),
    Command("take_mine", N_("Use my value where another window was faster"),
            _window(lambda c: c.bench.editor.take_any_mine()), ("Ctrl+J",), "anywhere", _aside),
)  # fmt: skip

_LOOKING = (
    Command("first_field", N_("Entries: the fields of this stage"), navigation.first_field, ("E",), applies=_wheel),
    Command("show_plan", N_("Plan: every figure, with its why"), navigation.open_drawer("plan"), ("P",), applies=_wheel),
    Command("show_choices", N_("Options at this stage, side by side; Enter takes one"), navigation.open_drawer("choices"), ("C",), applies=_wheel),
    Command("show_log", N_("Log of this wheel"), navigation.open_drawer("log"), ("G",), applies=_wheel),
    Command("show_steps", N_("All steps of this wheel"), navigation.open_drawer("steps"), ("T",), applies=_wheel),
    Command("show_section", N_("Cross-section of rim and tire"), navigation.show("section"), ("S",), applies=_wheel),
    Command("show_loupe", N_("Close-up of both bead seats"), navigation.show("loupe"), ("Z",), applies=_wheel),
    Command("show_own", N_("Picture of the step"), navigation.show("own"), ("W",), applies=_wheel),
    Command("show_finish", N_("Last section: move it with the mouse or , and ."), navigation.show("finish"), ("F",), applies=_wheel),
    Command("show_trace", N_("Live gauge"), navigation.show("trace"), ("V",), applies=_wheel),
    Command("show_plot", N_("Graph: the leak test, the pressures of its visits"), navigation.show("plot"), ("K",), applies=_wheel),
    Command("one_line", N_("Say the check-in in one line"), navigation.say_in_one_line, ("Ctrl+L",), "anywhere", _wheel),
    Command("next_stage", N_("Fields of the next stage"), partial(navigation.turn_stage, by=1), ("Ctrl+Right",), "anywhere", _wheel),
    Command("previous_stage", N_("Fields of the stage before"), partial(navigation.turn_stage, by=-1), ("Ctrl+Left",), "anywhere", _wheel),
    Command("why", N_("Why: the working behind a pick"), navigation.why, DIGITS, applies=_digits_for_why, listed=False),
    Command("waits", N_("Waits for the customer or a part"), partial(navigation.go_to_field, path="waits.on"), applies=_wheel),
    _on_panel("show_care", N_("Aftercare"), navigation.show_at("choices", "set")),
    _on_panel("show_leaks", N_("Where it bubbles"), navigation.show_at("choices", "hold")),
    _on_panel("go_to_missing", N_("Go to the field"), navigation.go_to_missing),
    _on_panel("go_to_stop", N_("Go to the field"), navigation.go_to_stop),
)  # fmt: skip

_STEPS = (
    _on_panel("finish", N_("Stage done"), steps.finish_stage),
    *(_on_panel(f"work_{kind}", words, partial(steps.choose_work, kind=kind)) for kind, words in WORK_WORDS.items()),
    _on_panel("renew_sealant", N_("Replace the sealant"), partial(steps.renew, path="work.new_sealant")),
    _on_panel("renew_tape", N_("Tape it again too"), partial(steps.renew, path="work.new_tape")),
    _on_panel("promise", N_("Promise the time that can be kept nine times in ten"), steps.promise, "U"),
    Command("step_done", N_("Step done"), steps.finish_step, applies=lambda c: c.offers("step_done") or _gathered(c)),
    Command("one_done", N_("This step of the list"), steps.finish_one, DIGITS, applies=_digits_for_list, listed=False),
    Command("point_up", N_("The step before"), partial(steps.point, by=-1), ("Up",), applies=_gathered, listed=False),
    Command("point_down", N_("The next step"), partial(steps.point, by=1), ("Down",), applies=_gathered, listed=False),
    _on_panel("stage_done", N_("Steps done, up to the next question, wait or amount"), steps.finish_whole_stage, "D"),
    _on_panel("go_on", N_("Skip the wait (logged)"), steps.end_wait),
    _on_panel("answer_yes", N_("Yes"), partial(steps.answer, sound=True), "Y"),
    _on_panel("answer_no", N_("No"), partial(steps.answer, sound=False), "N"),
    _on_panel("back", N_("Undo step"), steps.back, "B"),
    _on_panel("tape_again", N_("Tape it again"), steps.tape_again),
    _on_panel("one_more_layer", N_("Add a layer of tape"), steps.one_more_layer),
    _on_panel("weeps", N_("Only the side walls weep"), steps.weeps),
    _on_panel("fixed", N_("Fixed and rechecked"), steps.fixed, "Y"),
    _on_panel("override", N_("Override a stop, with a reason and your name"), steps.override, "Ctrl+O", scope="anywhere"),
    _on_panel("read_gauge", N_("Log the reading"), steps.read_gauge),
    _on_panel("hold_again", N_("Fixed: test again"), steps.hold_again),
    _on_panel("hand_over", N_("Hand over"), steps.hand_over),
    _on_panel("top_up_done", N_("Log sealant that was added"), steps.top_up),
    _on_panel("log_dip", N_("Log a dipstick reading"), steps.log_dip, "I"),
)  # fmt: skip

_SEATING = (
    _on_panel("both_up", N_("Seated"), steps.both_up, "Y"),
    _on_panel("one_low", N_("Low spot"), steps.one_low, "L"),
    _on_panel("did_not", N_("Not yet, or lost air"), steps.did_not, "N"),
    _on_panel("no_pressure", N_("No pressure builds"), steps.no_pressure_builds, "-"),
    _on_panel("falls_off", N_("Even, but comes off its seat when the air is out"), steps.falls_off, "O"),
    _on_panel("hisses", N_("Hisses at spoke holes or nipples"), steps.hisses, "Q"),
    *(_on_panel(f"change_{one}", REMEDY_WORDS[one], partial(steps.change, remedy=one)) for one in steps.REMEDIES),
    _on_panel("log_low", N_("Log low spots"), steps.log_low),
    _on_panel("side_left", N_("Left side"), partial(steps.turn_to, side="left"), "Left"),
    _on_panel("side_right", N_("Right side"), partial(steps.turn_to, side="right"), "Right"),
    _on_panel("inspected", N_("Inspected: all good"), steps.inspected, "Y"),
    Command("reached", N_("Type the pressure reached"), steps.type_figure, ("R",), applies=lambda c: bool(c.now.asks)),
    Command("mark_sector", N_("Mark a low spot"), steps.mark, DIGITS, applies=_marking, listed=False),
)  # fmt: skip

_TRAINING = (
    Command("look", N_("Look"), prompts.look, ("F2",), "anywhere", prompts.is_training),
    Command("use_pump", N_("Pump, or read the gauge"), prompts.use_pump, ("F3",), "anywhere", prompts.is_training),
    Command("thermometer", N_("Thermometer"), prompts.thermometer, ("F4",), "anywhere", prompts.is_training),
)  # fmt: skip

_ASKING = (
    _on_panel("make_fleet", N_("Make them"), prompts.make_fleet, "Ctrl+Return", scope="anywhere"),
    Command("print", N_("Print & export"), prompts.ask_print, ("X",), applies=_wheel),
    _on_panel("ask_printer", N_("Print on a printer"), prompts.ask_printer),
    *(Command(f"print_{way}", words, partial(prompts.print_out, way=way), applies=_planned, listed="typed") for way, words in PRINTED.items()),
    Command("by_number", N_("The answer with this number"), prompts.by_number, DIGITS, applies=_numbered, listed=False),
    *(Command(f"write_{way}", words, partial(prompts.write_out, way=way), applies=_planned, listed="typed")
      for way, (_ending, words) in WAYS.items()),
    Command("guide", N_("Troubleshooting, at the bench or at the roadside"), prompts.open_guide, ("H",), applies=_wheel),
    _on_panel("guide_yes", N_("Yes"), partial(prompts.guide_on, yes=True), "Y"),
    _on_panel("guide_no", N_("No"), partial(prompts.guide_on, yes=False), "N"),
    _on_panel("guide_log", N_("Log the diagnosis"), prompts.guide_log),
)  # fmt: skip

_WINDOW = (
    Command("main_action", N_("The main action, also from a field"), main_action, ("Ctrl+Return",), "anywhere",
            lambda c: bool(c.now.answers), listed=False),
    Command("leave", N_("Close what is open, or get out of the field"), navigation.leave, ("Esc",), "anywhere", listed=False),
    Command("actions", N_("Actions: everything that applies now"), _window(lambda c: c.window.toggle_list("actions")),
            ("Ctrl+Space",), "anywhere", listed=False),
    Command("keys", N_("All keys"), _window(lambda c: c.window.toggle_list("keys")), ("?",), "bench"),
    Command("far", N_("Far view: the step, read from three meters"), _window(lambda c: c.window.toggle_far()), ("F11",), "anywhere"),
    Command("tour", N_("Tour: the program in one minute"), _window(lambda c: c.window.begin_tour()), (), "anywhere", lambda c: c.window.demo),
    Command("silence", N_("Silence the alarm"), _window(lambda c: c.window.tools.silence()), ("F8",), "anywhere", lambda c: c.window.tools.sounding),
    Command("units", N_("Other units: bar, psi, kPa; mm, inch; ml, fl oz"), _window(navigation.next_units), ("Ctrl+U",), "anywhere"),
    Command("theme", N_("Light, dark or high contrast"), _window(lambda c: c.window.use_theme(c.window.theme.next())), ("Ctrl+T",), "anywhere"),
    Command("pace", N_("Pace: all plain steps at once, or step by step"), _window(navigation.next_pace), (), "anywhere"),
    Command("learning", N_("Learned figures: use them, or only the usual ones"), _window(navigation.turn_learning), (), "anywhere"),
    Command("larger", N_("Larger text"), _window(lambda c: c.window.use_theme(c.window.theme.sized(1))), ("Ctrl++", "Ctrl+="), "anywhere"),
    Command("smaller", N_("Smaller text"), _window(lambda c: c.window.use_theme(c.window.theme.sized(-1))), ("Ctrl+-",), "anywhere"),
    Command("take_mean", N_("Caliper: take the mean of readings that differ"),
            _window(lambda c: c.window.tools.caliper.take_questioned()), ("Ctrl+M",), "anywhere"),
    Command("export", N_("Export this job as a file"), _window(lambda c: c.window.exporter.export("job_file")), ("Ctrl+E",), "anywhere", _wheel),
    Command("export_all", N_("Export everything on the bench as a file"), _window(lambda c: c.window.exporter.export("everything"))),
    Command("export_setup", N_("Export setup and shelf as a file"), _window(lambda c: c.window.exporter.export_setup())),
    Command("import_setup", N_("Import setup, shelf or jobs from a file"), _window(lambda c: c.window.exporter.import_setup())),
)  # fmt: skip

_CLICKS = (
    _inner("first_units", navigation.first_units),
    _inner("first_air", navigation.first_air),
    _inner("first_tapes", navigation.first_tapes),
    _inner("first_line", navigation.first_line),
    _inner("choose_wheel", navigation.choose_wheel),
    _inner("look_at_stage", navigation.look_at_stage),
    _inner("go_to_field", navigation.go_to_field),
    _inner("take_choice", navigation.take_choice),
    _inner("point_at", steps.point_at),
    _inner("hit_sector", steps.hit_sector),
    _inner("connect_gauge", _window(lambda c: c.window.tools.gauge.connect_port())),
    _inner("simulate_gauge", _window(lambda c: c.window.tools.gauge.begin_simulator(c.value))),
    _inner("gauge_off", _window(lambda c: c.window.tools.gauge.off())),
    _inner("entered", navigation.entered),
)

_GROUPED = (
    (*_STEPS, *_SEATING, *_TRAINING),
    (*_LOOKING, *_ASKING),
    _WHEELS,
    (*_PAGES, *_WINDOW, *_CLICKS),
)
COMMANDS = tuple(
    msgspec.structs.replace(command, group=group)
    for group, commands in zip(GROUPS, _GROUPED, strict=True)
    for command in commands
)
BY_ID = {command.id: command for command in COMMANDS}


def shown_key(command: str) -> str:
    keys = BY_ID[command].keys
    return "" if len(keys) > 2 or not keys else keys[0].replace("Return", "Enter")


def by_key() -> dict[str, list[Command]]:
    """Return the commands of each key; the first that applies runs."""
    result: dict[str, list[Command]] = {}
    for command in COMMANDS:
        for key in command.keys:
            result.setdefault(key, []).append(command)
    return result


def key_lines() -> list[tuple[str, str]]:
    """Return (keys, titles) for the list of keys and the manual; commands that share a key are in
    one line.
    """
    result: dict[str, list[str]] = {"Enter": [tr("The main action")]}
    for command in COMMANDS:
        if command.keys:
            keys = "1 … 9, 0" if command.keys == DIGITS else ", ".join(command.keys)
            titles = result.setdefault(keys.replace("Return", "Enter"), [])
            if tr(command.title) not in titles:
                titles.append(tr(command.title))
    return [(keys, " · ".join(titles)) for keys, titles in result.items()]


#: The keys that matter most, with their commands; the others are in the Actions list.
KEYS_THAT_MATTER = (
    ("Enter", N_("Do the main action")),
    ("Y   N", N_("Yes, seated, fine · no, not yet")),
    ("R", N_("Type the pressure or amount")),
    ("B", N_("Undo the step")),
    ("E", N_("Entries: the fields of this stage")),
    ("P", N_("Plan: every figure, with its why")),
    ("C", "Options at this stage"),
    ("J", N_("What next? The wheel that is due")),
    ("Ctrl+N", "New wheel"),
    ("Ctrl+Z", N_("Undo")),
    ("F11", N_("Far view")),
    ("Ctrl+Space", N_("All actions, with their keys")),
)


def key_table() -> str:
    rows = [f"| `{keys}` | {title} |" for keys, title in key_lines()]
    return "\n".join(["| Key | What it does |", "| --- | --- |", *rows])
