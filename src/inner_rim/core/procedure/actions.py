"""Every action of the job as data: its minutes, tools, what must hold before it, what holds after
it and what it undoes.

Minutes and waits are common practice, no published source. Codes are agreed names: other programs
rely on them.
"""

from collections.abc import Callable
from typing import Literal, get_args, get_type_hints

import msgspec

from inner_rim.core.procedure.state import (
    BEADS_MOVED,
    TUBE_SEATED,
    Facts,
    WheelState,
    after_moving,
    conditions,
    open_arrow,
)
from inner_rim.core.record.job import Remedy
from inner_rim.core.record.spoken import Stage
from inner_rim.core.record.why import Message
from inner_rim.words import N_

Asks = Literal["", "dose", "dip", "layers", "valve"]

DRYING_MINUTES = 15.0
WARMING_MINUTES = 10.0
FLAT_MINUTES_READY = 15.0
FLAT_MINUTES_WEEPING = 120.0
HOLD_MINUTES = 12 * 60.0
#: How long a wheel is watched whose beads were not reseated.
WATCH_MINUTES = 15.0
PRESSING_MINUTES = 30.0
TOP_UP_EVERY_MINUTES = 180.0


class Action(msgspec.Struct, frozen=True):
    """One thing to do, or a question to answer by looking.

    Attributes:
        code: what it is; the same thing done twice has the same code.
        minutes: hands-on time.
        needs: conditions that must hold before it.
        gives: facts that hold after it.
        tools: what the hands need for it.
        question: code of the question it is, empty for something to do.
        cautions: what to mind while the hand is about to do it, at most two.
        pressure_step: it is a pressure step of seating, which is answered by attempts.
        key: its name in the log, unique within a wheel.
    """

    stage: Stage
    code: str
    text: Message
    minutes: float = 1.0
    wait_minutes: float = 0.0
    needs: Facts = ()
    gives: Facts = ()
    tools: tuple[str, ...] = ()
    question: str = ""
    cautions: tuple[Message, ...] = ()
    asks: Asks = ""
    pressure_kpa: float = 0.0
    pressure_step: bool = False
    key: str = ""


class Kind(msgspec.Struct, frozen=True):
    """What every action of one code has in common; see `Action`.

    Attributes:
        undoes: beginnings of the codes of what has to be done again after it.
    """

    minutes: float = 1.0
    wait_minutes: float = 0.0
    needs: Facts = ()
    gives: Facts = ()
    tools: tuple[str, ...] = ()
    undoes: tuple[str, ...] = ()


_BOTH_OFF = conditions("first=off", "last=off")
_BOTH_ON = conditions("first=on|seated", "last=on|seated")
_BOTH_SEATED = conditions("first=seated", "last=seated")
_AT_PRESSURE = conditions("air=up", "core=in", *_BOTH_SEATED)
_JUDGED = conditions(*_AT_PRESSURE, "line=even")
_AIR_IN = conditions("air=up", "first=seated", "last=seated", "line=unseen", "valve_at=any")
_FLAT_ON = conditions("air=flat", *_BOTH_ON)
_TURNED = conditions("valve_at=any")
_TAPED = conditions("tape=sound|not_needed", "to_lay=0")

