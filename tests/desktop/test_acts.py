"""The picture of every act on every kind of wheel: what is said fits, and nothing is shown that is not there."""

import math
import re

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from tools.jobs import JOBS, job_of

from inner_rim.core.drawing.acts import SCENES, draw_act
from inner_rim.core.drawing.scene import BADGE_RADIUS, HIGH, WIDE
from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.procedure.actions import KINDS, action, perform
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import UnitChoice, show
from inner_rim.core.record.why import Message
from inner_rim.desktop.drawings.act import lines_of, paint_scene
from inner_rim.desktop.widgets.theme import NAMES, SCALES, Theme, load_font

#: What may be seen in a picture only where it is in the wheel, or where the act brings or takes it, by color.
THINGS = {
    "tube": (lambda state: state.tube == "in", ("tube.", "strip.tube_out", "air.press")),
    "foam": (lambda state: state.insert == "on" or state.has_insert == "yes", ("insert.", "strip.insert_out", "strip.old_")),
    "liquid": (lambda state: state.sealant == "in", ("sealant.", "strip.sealant_out", "bead.wet", "dip.")),
}  # fmt: skip
#: Steps that only some wheels have.
ONLY = {
    "tape.overlay": lambda plan: plan.tape.overlay,
    "tape.trim": lambda plan: plan.tape.trim_to_mm,
}


def plans():
    """Every job's plan, and what is left of it halfway."""
    for name, (changes, _happens) in JOBS.items():
        job = job_from_plain(job_of(changes))
        yield name, plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf)


def scenes(every):
    """(plan, state, step, scene) of all steps of a plan; with `every` of all codes that there are."""
    for name, plan in plans():
        state, steps = plan.log.state, list(plan.steps)
        for step in steps:
            yield name, plan, state, step, draw_act(plan, step)
            state = perform(state, step.key)
        for code in sorted(KINDS) if every(name) else ():
            if not ONLY.get(code, bool)(plan):
                continue
            step = action("seat", code, Message("x"), key=code + " again", pressure_kpa=200.0)
            yield name, plan, state, step, draw_act(plan, step)


def few(name):
    return sum(map(ord, name)) % 5 == 0


def test_every_act_has_a_picture():
    assert set(SCENES) == set(KINDS)


@pytest.mark.parametrize("speaks", ["english", "german"])
def test_words_fit_and_do_not_run_into_each_other(qapp, request, speaks):
    if speaks == "german":
        request.getfixturevalue("german")
    load_font()
    theme, seen, drawn = Theme("light"), set(), 0
    for name, _plan, _state, step, scene in scenes(few):
        drawn += 1
        boxes = []
        for words in scene.captions:
            bare = re.sub(r"\{[^}]*\}", "", words.words.text)
            assert len(re.findall(r"[\w'’]+", bare)) <= 4, words.words.text
            for units in (UnitChoice(), UnitChoice("psi", "in", "floz")):
                _lines, pixels, box = lines_of(words, 1.0, units, theme)
                assert pixels >= 15
                inside = QRectF(0.0, 0.0, WIDE, HIGH).contains(box)
                said = (step.code, words.words.read(units))
                assert inside, (name, *said, box)
            boxes.append((said, box))
        for badge in scene.badges:
            (x, y), r = badge.at, BADGE_RADIUS
            box = QRectF(x - r, y - r, 2.0 * r, 2.0 * r)
            assert QRectF(0.0, 0.0, WIDE, HIGH).contains(box), (name, step.code, badge)
            boxes.append((badge.number, box))
        for i, (said, box) in enumerate(boxes):
            for other, there in boxes[:i]:
                both = box.intersected(there)
                if both.width() > 1.0 and both.height() > 1.0:
                    seen.add((step.code, said, other))
        numbers = sorted({badge.number for badge in scene.badges})
        assert numbers == list(range(numbers[0], numbers[-1] + 1)) if numbers else True, step.code
        assert scene.captions and len(scene.paths) > 2, step.code
    assert not seen and drawn > 1500


