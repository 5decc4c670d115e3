"""The pictures of tape, valve hole and valve."""

from inner_rim.core.drawing.scene import FIGURE, NOTE, polar
from inner_rim.core.drawing.section import NUT_WIDTH_MM, VALVE_BASE_MM, VALVE_BODY_MM, Point
from inner_rim.core.drawing.sketch import CORNER, LARGE, MIDDLE, SMALL, Sketch
from inner_rim.core.models.valve import NUT_AND_RING_MM
from inner_rim.core.procedure.words import number_of
from inner_rim.core.record.why import Message

#: Thread below the nut of a valve whose rim was not measured, mm.
ASSUMED_FREE_MM = 20.0


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
    if s.plan.setup.adds_layer:
        s.say(Message("one more layer"), (MIDDLE[0], MIDDLE[1] + 40.0))
    elif tape.layers > 1:
        layer = {"n": number_of(s.step.key), "layers": tape.layers}
        s.say(Message("layer {n} of {layers}", layer), (MIDDLE[0], MIDDLE[1] + 40.0))
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
    second = number_of(s.step.key) % 2 == 0
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
    s.say(Message("check all around"), (280.0, 500.0), "accent")


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
    if out is None or s.plan.setup.keeps_valve:  # how long a valve that was in is, nobody said
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


SCENES = {
    "strip.valve_out": valve_out,
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