KINDS: dict[str, Kind] = {
    "check_in.read": Kind(2.0, tools=("caliper",)),
    "check_in.approval": Kind(),
    "check_in.weigh": Kind(0.5, tools=("scale",)),
    "strip.deflate": Kind(
        0.3,
        needs=conditions("air=up", "clear=yes"),
        gives=conditions("air=flat", "line=unseen"),
        tools=(N_("valve core tool"),),
    ),
    "strip.break_beads": Kind(
        needs=conditions("air=flat"),
        gives=conditions("first=on", "last=on", "line=unseen"),
        tools=(N_("blunt plastic tool"),),
    ),
    "strip.open_one": Kind(
        1.5,
        needs=conditions("air=flat", "last=partial|on"),
        gives=conditions("last=off"),
        tools=("levers",),
        undoes=BEADS_MOVED,
    ),
    "strip.tire_off": Kind(
        1.5,
        needs=conditions("air=flat", "first=off|on", "last=off|partial|on"),
        gives=conditions("first=off", "last=off", "wet=no"),
        tools=("levers",),
        undoes=("tire.", "bead.", "insert.look", "rim.wipe", "air.press", *BEADS_MOVED),
    ),
    "strip.tube_out": Kind(
        0.5,
        needs=conditions("tube=in", "last=off"),
        gives=conditions("tube=out", "valve=none", "sealant=none"),
    ),
    "strip.insert_out": Kind(
        2.0,
        needs=conditions("has_insert=yes", "insert=on", "last=off"),
        gives=conditions("insert=off"),
    ),
    "strip.old_insert_out": Kind(
        2.0, needs=conditions("insert=on", "last=off"), gives=conditions("insert=off")
    ),
    "strip.sealant_out": Kind(
        3.0,
        needs=conditions("sealant=in", "last=off"),
        gives=conditions("sealant=none"),
        tools=("rags", "bucket", "gloves"),
        undoes=("sealant.", "dip."),
    ),
    "strip.valve_out": Kind(
        0.5,
        needs=conditions("valve=in", "insert=off", "last=off"),
        gives=conditions("valve=none", "core=in"),
    ),
    "strip.tape_off": Kind(
        3.0,
        needs=conditions("tape=bad", "valve=none", "insert=off", *_BOTH_OFF),
        gives=conditions("tape=none", "bed=dirty", "hole=closed"),
        tools=(N_("blunt plastic tool"),),
        undoes=("tape.", "hole."),
    ),
    "strip.rim_strip_off": Kind(
        0.5, needs=conditions("bed=strip", *_BOTH_OFF), gives=conditions("bed=dirty")
    ),
    "rim.look": Kind(0.3, needs=_BOTH_OFF, gives=conditions("rim=sound")),
    "rim.walls": Kind(0.3, needs=conditions("last=off")),
    "rim.clean": Kind(
        3.0,
        needs=conditions("bed=dirty", "rim=sound", *_BOTH_OFF),
        gives=conditions("bed=wet"),
        tools=(N_("isopropyl alcohol"), "rags"),
    ),
    "rim.dry": Kind(0.2, DRYING_MINUTES, needs=conditions("bed=wet"), gives=conditions("bed=dry")),
    "rim.wipe": Kind(2.0, needs=conditions("last=off"), tools=("rags", N_("isopropyl alcohol"))),
    "strip.rim_strip_in": Kind(needs=conditions("bed=dry", "tape=none")),
    "tape.find": Kind(
        needs=conditions("tape=none|laid|sound", "valve=none", "bed=dry|taped", *_BOTH_OFF),
        gives=conditions("bed=taped", "tape=laid", "hole=closed", "to_lay=0"),
        undoes=("tape.press", "tape.warm", "hole."),
    ),
    "tape.trim": Kind(2.0, needs=conditions("bed=dry|taped"), tools=("scissors",)),
    "tape.lay": Kind(
        4.0,
        needs=conditions("tape=none|laid|sound", "valve=none", "bed=dry|taped", *_BOTH_OFF),
        gives=conditions("bed=taped", "tape=laid", "hole=closed"),
        tools=("tape", "scissors"),
        undoes=("tape.press", "tape.warm", "hole."),
    ),
    "tape.overlay": Kind(
        3.0,
        needs=conditions("tape=laid", "to_lay=0", "valve=none", *_BOTH_OFF),
        tools=(N_("electrical tape"), "scissors"),
    ),
    "tape.press": Kind(1.5, needs=conditions("tape=laid"), tools=("rags",)),
    "tape.warm": Kind(2.0, needs=conditions("tape=laid"), tools=(N_("hair dryer"),)),
    "tape.look": Kind(
        0.5, needs=conditions("tape=laid", "to_lay=0", "to_cover=0"), gives=conditions("tape=sound")
    ),
    "tape.keep_look": Kind(
        0.5, needs=conditions("tape=old", "last=off"), gives=conditions("tape=sound")
    ),
    "hole.open": Kind(needs=_TAPED, gives=conditions("hole=open"), tools=("pick",)),
    "valve.fit": Kind(
        2.0,
        needs=conditions(*_TAPED, "hole=open", "insert=off", "valve=none", "last=off"),
        gives=conditions("valve=in", "core=in"),
    ),
    "valve.core_check": Kind(0.5, needs=conditions("valve=in"), tools=(N_("valve core tool"),)),
    "tire.look": Kind(1.0, needs=conditions("last=off"), gives=conditions("tire=sound")),
    "tire.thorns": Kind(2.0, needs=conditions("last=off"), tools=("gloves",)),
    "tire.wipe": Kind(
        1.5, needs=conditions("tire=sound"), gives=conditions("tire=ready"), tools=("rags",)
    ),
    "tire.warm": Kind(0.3, WARMING_MINUTES, tools=(N_("hair dryer"),)),
    "tire.arrow": Kind(0.2, needs=conditions("first=off"), gives=conditions("arrow=confirmed")),
    "tire.arrow_again": Kind(
        0.2,
        needs=conditions("has_insert=yes", "insert=off", "last=off"),
        gives=conditions("arrow_again=confirmed"),
    ),
    "insert.look": Kind(0.5, needs=conditions("has_insert=yes")),
    "insert.on": Kind(
        4.0,
        needs=conditions(
            *_TAPED,
            "has_insert=yes",
            "valve=in",
            "arrow_again=confirmed|none",
            "last=off",
            "insert=off",
        ),
        gives=conditions("insert=on"),
        tools=(N_("clamps or a strap"),),
    ),
    "bead.wet": Kind(
        0.5,
        needs=conditions("last=off|partial|on", "air=flat"),
        gives=conditions("wet=yes"),
        tools=(N_("soap or mounting fluid"), "brush"),
    ),
    "bead.first": Kind(
        2.0,
        needs=conditions(*_TAPED, "first=off", "last=off", "tire=ready", "arrow=confirmed|none"),
        gives=conditions("first=on"),
    ),
    "bead.partial": Kind(
        3.0,
        needs=conditions(
            *_TAPED, "valve=in", "air=flat", "first=on|seated", "last=off", "arrow=confirmed|none"
        ),
        gives=conditions("last=partial"),
        tools=("levers",),
    ),
    "bead.second": Kind(
        3.0,
        needs=conditions(
            *_TAPED, "valve=in|tube", "first=on|seated", "last=off", "arrow=confirmed|none"
        ),
        gives=conditions("last=on"),
        tools=("levers",),
    ),
    "bead.close": Kind(
        1.5,
        needs=conditions("last=partial", "sealant=in"),
        gives=conditions("last=on"),
        tools=("levers",),
    ),
    "bead.open_one": Kind(
        needs=conditions("air=flat", "last=seated"),
        gives=conditions("last=on", "line=unseen"),
        tools=(N_("blunt plastic tool"),),
    ),
    "bead.off_one": Kind(
        1.5,
        needs=conditions("air=flat", "first=on|seated", "last=partial|on"),
        gives=conditions("last=off", "wet=no"),
        tools=("levers",),
        undoes=BEADS_MOVED,
    ),
    "bead.refit": Kind(
        4.0,
        needs=conditions(*_TAPED, "valve=in", "first=on|seated", "last=off"),
        gives=conditions("last=on"),
        tools=("levers",),
    ),
    "tube.in": Kind(
        2.0,
        needs=conditions(
            *_TAPED,
            "sealant=none",
            "insert=off",
            "valve=none",
            "tube=out",
            "first=on|seated",
            "last=off",
        ),
        gives=conditions("tube=in", "valve=tube", "core=in"),
        tools=("tube",),
    ),
    "tube.out": Kind(
        1.0,
        needs=conditions("tube=in", "air=flat", "last=off"),
        gives=conditions("tube=out", "valve=none"),
    ),
    "core.out": Kind(
        0.3,
        needs=conditions("valve=in", "air=flat", "core=in"),
        gives=conditions("core=out"),
        tools=(N_("valve core tool"),),
    ),
    "core.in": Kind(
        0.3,
        needs=conditions("core=out", "air=flat"),
        gives=conditions("core=in"),
        tools=(N_("valve core tool"),),
    ),
    "sealant.shake": Kind(0.5, tools=("gloves",)),
    "sealant.pour": Kind(
        1.5,
        needs=conditions("sealant=none", "first=on|seated", "last=partial", "air=flat"),
        gives=conditions("sealant=in"),
        tools=(N_("measuring cup"),),
    ),
    "sealant.inject": Kind(
        2.0,
        needs=conditions("ports=yes", "valve=in", *_FLAT_ON, "injectable=yes", "core=out"),
        gives=conditions("sealant=in"),
        tools=("injector",),
    ),
    "dip.read": Kind(0.5, needs=conditions("air=flat", "core=out"), tools=("dipstick",)),
    "air.burst": Kind(0.5, needs=conditions("valve=in", *_BOTH_ON), gives=_AIR_IN, tools=("pump",)),
    "air.inflate": Kind(
        1.0,
        needs=conditions("valve=in|tube", "core=in", *_BOTH_SEATED, "stays=yes"),
        gives=conditions("air=up", "line=unseen", "valve_at=any"),
        tools=("pump",),
    ),
    "air.step": Kind(
        1.0,
        needs=conditions("valve=in|tube", *_BOTH_ON),
        gives=_AIR_IN,
        tools=("pump", N_("eye and ear protection")),
    ),
    "air.press": Kind(0.3, PRESSING_MINUTES, needs=conditions("tube=in", *_JUDGED), gives=_JUDGED),
    "valve.top": Kind(0.1, gives=conditions("valve_at=top")),
    "air.deflate": Kind(
        0.3, needs=conditions("air=up", "clear=yes"), gives=conditions("air=flat", "line=unseen")
    ),
    "air.source": Kind(
        1.0, needs=conditions("air=flat"), tools=(N_("compressor or charge bottle"),)
    ),
    "bead.lift": Kind(2.0, needs=_FLAT_ON, tools=("levers",)),
    "bead.level": Kind(2.5, needs=_FLAT_ON, tools=("levers",)),
    "bead.push": Kind(1.0, needs=_FLAT_ON, tools=(N_("soap or mounting fluid"), "brush")),
    "bead.strap": Kind(2.0, needs=_FLAT_ON, tools=(N_("strap"),)),
    "insert.straighten": Kind(3.0, needs=conditions("insert=on", *_FLAT_ON)),
    "line.look": Kind(0.5, needs=_AT_PRESSURE, gives=conditions("line=even")),
    "dry.test": Kind(0.3, 1.0, needs=conditions("sealant=none", *_JUDGED)),
    "dry.stay": Kind(
        0.3, needs=conditions(*_BOTH_SEATED, "air=flat"), gives=conditions("stays=yes")
    ),
    "spin.look": Kind(0.5, needs=_JUDGED, gives=_TURNED),
    "hold.shake": Kind(1.0, needs=_JUDGED, gives=_TURNED, tools=("pump",)),
    "hold.flat_left": Kind(
        0.3, FLAT_MINUTES_READY, needs=_JUDGED, gives=_TURNED, tools=(N_("bucket or stand"),)
    ),
    "hold.flat_right": Kind(
        0.3, FLAT_MINUTES_READY, needs=_JUDGED, gives=_TURNED, tools=(N_("bucket or stand"),)
    ),
    "hold.top_up": Kind(1.5, TOP_UP_EVERY_MINUTES, needs=_JUDGED, gives=_TURNED, tools=("pump",)),
    "hold.soap": Kind(1.5, needs=_JUDGED, tools=(N_("soapy water"),)),
    "hold.read": Kind(0.3, HOLD_MINUTES, needs=_JUDGED, tools=("gauge",)),
    "repair.find": Kind(
        3.0, needs=conditions(*_BOTH_ON, "air=up", "core=in"), tools=(N_("soapy water"),)
    ),
    "sealant.look": Kind(0.3),
    "repair.lay": Kind(
        1.0, FLAT_MINUTES_READY, needs=_JUDGED, gives=_TURNED, tools=(N_("bucket or stand"),)
    ),
    "repair.bead_look": Kind(0.5, needs=_JUDGED, tools=(N_("soapy water"),)),
    "repair.plug": Kind(2.0, tools=(N_("plug kit"),)),
    "repair.patch": Kind(
        5.0, 5.0, needs=conditions("sealant=none", "last=off"), tools=(N_("patch kit"),)
    ),
    "repair.boot": Kind(2.0, needs=conditions("last=off"), tools=("boot",)),
    "repair.valve": Kind(
        1.5, needs=conditions("valve=in", "air=flat"), tools=(N_("valve core tool"),)
    ),
    "set.pressure": Kind(0.5, needs=_JUDGED, tools=("pump", "gauge")),
    "set.weigh": Kind(0.5, needs=_JUDGED, tools=("scale",)),
    "set.sign": Kind(0.5, needs=_JUDGED),
}


