"""The pictures of stripping, the rim bed, tape and valve."""

from inner_rim.core.drawing.scene import FIGURE, NOTE, WIDE, BeadAt, Sketch, polar
from inner_rim.core.drawing.section import NUT_WIDTH_MM, VALVE_BASE_MM, VALVE_BODY_MM, Point
from inner_rim.core.models.valve import NUT_AND_RING_MM
from inner_rim.core.procedure.actions import DRYING_MINUTES
from inner_rim.core.record.why import Message

#: Middle and radius of a large wheel, and of a small one in the upper right corner.
MIDDLE, LARGE = (280.0, 270.0), 205.0
CORNER, SMALL = (444.0, 124.0), 84.0

#: Thread below the nut of a valve whose rim was not measured, mm.
ASSUMED_FREE_MM = 20.0

SIDE_FIRST = {"left": Message("left side first"), "right": Message("right side first")}
SIDE_ONLY = {"left": Message("left side only"), "right": Message("right side only")}
BEGIN = Message("begin at the valve")


def other(side: str) -> str:
    return "right" if side == "left" else "left"


def beside(s: Sketch, at: Point, scale: float, side: str, away: float, y: float) -> Point:
    """Return a point beside the tire of a section, on a side."""
    sign = -1.0 if side == "left" else 1.0
    half = 0.5 * max(s.plan.tire.mounted_width_mm, s.plan.bed.internal_width_mm + 8.0)
    return at[0] + sign * (half * scale + away), at[1] + y


def mirrored(side: str, x: float) -> float:
    """Return where a thing goes that stands away from the side in work."""
    return WIDE - x if side == "right" else x


def corner_wheel(s: Sketch, number: int, words: Message, side: str = "left") -> None:
    """A small wheel: where it begins, and both ways from there."""
    corner = (mirrored(side, CORNER[0]), CORNER[1])
    s.wheel(corner, SMALL, pool=False)
    for end in (118.0, -118.0):
        s.turn(corner, SMALL + 13.0, 14.0 if end > 0.0 else -14.0, end)
    s.badge(number, (corner[0], corner[1] - SMALL - 2.0))
    s.say(words, (corner[0], corner[1] + SMALL + 32.0), "accent")


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
    corner_wheel(s, 1, BEGIN, side)
    sign = -1.0 if side == "left" else 1.0
    at = beside(s, center, scale, side, 6.0, -55.0)
    s.arrow((at[0] + sign * 52.0, at[1] - 18.0), (at[0] - sign * 4.0, at[1] + 4.0))
    s.badge(2, (at[0] + sign * 34.0, at[1] - 42.0))
    s.say(Message("push into the well"), (center[0], center[1] - 70.0), "accent", wide=140.0)
    if s.side_matters:
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
    corner_wheel(s, 1, BEGIN, side)
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


def _valve_section(s: Sketch) -> tuple[Point, float, float, float]:
    """Draw rim and valve; return the bead seats' middle, the scale, and the nut's upper and lower
    edge, mm.
    """
    center = (220.0, 130.0)
    rim = s.section.outlines["rim"]
    face = max(y for _x, y in rim)
    free = s.plan.valve.standing_out_mm
    low = face + NUT_AND_RING_MM
    end = low + (free if free is not None else ASSUMED_FREE_MM)
    scale = min(s.rim_fit(300.0, 370.0), 370.0 / end)
    s.rim_section(center, scale)
    depth, base = s.plan.bed.depth_mm, VALVE_BASE_MM
    parts = (
        (0.5 * VALVE_BODY_MM, depth, end, "brass"),
        (0.5 * base[0], depth - base[1], depth, "rubber"),
        (0.5 * NUT_WIDTH_MM, face + 2.0, low, "metal"),
    )
    for half, top, bottom, color in parts:
        corners = ((-half, top), (half, top), (half, bottom), (-half, bottom))
        s.path(s.placed(center, scale, corners), color, "ink")
    return center, scale, face + 2.0, low


def valve_out(s: Sketch) -> None:
    center, scale, nut, _low = _valve_section(s)
    y = center[1] + scale * nut
    s.turn((center[0], y + 4.0), 66.0, 110.0, 250.0)
    s.step_mark(1, (330.0, y + 30.0), Message("nut off"))
    s.arrow((center[0] + 70.0, center[1] - 14.0), (center[0] + 70.0, center[1] - 94.0))
    s.step_mark(2, (330.0, center[1] - 76.0), Message("push it out"))


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
    s.say(Message("both shelves"), (250.0, 490.0), "accent", align=-1)
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


# -- tape ------------------------------------------------------------------------------------------


