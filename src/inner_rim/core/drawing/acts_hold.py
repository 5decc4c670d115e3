"""The pictures of the leak test, of repairs, of check-in and handing over."""

from inner_rim.core.drawing.acts_air import needle, pressure_words, step_kpa
from inner_rim.core.drawing.scene import FIGURE, NOTE, arc, polar
from inner_rim.core.drawing.section import Point
from inner_rim.core.drawing.sketch import LARGE, MIDDLE, Sketch, other
from inner_rim.core.plan.wheel_plan import inside_ml
from inner_rim.core.record.why import Message

ON_SIDE = {"left": Message("left side down"), "right": Message("right side down")}


# -- holding air -----------------------------------------------------------------------------------


def _lying(s: Sketch, center: Point, down: str) -> None:
    """The wheel on a bucket, cut from the side: the sealant on the lower wall; which side is down,
    empty where nobody said.
    """
    x, y = center
    s.solid(((x - 40, y + 96), (x + 40, y + 96), (x + 30, y + 22), (x - 30, y + 22)), "edge")
    s.box(x - 116.0, y - 9.0, x + 116.0, y + 9.0, "metal", "metal_edge")
    for sign in (-1.0, 1.0):
        at = (x + sign * 150.0, y)
        s.circle(at, 38.0, "air", "rubber", 9.0)
        if s.sealant:
            s.path(arc(at, 33.0, 128.0, 232.0), "liquid")
    if down and s.plan.wheel.position == "rear":
        top = down == "left"
        edge = -30.0 if top else 12.0
        s.box(x - 26.0, y + edge, x + 26.0, y + edge + 18.0, "metal_edge")
    for name, dy in ((down, 62.0), (other(down), -62.0)) if down else ():
        s.say(
            Message("left") if name == "left" else Message("right"),
            (x - 150.0, y + dy),
            "ink",
            NOTE,
        )
    s.arrow((x + 206.0, y - 20.0), (x + 206.0, y + 52.0))


def lay_flat(s: Sketch) -> None:
    side = {"hold.flat_left": "left", "hold.flat_right": "right"}.get(s.step.code, s.side)
    unknown = s.step.code == "repair.lay" and not s.plan.setup.leak_side
    s.step_mark(1, (120.0, 60.0), Message("leaking side down") if unknown else ON_SIDE[side])
    _lying(s, (270.0, 240.0), "" if unknown else side)
    minutes = s.step.wait_minutes
    if minutes:
        s.clock((200.0, 430.0), 44.0, min(1.0, minutes / 60.0))
        s.say(Message("{n} min", {"n": round(minutes)}), (270.0, 430.0), "ink", FIGURE, align=-1)
    if s.step.code == "repair.lay":
        s.say(Message("spin it first"), (270.0, 104.0), "accent")


def shake_spin(s: Sketch) -> None:
    center, radius = (270.0, 285.0), 175.0
    s.wheel(center, radius)
    s.turn(center, radius + 18.0, 20.0, 110.0)
    s.arrow((50.0, 270.0), (50.0, 170.0))
    s.arrow((50.0, 280.0), (50.0, 380.0))
    s.badge(2, (50.0, 140.0))
    s.badge(3, polar(center, radius + 18.0, 8.0))
    s.say(pressure_words(s.plan.pressure.settle_kpa), (center[0], center[1] - 60.0), "ink", FIGURE)
    s.step_mark(1, (24.0, 34.0), Message("set the pressure"))
    s.say(Message("shake, then spin"), (center[0], center[1] + 66.0), "accent")
    if s.step.code == "hold.top_up":
        s.say(Message("then other side down"), (center[0], 500.0), "accent")
    else:
        s.say(Message("on every side"), (center[0], 500.0), "accent")