def action(stage: Stage, code: str, text: Message, **more: object) -> Action:
    """Return an action of a code, with what its kind says and what this wheel says otherwise."""
    return Action(stage, code, text, **{**_FIELDS[code], **more})  # type: ignore[arg-type]


#: What every action of a code has in common, as its fields.
_FIELDS: dict[str, dict[str, object]] = {
    code: {name: getattr(kind, name) for name in kind.__struct_fields__ if name != "undoes"}
    for code, kind in KINDS.items()
}


def _tire_taken_off(state: WheelState) -> str:
    """What is known of a tire that comes off: what was checked in this job stays checked; sealant
    is wiped off again.
    """
    return "sound" if state.tire == "ready" and state.sealant == "in" else state.tire


#: What an action changes that depends on the state before it.
_BESIDES: dict[str, Callable[[WheelState], dict[str, object]]] = {
    "strip.tire_off": lambda state: {**open_arrow(state), "tire": _tire_taken_off(state)},
    "strip.break_beads": lambda state: {
        name: "on" if bead == "seated" else bead
        for name, bead in (("first", state.first), ("last", state.last))
    },
    "tape.lay": lambda state: {"to_lay": max(0, state.to_lay - 1)},
    "tape.find": lambda state: {"to_lay": 0},
    "tape.overlay": lambda state: {"to_cover": max(0, state.to_cover - 1)},
    "hold.top_up": lambda state: {"top_ups": state.top_ups + 1},
}