def test_nothing_is_shown_that_is_not_in_the_wheel():
    checked = dict.fromkeys(THINGS, 0)
    for name, _plan, state, step, scene in scenes(lambda name: False):
        colors = {path.fill for path in scene.paths} | {path.edge for path in scene.paths}
        for color, (there, acts) in THINGS.items():
            if color in colors:
                checked[color] += 1
                assert there(state) or step.code.startswith(acts), (name, step.code, color)
        said = {words.words.text for words in scene.captions}
        if _plan.wheel.position is None:
            assert not said & {"front wheel", "rear wheel"}
    assert all(checked.values())


def test_a_picture_says_nothing_that_its_sentence_does_not_bear_out():
    """Pressures, slack and sides of the words in a picture are those of the step; a side that nobody named is none."""
    checked = {"pressure": 0, "slack": 0, "side": 0}
    for name, _plan, _state, step, scene in scenes(lambda name: False):
        sentence = step.text.read()
        for caption in scene.captions:
            said = caption.words
            if "pressure_kpa" in said.values and step.code != "set.sign":
                checked["pressure"] += 1
                assert (
                    said.read() in sentence
                    or said.values["pressure_kpa"] == step.pressure_kpa
                    or (step.code == "dry.test")
                ), (name, step.code, said.read(), sentence)
            if "slack_mm" in said.values and "slack_mm" in str(step.text.values):
                checked["slack"] += 1
                figure = show(said.values["slack_mm"], "mm", UnitChoice())
                assert figure in sentence or "slack" not in sentence, (name, figure, sentence)
            for side in re.findall(r"(left|right) side (?:first|only|down)", said.text):
                checked["side"] += 1
                assert side in sentence, (name, step.code, said.text, sentence)
    assert all(checked.values()), checked


def test_figures_and_lengths_are_the_plans():
    """Slack and last section to one scale; the tape's marks where the plan starts and cuts; its width, the dose."""
    slack = marks = doses = 0
    for name, plan, _state, step, scene in scenes(lambda name: False):
        said = {words.words.read() for words in scene.captions}
        if step.code == "bead.second" and plan.mounting.grade != "unknown":
            bars = [
                math.dist(*path.points)
                for path in scene.paths
                if path.width == 8.0 and len(path.points) == 2
            ]
            assert len(bars) == 2, name
            expected = min(80.0, max(0.0, plan.mounting.slack_mm)) / 80.0
            assert bars[1] / bars[0] == pytest.approx(expected, abs=0.03)
            slack += 1
        if step.code == "tape.lay" and plan.tape.strips == 1:
            lines = [
                path.points for path in scene.paths if path.width == 4.0 and path.edge == "ink"
            ]
            angles = [math.degrees(math.atan2(b[0] - a[0], a[1] - b[1])) % 360.0 for a, b in lines]
            assert angles == pytest.approx(
                [plan.tape.start_deg % 360.0, plan.tape.cut_deg % 360.0], abs=0.1
            )
            marks += 1
        if step.code == "sealant.pour":
            assert any("ml" in words for words in said), name
            doses += 1
    assert slack > 5 and marks > 10 and doses > 3


def test_pictures_are_painted_in_every_theme_and_size(qapp):
    load_font()
    some = [
        one for one in scenes(lambda name: False) if one[0] == "hookless rim with insert, injected"
    ]
    for theme_name in NAMES:
        for scale in (SCALES[0], SCALES[-1]):
            theme = Theme(theme_name, scale)
            for _name, _plan, _state, step, scene in some:
                image = QImage(380, 360, QImage.Format.Format_RGB32)
                image.fill(theme.color("card"))
                painter = QPainter(image)
                paint_scene(painter, QRectF(image.rect()), scene, UnitChoice(), theme)
                painter.end()
                ground = theme.color("card").rgb()
                inked = sum(
                    image.pixel(x, y) != ground for x in range(0, 380, 6) for y in range(0, 360, 6)
                )
                assert inked > 100, step.code
