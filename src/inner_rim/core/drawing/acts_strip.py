"""The pictures of stripping a wheel, and of its bare rim."""

from inner_rim.core.drawing.scene import NOTE, polar
from inner_rim.core.drawing.section import Point
from inner_rim.core.drawing.sketch import LARGE, MIDDLE, BeadAt, Sketch, mirrored, other
from inner_rim.core.procedure.actions import DRYING_MINUTES
from inner_rim.core.record.why import Message

SIDE_FIRST = {"left": Message("left side first"), "right": Message("right side first")}
LEAKING_ONLY = Message("leaking side only")
SIDE_ONLY = {"left": Message("left side only"), "right": Message("right side only")}
BEGIN = Message("begin at the valve")


def break_beads(s: Sketch) -> None:
    side = s.side
    center, scale = s.with_tire(mirrored(side, 225.0))
    one = s.step.code == "bead.open_one"
    left: BeadAt = "well" if side == "left" else "shelf"
    right: BeadAt = "well" if side == "right" else "shelf"
    s.rim_section(center, scale)
    if s.state.insert == "on":
        s.insert_section(center, scale)
    s.tire_section(center, scale, left, right)
    s.corner_wheel(1, BEGIN, side)
    sign = -1.0 if side == "left" else 1.0
    at = s.beside(center, scale, side, 6.0, -55.0)
    s.arrow((at[0] + sign * 52.0, at[1] - 18.0), (at[0] - sign * 4.0, at[1] + 4.0))
    s.badge(2, (at[0] + sign * 34.0, at[1] - 42.0))
    s.say(Message("push into the well"), (center[0], center[1] - 70.0), "accent", wide=140.0)
    if one and s.leaks_somewhere:
        s.say(LEAKING_ONLY, (280.0, 492.0), "accent")
    elif s.side_matters:
        s.say((SIDE_ONLY if one else SIDE_FIRST)[side], (280.0, 492.0), "accent")
    elif not one:
        s.say(Message("then the other side"), (280.0, 492.0), "accent")


def lift_off(s: Sketch) -> None:
    side = s.side
    center, scale = s.with_tire(mirrored(side, 225.0), 250.0)
    both = s.step.code == "strip.tire_off"
    stays: BeadAt = "shelf" if s.state.first == "seated" else "well"
    where: dict[str, BeadAt] = {side: "over", other(side): stays}
    s.rim_section(center, scale)
    if s.state.insert == "on":
        s.insert_section(center, scale)
    s.tire_section(center, scale, where["left"], where["right"])
    s.corner_wheel(1, BEGIN, side)
    sign = -1.0 if side == "left" else 1.0
    bead = s.placed(center, scale, [s.bead_at(side, "over")])[0]
    low = (bead[0] + sign * 60.0, bead[1] + 62.0)
    s.lever((bead[0] - sign * 14.0, bead[1] + 12.0), low)
    s.arrow((bead[0] + sign * 30.0, bead[1] + 78.0), (bead[0] + sign * 58.0, bead[1] - 6.0))
    s.badge(2, (bead[0] + sign * 66.0, bead[1] - 30.0))
    s.say(Message("over the edge"), (bead[0] + sign * 10.0, 466.0), "accent")
    s.say(
        Message("then the other bead") if both else Message("other bead stays on"),
        (mirrored(side, 420.0), 492.0), "accent" if both else "ink",
    )  # fmt: skip
    if both and s.plan.setup.insert_stays and s.state.insert == "on":
        s.say(Message("insert stays on"), (mirrored(side, 420.0), 290.0))


def _layer(s: Sketch, color: str, words: Message, first: Message | None = None) -> None:
    """What comes off the rim, with the tire where one of its beads is still on."""
    rim = s.wheel(MIDDLE, LARGE, tire="", pool=False)
    if s.state.first != "off":
        s.sector(MIDDLE, rim, LARGE, 150.0, 210.0, "rubber")
        s.say(Message("tire, one side open"), (280.0, 505.0), "muted", NOTE)
    s.sector(MIDDLE, rim + 1.0, rim + 20.0, -110.0, 120.0, color)
    loose = [polar(MIDDLE, rim + 10.0 + 0.9 * i, -110.0 - 2.2 * i) for i in range(20)]
    s.line(loose, "metal_edge", 20.0)
    s.line(loose, color, 17.0)
    tip = loose[-1]
    s.arrow(tip, (tip[0] - 64.0, tip[1] + 30.0))
    s.badge(2 if first else 1, (tip[0] - 60.0, tip[1] - 12.0))
    s.say(words, (18.0, tip[1] + 54.0), "accent", align=-1)
    if first:
        s.step_mark(1, (MIDDLE[0] - 60.0, MIDDLE[1] - LARGE * 0.38), first)