def _size(s: Sketch) -> Message:
    tape = s.plan.tape
    width = tape.trim_to_mm or tape.width_mm or 0.0
    return Message(
        "{width_trade} × {length_cut}",
        {"width_trade": width, "length_cut": tape.strip_lengths_mm[0]},
    )


def tape_lay(s: Sketch) -> None:
    if s.plan.tape.strips == 2:
        _two_strips(s)
        return
    tape = s.plan.tape
    rim = s.wheel(MIDDLE, LARGE + 20.0, tire="", pool=False)
    start, cut = tape.start_deg, tape.cut_deg % 360.0
    if cut > 180.0:
        cut -= 360.0
    if start > 180.0:
        start -= 360.0
    s.sector(MIDDLE, rim + 2.0, rim + 13.0, 0.0, 360.0, "tape", "")
    low, high = min(start, cut), max(start, cut)
    s.sector(MIDDLE, rim + 13.0, rim + 25.0, low, high, "tape", "ink")
    for deg in (start, cut):
        s.line((polar(MIDDLE, rim - 22.0, deg), polar(MIDDLE, rim + 36.0, deg)), "ink", 4.0)
    s.circle(polar(MIDDLE, rim - 8.0, 0.0), 6.0, "card", "ink")
    s.badge(1, polar(MIDDLE, rim + 52.0, start))
    s.badge(2, polar(MIDDLE, rim - 40.0, cut), "caution")
    s.turn(MIDDLE, rim + 44.0, high + 12.0, high + 78.0)
    s.say(_size(s), (MIDDLE[0], MIDDLE[1] - 62.0), "ink", 24)
    s.say(Message("pull tight"), (MIDDLE[0], MIDDLE[1] - 24.0), "accent")
    if tape.layers > 1:
        s.say(Message("{n} times around", {"n": tape.layers}), (MIDDLE[0], MIDDLE[1] + 40.0))
    doubled = low <= 0.0 <= high
    s.say(
        Message("doubled at the valve") if doubled else Message("single at the valve"),
        (MIDDLE[0], MIDDLE[1] + 80.0), "muted", NOTE,
    )  # fmt: skip
    s.step_mark(1, (24.0, 500.0), Message("start"))
    s.step_mark(2, (352.0, 500.0), Message("cut here"), "caution")


def _two_strips(s: Sketch) -> None:
    tape = s.plan.tape
    scale = s.rim_fit(470.0, 160.0)
    center = (280.0, 300.0)
    s.rim_section(center, scale, tape=False)
    names = ("tape_left", "tape_right")
    second = s.step.key.endswith("2") or s.state.to_lay == 1
    for i, name in enumerate(names):
        line = s.section.paths.get(name)
        if line and (i == 0 or second):
            s.line(s.placed((center[0], center[1] - 5.0 - 8.0 * i), scale, line), "tape", 7.0)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    sign = 1.0 if second else -1.0
    s.arrow((center[0] + sign * 0.6 * half, 170.0), (center[0] + sign * 0.6 * half, 250.0))
    s.step_mark(
        2 if second else 1,
        (center[0] + sign * 0.6 * half - 60.0, 140.0),
        Message("right strip") if second else Message("left strip"),
    )
    s.say(_size(s), (280.0, 44.0), "ink", 24)
    s.say(Message("edge at the wall"), (280.0, 90.0), "accent")
    if second and tape.strip_overlap_mm:
        s.say(
            Message("overlap {overlap_mm}", {"overlap_mm": tape.strip_overlap_mm}),
            (280.0, 225.0),
            "caution",
        )
    s.say(Message("edges, then middle"), (280.0, 490.0), "accent")


def tape_overlay(s: Sketch) -> None:
    over = s.plan.tape.overlay
    assert over is not None
    scale, center = s.rim_fit(470.0, 160.0), (280.0, 300.0)
    s.rim_section(center, scale)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    laid = over.strips - s.state.to_cover
    each = 2.0 * half / over.strips
    for i in range(min(over.strips, laid + 1)):
        left = center[0] - half + i * each
        y = center[1] - 26.0 - 9.0 * (i % 2)
        s.line(
            ((left - 6.0 * (i > 0), y), (left + each + 6.0, y)),
            "ink" if i < laid else "accent",
            7.0,
        )
    x = center[0] - half + (laid + 0.5) * each
    s.arrow((x, 170.0), (x, center[1] - 44.0))
    s.step_mark(
        laid + 1,
        (min(x, 330.0), 140.0),
        Message("strip {n} of {all}", {"n": laid + 1, "all": over.strips}),
    )
    s.say(
        Message("{width_trade} × {length_cut}", {"width_trade": over.width_mm, "length_cut": over.length_mm}),
        (280.0, 44.0), "ink", 24,
    )  # fmt: skip
    s.say(Message("lap over the last"), (280.0, 490.0), "accent")


