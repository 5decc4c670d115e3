"""Every key of the program in one table: the window obeys it, the key map shows it."""

import msgspec

from inner_rim.words import tr


class KeyLine(msgspec.Struct, frozen=True):
    """A key, the command it gives, and the words for the key map."""

    key: str
    command: str
    words: str
    anywhere: bool = False


#: `anywhere` keys work while a field is being typed into; the others when none is.
KEYS: tuple[KeyLine, ...] = (
    KeyLine("Ctrl+1", "go_bench", "bench", True),
    KeyLine("Ctrl+2", "go_day", "day: by the clock, and what to take", True),
    KeyLine("Ctrl+3", "go_shelf", "shelf: parts and stock", True),
    KeyLine("Ctrl+4", "go_practice", "practice of the shop, tools", True),
    KeyLine("Ctrl+5, Ctrl+K", "go_logbook", "logbook: find anything", True),
    KeyLine("Ctrl+N", "new_wheel", "new wheel", True),
    KeyLine("Ctrl+Z", "undo", "undo an edit of the plan", True),
    KeyLine("Ctrl+Shift+Z", "redo", "redo", True),
    KeyLine("Ctrl+Return", "main_action", "the main action, also from a field", True),
    KeyLine("Return", "main_action", "the main action"),
    KeyLine("Ctrl+Down", "next_wheel", "next wheel", True),
    KeyLine("Ctrl+Up", "previous_wheel", "wheel before", True),
    KeyLine("Ctrl+Right", "next_stage", "look at the next stage", True),
    KeyLine("Ctrl+Left", "previous_stage", "look at the stage before", True),
    KeyLine("Ctrl+U", "units", "other units: bar, psi, kPa; mm, inch; ml, fl oz", True),
    KeyLine("Ctrl+T", "theme", "light or dark", True),
    KeyLine("Ctrl++", "larger", "larger text", True),
    KeyLine("Ctrl+-", "smaller", "smaller text", True),
    KeyLine("Ctrl+M", "take_mean", "caliper: take the mean of readings that differ", True),
    KeyLine("Ctrl+J", "take_mine", "use my value where another window was faster", True),
    KeyLine("Ctrl+E", "export", "export this job as a file", True),
    KeyLine("1 … 9, 0", "why", "why: the arithmetic behind a pick"),
    KeyLine("E", "first_field", "enter figures: into the first field"),
    KeyLine("S", "show_section", "section"),
    KeyLine("W", "show_wheel", "wheel from the side"),
    KeyLine("F", "show_finish", "finish: the slack, the finish point moved by the mouse or , and ."),
    KeyLine("V", "show_trace", "trace of the gauge, live"),
    KeyLine("C", "show_choices", "choices: what there is, side by side; Enter takes a school"),
    KeyLine("T", "show_steps", "steps of this wheel"),
    KeyLine("G", "show_log", "log"),
    KeyLine("L", "one_low", "seating: one side low"),
    KeyLine("N", "did_not", "no: did not come up, lost air, not sound"),
    KeyLine("R", "reached", "type the pressure reached"),
    KeyLine("D", "stage_done", "every step of this stage is done"),
    KeyLine("B", "back", "back: take the step or the stage before up again"),
    KeyLine("O", "override", "pass a stop, with reason and name"),
    KeyLine("A", "same_again", "same again: a wheel alike in this job"),
    KeyLine("M", "fleet", "many: a fleet of wheels alike in this job"),
    KeyLine("I", "log_dip", "log a dipstick reading of a wheel that is out"),
    KeyLine("X", "papers", "papers: card, customer's sheet, calendar, files"),
    KeyLine("H", "trouble", "help: the guide for trouble, bench and roadside"),
    KeyLine("P", "put_away", "put a finished wheel away"),
    KeyLine("Y", "new_visit", "a wheel that was handed over is back: new job on it"),
    KeyLine("?", "key_map", "this list"),
    KeyLine("Esc", "leave", "leave the field, close what is open", True),
)


def lines() -> list[tuple[str, str]]:
    """Return (key, words) of the key map."""
    return [(line.key, tr(line.words)) for line in KEYS]
