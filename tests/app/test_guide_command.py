"""``bruiser-cli guide``: files of the guide without a window, and what is said when it cannot."""

import json

import pytest

from bruiser.app.cli import main
from bruiser.app.guide_command import STYLE
from bruiser.app.sample_guide import LOTS, USES, sample_guide
from bruiser.core.choice.guide import Guide
from bruiser.core.json_records import read_record
from bruiser.formats.guide_pages import guide_html
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Wanted
from bruiser.workshop.guide.publishing import (
    check_guide,
    draft_guide,
    keep_draft,
    keep_release,
    release_ready,
)
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop


def run(demo_file, *more):
    return main(["guide", str(demo_file), *map(str, more)])


def test_it_writes_what_is_asked_for_and_says_so(demo_file, tmp_path, capsys):
    pdf, html = tmp_path / "g.pdf", tmp_path / "g.html"
    data, table, book = tmp_path / "g.json", tmp_path / "g.csv", tmp_path / "g.xlsx"
    asked = ("--use", "Line joined for good", "--cordage", "p8-b wet", "--scope", "a test")
    out = ("--pdf", pdf, "--html", html, "--json", data, "--csv", table, "--xlsx", book)
    assert run(demo_file, *asked, *out, "--school", "third") == 0
    said = capsys.readouterr().out
    assert said.count("revision 1, draft") == 5
    assert pdf.read_bytes().startswith(b"%PDF")
    assert html.read_text().lstrip().startswith("<!DOCTYPE html>")
    assert book.read_bytes().startswith(b"PK")
    assert table.read_text().startswith("cordage,condition,knot")
    guide = read_record(Guide, data.read_text())
    assert [u.key for u in guide.uses] == ["line-joined"]
    assert [lot.name for lot in guide.lots] == ["P8-B wet"]
    assert guide.scope == "a test"


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ((), "Nothing is to be written"),
        (("--use", "kite", "--json", "x.json"), "There is no use"),
        (("--cordage", "Q9", "--json", "x.json"), "There is no cordage"),
        (("--revision", "4", "--json", "x.json"), "There is no revision 4"),
        (("--use", "post", "--json", "/nowhere/x.json"), "was not written"),
    ],
)
def test_what_cannot_be_done_is_said_with_what_there_is(demo_file, capsys, more, says):
    assert run(demo_file, *more) == 2
    error = capsys.readouterr().err
    assert says in error


def test_a_table_is_no_campaign_to_write_about(tmp_path, capsys):
    table = tmp_path / "pulls.csv"
    table.write_text("knot,load\n")
    assert run(table, "--json", tmp_path / "x.json") == 2
    assert "not a campaign" in capsys.readouterr().err


def test_a_released_revision_comes_out_as_it_was_released(demo_file, tmp_path, capsys):
    workshop = open_workshop(demo_file)
    shelf, book = fill_shelf(read_logbook(workshop)), read_guide_book(workshop)
    lots = {lot.name: lot.id for lot in shelf.logbook.lots}
    made = draft_guide(workshop, shelf, book, Wanted(uses=("post",), lot_ids=(lots["N7-T"],)))
    check_guide(workshop, keep_draft(workshop, made), "OQ")
    revision = read_guide_book(workshop).revisions[-1]
    ready, row = release_ready(workshop, revision, {}, "TV")
    keep_release(workshop, row, guide_html(ready, STYLE), b"%PDF kept")
    workshop.close()
    pdf, html = tmp_path / "g.pdf", tmp_path / "g.html"
    assert run(demo_file, "--revision", 1, "--pdf", pdf, "--html", html) == 0
    assert pdf.read_bytes() == b"%PDF kept"
    assert "Fastening to a smooth post" in html.read_text()
    assert "revision 1, released" in capsys.readouterr().out


def test_the_sample_says_what_the_demo_says_now(demo_file):
    from pathlib import Path

    committed = Path(__file__).parents[2] / "docs" / "sample-guide" / "guide.json"
    guide = sample_guide(demo_file)
    kept = read_record(Guide, committed.read_text(encoding="utf-8"))
    assert {u.key for u in guide.uses} == set(USES)
    assert {lot.name for lot in guide.lots} == set(LOTS)
    assert kept.data_revision == guide.data_revision
    now = [(r.name, round(r.score, 3)) for u in guide.uses for f in u.lists for r in f.rows]
    then = [(r.name, round(r.score, 3)) for u in kept.uses for f in u.lists for r in f.rows]
    assert now == then
    assert json.loads(committed.read_text())["format"] == "bruiser-guide-1"
    for name in ("guide.pdf", "guide.html", "bench-cards.pdf", "wall-chart.pdf", "guide.xlsx"):
        assert (committed.parent / name).stat().st_size > 10_000
