import pytest

from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.guide import publish_presenter
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.stations.guide.view import GuideView
from bruiser.workshop.logbook.commands import Changes
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def workshop(usual_file):
    opened = open_workshop(usual_file)
    yield opened
    opened.close()


@pytest.fixture
def tasks(qapp):
    made = TaskRunner()
    yield made
    made.close()


@pytest.fixture
def guide_desk(workshop, tasks, qtbot):
    made = GuidePresenter(workshop, tasks)

    def again(_: Changes) -> None:
        made.take_up(read_logbook(workshop))

    workshop.listen(again)
    made.take_up(read_logbook(workshop))
    qtbot.waitUntil(lambda: not tasks.busy)
    return made


@pytest.fixture
def guide_view(guide_desk, dressed, qtbot):
    made = GuideView(guide_desk)
    qtbot.addWidget(made)
    made.resize(1104, 800)
    made.show()
    guide_desk.changed.emit()
    return made


@pytest.fixture
def quick_print(monkeypatch):
    """Printing takes a moment, not twenty seconds; it has tests of its own."""

    def stand_in(html, progress):
        progress(0, 2)
        progress(1, 2)
        return b"%PDF-1.7 " + str(len(html)).encode()

    monkeypatch.setattr(publish_presenter, "html_to_pdf_watched", stand_in)
