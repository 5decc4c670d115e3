"""The pictures of tire, insert, beads and tube."""

from inner_rim.core.drawing.acts_strip import BEGIN
from inner_rim.core.drawing.scene import NOTE, SECTORS, arc, polar, sector_deg
from inner_rim.core.drawing.section import Point
from inner_rim.core.drawing.sketch import (
    CORNER,
    LARGE,
    MIDDLE,
    RIM_WIDE,
    SMALL,
    BeadAt,
    Sketch,
    mirrored,
    other,
)
from inner_rim.core.models.mounting import LIFTED_MM, pick_mounting
from inner_rim.core.procedure.actions import WARMING_MINUTES
from inner_rim.core.record.why import Message

SIDES = {"left": Message("left side"), "right": Message("right side")}


# -- the tire off the rim --------------------------------------------------------------------------


def _tire_alone(s: Sketch) -> tuple[Point, float]:
    """A section of the tire by itself; return its middle and its scale."""
    tire = s.plan.tire
    scale = min(330.0 / tire.mounted_width_mm, 320.0 / tire.section_height_mm)
    center = (280.0, 390.0)
    s.tire_section(center, scale)
    return center, scale


def _beads(s: Sketch, center: Point, scale: float) -> tuple[Point, Point]:
    left, right = s.placed(center, scale, [s.bead_at("left", "shelf"), s.bead_at("right", "shelf")])
    return left, right


def tire_look(s: Sketch) -> None:
    center, scale = _tire_alone(s)
    top = center[1] - s.plan.tire.section_height_mm * scale
    wall = 0.5 * s.plan.tire.mounted_width_mm * scale
    middle = center[1] - s.plan.tire.center_mm * scale
    left, right = _beads(s, center, scale)
    s.badge(1, (center[0], top + 44.0))
    s.say(Message("cuts"), (center[0], top + 78.0), "stop")
    for sign, at in ((-1.0, left), (1.0, right)):
        s.badge(2, (center[0] + sign * (wall + 34.0), middle))
        s.badge(3, (at[0], at[1] + 44.0))
    s.say(Message("side walls"), (552.0, middle - 40.0), "accent", align=1)
    s.say(Message("torn bead: stop"), (center[0], left[1] + 88.0), "stop")
    s.say(Message("inside and outside"), (280.0, 26.0), "accent")


def tire_thorns(s: Sketch) -> None:
    center, scale = _tire_alone(s)
    top = center[1] - s.plan.tire.section_height_mm * scale
    s.path(
        ((center[0] - 40, top - 16), (center[0] - 30, top - 16), (center[0] - 34, top + 34)), "stop"
    )
    s.circle((center[0] - 35.0, top + 8.0), 34.0, "", "stop", 3.0)
    s.say(Message("pull it outward"), (center[0] + 20.0, top - 34.0), "stop", align=0)
    s.turn(
        (center[0], center[1] - s.plan.tire.center_mm * scale),
        0.3 * s.plan.tire.mounted_width_mm * scale,
        -70.0,
        70.0,
    )
    s.badge(1, (center[0], center[1] - s.plan.tire.center_mm * scale))
    s.say(Message("feel all around inside"), (280.0, 470.0), "accent")
    s.say(Message("gloves on"), (280.0, 500.0), "caution")


def tire_wipe(s: Sketch) -> None:
    center, scale = _tire_alone(s)
    left, right = _beads(s, center, scale)
    for number, at in ((1, left), (2, right)):
        s.cloth((at[0] + (-26.0 if number == 1 else 26.0), at[1] + 8.0))
        s.badge(number, (at[0] + (-70.0 if number == 1 else 70.0), at[1] + 10.0))
    s.say(Message("both beads, all around"), (280.0, 470.0), "accent")
    if s.plan.setup.new:
        top = center[1] - s.plan.tire.section_height_mm * scale
        s.cloth((center[0], top + 40.0))
        s.badge(3, (center[0] + 54.0, top + 44.0))
        s.say(Message("inside too: release agent"), (280.0, 30.0), "caution")


