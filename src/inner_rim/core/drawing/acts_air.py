"""The pictures of core, sealant, air and the molded line."""

from inner_rim.core.drawing.scene import FIGURE, NOTE, SECTORS, arc, polar, sector_deg
from inner_rim.core.drawing.section import Point
from inner_rim.core.drawing.sketch import LARGE, MIDDLE, Sketch
from inner_rim.core.plan.wheel_plan import dose_due_ml
from inner_rim.core.procedure.actions import PRESSING_MINUTES
from inner_rim.core.record.why import Message


def pressure_words(pressure_kpa: float) -> Message:
    return Message("{pressure_kpa}", {"pressure_kpa": pressure_kpa})


def step_kpa(s: Sketch) -> float:
    """The pressure that the step is about."""
    return s.step.pressure_kpa or s.plan.pressure.settle_kpa


def needle(s: Sketch, pressure_kpa: float) -> float:
    """The needle's share: the limit stands at four fifths of the dial."""
    return 0.8 * pressure_kpa / s.plan.pressure.limit_kpa


# -- valve and core --------------------------------------------------------------------------------


def air_out(s: Sketch) -> None:
    center, radius = (340.0, 300.0), 185.0
    rim = s.wheel(center, radius)
    first = 1
    if s.sealant:
        s.badge(1, polar(center, radius - 6.0, 0.0))
        s.say(Message("valve at the top"), (center[0], center[1] - radius - 36.0), "accent")
        s.say(Message("sealant below"), (center[0], center[1] + 70.0), "muted", NOTE)
        first = 2
    lens = (125.0, 150.0)
    s.line((polar(center, rim - 30.0, 0.0), (lens[0] + 90.0, lens[1])), "ink", 2.0)
    s.lens(lens, 102.0)
    s.box(40.0, 84.0, 210.0, 108.0, "metal", "metal_edge")
    s.box(lens[0] - 13.0, 108.0, lens[0] + 13.0, 168.0, "brass")
    s.box(lens[0] - 5.0, 168.0, lens[0] + 5.0, 188.0, "brass")
    s.waves((lens[0], 196.0), 180.0)
    s.step_mark(first, (30.0, 282.0), Message("let air out"))
    s.say(Message("slowly, until flat"), (30.0, 346.0), "accent", align=-1, wide=120.0)


def valve_top(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE)
    s.valve(MIDDLE, rim, LARGE, 140.0, dashed=True)
    s.turn(MIDDLE, LARGE + 18.0, 136.0, 14.0)
    s.badge(1, polar(MIDDLE, LARGE + 18.0, 0.0))
    s.say(Message("valve to the top"), (MIDDLE[0], MIDDLE[1] - 76.0), "accent")
    if s.sealant:
        s.say(Message("sealant stays below"), (MIDDLE[0], MIDDLE[1] + 44.0), "muted")


def core_out(s: Sketch) -> None:
    center, radius = (370.0, 300.0), 165.0
    s.wheel(center, radius, valve=90.0)
    s.step_mark(1, (300.0, 96.0), Message("valve at 3 o'clock"))
    lens = (135.0, 300.0)
    rim = radius * s.rim_share
    s.line((polar(center, rim - 36.0, 90.0), (lens[0] + 120.0, lens[1] - 20.0)), "ink", 2.0)
    s.lens(lens, 122.0)
    out = s.step.code == "core.out"
    right = lens[0] + 96.0
    s.box(right - 10.0, lens[1] - 92.0, right + 8.0, lens[1] + 92.0, "metal", "metal_edge")
    s.box(right - 80.0, lens[1] - 22.0, right - 10.0, lens[1] + 22.0, "brass")
    s.box(right - 124.0, lens[1] - 9.0, right - 84.0, lens[1] + 9.0, "brass")
    start, end = (right - 130.0, lens[1]), (right - 190.0, lens[1])
    s.arrow(*((start, end) if out else (end, start)))
    s.step_mark(
        2, (40.0, 456.0), Message("unscrew the core") if out else Message("screw the core in")
    )
    if not out and s.plan.methods.core_in == "finger" and s.plan.setup.route == "inject":
        s.say(Message("finger on the valve"), (40.0, 492.0), "caution", align=-1)
    if out:
        s.say(Message("all air is out"), (40.0, 60.0), "stop", align=-1)
    if s.sealant:
        s.say(Message("sealant below"), (center[0], center[1] + 62.0), "muted", NOTE)


