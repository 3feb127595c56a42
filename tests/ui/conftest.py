import pytest

from bruiser.ui.runtime.tasks import TaskRunner


@pytest.fixture
def tasks(qapp):
    made = TaskRunner()
    yield made
    made.close()