def tire_warm(s: Sketch) -> None:
    center, scale = _tire_alone(s)
    for x in (190.0, 280.0, 370.0):
        s.waves((x, 500.0), 0.0, 2)
    s.clock((center[0], center[1] - s.plan.tire.center_mm * scale), 48.0, WARMING_MINUTES / 60.0)
    s.say(Message("{n} min", {"n": round(WARMING_MINUTES)}), (280.0, 428.0), "accent")
    s.say(Message("soft and open"), (280.0, 24.0), "accent")


def tire_arrow(s: Sketch) -> None:
    center, radius = (230.0, 285.0), 180.0
    front = s.plan.wheel.position == "front"
    rim = s.wheel(center, radius, pool=False)
    s.arrow((60.0, 52.0), (400.0, 52.0))
    s.badge(1, (34.0, 52.0))
    s.say(Message("bike rolls this way"), (230.0, 22.0), "accent")
    s.turn(center, 0.5 * (rim + radius), -42.0, 42.0, "metal")
    s.badge(2, polar(center, radius + 22.0, 50.0))
    s.say(Message("tire arrow: same way"), (478.0, 150.0), "accent", wide=140.0)
    if s.plan.wheel.position == "rear":
        for i in range(12):
            s.circle(polar(center, 46.0, 30.0 * i), 6.0, "metal_edge")
        s.circle(center, 44.0, "metal", "ink")
        s.circle(center, 12.0, "metal_edge")
    s.say(Message("drive side faces you"), (center[0], 500.0))
    if s.plan.wheel.position not in ("front", "rear"):
        return
    bike, r = (452.0, 420.0), 34.0
    rear, fore = (bike[0] - 46.0, bike[1]), (bike[0] + 46.0, bike[1])
    s.line(
        (
            rear,
            (bike[0] - 10, bike[1] - 6),
            (bike[0] + 30, bike[1] - 52),
            (bike[0] - 24, bike[1] - 50),
            (bike[0] - 10, bike[1] - 6),
        ),
        "edge",
        4.0,
    )
    s.line((rear, (bike[0] - 24, bike[1] - 50), (bike[0] - 28, bike[1] - 64)), "edge", 4.0)
    s.line((fore, (bike[0] + 28, bike[1] - 66), (bike[0] + 42, bike[1] - 70)), "edge", 4.0)
    for at, is_front in ((rear, False), (fore, True)):
        s.circle(at, r, "", "accent" if is_front == front else "edge", 6.0)
    s.say(
        Message("front wheel") if front else Message("rear wheel"),
        (bike[0], bike[1] + 58.0),
        "accent",
    )


# -- insert ----------------------------------------------------------------------------------------


def insert_look(s: Sketch) -> None:
    center, inner, outer = MIDDLE, 146.0, 195.0
    s.ring(center, inner, outer, "foam")
    s.turn(center, outer + 22.0, 20.0, 160.0)
    s.badge(1, polar(center, outer + 22.0, 8.0))
    s.line(
        (polar(center, outer, -60.0), polar(center, 176.0, -66.0), polar(center, 160.0, -58.0)),
        "stop",
        4.0,
    )
    s.circle(polar(center, 172.0, -62.0), 36.0, "", "stop", 3.0)
    s.say(Message("gash: new one"), (24.0, 60.0), "stop", align=-1)
    s.arrow((center[0], center[1] + 60.0), (center[0], center[1] + 122.0))
    s.step_mark(2, (center[0] - 84.0, center[1] + 24.0), Message("press: springs back?"))


def insert_on(s: Sketch) -> None:
    if s.plan.setup.order == "insert_first" and not s.plan.setup.with_tube:
        _insert_on_rim(s)
    else:
        _insert_into_tire(s)


