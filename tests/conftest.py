import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")  # before anything imports Qt

import threading

import pytest
from hypothesis import HealthCheck, settings

settings.register_profile("house", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("house")


@pytest.fixture(autouse=True)
def no_leaked_threads():
    """A test ends with the threads it began with."""
    before = set(threading.enumerate())
    yield
    left = [t for t in threading.enumerate() if t not in before and t.is_alive()]
    for thread in left:
        thread.join(5.0)
    assert not [t.name for t in left if t.is_alive()]


@pytest.fixture(autouse=True)
def own_home(tmp_path, monkeypatch):
    """No test ever touches the user's data."""
    monkeypatch.setenv("INNER_RIM_HOME", str(tmp_path / "home"))
    monkeypatch.delenv("INNER_RIM_DATABASE", raising=False)
    return tmp_path / "home"