def tube_out(s: Sketch) -> None:
    _layer(s, "tube", Message("tube out"), Message("valve nut off"))


def insert_out(s: Sketch) -> None:
    _layer(s, "foam", Message("insert out"))


def tape_off(s: Sketch) -> None:
    _layer(s, "tape", Message("tape off"))
    s.step_mark(2, (MIDDLE[0] - 80.0, MIDDLE[1] + 40.0), Message("rub glue away"))


def rim_strip_off(s: Sketch) -> None:
    _layer(s, "caution_soft", Message("rim strip off"))


def rim_strip_in(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, tire="", pool=False)
    s.sector(MIDDLE, rim + 1.0, rim + 14.0, 0.0, 360.0, "caution_soft")
    for deg in (45.0, 135.0, 225.0, 315.0):
        s.arrow(polar(MIDDLE, rim + 70.0, deg), polar(MIDDLE, rim + 18.0, deg))
    s.badge(1, polar(MIDDLE, rim + 46.0, 0.0))
    s.say(Message("hole over hole"), (MIDDLE[0], MIDDLE[1] - 70.0), "accent")
    s.say(Message("flat, under the tape"), (MIDDLE[0], 492.0))


def sealant_out(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, tire="rubber", pool=True)
    s.cloth(polar(MIDDLE, 0.5 * (rim + LARGE), 148.0))
    s.turn(MIDDLE, LARGE + 16.0, 140.0, 225.0)
    s.badge(1, polar(MIDDLE, LARGE + 26.0, 128.0))
    s.say(Message("wipe the tire"), (548.0, 474.0), "accent", align=1)
    s.step_mark(2, (MIDDLE[0] - 70.0, MIDDLE[1] - 60.0), Message("then the rim"))


def _fault(s: Sketch, center: Point, words: Message, color: str, at: Point) -> None:
    s.line((at, (center[0], center[1] - 62.0)), color, 2.0)
    s.circle(at, 20.0, "", color, 3.0)
    s.lens(center, 62.0, color)
    s.box(
        center[0] - 56.0, center[1] + 2.0, center[0] + 56.0, center[1] + 28.0, "metal", "metal_edge"
    )
    s.say(words, (center[0], center[1] + 86.0), color, wide=180.0)


def rim_look(s: Sketch) -> None:
    """The bed unrolled, with its holes; what is looked for in close-ups."""
    sealed = s.plan.setup.sealed
    s.box(0.0, 78.0, 560.0, 190.0, "metal", "metal_edge")
    floor = min(0.5, s.plan.bed.floor_mm / s.plan.bed.internal_width_mm) * 112.0
    s.box(-4.0, 134.0 - 0.5 * floor, 564.0, 134.0 + 0.5 * floor, "metal_edge", "metal_edge")
    s.step_mark(1, (52.0, 38.0), BEGIN)
    s.arrow((300.0, 38.0), (520.0, 38.0))
    s.circle((52.0, 134.0), 12.0, "card", "ink")
    s.line(((52.0, 56.0), (52.0, 122.0)), "accent", 2.0)
    carbon = s.plan.setup.rim_question == "carbon_damaged"
    if not sealed:
        for x in (140.0, 228.0, 316.0, 404.0, 492.0):
            s.circle((x, 134.0), 11.0, "ink", "metal_edge")
        _fault(s, (92.0, 322.0), Message("spoke end: file"), "stop", (140.0, 134.0))
        s.box(83.0, 282.0, 101.0, 352.0, "brass")
        _fault(s, (280.0, 322.0), Message("burr: sand off"), "caution", (316.0, 134.0))
        for sign in (-1.0, 1.0):
            s.path(
                ((280 + sign * 14, 324), (280 + sign * 26, 324), (280 + sign * 20, 302)), "caution"
            )
        s.box(269.0, 325.0, 291.0, 349.0, "card", "card")
    s.line(((486, 78), (494, 92), (484, 104), (492, 118)), "stop", 3.0)
    _fault(
        s, (468.0, 322.0), Message("crack, soft spot: stop") if carbon else Message("crack: stop"),
        "stop", (490.0, 104.0),
    )  # fmt: skip
    s.line(((462, 324), (472, 333), (462, 340), (470, 350)), "stop", 3.0)
    s.say(
        Message("feel all around") if sealed else Message("feel all {n} holes", {"n": s.plan.wheel.rim.spokes or s.spokes}),
        (280.0, 478.0), "accent",
    )  # fmt: skip