def tape_trim(s: Sketch) -> None:
    tape = s.plan.tape
    wide, to = tape.width_mm or 1.0, tape.trim_to_mm or 1.0
    top, high = 150.0, 220.0
    cut = top + high * to / wide
    s.box(60.0, top, 500.0, top + high, "tape")
    s.box(60.0, cut, 500.0, top + high, "line")
    s.line(((40.0, cut), (520.0, cut)), "accent", 4.0, dashed=True)
    s.badge(1, (40.0, cut))
    middle = 0.5 * (top + cut)
    for edge in (top + 6.0, cut - 6.0):
        s.arrow((200.0, middle), (200.0, edge), color="ink", width=3.0)
    s.say(Message("{trim_trade}", {"trim_trade": to}), (320.0, middle), "ink", FIGURE)
    s.say(Message("cut straight, all along"), (280.0, 430.0), "accent")
    s.say(Message("roll: {width_trade}", {"width_trade": wide}), (280.0, 110.0), "muted")


def tape_press(s: Sketch) -> None:
    scale, center = s.rim_fit(400.0, 170.0), (250.0, 330.0)
    s.rim_section(center, scale, tape=True)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    depth = s.plan.bed.depth_mm * scale
    for sign in (-1.0, 1.0):
        x = center[0] + sign * (half - 20.0)
        s.arrow((x, center[1] - 92.0), (x, center[1] - 18.0))
        s.badge(1, (x, center[1] - 116.0))
    s.arrow((center[0], center[1] - 52.0), (center[0], center[1] + depth - 20.0))
    s.badge(2, (center[0], center[1] - 76.0))
    s.say(Message("edges, then the well"), (center[0], center[1] - 158.0), "accent")
    rim = s.wheel(CORNER, SMALL, tire="", pool=False)
    s.sector(CORNER, rim + 1.0, rim + 8.0, 0.0, 360.0, "tape", "")
    s.sector(CORNER, rim + 8.0, rim + 16.0, -24.0, 24.0, "caution", "ink")
    s.badge(3, (CORNER[0], CORNER[1] - SMALL - 12.0), "caution")
    s.say(Message("overlap most"), (300.0, 40.0), "caution", align=1)
    if s.step.code == "tape.warm":
        s.waves((70.0, 180.0), 120.0)
        s.say(Message("warm it first"), (110.0, 130.0), "caution")


def tape_look(s: Sketch) -> None:
    center = (280.0, 120.0)
    scale = s.rim_fit(400.0, 170.0)
    s.rim_section(center, scale, tape=True)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    places = (
        (center[0] - half + 6.0, center[1] - 4.0),
        (center[0], center[1] + s.plan.bed.depth_mm * scale),
        (center[0] + half - 6.0, center[1] - 4.0),
    )
    said = (
        (Message("edge lifted"), "stop"),
        (Message("dimple at a hole"), "stop")
        if not s.plan.setup.sealed
        else (Message("cut"), "stop"),
        (Message("wrinkle"), "stop"),
    )
    for i, (x, (words, color)) in enumerate(zip((96.0, 280.0, 464.0), said, strict=True)):
        s.line((places[i], (x, 306.0)), color, 2.0)
        s.circle(places[i], 18.0, "", color, 3.0)
        s.lens((x, 370.0), 64.0, color)
        s.box(x - 54.0, 384.0, x + 54.0, 406.0, "metal", "metal_edge")
        s.say(words, (x, 458.0), color, wide=180.0)
    s.line(((60, 380), (92, 380), (118, 352), (132, 344)), "tape", 7.0)
    s.box(264.0, 384.0, 296.0, 406.0, "ink")
    s.line(((228, 380), (262, 380), (280, 396), (298, 380), (332, 380)), "tape", 7.0)
    s.line(((412, 380), (448, 380), (458, 354), (468, 380), (516, 380)), "tape", 7.0)
    s.say(Message("look all around"), (280.0, 500.0), "accent")


