"""Campaigns made, copied, renamed and gone on from; what cannot be is said by its field."""

import os
from pathlib import Path

import pytest

from bruiser.core.errors import InputError, StoreError
from bruiser.workshop.course import new_campaign as making
from bruiser.workshop.course.new_campaign import NewCampaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from tests.alike import whole


def draft(folder, title="Tethers", name="tethers", **more):
    return NewCampaign(title=title, path=Path(folder, name), **more)


def test_a_new_campaign_asks_title_place_units_and_trade(tmp_path):
    path = making.make_campaign(draft(tmp_path, force="lbf", length="in", trade="rigging"))
    assert path.name == "tethers.bruiser"
    made = open_workshop(path)
    row = made.campaign
    assert (row.title, row.force_unit, row.length_unit) == ("Tethers", "lbf", "in")
    assert (row.trade, row.question, row.synthetic) == ("rigging", "", False)
    assert read_logbook(made).entries == ()
    made.close()


@pytest.mark.parametrize(
    ("title", "name"),
    [
        ("Tether loops 2026", "tether-loops-2026.bruiser"),
        ("8 mm / 10 mm, which?", "8-mm-10-mm-which.bruiser"),
        ("../../etc/passwd", "etc-passwd.bruiser"),
        ("Knoten für Übungen", "knoten-für-übungen.bruiser"),
        ("///", "campaign.bruiser"),
        ("x" * 100, "x" * 60 + ".bruiser"),
    ],
)
def test_a_title_makes_a_file_name_that_every_disk_takes(title, name):
    assert making.file_name(title) == name


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"title": "  "}, "title", "Give it a title"),
        ({"title": "x" * 300}, "title", "this has 300"),
        ({"title": "two\nlines"}, "title", "One line"),
        ({"name": "no/such/folder/t"}, "path", "is not there"),
        ({"name": "x" * 300}, "path", "too long"),
        ({"name": "there.bruiser"}, "path", "is there already"),
        ({"name": "folder.bruiser"}, "path", "is a folder"),
        ({"name": "there.bruiser/t"}, "path", "is no folder"),
        ({"force": "stone"}, "units", "No such unit"),
        ({"trade": "juggling"}, "trade", "No such trade"),
    ],
)
def test_what_is_wrong_is_said_by_its_field_and_nothing_is_made(tmp_path, change, field, says):
    (tmp_path / "there.bruiser").write_bytes(b"mine")
    (tmp_path / "folder.bruiser").mkdir()
    before = sorted(tmp_path.rglob("*"))
    asked = draft(tmp_path, **change)
    assert says in making.check(asked)[field]
    with pytest.raises(InputError) as refused:
        making.make_campaign(asked)
    assert refused.value.where == field
    assert sorted(tmp_path.rglob("*")) == before
    assert (tmp_path / "there.bruiser").read_bytes() == b"mine"


def test_a_file_in_its_place_is_kept_under_another_name_where_that_was_allowed(tmp_path):
    (tmp_path / "tethers.bruiser").write_bytes(b"mine")
    making.make_campaign(draft(tmp_path, replace=True))
    assert (tmp_path / "tethers-earlier-1.bruiser").read_bytes() == b"mine"
    open_workshop(tmp_path / "tethers.bruiser").close()


@pytest.mark.skipif(os.geteuid() == 0, reason="nothing is forbidden to root")
def test_a_folder_without_permission_is_said(tmp_path):
    tmp_path.chmod(0o500)
    with pytest.raises(StoreError):
        making.make_campaign(draft(tmp_path))


def test_the_next_campaign_takes_what_is_lasting_along_and_no_pulls(workshop, tmp_path):
    before = whole(workshop)
    path = making.continue_campaign(workshop, draft(tmp_path, title="Next", name="next"))
    made = open_workshop(path)
    after = read_logbook(made)
    assert made.campaign.title == "Next"
    assert after.lots == before.lots_in_use
    assert after.knots == before.knots_in_play
    assert after.entries == ()
    assert after.brief.uses == before.brief.uses
    assert after.brief.criteria == ()
    assert after.bench_book.benches == before.bench_book.benches
    assert after.bench_book.fixtures == before.bench_book.fixtures
    for hank in after.stock.hanks:
        assert after.stock.left_m(hank.id) == before.stock.left_m(hank.id)
    made.close()


def test_a_copy_is_whole_and_the_open_one_stays_open(workshop, tmp_path):
    target = making.copy_campaign(workshop, tmp_path / "copy")
    copy = open_workshop(target)
    assert read_logbook(copy).entries == read_logbook(workshop).entries
    copy.close()
    assert workshop.file.path != target
    with pytest.raises(StoreError, match="is there already"):
        making.copy_campaign(workshop, tmp_path / "copy")


def test_a_campaign_is_renamed_and_its_file_is_not(workshop):
    path = workshop.file.path
    making.rename_campaign(workshop, "  Guys and tethers ")
    assert workshop.campaign.title == "Guys and tethers"
    assert workshop.file.path == path
    workshop.undo()
    assert workshop.campaign.title == "Trial"
    with pytest.raises(InputError):
        making.rename_campaign(workshop, "")
