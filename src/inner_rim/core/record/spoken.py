"""The words for identifiers of the code that are shown: choices, figures, fields, checks, stages."""

from typing import Literal, get_args

from inner_rim.words import N_, tr

# fmt: off
_NAMES = (
    N_("after"), N_("again"), N_("air"), N_("air source"), N_("altitude"), N_("arrival"), N_("at valve"),
    N_("back to tube"), N_("base"), N_("bead"), N_("bead first"), N_("bead loop"), N_("bead seat diameter"),
    N_("bed"), N_("before"), N_("before limits"), N_("bigger source"), N_("bike"), N_("both up"), N_("bottle"),
    N_("brush"), N_("burped"), N_("burst"), N_("cable"), N_("caliper"), N_("carbon"), N_("cargo"), N_("casing"),
    N_("casing arc"), N_("cavity"), N_("charge"), N_("check in"), N_("checked"), N_("climate"), N_("climbs"),
    N_("clogs valve"), N_("cloth"), N_("coat"), N_("compressor"), N_("contour"), N_("convert"), N_("cool damp"),
    N_("count"), N_("curved"), N_("customer"), N_("damp"), N_("deflection"), N_("depth"), N_("depth at valve"),
    N_("developed from"), N_("developed to"), N_("developed width"), N_("directional"), N_("dislikes soap"),
    N_("dose"), N_("dried"), N_("drilled"), N_("drop"), N_("drop bar"), N_("drying"), N_("elsewhere"), N_("failed"),
    N_("falls off"), N_("film"), N_("finish"), N_("fits"), N_("flange"), N_("flange radius"), N_("flat bar"),
    N_("floor"), N_("fluid"), N_("folded"), N_("front"), N_("front load"), N_("gained by finishing at the valve"),
    N_("gap"), N_("gap spread"), N_("gauge"), N_("gauge step"), N_("generous"), N_("gloves"), N_("hand"), N_("harsh"),
    N_("height"), N_("hisses"), N_("hold"), N_("holds"), N_("hole"), N_("hook"), N_("hooked"), N_("hookless"),
    N_("hookless limit"), N_("in"), N_("in since"), N_("inject"), N_("injector"), N_("insert"), N_("insert changed"),
    N_("insert first"), N_("insert in the well"), N_("insert order"), N_("internal width"), N_("joined"),
    N_("keep insert"), N_("keep tape"), N_("keep valve"), N_("kept said"), N_("kind"), N_("label"), N_("label dose"),
    N_("large"), N_("large holes"), N_("last section"), N_("last step"), N_("layer"), N_("layers"), N_("leak"),
    N_("leaked"), N_("lean"), N_("left shoulder"), N_("leg"), N_("length"), N_("levers"), N_("life"), N_("lift"),
    # stops that were logged as fixed
    N_("diameter mismatch"), N_("insert does not fit"), N_("pressure over limit"), N_("straight side not approved"),
    N_("tape not in stock"), N_("unmarked narrow tire"), N_("unmarked rim hard tire"), N_("untubed straight side"),
    N_("width ratio"), N_("width ratio hookless"), N_("width ratio above"),
    N_("likely"), N_("liquid"), N_("load"), N_("log"), N_("loose"), N_("low"), N_("low at"), N_("lower side"),
    N_("lubricant"), N_("mass"), N_("match"), N_("material"), N_("max pressure"), N_("max pressure printed"),
    N_("measured on rim"), N_("measured width"), N_("measuring rim"), N_("method"), N_("min pressure"), N_("mixed"),
    N_("mount"), N_("mounted width"), N_("name"), N_("narrow"), N_("no line"), N_("needed"), N_("new"), N_("new tire"), N_("no tubeless marking"), N_("extra layer"), N_("lifted by hand"), N_("new and folded"),
    N_("ridden before"), N_("sealant inside"), N_("wetted"), N_("nine times in ten from"),
    N_("nine times in ten to"), N_("nipple"), N_("no pressure"), N_("noisy"), N_("nominal"), N_("nominal width"),
    N_("not up"), N_("notes"), N_("nut and ring"), N_("off"), N_("on"), N_("one low"), N_("one turn"), N_("opposite"),
    N_("ordinary"), N_("other"), N_("outer radius"), N_("overlap"), N_("overlay"), N_("pair"), N_("part"),
    N_("pavement"), N_("perhaps"), N_("pick"), N_("plugs"), N_("polyester"), N_("pool"), N_("ported"), N_("ports"),
    N_("position"), N_("pour"), N_("press home"), N_("previous"), N_("previous pressure"), N_("previous width"),
    N_("printed"), N_("problem"), N_("product"), N_("profile"), N_("pump"), N_("pump head"), N_("push on"),
    N_("push spot"), N_("pushed"), N_("rags"), N_("range"), N_("rear"), N_("rectangular"), N_("refilled"), N_("remarks"),
    N_("refresh"), N_("reopened"), N_("repair"), N_("retape"), N_("retaped"), N_("ride"), N_("right shoulder"),
    N_("rim"), N_("rim depth at the valve"), N_("rim internal width"), N_("rim max"), N_("rim min"), N_("rim strip"),
    N_("road"), N_("rode before"), N_("roll length"), N_("round"), N_("scale"), N_("scissors"), N_("screw on"),
    N_("sealant"), N_("sealant route"), N_("sealed"), N_("seat"), N_("seat circumference"), N_("seat first"),
    N_("seated"), N_("seated with"), N_("seating"), N_("section height"), N_("set"), N_("set by"), N_("settling"),
    N_("share"), N_("share of height"), N_("shelf"), N_("shop altitude"), N_("shop temperature"), N_("short"), N_("size"), N_("slack"),
    N_("slack at least"), N_("slack at most"), N_("slack on the shelf"), N_("soap"), N_("soft"), N_("sound"),
    N_("spec"), N_("spokes"), N_("spread"), N_("squirmed"), N_("standard"), N_("standard dose before allowances"),
    N_("standing out"), N_("start pressure"), N_("step 1"), N_("step 2"), N_("step 3"), N_("steps"), N_("stock"),
    N_("stopped"), N_("straight side"), N_("straight side approved"), N_("strap"), N_("strip"), N_("tape"),
    N_("tape build up"), N_("tape changes"), N_("tape in the well"), N_("tape kind"), N_("tape laid"),
    N_("tape start"), N_("tape thickness"), N_("tape width"), N_("tape widths"), N_("taped"), N_("tapes"),
    N_("target"), N_("temperate"), N_("temperature"), N_("thickness"), N_("thin"), N_("thread above the nut"),
    N_("tire"), N_("tire change"), N_("tire changed"), N_("tire max"), N_("tire min"), N_("tire width"),
    N_("tires used"), N_("title"), N_("total mass"), N_("trail"), N_("tread"), N_("truing stand"), N_("tube"),
    N_("tube first"), N_("tubeless ready"), N_("unlikely"), N_("until"), N_("upright"), N_("usable well"), N_("use"),
    N_("valve"), N_("valve face"), N_("valve hole"), N_("valve lengths"), N_("valves"), N_("vent"), N_("volume"),
    N_("waited"), N_("warmed"), N_("warmth"), N_("washer"), N_("weighed"), N_("well"), N_("well depth"),
    N_("well floor"), N_("wet"), N_("what"), N_("wheels"), N_("wide"), N_("width"), N_("width gain per mm of rim"),
    N_("leaks"), N_("first"), N_("tested"), N_("electrical"), N_("bed cleaning"), N_("hole seal"), N_("inject when"), N_("core in"), N_("rest flat"), N_("wax"), N_("solvent"),
    N_("abrasive"), N_("putty"), N_("finger"), N_("plain"), N_("ridden"), N_("width max"), N_("width min"), N_("width ratio"), N_("work"),
)
# fmt: on
_SPOKEN = {name.replace(" ", "_"): name for name in _NAMES} | {
    "cap_of_an_unread_tire": N_("cap of a tire with no limit entered"),
    "settle": N_("sealing pressure"),
}


def spoken(identifier: str) -> str:
    """Return an identifier's words; one not listed above keeps its own name.

    >>> spoken("bead_first")
    'bead first'
    """
    return tr(_SPOKEN.get(identifier) or identifier.replace("_", " "))


Stage = Literal[
    "check_in", "strip", "tape", "valve", "insert", "mount", "sealant", "seat", "hold", "set"
]
#: Stages of the job; injected sealant comes after seating, see `WheelPlan.stages`.
STAGES: tuple[Stage, ...] = get_args(Stage)

#: What a stage is called.
STAGE_WORDS: dict[str, str] = {
    "check_in": N_("Check-in"),
    "strip": N_("Strip"),
    "tape": N_("Tape"),
    "valve": N_("Valve"),
    "insert": N_("Insert"),
    "mount": N_("Mount"),
    "sealant": N_("Sealant"),
    "seat": N_("Seat"),
    "hold": N_("Leak test"),
    "set": N_("Hand over"),
}
