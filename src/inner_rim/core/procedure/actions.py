"""Every action of the job as data: its minutes, tools, what must hold before it and what holds after it.

Minutes and waits are common practice, no published source. Codes are agreed names: other programs rely on them.
"""

from typing import Literal

import msgspec

from inner_rim.core.record.stages import Stage
from inner_rim.core.record.why import Message

Asks = Literal["", "dose", "dip", "weight"]

DRYING_MINUTES = 15.0
WARMING_MINUTES = 10.0
FLAT_MINUTES_READY = 15.0
FLAT_MINUTES_WEEPING = 120.0
HOLD_MINUTES = 12 * 60.0
PRESSING_MINUTES = 30.0
TOP_UP_EVERY_MINUTES = 180.0


class Action(msgspec.Struct, frozen=True):
    """One thing to do, or a question to answer by looking.

    Attributes:
        stage: the stage of the job it belongs to.
        code: what it is; the same thing done twice has the same code.
        text: a sentence.
        minutes: hands-on time.
        wait_minutes: to wait after it.
        needs: conditions that must hold before it.
        gives: facts that hold after it.
        tools: what the hands need for it.
        question: code of the question it is, empty for something to do.
        cautions: what to mind while the hand is about to do it, at most two.
        asks: what is written down with it.
        pressure_kpa: the pressure it sets, 0 for none.
        climb: it is part of the climb at seating, which is answered by attempts.
        key: its name in the log, unique within a wheel.
    """

    stage: Stage
    code: str
    text: Message
    minutes: float = 1.0
    wait_minutes: float = 0.0
    needs: tuple[str, ...] = ()
    gives: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    question: str = ""
    cautions: tuple[Message, ...] = ()
    asks: Asks = ""
    pressure_kpa: float = 0.0
    climb: bool = False
    key: str = ""


class Kind(msgspec.Struct, frozen=True):
    """What every action of one code has in common; see `Action`."""

    minutes: float = 1.0
    wait_minutes: float = 0.0
    needs: tuple[str, ...] = ()
    gives: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()


_BOTH_OFF = ("first=off", "last=off")
_BOTH_ON = ("first=on|seated", "last=on|seated")
_BOTH_SEATED = ("first=seated", "last=seated")
_AT_PRESSURE = ("air=up", "core=in", *_BOTH_SEATED)
_JUDGED = (*_AT_PRESSURE, "line=even")
_AIR_IN = ("air=up", "first=seated", "last=seated", "line=unseen")
_TAPED = "tape=sound|not_needed"