def read_gauge(s: Sketch) -> None:
    center, radius = (392.0, 320.0), 155.0
    rim = s.wheel(center, radius)
    s.line(
        (polar(center, rim - 34.0, 0.0), (center[0], center[1] - 6.0), (150.0, 232.0)), "ink", 6.0
    )
    setting = s.step.code == "set.pressure"
    pressure = s.plan.pressure.set_here_kpa if setting else step_kpa(s)
    s.gauge((130.0, 150.0), 96.0, needle(s, pressure))
    s.say(pressure_words(pressure), (130.0, 280.0), "ink", FIGURE)
    s.say(Message("set it here") if setting else Message("left at this"), (130.0, 320.0), "accent")
    if not setting:
        s.step_mark(1, (24.0, 420.0), Message("leave it"))
        s.step_mark(2, (24.0, 464.0), Message("then read again"))
    else:
        s.say(Message("gauge at the valve"), (24.0, 420.0), "accent", align=-1)


def soap(s: Sketch) -> None:
    center, radius = (270.0, 280.0), 200.0
    rim = s.wheel(center, radius)
    bead = s.step.code == "repair.bead_look"
    places = [
        (0.0, rim - 40.0, Message("valve")),
        (60.0, rim - 12.0, Message("nipples")),
        (92.0, rim + 6.0, Message("bead")),
        (128.0, 0.5 * (rim + radius), Message("side wall")),
    ]
    if s.plan.setup.sealed:
        places.pop(1)
    if bead:
        places = [(92.0, rim + 6.0, Message("bead"))]
    for number, (deg, away, words) in enumerate(places, 1):
        at = polar(center, away, deg)
        s.bubbles(at)
        inside = away < rim - 5.0
        mark = (
            polar(center, away - 62.0, deg + 6.0) if inside else polar(center, radius + 30.0, deg)
        )
        if number == 1 and not bead:
            mark = (center[0] - 30.0, center[1] - away + 50.0)
        s.badge(number, mark)
        s.say(words, (mark[0], mark[1] + 34.0), "accent")
    s.say(
        Message("soapy water, in order") if not bead else Message("soap that bead"),
        (20.0, 30.0),
        "accent",
        align=-1,
    )
    s.say(Message("bubbles: it leaks"), (20.0, 500.0), "stop", align=-1)


# -- repairs ---------------------------------------------------------------------------------------


def _hole(s: Sketch, inside: bool) -> Point:
    """A piece of the tread with a hole; the outside is above."""
    s.path(
        (
            *arc((280.0, 760.0), 520.0, -34.0, 34.0),
            *reversed(arc((280.0, 760.0), 450.0, -34.0, 34.0)),
        ),
        "rubber",
        "metal_edge",
    )
    s.path(((270.0, 236.0), (292.0, 236.0), (286.0, 316.0), (276.0, 316.0)), "card", "stop")
    s.say(Message("outer face"), (70.0, 220.0), "muted", NOTE)
    s.say(Message("inner face"), (90.0, 440.0), "muted", NOTE)
    return (280.0, 318.0 if inside else 236.0)


def plug(s: Sketch) -> None:
    x, y = _hole(s, False)
    s.line(((x, 60.0), (x, y - 10.0)), "edge", 9.0)
    s.box(x - 46.0, 36.0, x + 46.0, 62.0, "caution_soft")
    s.path(((x - 9, y - 40), (x + 9, y - 40), (x + 6, y + 60), (x - 6, y + 60)), "brass", "ink")
    s.arrow((x - 70.0, 100.0), (x - 70.0, y - 6.0))
    s.step_mark(1, (x + 50.0, 130.0), Message("push the plug in"))
    s.step_mark(2, (150.0, 404.0), Message("then hole at bottom"))
    if s.state.air == "up":
        s.say(Message("air stays in"), (280.0, 500.0), "accent")


