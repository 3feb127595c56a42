"""Benches killed at random and a server that is stopped: a reduced run of the trial of many."""

import pytest
from validation.benches import run_trial


def assert_whole(trial):
    assert trial.wrong == []
    assert trial.pulls > 0
    assert trial.findings > 0


@pytest.mark.long
def test_two_benches_killed_twice_and_a_server_stopped_lose_nothing(own_server, usual_campaign):
    filled = own_server.filled_with(usual_campaign)
    trial = run_trial(own_server, filled, 2, 8.0, kills=2, stops=1, seed=4)
    assert_whole(trial)
    assert trial.heard_s, "what one stored the other saw"


@pytest.mark.slow
@pytest.mark.parametrize(
    ("benches", "kills", "stops"), [(2, 20, 0), (8, 20, 0), (2, 0, 10), (8, 10, 10)]
)
def test_a_minute_of_work_loses_nothing(own_server, usual_campaign, benches, kills, stops):
    filled = own_server.filled_with(usual_campaign)
    assert_whole(run_trial(own_server, filled, benches, 60.0, kills, stops, seed=benches))