KINDS: dict[str, Kind] = {
    "check_in.read": Kind(2.0, tools=("caliper",)),
    "check_in.approval": Kind(),
    "check_in.weigh": Kind(0.5, tools=("scale",)),
    "strip.deflate": Kind(
        0.3, needs=("air=up",), gives=("air=flat", "line=unseen"), tools=("valve core tool",)
    ),
    "strip.break_beads": Kind(
        needs=("air=flat", "first=on|seated"), gives=("first=on", "last=on"), tools=("blunt plastic tool",)
    ),
    "strip.open_one": Kind(1.5, needs=("air=flat", "last=on|seated"), gives=("last=off",), tools=("levers",)),
    "strip.tire_off": Kind(
        1.5, needs=("air=flat",), gives=("first=off", "last=off", "wet=no"), tools=("levers",)
    ),
    "strip.tube_out": Kind(
        0.5, needs=("tube=in", "last=off"), gives=("tube=out", "valve=none", "sealant=none")
    ),
    "strip.insert_out": Kind(2.0, needs=("has_insert=yes", "insert=on", "last=off"), gives=("insert=off",)),
    "strip.old_insert_out": Kind(2.0, needs=("insert=on", "last=off"), gives=("insert=off",)),
    "strip.sealant_out": Kind(
        3.0, needs=("sealant=in", "last=off"), gives=("sealant=none",), tools=("rags", "bucket", "gloves")
    ),
    "strip.valve_out": Kind(0.5, needs=("valve=in", "last=off"), gives=("valve=none", "core=in")),
    "strip.tape_off": Kind(
        3.0,
        needs=("tape=old", *_BOTH_OFF),
        gives=("tape=none", "bed=dirty", "hole=closed"),
        tools=("blunt plastic tool",),
    ),
    "strip.rim_strip_off": Kind(0.5, needs=("bed=strip", *_BOTH_OFF), gives=("bed=dirty",)),
    "rim.look": Kind(0.3, needs=_BOTH_OFF, gives=("rim=sound",)),
    "rim.walls": Kind(0.3, needs=_BOTH_OFF),
    "rim.clean": Kind(
        3.0,
        needs=("bed=dirty", "rim=sound", *_BOTH_OFF),
        gives=("bed=wet",),
        tools=("isopropyl alcohol", "rags"),
    ),
    "rim.dry": Kind(0.2, DRYING_MINUTES, needs=("bed=wet",), gives=("bed=dry",)),
    "rim.wipe": Kind(2.0, needs=("last=off",), tools=("rags", "isopropyl alcohol")),
    "strip.rim_strip_in": Kind(needs=("bed=dry", "tape=none")),
    "tape.find": Kind(needs=("bed=dry|taped",), gives=("bed=taped", "tape=laid", "hole=closed")),
    "tape.trim": Kind(2.0, needs=("bed=dry|taped",), tools=("scissors",)),
    "tape.lay": Kind(
        4.0,
        needs=("bed=dry|taped", "tape=none|laid|sound"),
        gives=("bed=taped", "tape=laid", "hole=closed"),
        tools=("tape", "scissors"),
    ),
    "tape.press": Kind(1.5, needs=("tape=laid",), tools=("rags",)),
    "tape.warm": Kind(2.0, needs=("tape=laid",), tools=("hair dryer",)),
    "tape.look": Kind(0.5, needs=("tape=laid",), gives=("tape=sound",)),
    "tape.keep_look": Kind(0.5, needs=("tape=old", "last=off"), gives=("tape=sound",)),
    "hole.open": Kind(needs=("tape=sound",), gives=("hole=open",), tools=("pick",)),
    "valve.fit": Kind(
        2.0,
        needs=("hole=open", "insert=off", "valve=none", _TAPED, "last=off"),
        gives=("valve=in", "core=in"),
    ),
    "valve.core_check": Kind(0.5, needs=("valve=in",), tools=("valve core tool",)),
    "tire.look": Kind(1.0, needs=("last=off",), gives=("tire=sound",)),
    "tire.thorns": Kind(2.0, needs=("last=off",), tools=("gloves",)),
    "tire.wipe": Kind(1.5, needs=("tire=sound",), gives=("tire=ready",), tools=("rags",)),
    "tire.warm": Kind(0.3, WARMING_MINUTES),
    "tire.arrow": Kind(0.2, needs=("first=off",), gives=("arrow=confirmed",)),
    "tire.arrow_again": Kind(
        0.2, needs=("has_insert=yes", "insert=off", "last=off"), gives=("arrow_again=confirmed",)
    ),
    "insert.look": Kind(0.5, needs=("has_insert=yes", "insert=off")),
    "insert.on": Kind(
        4.0,
        needs=(
            "has_insert=yes",
            "insert=off",
            "valve=in",
            "arrow_again=confirmed|none",
            "last=off",
            _TAPED,
        ),
        gives=("insert=on",),
        tools=("clamps or a strap",),
    ),
    "bead.wet": Kind(
        0.5, needs=("last=off|partial|on",), gives=("wet=yes",), tools=("soap or mounting fluid", "brush")
    ),
    "bead.first": Kind(
        2.0,
        needs=("first=off", "last=off", "tire=ready", "arrow=confirmed|none", _TAPED),
        gives=("first=on",),
    ),
    "bead.partial": Kind(
        3.0,
        needs=("first=on|seated", "last=off", "valve=in", "arrow=confirmed|none"),
        gives=("last=partial",),
        tools=("levers",),
    ),
    "bead.second": Kind(
        3.0,
        needs=("first=on|seated", "last=off", "valve=in|tube", "arrow=confirmed|none"),
        gives=("last=on",),
        tools=("levers",),
    ),
    "bead.close": Kind(1.5, needs=("last=partial", "sealant=in"), gives=("last=on",), tools=("levers",)),
    "bead.open_one": Kind(
        needs=("air=flat", *_BOTH_SEATED), gives=("last=on",), tools=("blunt plastic tool",)
    ),
    "bead.off_one": Kind(
        1.5, needs=("air=flat", "first=on|seated", "last=on"), gives=("last=off",), tools=("levers",)
    ),
    "bead.refit": Kind(
        4.0, needs=("first=seated", "last=off", "valve=in"), gives=("last=on",), tools=("levers",)
    ),
    "tube.in": Kind(
        2.0,
        needs=("first=on|seated", "last=off", "valve=none", "tube=out", "insert=off", _TAPED),
        gives=("tube=in", "valve=tube", "core=in"),
        tools=("tube",),
    ),
    "tube.out": Kind(1.0, needs=("tube=in", "last=off", "air=flat"), gives=("tube=out", "valve=none")),
    "core.out": Kind(
        0.3, needs=("valve=in", "air=flat", "core=in"), gives=("core=out",), tools=("valve core tool",)
    ),
    "core.in": Kind(
        0.3, needs=("core=out",), gives=("core=in", "air=flat", "line=unseen"), tools=("valve core tool",)
    ),
    "sealant.shake": Kind(0.5, tools=("gloves",)),
    "sealant.pour": Kind(
        1.5,
        needs=("first=on|seated", "last=partial", "air=flat", "sealant=none"),
        gives=("sealant=in",),
        tools=("measuring cup",),
    ),
    "sealant.inject": Kind(
        2.0,
        needs=(*_BOTH_SEATED, "core=out", "air=flat", "ports=yes", "valve=in"),
        gives=("sealant=in",),
        tools=("injector",),
    ),
    "dip.read": Kind(0.5, needs=("core=out", "air=flat"), tools=("dipstick",)),
    "air.burst": Kind(0.5, needs=("valve=in", "core=out", *_BOTH_ON), gives=_AIR_IN, tools=("pump",)),
    "air.inflate": Kind(1.0, needs=("valve=in|tube", "core=in", *_BOTH_ON), gives=_AIR_IN, tools=("pump",)),
    "air.step": Kind(
        1.0,
        needs=("valve=in|tube", "core=in", *_BOTH_ON),
        gives=_AIR_IN,
        tools=("pump", "eye and ear protection"),
    ),
    "air.press": Kind(1.0, PRESSING_MINUTES, needs=("tube=in", *_BOTH_ON), gives=_AIR_IN, tools=("pump",)),
    "air.deflate": Kind(0.3, needs=("air=up",), gives=("air=flat", "line=unseen")),
    "line.look": Kind(0.5, needs=_AT_PRESSURE, gives=("line=even",)),
    "dry.test": Kind(0.3, 1.0, needs=(*_JUDGED, "sealant=none")),
    "dry.stay": Kind(0.3, needs=("air=flat", *_BOTH_SEATED, "sealant=none"), gives=("dry_test=passed",)),
    "spin.look": Kind(0.5, needs=_JUDGED),
    "hold.shake": Kind(1.0, needs=_JUDGED, tools=("pump",)),
    "hold.flat_left": Kind(0.3, FLAT_MINUTES_READY, needs=_JUDGED, tools=("bucket or stand",)),
    "hold.flat_right": Kind(0.3, FLAT_MINUTES_READY, needs=_JUDGED, tools=("bucket or stand",)),
    "hold.top_up": Kind(1.5, TOP_UP_EVERY_MINUTES, needs=_JUDGED, tools=("pump",)),
    "hold.soap": Kind(1.5, needs=_JUDGED, tools=("soapy water",)),
    "hold.read": Kind(0.3, HOLD_MINUTES, needs=_JUDGED, tools=("gauge",)),
    "repair.find": Kind(3.0, needs=("air=up",), tools=("soapy water",)),
    "repair.plug": Kind(2.0, tools=("plug kit",)),
    "repair.patch": Kind(5.0, 5.0, needs=("last=off", "sealant=none"), tools=("patch kit",)),
    "repair.boot": Kind(2.0, needs=("last=off",), tools=("boot",)),
    "set.pressure": Kind(0.5, needs=_JUDGED, tools=("pump", "gauge")),
    "set.weigh": Kind(0.5, needs=_JUDGED, tools=("scale",)),
    "set.sign": Kind(0.5, needs=_JUDGED),
}


def action(stage: Stage, code: str, text: Message, **more: object) -> Action:
    """Return an action of a code, with what its kind says and what this wheel says otherwise."""
    return Action(stage, code, text, **{**_FIELDS[code], **more})  # type: ignore[arg-type]


#: What every action of a code has in common, as its fields.
_FIELDS: dict[str, dict[str, object]] = {
    code: {name: getattr(kind, name) for name in kind.__struct_fields__} for code, kind in KINDS.items()
}
