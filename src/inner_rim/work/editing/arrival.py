"""How a wheel came in, as one answer for the facts of `arrival`."""

from inner_rim.work.editing.state import BenchWheel, usual_of

NOT_SAID = {"tube": "", "tire": "", "seated": "", "air": ""}
#: What each answer says of the facts; one that it leaves out is the usual one.
FACTS: dict[str, dict[str, str]] = {
    "tube": {**NOT_SAID, "tube": "yes"},
    "air": {"tube": "no", "tire": "on", "seated": "yes", "air": "yes"},
    "flat": {"tube": "no", "tire": "on", "seated": "no", "air": "no"},
    "off": {**NOT_SAID, "tube": "no", "tire": "off"},
}


def came_in(state: BenchWheel) -> tuple[str | None, str | None]:
    """Return how the wheel came in as it was said, and how it usually does; None where neither is known."""
    said = {name: state.value(f"arrival.{name}") for name in NOT_SAID}
    usual = {name: usual_of(state, f"arrival.{name}") for name in NOT_SAID}
    if all(value is None for value in said.values()):
        return None, _answer(usual) if usual["tire"] is not None else None
    return _answer({name: usual[name] if value is None else value for name, value in said.items()}), None


def _answer(facts: dict[str, object]) -> str | None:
    if facts["tire"] == "off":
        return "off"
    if facts["tire"] == "one_bead_off":
        return None  # none of the four
    if facts["tube"]:
        return "tube"
    return "air" if facts["air"] else "flat"
