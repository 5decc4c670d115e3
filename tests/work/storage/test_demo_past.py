"""The demo's past: sixty wheels that a real shed could have done, from which the program learns what is true of them."""

import math
from datetime import datetime

import pytest
from tools.demo_past import LOOSE_RIM, TRUE_GAP, TRUE_KEPT

from inner_rim.core.record.moments import moment, naive_local
from inner_rim.store.database import sqlite_url
from inner_rim.store.repository import Repository
from inner_rim.work.shop_methods import stored_shop
from inner_rim.work.storage.demo import HOURS, SETTINGS, demo_bench, demo_shelf, past_jobs
from inner_rim.work.tasks.findings import findings_of
from inner_rim.work.tasks.learning import ShopLearning, all_visits

NOW = datetime(2026, 7, 18, 14, 20).astimezone()


@pytest.fixture(scope="module")
def past():
    return past_jobs(NOW)


def test_every_entry_was_logged_in_opening_hours_in_order_and_before_today(past):
    wheels = {wheel["wheel_id"] for job in past for wheel in job.document["wheels"]}
    assert len(wheels) == 60 and len(past) > 40
    numbers = [item.number for job in past for item in job.log]
    assert numbers == list(range(1, len(numbers) + 1))
    span = moment(past[-1].log[-1].at) - moment(past[0].log[0].at)
    assert span.days > 210
    for job in past:
        times = [moment(item.at) for item in job.log]
        assert times == sorted(times) and times[-1] < NOW
        assert all(HOURS.is_open(naive_local(at)) for at in times), job.document["title"]


def test_the_shed_s_own_learning_finds_what_was_put_into_its_wheels(past, tmp_path):
    store, state = Repository(sqlite_url(tmp_path / "past.sqlite")), demo_bench(NOW)
    store.import_all(past, demo_shelf(), SETTINGS, NOW.isoformat())
    visits = all_visits(store, stored_shop(state))
    store.close()
    handed_over = [visit.plan.log.signed is not None for one in visits.values() for visit in one]
    assert all(handed_over) and not any(
        visit.plan.log.doubtful for one in visits.values() for visit in one
    )
    learned = ShopLearning(visits)
    rim, spread = learned.effects["gap"].of({"rim": LOOSE_RIM})
    assert rim - 1.645 * spread < TRUE_GAP < rim + 1.645 * spread and rim > 2.0 * spread
    mean, spread = learned.effects["start"].of({"rider": "Godwit hire"})
    assert mean == pytest.approx(TRUE_KEPT["Godwit hire"], abs=0.08) and mean < -2.0 * spread
    shop = math.exp(learned.effects["start"].of({"shop": ""})[0])
    assert shop == pytest.approx(1.0, abs=0.04)
    (finding,) = findings_of(visits, learned, stored_shop(state).practice, NOW)
    assert (finding.field, finding.way, finding.outcome) == ("lubricant", "fluid", "seat")
