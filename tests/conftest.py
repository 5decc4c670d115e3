import os

# also where it is set to nothing; before anything imports Qt
if not os.environ.get("QT_QPA_PLATFORM"):
    os.environ["QT_QPA_PLATFORM"] = "offscreen"

os.environ.update(LANGUAGE="en", LC_ALL="C.UTF-8")  # whatever the developer's machine speaks

import re
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


@pytest.fixture(scope="session")
def catalog():
    """Every text that a standard extractor finds in the source, as a translator would get them."""
    from tools.texts import extracted

    return {message.id for message in extracted() if message.id}


@pytest.fixture(autouse=True)
def texts_are_in_the_catalog(catalog, monkeypatch):
    """No text is looked up that a translator never saw; sizes and bare placeholders need no words."""
    from inner_rim import words

    unknown, look_up = set(), words.Language.gettext

    def gettext(self, text):
        if text not in catalog and re.match("[A-Za-z]", re.sub(r"\{[^}]*\}", "", text)):
            unknown.add(text)
        return look_up(self, text)

    monkeypatch.setattr(words.Language, "gettext", gettext)
    yield
    assert not unknown


@pytest.fixture
def german(monkeypatch):
    """The program speaks German."""
    from inner_rim import words
    from inner_rim.core.record import units

    units._shown.cache_clear()
    monkeypatch.setattr(words, "_language", words.Language(["de"]))
    yield words._language
    units._shown.cache_clear()


@pytest.fixture(autouse=True)
def own_home(tmp_path, monkeypatch):
    """No test ever touches the user's data."""
    monkeypatch.setenv("INNER_RIM_HOME", str(tmp_path / "home"))
    monkeypatch.delenv("INNER_RIM_DATABASE", raising=False)
    return tmp_path / "home"


@pytest.fixture(scope="session")
def server():
    """A PostgreSQL server for the tests of this process; skips where none can be started."""
    from tests.servers import Server, programs

    if programs() is None:
        pytest.skip("no PostgreSQL server on this machine")
    made = Server()
    yield made
    made.remove()


@pytest.fixture(params=["sqlite", "postgresql"])
def url(request, tmp_path):
    """The URL of an empty database, of each kind there is."""
    if request.param == "sqlite":
        return f"sqlite:///{tmp_path / 'inner-rim.sqlite'}"
    return request.getfixturevalue("server").new_database()


@pytest.fixture
def desk(tmp_path):
    """Opens benches on the same real file."""
    from tests.desk import Desk

    made = []

    def open_desk(**more):
        made.append(Desk(tmp_path / "data" / "inner-rim.sqlite", **more))
        made[-1].settle()
        return made[-1]

    yield open_desk
    for one in made:
        one.worker.stop()
