from datetime import date, datetime, timedelta

from hypothesis import example, given, settings
from hypothesis import strategies as st

from inner_rim.core.schedule.hours import Hours, Opening, joined

stretches = st.builds(
    lambda a, b: Opening(min(a, b), max(a, b)), st.integers(0, 1440), st.integers(0, 1440)
)
openings = st.one_of(st.none(), stretches, st.lists(stretches, max_size=3).map(tuple))
weeks = st.lists(openings, min_size=7, max_size=7).map(tuple)
moments = st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 31)).map(
    lambda d: d.replace(microsecond=0)
)


@settings(max_examples=200)
# a minute a week, for eleven years
@example((None,) * 6 + (Opening(0, 1),), [], datetime(2026, 1, 1), 573)
@given(
    weeks,
    st.lists(st.dates(date(2026, 1, 1), date(2027, 12, 31)), max_size=4),
    moments,
    st.integers(0, 3000),
)
def test_work_lies_in_opening_hours_and_there_and_back_is_the_same(week, off, at, minutes):
    hours = Hours(week, tuple(off))
    if not any(map(joined, week)):
        assert hours.next_open(at) >= at  # it ends even where nothing ever opens
        return
    begins, done = hours.next_open(at), hours.forward(at, minutes)
    assert hours.is_open(begins) and begins >= at
    assert hours.between(at, done) == minutes
    if minutes:
        assert hours.is_open(done - timedelta(seconds=1))
        again = hours.back(done, minutes)
        assert hours.between(again, done) == minutes and again >= at
    assert not any(
        hours.is_open(datetime.combine(day, datetime.min.time()) + timedelta(hours=12))
        for day in off
    )