def rim_walls(s: Sketch) -> None:
    center = (280.0, 190.0)
    scale = s.rim_fit(330.0, 110.0)
    s.rim_section(center, scale)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    for sign, number in ((-1.0, 1), (1.0, 2)):
        x = center[0] + sign * (half + 4.0)
        s.arrow((x + sign * 70.0, center[1] - 60.0), (x + sign * 12.0, center[1] - 22.0))
        s.badge(number, (x + sign * 66.0, center[1] - 88.0))
    s.lens((150.0, 410.0), 66.0, "stop")
    s.path(
        ((90, 396), (126, 396), (150, 418), (174, 396), (210, 396), (206, 440), (94, 440)),
        "metal",
        "metal_edge",
    )
    s.say(Message("dent: leaks"), (150.0, 496.0), "stop")
    s.lens((410.0, 410.0), 66.0, "stop")
    s.box(356.0, 404.0, 464.0, 434.0, "metal", "metal_edge")
    s.line(((404, 404), (414, 414), (402, 422), (410, 434)), "stop", 3.0)
    s.say(Message("crack: stop"), (410.0, 496.0), "stop")
    s.say(Message("both walls, all around"), (280.0, 34.0), "accent")


def _clean(s: Sketch, shelves: bool) -> None:
    open_tire = s.state.first != "off"
    rim = s.wheel(MIDDLE, LARGE, tire="line" if open_tire else "", pool=False)
    s.cloth(polar(MIDDLE, rim + 4.0, 0.0 if s.state.valve == "none" else 35.0))
    s.turn(MIDDLE, rim + 34.0, 52.0, 150.0)
    s.badge(1, polar(MIDDLE, rim + 52.0, 40.0))
    lens = (118.0, 400.0)
    s.lens(lens, 104.0)
    scale = min(6.0, s.rim_fit(150.0, 80.0))
    at = (lens[0], lens[1] - 16.0)
    s.rim_section(at, scale)
    bed = [(x, -y) for x, y in s.plan.bed.outline()]
    up = (at[0], at[1] - 7.0)
    if shelves:
        s.line(s.placed(up, scale, bed[:2]), "accent", 7.0)
        s.line(s.placed(up, scale, bed[-2:]), "accent", 7.0)
    else:
        s.line(s.placed(up, scale, bed), "accent", 7.0)


def rim_clean(s: Sketch) -> None:
    _clean(s, shelves=False)
    if s.plan.setup.scours:
        s.say(Message("old glue off first"), (MIDDLE[0], MIDDLE[1] - 50.0), "caution")
    s.say(Message("solvent without film"), (MIDDLE[0], MIDDLE[1] + 10.0), "accent")
    s.say(Message("wall to wall"), (250.0, 490.0), "accent", align=-1)


def rim_wipe(s: Sketch) -> None:
    _clean(s, shelves=True)
    s.say(Message("both shoulders"), (250.0, 490.0), "accent", align=-1)
    s.say(Message("all around"), (MIDDLE[0], MIDDLE[1] + 60.0), "accent")


def rim_dry(s: Sketch) -> None:
    s.wheel((280.0, 230.0), 190.0, tire="", pool=False)
    s.clock((280.0, 230.0), 54.0, DRYING_MINUTES / 60.0)
    for x in (150.0, 280.0, 410.0):
        s.waves((x, 470.0), 0.0, 2)
    s.say(
        Message("{drying_min}, longer is better", {"drying_min": Message("{n} min", {"n": round(DRYING_MINUTES)})}),
        (280.0, 498.0), "accent",
    )  # fmt: skip


SCENES = {
    "strip.break_beads": break_beads,
    "bead.open_one": break_beads,
    "strip.open_one": lift_off,
    "bead.off_one": lift_off,
    "strip.tire_off": lift_off,
    "strip.tube_out": tube_out,
    "tube.out": tube_out,
    "strip.insert_out": insert_out,
    "strip.old_insert_out": insert_out,
    "strip.sealant_out": sealant_out,
    "strip.tape_off": tape_off,
    "strip.rim_strip_off": rim_strip_off,
    "strip.rim_strip_in": rim_strip_in,
    "rim.look": rim_look,
    "rim.walls": rim_walls,
    "rim.clean": rim_clean,
    "rim.wipe": rim_wipe,
    "rim.dry": rim_dry,
}