def patch(s: Sketch) -> None:
    x, y = _hole(s, True)
    boot = s.step.code == "repair.boot"
    wide = 96.0 if boot else 60.0
    s.box(x - wide, y + 4.0, x + wide, y + 18.0, "tape")
    s.arrow((x, y + 100.0), (x, y + 26.0))
    s.badge(2 if not boot else 1, (x + 36.0, y + 90.0))
    s.say(Message("press it down"), (x + 64.0, y + 90.0), "accent", align=-1)
    if boot:
        s.say(Message("boot over the cut"), (280.0, 150.0), "accent")
    else:
        s.step_mark(1, (40.0, 486.0), Message("dry and roughen inside"))


# -- check-in and handing over ---------------------------------------------------------------------


def read_parts(s: Sketch) -> None:
    at, scale = s.with_tire(280.0, 330.0, 450.0)
    s.rim_section(at, scale, tape=False)
    s.tire_section(at, scale)
    half = 0.5 * s.plan.bed.internal_width_mm * scale
    wide = 0.5 * s.plan.tire.mounted_width_mm * scale
    y = at[1] - 46.0
    s.line(((at[0] - half, y), (at[0] + half, y)), "accent", 3.0)
    s.badge(1, (at[0], y - 24.0))
    s.badge(2, (at[0] + wide + 34.0, at[1] - s.plan.tire.center_mm * scale))
    s.badge(3, (at[0] + half + 50.0, at[1] + 26.0))
    s.step_mark(1, (24.0, 494.0), Message("rim: width, hook"))
    s.step_mark(2, (24.0, 34.0), Message("tire: size, maximum"))
    s.step_mark(3, (330.0, 494.0), Message("rim: maximum"))


def approval(s: Sketch) -> None:
    rim = s.wheel(MIDDLE, LARGE, pool=False)
    s.circle(polar(MIDDLE, 0.5 * (rim + LARGE), 55.0), 36.0, "", "accent", 5.0)
    s.badge(1, polar(MIDDLE, LARGE + 30.0, 55.0))
    s.say(Message("on the tire: hookless?"), (MIDDLE[0], MIDDLE[1] - 50.0), "accent")
    s.say(Message("not there: stop"), (MIDDLE[0], MIDDLE[1] + 60.0), "stop")


def weigh(s: Sketch) -> None:
    s.wheel((280.0, 200.0), 160.0)
    s.box(150.0, 372.0, 410.0, 396.0, "edge")
    s.box(180.0, 396.0, 380.0, 470.0, "card")
    finished = s.step.code == "set.weigh"
    s.say(
        Message("as it goes out") if finished else Message("as it came in"),
        (280.0, 433.0),
        "accent",
    )
    s.say(Message("or go on without"), (280.0, 500.0), "muted")


def hand_over(s: Sketch) -> None:
    s.wheel(MIDDLE, LARGE, pool=False)
    s.say(
        pressure_words(s.plan.pressure.set_here_kpa), (MIDDLE[0], MIDDLE[1] - 66.0), "ink", FIGURE
    )
    if s.sealant:
        s.say(
            Message("{dose_ml} sealant", {"dose_ml": inside_ml(s.plan)}),
            (MIDDLE[0], MIDDLE[1] + 44.0),
            "ink",
        )
    s.say(Message("nut, core, cap"), (MIDDLE[0], MIDDLE[1] + 84.0), "accent")
    s.say(Message("with your name"), (MIDDLE[0], 504.0), "accent")


SCENES = {
    "hold.shake": shake_spin,
    "hold.top_up": shake_spin,
    "hold.flat_left": lay_flat,
    "hold.flat_right": lay_flat,
    "repair.lay": lay_flat,
    "hold.soap": soap,
    "repair.find": soap,
    "repair.bead_look": soap,
    "hold.read": read_gauge,
    "set.pressure": read_gauge,
    "repair.plug": plug,
    "repair.patch": patch,
    "repair.boot": patch,
    "check_in.read": read_parts,
    "check_in.approval": approval,
    "check_in.weigh": weigh,
    "set.weigh": weigh,
    "set.sign": hand_over,
}