def dip_read(s: Sketch) -> None:
    center, radius = (280.0, 190.0), 165.0
    rim = s.wheel(center, radius, valve=180.0)
    s.line(((center[0], center[1] + 30.0), (center[0], center[1] + radius - 8.0)), "ink", 8.0)
    s.line(
        ((center[0], center[1] + 32.0), (center[0], center[1] + radius - 10.0)), "caution_soft", 5.0
    )
    s.arrow((center[0] + 40.0, center[1] + 30.0), (center[0] + 40.0, center[1] + rim - 26.0))
    s.step_mark(1, (24.0, 400.0), Message("valve at the bottom"))
    s.step_mark(2, (24.0, 444.0), Message("dipstick through the valve"))
    s.step_mark(3, (24.0, 488.0), Message("read the wet length"))


# -- sealant ---------------------------------------------------------------------------------------


def _bottle(s: Sketch, at: Point, deg: float, fill: bool = True) -> None:
    """A bottle whose mouth is at a point, its bottom away from it in a direction."""

    def there(away: float, across: float) -> Point:
        base = polar(at, away, deg)
        return polar(base, across, deg + 90.0)

    s.solid(
        [
            there(a, c)
            for a, c in (
                (0, -7),
                (0, 7),
                (26, 9),
                (44, 30),
                (128, 30),
                (128, -30),
                (44, -30),
                (26, -9),
            )
        ],
        "card",
    )
    if fill:
        s.path(
            [
                there(a, c)
                for a, c in ((34, -15), (34, 15), (46, 26), (90, 26), (90, -26), (46, -26))
            ],
            "liquid",
        )


def shake(s: Sketch) -> None:
    _bottle(s, (280.0, 150.0), 180.0)
    for x in (170.0, 390.0):
        s.arrow((x, 240.0), (x, 130.0))
        s.arrow((x, 250.0), (x, 350.0))
    s.badge(1, (280.0, 100.0))
    s.say(Message("shake it well"), (280.0, 420.0), "accent", 24)
    s.say(Message("right before you pour"), (280.0, 460.0), "ink")


def _dose(s: Sketch) -> Message:
    due = dose_due_ml(s.plan)
    if due is None:
        return Message("what is missing")
    return Message("{dose_ml}", {"dose_ml": due})


def pour(s: Sketch) -> None:
    center, radius = (310.0, 325.0), 165.0
    away = s.plan.methods.finish == "elsewhere"
    rim = s.wheel(center, radius, valve=-60.0 if away else 38.0)
    s.sector(center, rim + 1.0, radius + 2.0, 18.0, 70.0, "card", "card")
    s.line(arc(center, rim + 12.0, 18.0, 70.0), "caution", 8.0)
    mouth = polar(center, rim + 40.0, 44.0)
    s.line((mouth, polar(center, rim + 4.0, 44.0)), "liquid", 10.0)
    _bottle(s, polar(center, rim + 44.0, 44.0), 40.0)
    s.step_mark(1, (24.0, 34.0), Message("pour in"))
    s.say(_dose(s), (140.0, 80.0), "ink", FIGURE)
    s.turn(center, radius + 18.0, 6.0, -34.0)
    s.step_mark(2, (24.0, 128.0), Message("turn, then close"))
    s.say(Message("it stays below"), (center[0], center[1] + 70.0), "muted", NOTE)
    s.arrow((center[0], center[1] + 92.0), (center[0], center[1] + 128.0), color="muted", width=3.0)


def inject(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, valve=None)
    deg = 120.0
    s.valve(MIDDLE, rim, LARGE, deg)
    s.valve(MIDDLE, rim, LARGE, 180.0, dashed=True)
    s.cross(polar(MIDDLE, rim - 30.0, 180.0), 18.0)
    s.say(Message("not here"), (MIDDLE[0] - 80.0, MIDDLE[1] + 104.0), "stop")

    def there(away: float, across: float) -> Point:
        return polar(polar(MIDDLE, away, deg), across, deg + 90.0)

    tip = rim - 48.0
    s.solid(
        [
            there(tip, -7),
            there(tip, 7),
            there(tip - 18, 7),
            there(tip - 18, 24),
            there(tip - 78, 24),
            there(tip - 78, -24),
            there(tip - 18, -24),
            there(tip - 18, -7),
        ],
        "card",
    )
    s.path(
        [there(tip - 20, 21), there(tip - 60, 21), there(tip - 60, -21), there(tip - 20, -21)],
        "liquid",
    )
    s.line((there(tip - 60, 0), there(tip - 104, 0)), "ink", 8.0)
    s.line((there(tip - 104, 18), there(tip - 104, -18)), "ink", 8.0)
    s.arrow(there(tip - 96, -46), there(tip - 26, -46))
    s.step_mark(1, (336.0, 494.0), Message("valve at 4 o'clock"))
    s.step_mark(2, (MIDDLE[0] - 110.0, MIDDLE[1] - 66.0), Message("push in"))
    s.say(_dose(s), (MIDDLE[0], MIDDLE[1] - 112.0), "ink", FIGURE)
    loads = s.plan.sealant.loads_ml
    if len(loads) > 1 and dose_due_ml(s.plan) == s.plan.sealant.dose_ml:
        s.say(
            Message("{n} fillings", {"n": len(loads)}), (MIDDLE[0] - 90.0, MIDDLE[1] - 24.0), "ink"
        )
    s.step_mark(3, (24.0, 34.0), Message("pull back, unscrew"))
    s.say(Message("core is out"), (548.0, 34.0), "ink", align=1)