def _insert_on_rim(s: Sketch) -> None:
    center, radius = (280.0, 208.0), 160.0
    rim = s.wheel(center, radius, tire="", pool=False)
    s.sector(center, rim + 1.0, rim + 40.0, 4.0, 356.0, "foam")
    s.badge(1, polar(center, rim + 22.0, 0.0))
    for deg in (150.0, 210.0):
        s.turn(center, rim + 60.0, 14.0 if deg < 180.0 else -14.0, deg if deg < 180.0 else -150.0)
    s.say(Message("notch at the valve"), (center[0], center[1] - 40.0), "accent")
    s.solid(((232, 500), (328, 500), (312, 440), (248, 440)), "edge")
    s.box(150.0, 418.0, 410.0, 438.0, "metal")
    s.box(140.0, 404.0, 420.0, 420.0, "foam")
    s.say(Message("rim flat on bucket"), (548.0, 470.0), "ink", align=1)
    s.say(Message("then the tire over"), (12.0, 470.0), "accent", align=-1)


def _insert_into_tire(s: Sketch) -> None:
    side = s.side
    center, scale = s.with_tire(mirrored(side, 225.0), 250.0)
    corner = (mirrored(side, CORNER[0]), CORNER[1])
    where: dict[str, BeadAt] = {side: "over", other(side): "shelf"}
    s.rim_section(center, scale)
    s.insert_section(center, scale)
    s.tire_section(center, scale, where["left"], where["right"])
    sign = -1.0 if side == "left" else 1.0
    bead = s.placed(center, scale, [s.bead_at(side, "over")])[0]
    s.arrow((bead[0] + sign * 70.0, bead[1] - 50.0), (bead[0] + sign * 18.0, bead[1] - 46.0))
    s.badge(2, (bead[0] + sign * 66.0, bead[1] - 78.0))
    rim = s.wheel(corner, SMALL, tire="", pool=False)
    s.sector(corner, rim + 1.0, rim + 20.0, -150.0, 60.0, "foam")
    s.line((polar(corner, rim - 16.0, -150.0), polar(corner, rim + 30.0, -150.0)), "caution", 8.0)
    s.turn(corner, rim + 34.0, 68.0, 150.0)
    s.badge(1, (corner[0], corner[1] - SMALL - 2.0))
    s.say(
        Message("notch at the valve"), (corner[0], corner[1] + SMALL + 32.0), "accent", wide=170.0
    )
    s.badge(3, polar(corner, rim + 36.0, -122.0), "caution")
    s.say(Message("clamp what is in"), (mirrored(side, 220.0), 28.0), "caution")
    s.say(Message("push it in"), (280.0, 492.0), "accent")


def insert_straighten(s: Sketch) -> None:
    center, scale = s.with_tire()
    s.rim_section(center, scale)
    s.insert_section(center, scale)
    s.tire_section(center, scale)
    for sign, side in ((-1.0, "left"), (1.0, "right")):
        at = s.beside(center, scale, side, 8.0, -90.0)
        s.arrow((at[0] + sign * 60.0, at[1]), (at[0], at[1]))
    s.corner_wheel(1, Message("all around"))
    s.say(Message("air out, by hand"), (280.0, 492.0), "accent")


# -- beads -----------------------------------------------------------------------------------------


def _finish_deg(s: Sketch) -> float:
    """Where the last section goes on."""
    return 60.0 if s.plan.methods.finish == "elsewhere" else 0.0


def _tire_around(s: Sketch, center: Point, radius: float, lifted_half: float) -> float:
    """The wheel with one bead in the well and its last section still over the edge."""
    finish = _finish_deg(s)
    rim = s.wheel(center, radius, tire="line", pool=s.sealant)
    well, over = rim - 0.5 * RIM_WIDE * radius, rim + 0.28 * (radius - rim)
    s.line(arc(center, well, finish + lifted_half, finish + 360.0 - lifted_half), "rubber", 9.0)
    start, end = (
        polar(center, well, finish - lifted_half),
        polar(center, well, finish + lifted_half),
    )
    lifted = arc(center, over, finish - lifted_half + 5.0, finish + lifted_half - 5.0)
    s.line((start, *lifted, end), "caution", 9.0)
    return rim


