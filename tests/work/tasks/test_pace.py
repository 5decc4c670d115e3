"""How many answers a job takes from the end of check-in to handing over, and how much is said on the way: the demo's wheels."""

from msgspec.structs import replace

from inner_rim.core.plan.wheel_plan import plan_wheel
from inner_rim.core.progress.progress import derive
from inner_rim.core.record.job import OldSealant, Practice, SealantKind, Shelf, Work
from inner_rim.core.record.log import Attempt, Dose, Finding, Leak, Reading, SignOff, StepEntry
from inner_rim.core.record.reading import job_from_plain
from inner_rim.work.storage.demo import demo_jobs
from tests.samples import logged


def demo_wheels():
    """Every wheel of the demo as it came in, poured, without an insert: what makes a job plain."""
    for demo in demo_jobs():
        job = job_from_plain(demo.job)
        for wheel in job.wheels:
            yield job, replace(wheel, insert=None, arrival=None)


def answers(job, wheel):
    """Return how many answers a wheel takes at the usual pace, and the cautions on the way; both beads up at once."""
    log, count, said = [StepEntry(stage="check_in")], 0, []
    for _n in range(60):
        plan = plan_wheel(wheel, job.ride, job.practice, job.shelf, logged(*log))
        progress = derive(plan.wheel, plan)
        if progress.state == "finished":
            return count, said
        count += 1
        step = plan.steps[0] if plan.steps else None
        if progress.together and step.code != "repair.find":
            said += [caution.text for one in progress.together for caution in one.cautions]
            log += [
                entry
                for one in progress.together
                for entry in (
                    *([Dose(dose_ml=60.0)] if one.asks == "dose" else []),
                    StepEntry(stage=one.stage, step=one.key),
                )
            ]
            continue
        said += [caution.text for caution in step.cautions] if step is not None else []
        if progress.seats_next:
            kpa = progress.seating.step_kpa
            log.append(Attempt(peak_kpa=kpa, outcome="both_up", limit_kpa=400.0, target_kpa=kpa))
        elif progress.question is not None:
            log.append(Finding(check=progress.question.code, sound=True))
        elif progress.stage == "hold":
            count += 1  # the reading, and that it held
            log += [Reading(pressure_kpa=plan.pressure.settle_kpa), StepEntry(stage="hold")]
        elif progress.stage == "set":
            log.append(SignOff(by="M. Osier", pressure_kpa=plan.pressure.set_here_kpa))
        else:
            log.append(Leak(place="tread"))
    raise AssertionError(f"never ends: {progress.stage} {[one.key for one in plan.steps][:5]}")


def kinds(kind):
    """Yield the answers and cautions of each demo wheel that is plain in a kind of work."""
    route = "pour" if kind == "convert" else "inject"
    eelgrass = Shelf(sealant=SealantKind(name="Eelgrass"))
    for job, wheel in demo_wheels():
        old = None if kind == "convert" else OldSealant(name="Eelgrass")
        methods = Practice(sealant_route=route)
        changed = replace(wheel, work=Work(kind=kind), practice=methods, sealant=old)
        job = replace(job, shelf=eelgrass)
        plan = plan_wheel(changed, job.ride, job.practice, job.shelf)
        if not plan.setup.weeping and not plan.setup.opens and not plan.stops:
            yield answers(job, changed)


def test_a_plain_conversion_takes_at_most_18_answers_and_8_cautions():
    counted = list(kinds("convert"))
    assert len(counted) >= 5
    assert max(count for count, _said in counted) <= 18
    assert max(len(said) for _count, said in counted) <= 8


def test_a_refresh_takes_at_most_9_answers_and_a_plug_8():
    """One of a plug's asks for the sealant inside; one of the refresh's, whether the beads stayed seated (docs/job.md 1.2)."""
    refreshed, plugged = list(kinds("refresh")), list(kinds("repair"))
    assert refreshed and max(count for count, _said in refreshed) <= 9
    assert plugged and max(count for count, _said in plugged) <= 8
