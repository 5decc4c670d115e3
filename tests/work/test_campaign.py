"""Short runs of `tools/campaign.py`: kills, restores, flipped bits, mutated files, odd keys, interrupted words, and benches
through a server's restart.
"""

import pytest
from tools import campaign


@pytest.mark.parametrize(
    ("what", "amount"),
    [
        ("kills", 3),
        ("loaded", 2),
        ("restores", 6),
        ("bits", 120),
        ("mutations", 600),
        ("keys", 150),
        ("typing", 6),
    ],
)
def test_a_short_campaign_loses_and_spoils_nothing(what, amount):
    counts = getattr(campaign, what)(amount)
    assert counts.wrong == 0, str(counts)


def test_three_benches_that_contradict_each_other_end_equal():
    counts = campaign.benches(120)
    assert counts.wrong == 0 and counts["edits_stored"] > 5, str(counts)


def test_three_benches_end_equal_through_a_restart_of_their_server(server):
    def restart():
        server.stop()
        server.start()

    counts = campaign.benches(200, server.new_database(), restart)
    assert counts.wrong == 0 and counts["edits_stored"] > 5, str(counts)