def _both_ways(s: Sketch, center: Point, radius: float, lifted_half: float) -> None:
    finish = _finish_deg(s)
    opposite = finish + 180.0
    for sign in (1.0, -1.0):
        s.turn(
            center, radius + 18.0, opposite + sign * 10.0, opposite + sign * (172.0 - lifted_half)
        )
    s.badge(1, polar(center, radius + 18.0, opposite))
    s.badge(2, polar(center, radius + 16.0, finish), "caution")


def _end_words(s: Sketch) -> tuple[Message, Message]:
    if s.plan.methods.finish == "elsewhere":
        return Message("finish away from valve"), BEGIN
    return Message("finish at the valve"), Message("start opposite")


def bead_first(s: Sketch) -> None:
    center, radius = (230.0, 240.0), 178.0
    _tire_around(s, center, radius, 22.0)
    _both_ways(s, center, radius, 22.0)
    finish, start = _end_words(s)
    s.say(Message("first bead"), (center[0], center[1] - 50.0), "ink", 24)
    s.say(start, (center[0], center[1] + 30.0), "accent")
    s.say(finish, (center[0] + 46.0, 22.0), "caution", align=-1)
    lens, r = (446.0, 410.0), 100.0
    s.lens(lens, r)
    scale = min(4.5, s.rim_fit(130.0, 66.0))
    at = (lens[0], lens[1] + 10.0)
    s.rim_section(at, scale)
    tucked = s.plan.setup.insert != "none" and s.state.insert == "on"
    if tucked:
        s.insert_section(at, scale)
    side = other(s.side)
    bead = s.placed(at, scale, [s.bead_at(side, "well")])[0]
    sign = -1.0 if side == "left" else 1.0
    s.line(
        (bead, (bead[0] + sign * 20.0, bead[1] - 30.0), (bead[0] + sign * 52.0, bead[1] - 62.0)),
        "rubber",
        8.0,
    )
    s.circle(bead, 8.0, "rubber", "metal_edge")
    s.badge(3, (lens[0] - 104.0, lens[1] - 60.0))
    s.say(
        Message("tuck under the insert") if tucked else Message("in the well"),
        (lens[0] - 116.0, 496.0),
        "accent",
        align=1,
    )


def bead_last(s: Sketch) -> None:
    """The second bead; a section stays open where sealant goes in."""
    partial = s.step.code == "bead.partial"
    center, radius = (280.0, 262.0), 196.0
    _tire_around(s, center, radius, 26.0 if partial else 20.0)
    _both_ways(s, center, radius, 26.0)
    finish, start = _end_words(s)
    if s.step.code == "bead.refit" or s.plan.setup.does in ("refresh", "repair"):
        name = Message("bead back on")
    else:
        name = Message("second bead")
    s.say(name, (center[0], center[1] - 92.0), "ink", 24)
    s.say(Message("keep in the well"), (center[0], center[1] - 56.0), "accent")
    s.say(Message("leave this open") if partial else finish, (548.0, 26.0), "caution", align=1)
    s.say(start, (center[0], center[1] + 98.0), "accent")
    _slack(s, center)


