"""A folder of records goes to the specimens whose codes stand in their names."""

import numpy as np
import pytest
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

from bruiser.core.errors import InputError
from bruiser.core.trace import trace_of
from bruiser.formats.trace_file import write_trace_file
from bruiser.workshop.exchange.trace_files import (
    files_in,
    match_files,
    specimen_named,
    store_traces,
)
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace


def record(peak):
    load = np.concatenate([np.zeros(60), np.linspace(0, peak, 400), np.zeros(40)])
    return write_trace_file(trace_of(load, np.linspace(0, 0.05, 500), rate_hz=100.0))


@pytest.mark.parametrize(
    ("name", "key"),
    [
        ("2024-03-01 S-10 bowline", "ten"), ("s_10", "ten"), ("S-1", "one"), ("S-100", ""),
        ("nothing", ""), ("S-1 and S-10", "ten"),
    ],
)  # fmt: skip
def test_the_longest_code_in_the_name_counts(name, key):
    assert specimen_named(name, {"S-1": "one", "S-10": "ten"}) == key


def test_a_folder_is_matched_stored_and_analysed(workshop, tmp_path):
    book = read_logbook(workshop)
    waiting = [e for e in book.entries if e.pull is None][:2]
    pulled = next(e for e in book.entries if e.pull is not None)
    for entry, peak in ((waiting[0], 5000.0), (waiting[1], 6000.0), (pulled, 7000.0)):
        (tmp_path / f"day 1 {entry.specimen.code}.csv").write_text(record(peak))
    (tmp_path / "stray.csv").write_text(record(100.0))
    (tmp_path / "notes.txt").write_text("no record")
    (tmp_path / "picture.png").write_bytes(b"x")
    matches = match_files(book, files_in(tmp_path))
    assert len(matches) == 5
    assert sum(bool(m.specimen_id) for m in matches) == 3
    assert [m.wrong[:20] for m in matches if m.wrong] == ["notes.txt holds no b"]
    assert store_traces(workshop, book, matches) == 3
    book = read_logbook(workshop)
    by_id = {e.specimen.id: e for e in book.entries}
    for entry, peak in ((waiting[0], 5000.0), (waiting[1], 6000.0), (pulled, 7000.0)):
        now = by_id[entry.specimen.id]
        assert now.analysis.peak_n == pytest.approx(peak, rel=0.01)
        assert len(read_trace(workshop, now.pull)) == 500
        assert now.finding == entry.finding
    again = [m for m in matches if m.specimen_id == pulled.specimen.id]
    with pytest.raises(InputError, match="has a trace already"):
        store_traces(workshop, book, again)


def test_an_empty_folder_or_none_is_said(tmp_path):
    with pytest.raises(InputError, match="holds no records"):
        files_in(tmp_path)
    with pytest.raises(InputError, match="cannot be read"):
        files_in(tmp_path / "gone")
