"""The why of every figure of every job: one sentence with the figure, what decides, what else was possible and why not."""

from tools.jobs import JOBS, job_of

from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.record.reading import job_from_plain
from inner_rim.core.record.units import TRADE, UnitChoice, show
from inner_rim.work.text.pick_rows import COUNT, rows
from inner_rim.work.text.why_words import why_page

BAR = UnitChoice()


def test_every_figure_has_a_sentence_and_every_other_choice_its_reason():
    others = {place: set() for place in range(COUNT)}
    for name, (changes, _happens) in JOBS.items():
        if sum(map(ord, name)) % 2:
            changes = {**changes, "rim.depth_at_valve_mm": 18.0}
        job = job_from_plain(job_of(changes))
        plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf)
        pages = [why_page(at, row.why, plan, BAR) for at, row in enumerate(rows(plan, BAR))]
        for place, page in enumerate(pages):
            assert len(page.said.split()) <= 30 and page.said.endswith("."), (name, page.said)
            assert len(page.decides) <= 3 and (page.decides or place == 3), (name, place)
            assert all(one.what and one.reason for one in page.others)
            assert len({one.what for one in page.others}) == len(page.others), (name, place)
            others[place] |= {one.reason for one in page.others}
        pressure, tape = plan.pressure, plan.tape
        if plan.setup.lays_tape and tape.width_mm is not None:
            assert show(tape.width_mm, TRADE, BAR) in pages[1].said
            assert show(tape.width_mm, TRADE, BAR) not in [one.what for one in pages[1].others]
        assert show(plan.sealant.dose_ml, "ml", BAR) in pages[5].said
        assert show(pressure.limit_kpa, "kpa", BAR) in pages[6].said
        assert show(pressure.settle_kpa, "kpa", BAR) in pages[8].said
        assert show(pressure.start_kpa, "kpa", BAR) in pages[9].said
    assert [place for place in range(COUNT) if not others[place]] == [3]
    assert "the bead does not pin the edge" in others[1] and "above the limit" in others[7]


def test_what_another_method_would_give_is_what_it_gives():
    """Sealing and riding pressure, dose: each figure that was not taken, by planning again with its method."""
    fields = {8: "settle", 9: "start_pressure", 5: "dose"}
    compared = 0
    for name, (changes, _happens) in list(JOBS.items())[::3]:
        plain = job_of(changes)
        job = job_from_plain(plain)
        plan = plan_wheel(job.wheels[0], job.ride, job.practice, job.shelf)
        for place, field in fields.items():
            page = why_page(place, rows(plan, BAR)[place].why, plan, BAR)
            for one in page.others:
                method, _, figure = one.what.partition(": ")
                if not figure:
                    continue
                practice = {**plain.get("practice", {}), field: method}
                again = job_from_plain({**plain, "practice": practice})
                other = plan_wheel(again.wheels[0], again.ride, again.practice, again.shelf)
                found = {
                    8: (other.pressure.settle_kpa, "kpa"),
                    9: (other.pressure.start_kpa, "kpa"),
                    5: (other.sealant.dose_ml, "ml"),
                }[place]
                compared += 1
                assert show(*found, BAR) == figure, (name, field, method)
    assert compared > 60