def _slack(s: Sketch, center: Point) -> None:
    """The last section and the slack that there is, to one scale; none where it is not known."""
    plan, mounting = s.plan, s.plan.mounting
    if plan.wheel.insert is not None and s.state.insert == "off":  # it goes in later
        tape_mm = 0.0 if plan.setup.sealed else plan.tape.thickness_mm * plan.tape.layers
        mounting = pick_mounting(plan.wheel.rim, plan.wheel.tire, plan.bed, tape_mm, None)
    scale = 150.0 / LIFTED_MM
    left = center[0] - 75.0
    if mounting.grade == "unknown":
        low, high = (float(round(max(0.0, end))) for end in mounting.band_mm)
        band = {"low_mm": low, "high_mm": high}
        s.say(Message("{low_mm} to {high_mm} of slack", band), (center[0], center[1] + 26.0))
        s.say(Message("measure the well"), (center[0], center[1] + 54.0), "muted", NOTE)
        return
    s.line(((left, center[1] + 10.0), (left + 150.0, center[1] + 10.0)), "caution", 8.0)
    slack = min(150.0, mounting.slack_mm * scale)
    if slack > 0.0:
        s.line(((left, center[1] + 28.0), (left + slack, center[1] + 28.0)), "accent", 8.0)
    s.say(
        Message("{lifted_mm}", {"lifted_mm": LIFTED_MM}),
        (center[0], center[1] - 14.0),
        "caution",
        NOTE,
    )
    values = {"slack_mm": mounting.slack_mm}
    words, color = {
        "levers": (Message("slack {slack_mm}: levers", values), "caution"),
        "will_not_go": (Message("too tight: more slack"), "stop"),
    }.get(mounting.grade, (Message("slack {slack_mm}: hands", values), "ink"))
    s.say(words, (center[0], center[1] + 60.0), color)


def bead_close(s: Sketch) -> None:
    center, radius = (280.0, 270.0), 200.0
    _tire_around(s, center, radius, 22.0)
    finish = _finish_deg(s)
    s.badge(2, polar(center, radius + 18.0, finish), "caution")
    s.turn(center, radius + 18.0, finish - 80.0, finish - 14.0)
    s.badge(1, polar(center, radius + 22.0, finish - 92.0))
    s.say(Message("turn sealant to bottom"), (center[0], center[1] + 70.0), "accent")
    s.say(Message("close this last"), (548.0, 26.0), "caution", align=1)
    s.say(Message("sealant stays below"), (280.0, 504.0), "muted", NOTE)


def bead_wet(s: Sketch) -> None:
    center, radius = (190.0, 200.0), 150.0
    rim = s.wheel(center, radius, pool=False)
    s.circle(center, rim + 6.0, "", "liquid", 12.0)
    s.line((polar(center, rim + 4.0, -50.0), polar(center, radius + 52.0, -50.0)), "ink", 14.0)
    s.line(
        (polar(center, rim + 22.0, -50.0), polar(center, radius + 50.0, -50.0)), "caution_soft", 9.0
    )
    s.turn(center, radius + 20.0, -64.0, -160.0)
    s.badge(1, polar(center, radius + 40.0, -28.0))
    s.say(Message("bead line"), center, "accent")
    s.say(Message("all the way around"), (190.0, 398.0), "accent")
    at, scale = s.with_tire(420.0, 200.0, 510.0, 360.0)
    s.rim_section(at, scale)
    if s.state.insert == "on":
        s.insert_section(at, scale)
    s.tire_section(at, scale)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    for number, x in ((2, at[0] - half), (3, at[0] + half)):
        s.circle((x, at[1] - 16.0), 13.0, "liquid", "accent")
        s.badge(number, (x + (-44.0 if number == 2 else 44.0), at[1] - 2.0))
    s.say(Message("both sides"), (420.0, 96.0), "accent")
    fluid = {
        "soap": Message("soapy water"),
        "fluid": Message("mounting fluid"),
        "wax": Message("wax"),
        "sealant": Message("a little sealant"),
    }.get(s.plan.setup.lubricant, Message("soapy water"))
    s.say(fluid, (420.0, 60.0), "ink", 24)


