"""Fixtures shared by all tests; Qt runs off-screen unless a journey asks for a real display."""

from __future__ import annotations

import os
import resource
import threading
from importlib.resources import files
from pathlib import Path
from shutil import copyfile

import pytest
from hypothesis import settings
from pytestqt.qtbot import QtBot

settings.register_profile("bruiser", deadline=None, derandomize=True)
settings.load_profile("bruiser")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from bruiser.app.paths import DEMO_NAME  # noqa: E402  (Qt reads the setting above)


def pytest_collection_modifyitems(items):
    """What is marked slow may take its time."""
    for item in items:
        if item.get_closest_marker("slow"):
            item.add_marker(pytest.mark.timeout(3_600))


@pytest.fixture(autouse=True)
def own_home(tmp_path_factory, monkeypatch):
    """What a person prefers and opened lately is never that of whoever runs the tests."""
    for kept in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(kept, str(tmp_path_factory.getbasetemp() / kept.lower()))


@pytest.fixture(scope="session")
def shipped_demo() -> Path:
    return Path(str(files("bruiser.app").joinpath("demo", DEMO_NAME)))


@pytest.fixture(scope="session")
def usual_campaign(tmp_path_factory) -> Path:
    """The usual campaign, written once; whoever changes it takes ``usual_file``."""
    from tests.usual import store, usual, usual_brief, usual_queue

    made = usual()
    path = tmp_path_factory.mktemp("usual") / "usual.bruiser"
    return store(made, path, brief=usual_brief(made), queue=usual_queue(made))


@pytest.fixture
def usual_file(tmp_path: Path, usual_campaign: Path) -> Path:
    return Path(copyfile(usual_campaign, tmp_path / "usual.bruiser"))


@pytest.fixture(scope="session")
def server():
    """A PostgreSQL server of this run alone; skipped where none is installed."""
    from tests.servers import WHY_NOT, ThrowawayServer, find_binaries

    if find_binaries() is None:
        pytest.skip(WHY_NOT)
    made = ThrowawayServer()
    made.start()
    yield made
    made.remove()


@pytest.fixture
def own_server(server):
    """A server of one test alone, which may stop it."""
    made = type(server)()
    made.start()
    yield made
    made.remove()


@pytest.fixture
def home(request):
    """Where campaigns are kept: in files, unless a test asks for a ``server``.

    A module whose tests all run on both takes ``home`` from ``tests.servers``.
    """
    kind = getattr(request, "param", "file")
    return request.getfixturevalue("server") if kind == "server" else None


@pytest.fixture(scope="session")
def usual_on_server(server, usual_campaign):
    """The usual campaign on the server, put there once."""
    return server.filled_with(usual_campaign)


@pytest.fixture
def usual_place(home, request):
    """The usual campaign, wherever the test wants it; it may be changed."""
    if home is None:
        yield request.getfixturevalue("usual_file")
        return
    made = home.copy_of(request.getfixturevalue("usual_on_server"))
    yield made
    home.forget(made)


@pytest.fixture
def demo_file(tmp_path: Path, shipped_demo: Path) -> Path:
    return Path(copyfile(shipped_demo, tmp_path / DEMO_NAME))


@pytest.fixture(scope="session")
def demo_on_server(server, shipped_demo):
    """The demo on the server, put there once."""
    return server.filled_with(shipped_demo)


@pytest.fixture
def demo_place(home, request):
    """The demo, wherever the test wants it; it may be changed."""
    if home is None:
        yield request.getfixturevalue("demo_file")
        return
    made = home.copy_of(request.getfixturevalue("demo_on_server"))
    yield made
    home.forget(made)


@pytest.fixture
def workshop(demo_file: Path):
    from bruiser.workshop.logbook.workshop import open_workshop

    opened = open_workshop(demo_file)
    yield opened
    opened.close()


class PatientBot(QtBot):
    """Waits longer than usual: on a machine with every core at work five seconds are soon gone."""

    def waitUntil(self, callback, *, timeout=30_000):  # noqa: N802  (Qt's own name)
        super().waitUntil(callback, timeout=timeout)


@pytest.fixture
def qtbot(qapp, request):
    return PatientBot(request)


@pytest.fixture
def file_size_limit():
    """Let no file grow beyond a size, as a full disk would; None takes the limit away."""
    before = resource.getrlimit(resource.RLIMIT_FSIZE)

    def limit(size):
        soft = before[0] if size is None else size
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, before[1]))

    yield limit
    resource.setrlimit(resource.RLIMIT_FSIZE, before)


@pytest.fixture(autouse=True)
def no_leaked_threads():
    before = set(threading.enumerate())
    yield
    left = [t for t in threading.enumerate() if t not in before and t.is_alive() and not t.daemon]
    for thread in left:
        thread.join(2.0)
    assert not [t for t in left if t.is_alive()]


@pytest.fixture
def dressed(qapp):
    from bruiser.ui.theme.theme import dress

    dress(qapp, "chalk")
    return qapp


@pytest.fixture(scope="session")
def demo_shelf(shipped_demo):
    """The demo's pulls, sorted and rated once, with its campaign and its guide book."""
    from tests.guides import filled_shelf

    return filled_shelf(shipped_demo)


@pytest.fixture(scope="session")
def demo_guide(demo_shelf):
    """A small guide of the demo: two uses in two cordages."""
    from tests.guides import small_guide

    lots = {lot.name: lot.id for lot in demo_shelf[0].logbook.lots}
    return small_guide(demo_shelf, (lots["P8-B"], lots["P8-B wet"]))
