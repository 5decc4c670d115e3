"""Short runs of `tools/campaign.py`: kills, restores, flipped bits, mutated files, odd keys, interrupted words, and benches
through a server's restart.
"""

import threading

import pytest
from tools import campaign


@pytest.mark.parametrize(
    ("what", "amount"),
    [("kills", 3), ("loaded", 2), ("restores", 6), ("bits", 120), ("mutations", 600), ("keys", 150), ("typing", 6)],
)
def test_a_short_campaign_loses_and_spoils_nothing(what, amount):
    counts = getattr(campaign, what)(amount)
    assert counts.wrong == 0, str(counts)


def test_three_benches_that_contradict_each_other_end_equal(tmp_path):
    counts = campaign.benches(2.0)
    if counts["edits_stored"] <= 5:  # the machine is busy
        counts = campaign.benches(20.0)
    assert counts.wrong == 0 and counts["edits_stored"] > 5, str(counts)


def test_three_benches_end_equal_through_a_restart_of_their_server(server):
    def restart():
        server.stop()
        threading.Event().wait(1.0)
        server.start()

    database = server.new_database()
    timer = threading.Timer(1.5, restart)
    timer.start()
    counts = campaign.benches(4.0, database)
    timer.join()
    assert counts.wrong == 0 and counts["edits_stored"] > 5, str(counts)