#: The actions of a remedy at the wheel, in the order in which they are taken; a layer, and a tube,
#: are work of their own.
REMEDY_ACTIONS: dict[Remedy, str] = {
    "core_out": "core.out",
    "bigger_source": "air.source",
    "warm": "tire.warm",
    "straighten": "insert.straighten",
    "push_spot": "bead.push",
    "lower_side": "bead.level",
    "wet": "bead.wet",
    "lift": "bead.lift",
    "strap": "bead.strap",
}
REMEDY_OF: dict[str, Remedy] = {code: remedy for remedy, code in REMEDY_ACTIONS.items()}


def applies(remedy: Remedy, state: WheelState) -> bool:
    """Return whether a remedy changes something on a wheel as it is: a core that is in, an insert
    that is on.
    """
    if remedy == "core_out":
        return state.valve == "in" and state.core == "in"
    return remedy != "straighten" or state.insert == "on"


def code_of(key: str) -> str:
    """Return the code of an action by its name in the log.

    >>> code_of("tape.lay.2"), code_of("tape.lay")
    ('tape.lay', 'tape.lay')
    """
    head, _, number = key.rpartition(".")
    return head if number.isdecimal() else key


def perform(state: WheelState, key: str) -> WheelState:
    """Return the state after an action, by its name in the log; one that this program does not know
    changes nothing.
    """
    code = code_of(key)
    kind = KINDS.get(code)
    if kind is None:
        return state
    besides = _BESIDES[code](state) if code in _BESIDES else {}
    kept = (
        (one for one in state.did if not one.startswith(kind.undoes)) if kind.undoes else state.did
    )
    if "hold." in kind.undoes:
        besides = {**besides, "top_ups": 0}
    remedy = REMEDY_OF.get(code)
    if remedy in state.wanted:
        besides = {
            **besides,
            "wanted": state.wanted - {remedy},
            "changed": state.changed | {remedy},
        }
    after = state.after(tuple(fact for fact in kind.gives if fact.field not in besides))
    # as older logs have it, without its steps
    seated = (TUBE_SEATED,) if code == "air.press" else ()
    after = msgspec.structs.replace(after, did=frozenset((*kept, code, *seated)), **besides)
    return after_moving(state, after)


def _check_facts() -> None:
    """Raise where an action needs or gives an impossible state: a slip in the table above."""
    kinds = get_type_hints(WheelState)
    for code, kind in KINDS.items():
        for fact in (*kind.needs, *kind.gives):
            if fact.field in ("clear", "injectable"):  # of several fields together
                continue
            known = get_args(kinds[fact.field]) or tuple(str(n) for n in range(10))
            if unknown := set(fact.values) - set(known):
                raise ValueError(f"{code}: {fact.field} is never {unknown}")


_check_facts()
