"""Spoilt input for every reader: read, or refused in our words; ``./run fuzz`` is the long run."""

import pytest
from validation.fuzz import SEED, Readers, attack

NAMES = (
    "campaign, bytes", "campaign, rows", "pull table", "table to bring in", "workbook", "mapping",
    "trace", "logger's record", "Data Package", "structure", "drawing", "photo",
)  # fmt: skip


@pytest.fixture(scope="module")
def readers(tmp_path_factory):
    made = Readers(tmp_path_factory.mktemp("fuzz"))
    assert tuple(made.all()) == NAMES
    return made


@pytest.mark.parametrize("name", NAMES)
def test_it_is_read_or_refused_in_words(readers, name):
    count = 6 if name == "campaign, rows" else 15
    tally = attack(readers, name, count, SEED)
    assert tally.count == count + tally.failed["slow"]
    del tally.failed["slow"]
    assert not tally.failed