def sealant_look(s: Sketch) -> None:
    s.wheel(MIDDLE, LARGE, pool=True)
    s.arrow((520.0, 200.0), (520.0, 120.0))
    s.arrow((520.0, 210.0), (520.0, 290.0))
    s.badge(1, (520.0, 90.0))
    s.say(Message("shake: does it slosh?"), (MIDDLE[0], MIDDLE[1] - 60.0), "accent")
    s.say(Message("enough liquid?"), (MIDDLE[0], 502.0), "accent")


# -- pressure steps and the line -------------------------------------------------------------------


def _sectors(s: Sketch, center: Point, radius: float, side: str) -> None:
    """A side in eight sectors from the valve; the left one counts the other way, so that 3 is the
    same place.
    """
    each = 360.0 / SECTORS
    for number in range(1, SECTORS + 1):
        start = sector_deg(number)
        low = number in s.low[side]
        colors = ("stop_soft", "stop") if low else ("accent_soft", "accent")
        s.sector(center, 0.72 * radius, radius, start + 1.5, start + each - 1.5, *colors)
        s.say(
            Message("{n}", {"n": number}),
            polar(center, 0.86 * radius, start + 0.5 * each),
            "ink",
            NOTE,
        )
    s.circle(center, 0.66 * radius, "", "metal", 9.0)
    s.line((polar(center, 0.62 * radius, 0.0), polar(center, 0.42 * radius, 0.0)), "brass", 8.0)
    s.say(
        Message("left") if side == "left" else Message("right"),
        (center[0], center[1] + 16.0),
        "ink",
    )


def _line_lens(s: Sketch, center: Point, radius: float, low: bool) -> None:
    """The molded line over the rim's edge, even or low."""
    s.lens(center, radius, "stop" if low else "accent")
    inner = radius - 3.0
    # tire above, rim below, cut by the lens
    s.path(arc(center, inner, -112.0, 112.0), "rubber")
    rim = [*arc(center, inner, 112.0, 248.0)]
    if low:
        x0, y0 = center[0] - 0.62 * radius, center[1] + 0.1 * radius
        dip = [
            (x0 + 1.24 * radius * i / 16.0, y0 + 0.34 * radius * _bump(i / 16.0)) for i in range(17)
        ]
        s.line(dip, "metal", 6.0)
    s.path(rim, "metal", "metal_edge")
    if not low:
        y = center[1] + 0.2 * radius
        s.line(((center[0] - 0.9 * radius, y), (center[0] + 0.9 * radius, y)), "metal", 6.0)
    else:
        s.circle((center[0], center[1] + 0.36 * radius), 0.34 * radius, "", "stop", 4.0)


def _bump(share: float) -> float:
    return 1.0 - (2.0 * share - 1.0) ** 2


def pressure_step(s: Sketch) -> None:
    for center, side in (((128.0, 150.0), "left"), ((432.0, 150.0), "right")):
        _sectors(s, center, 122.0, side)
    _line_lens(s, (128.0, 390.0), 92.0, False)
    _line_lens(s, (432.0, 390.0), 92.0, True)
    s.say(Message("even"), (128.0, 502.0), "accent")
    s.say(Message("low"), (432.0, 502.0), "stop")


def line_look(s: Sketch) -> None:
    _line_lens(s, (148.0, 190.0), 128.0, False)
    _line_lens(s, (412.0, 190.0), 128.0, True)
    s.say(Message("even: good"), (148.0, 344.0), "accent", 24)
    s.say(Message("low: air out"), (412.0, 344.0), "stop", 24)
    s.wheel((150.0, 436.0), 70.0, pool=False)
    s.turn((150.0, 436.0), 82.0, 20.0, 130.0)
    s.say(Message("all the way around"), (250.0, 420.0), "accent", align=-1)
    s.say(Message("left and right side"), (250.0, 456.0), "accent", align=-1)