def hole_open(s: Sketch) -> None:
    center = (170.0, 190.0)
    scale = s.rim_fit(270.0, 200.0)
    s.rim_section(center, scale, tape=True)
    depth = s.plan.bed.depth_mm * scale
    face = s.section.anchors["valve"][1] * 2.0 - s.plan.bed.depth_mm
    low = center[1] + face * scale
    x, tip = center[0], center[1] + depth - 26.0
    s.box(x - 8.0, center[1] + depth + 4.0, x + 8.0, low + 4.0, "card", "card")
    for sign in (-1.0, 1.0):
        s.path(
            ((x + sign * 8, tip + 26), (x + sign * 18, tip + 26), (x + sign * 12, tip + 6)),
            "tape",
            "ink",
            1.0,
        )
    s.solid(
        (
            (x, tip - 16.0),
            (x + 8.0, tip + 30.0),
            (x + 8.0, low + 46.0),
            (x - 8.0, low + 46.0),
            (x - 8.0, tip + 30.0),
        ),
        "card",
    )
    s.box(x - 14.0, low + 46.0, x + 14.0, min(low + 150.0, 512.0), "caution_soft")
    s.arrow((x - 52.0, min(low + 130.0, 500.0)), (x - 52.0, low + 30.0))
    s.step_mark(1, (x + 52.0, min(low + 80.0, 440.0)), Message("from the hub side"))
    cut = s.plan.methods.hole == "cut"
    s.lens((430.0, 110.0), 74.0, "accent")
    s.box(362.0, 84.0, 498.0, 136.0, "tape", "tape")
    if cut:
        s.line(((414, 94), (446, 126)), "ink", 3.0)
        s.line(((414, 126), (446, 94)), "ink", 3.0)
    else:
        s.circle((430.0, 110.0), 14.0, "card", "ink")
    s.badge(2, (354.0, 50.0))
    s.say(Message("small cross") if cut else Message("small and round"), (430.0, 204.0), "accent")
    s.lens((430.0, 310.0), 64.0, "stop")
    s.box(370.0, 286.0, 490.0, 334.0, "tape", "tape")
    s.path(((384, 310), (430, 296), (476, 310), (430, 324)), "card", "ink")
    s.cross((430.0, 310.0), 40.0)
    s.say(Message("long slit: leaks"), (430.0, 394.0), "stop")
    if s.plan.methods.hole == "warmed":
        s.say(Message("warm the pick"), (x, 40.0), "caution")


def valve_fit(s: Sketch) -> None:
    center, scale, nut, low = _valve_section(s)
    s.arrow((center[0], 26.0), (center[0], center[1] + s.plan.bed.depth_mm * scale - 40.0))
    s.step_mark(1, (center[0] + 34.0, 40.0), Message("press into the well"))
    y, half = center[1] + scale * nut, 0.5 * NUT_WIDTH_MM * scale
    s.box(center[0] - half + 4.0, y - 12.0, center[0] + half - 4.0, y, "rubber")
    s.line(((center[0] + half, y - 6.0), (400.0, y - 40.0)), "muted", 1.5)
    s.say(Message("o-ring"), (408.0, y - 42.0), align=-1)
    s.turn((center[0], y - 16.0), half + 30.0, 226.0, 134.0)
    s.step_mark(2, (330.0, y + 40.0), Message("nut: fingers only"))
    out = s.plan.valve.standing_out_mm
    if out is None:
        return
    top, end, x = center[1] + scale * low, center[1] + scale * (low + out), center[0] - 62.0
    s.line(((x, top), (x, end)), "caution", 3.0)
    for edge in (top, end):
        s.line(((x - 8.0, edge), (x + 8.0, edge)), "caution", 3.0)
    s.say(
        Message("{out_mm} free", {"out_mm": out}),
        (x - 18.0, 0.5 * (top + end)),
        "caution",
        align=1,
        wide=120.0,
    )


def core_tight(s: Sketch) -> None:
    """The valve, close up, with the core's way in or out."""
    x = 200.0
    s.box(60.0, 40.0, 340.0, 90.0, "metal", "metal_edge")
    s.box(x - 26.0, 90.0, x + 26.0, 330.0, "brass")
    s.box(x - 16.0, 330.0, x + 16.0, 376.0, "brass")
    s.box(x - 6.0, 376.0, x + 6.0, 430.0, "brass")
    s.turn((x, 340.0), 74.0, 226.0, 134.0)
    s.step_mark(1, (310.0, 390.0), Message("turn: moves freely?"))
    s.step_mark(2, (310.0, 250.0), Message("no dried sealant"))
    s.step_mark(3, (310.0, 150.0), Message("core screwed in"))
    s.say(Message("hub side"), (x, 470.0), "muted", NOTE)


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
    "strip.valve_out": valve_out,
    "strip.tape_off": tape_off,
    "strip.rim_strip_off": rim_strip_off,
    "strip.rim_strip_in": rim_strip_in,
    "rim.look": rim_look,
    "rim.walls": rim_walls,
    "rim.clean": rim_clean,
    "rim.wipe": rim_wipe,
    "rim.dry": rim_dry,
    "tape.find": tape_lay,
    "tape.lay": tape_lay,
    "tape.overlay": tape_overlay,
    "tape.trim": tape_trim,
    "tape.press": tape_press,
    "tape.warm": tape_press,
    "tape.look": tape_look,
    "tape.keep_look": tape_look,
    "hole.open": hole_open,
    "valve.fit": valve_fit,
    "repair.valve": valve_fit,
    "valve.core_check": core_tight,
}