def bead_up(s: Sketch) -> None:
    """Beads that are brought onto their seats by hand, all around or where one is low."""
    push = s.step.code == "bead.push"
    low_side = next((side for side in ("left", "right") if s.low[side]), s.side)
    center, scale = s.with_tire(mirrored(low_side, 225.0))
    corner = (mirrored(low_side, CORNER[0]), CORNER[1])
    where: dict[str, BeadAt] = {"left": "well", "right": "well"}
    if s.step.code in ("bead.level", "bead.push"):
        where[other(low_side)] = "shelf"
    s.rim_section(center, scale)
    if s.state.insert == "on":
        s.insert_section(center, scale)
    s.tire_section(center, scale, where["left"], where["right"])
    for side in [side for side in where if where[side] == "well"]:
        sign = -1.0 if side == "left" else 1.0
        start, end = s.placed(center, scale, [s.bead_at(side, "well"), s.bead_at(side, "shelf")])
        if push:
            at = s.beside(center, scale, side, 4.0, -50.0)
            s.arrow((at[0] + sign * 62.0, at[1] - 8.0), (at[0], at[1] + 6.0))
            s.badge(1, (at[0] + sign * 56.0, at[1] - 38.0))
        else:
            s.arrow((start[0], start[1] - 14.0), (end[0] - sign * 4.0, end[1] - 26.0))
    rim = s.wheel(corner, SMALL, pool=False)
    words = {
        "bead.lift": Message("onto both seats"),
        "bead.level": Message("low side up"),
        "bead.push": Message("push, and wet it"),
    }[s.step.code]
    s.say(words, (280.0, 492.0), "accent")
    below = (corner[0], corner[1] + SMALL + 32.0)
    if not push:
        s.turn(corner, SMALL + 14.0, 12.0, 160.0)
        s.badge(1, (corner[0], corner[1] - SMALL - 2.0))
        s.say(Message("all around"), below, "accent")
        return
    s.say(SIDES[low_side] if s.low[low_side] else Message("the low spot"), below, "stop")
    for number in s.low[low_side]:
        start_deg = sector_deg(number)
        s.sector(corner, rim + 1.0, SMALL, start_deg, start_deg + 360.0 / SECTORS, "stop")


def bead_strap(s: Sketch) -> None:
    s.wheel(MIDDLE, LARGE - 10.0)
    s.circle(MIDDLE, LARGE - 4.0, "", "caution", 10.0)
    s.box(250.0, 56.0, 310.0, 86.0, "edge")
    s.arrow((310.0, 66.0), (420.0, 52.0))
    s.badge(1, (440.0, 48.0))
    s.say(Message("pull it tight"), (548.0, 96.0), "accent", align=1)
    s.say(Message("around the tread"), (280.0, 506.0), "caution")


def tube_in(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, tire="line", pool=False)
    s.sector(MIDDLE, rim + 5.0, LARGE - 12.0, 0.0, 359.0, "tube")
    s.valve(MIDDLE, rim, LARGE, 0.0)
    s.badge(1, polar(MIDDLE, LARGE + 20.0, 0.0))
    for sign in (1.0, -1.0):
        s.turn(MIDDLE, LARGE + 18.0, sign * 12.0, sign * 120.0)
    s.say(Message("valve first"), (MIDDLE[0], MIDDLE[1] - 76.0), "accent")
    s.say(Message("a little air"), (MIDDLE[0], MIDDLE[1] + 50.0), "accent")
    s.say(Message("no fold, no twist"), (MIDDLE[0], MIDDLE[1] + 86.0), "accent")


SCENES = {
    "tire.look": tire_look,
    "tire.thorns": tire_thorns,
    "tire.wipe": tire_wipe,
    "tire.warm": tire_warm,
    "tire.arrow": tire_arrow,
    "tire.arrow_again": tire_arrow,
    "insert.look": insert_look,
    "insert.on": insert_on,
    "insert.straighten": insert_straighten,
    "bead.first": bead_first,
    "bead.second": bead_last,
    "bead.partial": bead_last,
    "bead.refit": bead_last,
    "bead.close": bead_close,
    "bead.wet": bead_wet,
    "bead.lift": bead_up,
    "bead.level": bead_up,
    "bead.push": bead_up,
    "bead.strap": bead_strap,
    "tube.in": tube_in,
}