def pump_up(s: Sketch) -> None:
    center, radius = (384.0, 310.0), 162.0
    rim = s.wheel(center, radius)
    tip = polar(center, rim - 34.0, 0.0)
    burst = s.step.code == "air.burst"
    s.line((tip, (tip[0], center[1]), (110.0, center[1] + 40.0), (110.0, 340.0)), "ink", 7.0)
    if s.step.code == "air.source" or burst:
        s.box(60.0, 340.0, 160.0, 470.0, "edge")
        s.box(86.0, 318.0, 134.0, 340.0, "metal")
    else:
        s.box(96.0, 330.0, 124.0, 480.0, "edge")
        s.line(((70.0, 480.0), (150.0, 480.0)), "ink", 8.0)
        s.line(((110.0, 330.0), (110.0, 290.0)), "ink", 5.0)
    s.badge(1, (44.0, 400.0))
    if s.step.code == "air.source":
        s.say(Message("compressor or charged bottle"), (20.0, 34.0), "accent", align=-1)
        s.say(Message("hose on the valve"), (20.0, 68.0), "accent", align=-1)
        return
    pressure = s.plan.pressure.seating_kpa[-1] if burst else step_kpa(s)
    s.gauge((110.0, 150.0), 82.0, needle(s, pressure))
    s.say(pressure_words(pressure), (110.0, 262.0), "ink", FIGURE)
    s.say(
        Message("one burst, at most") if burst else Message("watch the gauge"),
        (110.0, 36.0),
        "accent",
    )
    if s.sealant:
        s.say(Message("sealant below"), (center[0], center[1] + 76.0), "muted", NOTE)


def tube_rest(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, pool=False)
    s.sector(MIDDLE, rim + 4.0, LARGE - 14.0, 0.0, 359.0, "tube")
    for deg in (60.0, 120.0, 180.0, 240.0, 300.0):
        s.arrow(polar(MIDDLE, LARGE - 16.0, deg), polar(MIDDLE, rim - 2.0, deg), width=4.0)
    s.clock((MIDDLE[0], MIDDLE[1] - 20.0), 44.0, PRESSING_MINUTES / 60.0)
    s.say(
        Message("{n} min", {"n": round(PRESSING_MINUTES)}), (MIDDLE[0], MIDDLE[1] + 54.0), "ink", 24
    )
    s.say(Message("tube presses the tape"), (MIDDLE[0], 504.0), "accent")


def dry_test(s: Sketch) -> None:
    center, radius = (345.0, 290.0), 160.0
    s.wheel(center, radius)
    s.gauge((100.0, 120.0), 74.0, needle(s, step_kpa(s)))
    s.say(Message("does it stay?"), (24.0, 226.0), "accent", align=-1)
    s.clock((100.0, 320.0), 46.0, 1.0 / 60.0)
    s.say(Message("one minute"), (24.0, 392.0), "accent", align=-1)
    for deg in (20.0, 100.0, 245.0):
        s.waves(polar(center, radius + 4.0, deg), deg, 2)
    s.say(Message("listen all around"), (center[0], 504.0), "accent")
    s.say(Message("no sealant yet"), (center[0], center[1] + 60.0), "muted", NOTE)


def stays_on(s: Sketch) -> None:
    at, scale = s.with_tire(280.0, 330.0)
    s.rim_section(at, scale)
    if s.state.insert == "on":
        s.insert_section(at, scale)
    s.tire_section(at, scale)
    for number, side in ((1, "left"), (2, "right")):
        sign = -1.0 if side == "left" else 1.0
        x = at[0] + sign * 0.5 * s.plan.bed.internal_width_mm * scale
        s.circle((x - sign * 8.0, at[1] - 10.0), 30.0, "", "accent", 3.0)
        s.badge(number, (x + sign * 58.0, at[1] + 30.0))
    s.say(Message("air out: still seated?"), (at[0], at[1] - 60.0), "accent", wide=150.0)
    s.say(Message("check both beads"), (280.0, 502.0), "accent")


def spin(s: Sketch) -> None:
    center, radius = (345.0, 270.0), 180.0
    s.wheel(center, radius)
    s.turn(center, radius + 18.0, -50.0, 40.0)
    s.badge(1, polar(center, radius + 18.0, 50.0))
    s.box(20.0, 256.0, 74.0, 284.0, "edge")
    s.path(((74.0, 256.0), (104.0, 270.0), (74.0, 284.0)), "edge", "ink")
    s.badge(2, (46.0, 228.0))
    s.say(Message("fixed point"), (14.0, 316.0), "accent", align=-1)
    s.say(Message("hop, wobble: stop"), (center[0], 498.0), "stop")


SCENES = {
    "strip.deflate": air_out,
    "air.deflate": air_out,
    "valve.top": valve_top,
    "core.out": core_out,
    "core.in": core_out,
    "dip.read": dip_read,
    "sealant.shake": shake,
    "sealant.pour": pour,
    "sealant.inject": inject,
    "sealant.look": sealant_look,
    "air.step": pressure_step,
    "line.look": line_look,
    "air.inflate": pump_up,
    "air.burst": pump_up,
    "air.source": pump_up,
    "air.press": tube_rest,
    "dry.test": dry_test,
    "dry.stay": stays_on,
    "spin.look": spin,
}
