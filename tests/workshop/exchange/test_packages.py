"""A campaign as a Data Package: out, in and out again without loss, and nothing from outside."""

import json
import shutil

import numpy as np
import pytest
import sqlalchemy as sa

from bruiser.core.errors import InputError, StoreError
from bruiser.core.trace import trace_of
from bruiser.formats.package_traces import TraceKind
from bruiser.store import pulls, readings, schema
from bruiser.store.campaigns import CampaignRow, insert_campaign
from bruiser.store.opening import create_campaign, open_campaign
from bruiser.store.readings import Photo
from bruiser.store.tables import TABLES, read_tables
from bruiser.workshop.exchange.packages import export_package, package_as_campaign, package_into

JPEG = b"\xff\xd8\xff\xe0 a picture \xff\xd9"
HOSTILE = "=cmd|' /C calc'!A0\r\n\u202e<b>“ä”\t\\N"


@pytest.fixture
def campaign(usual_file):
    """The usual campaign with a photo, a guide, and a text that means harm."""
    with open_campaign(usual_file) as file:
        with file.writing() as c:
            pull_id = c.execute(sa.select(schema.pull.c.id)).scalars().first()
            photo = Photo(
                id="../../photo", pull_id=pull_id, made_at="2026-10-01", name="x", width=2, height=3
            )
            readings.insert_photo(c, photo, JPEG)
            load = np.array([0.0, 1234.567, np.nan, -5.0, 9999.999])
            pulls.append_samples(c, pull_id, trace_of(load, load / 1e4, tail_m=load / 1e6))
            pulls.append_samples(c, pull_id, trace_of(load, load / 1e4, first=9))
            c.execute(sa.update(schema.campaign).values(question=HOSTILE))
        yield file


def empty(path):
    made = create_campaign(path)
    with made.writing() as c:
        insert_campaign(
            c,
            CampaignRow(
                id="other", title="Other", station="", question="", synthetic=False,
                force_unit="kN", length_unit="mm", created_at="2026-10-01",
            ),
        )  # fmt: skip
    return made


def files_of(folder):
    return {str(p.relative_to(folder)): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


@pytest.mark.parametrize("kind", TraceKind)
def test_out_in_and_out_again_is_the_same_byte_for_byte(campaign, tmp_path, kind):
    export_package(campaign, tmp_path / "one", kind)
    with empty(tmp_path / "b.bruiser") as other:
        brought = package_into(other, tmp_path / "one")
        export_package(other, tmp_path / "two", kind)
        with campaign.reading() as a, other.reading() as b:
            assert read_tables(a) == read_tables(b)
            for pull_id in a.execute(sa.select(schema.pull.c.id)).scalars():
                one, two = (pulls.load_samples(c, pull_id, 1.0) for c in (a, b))
                assert one.channels.keys() == two.channels.keys()
                for channel in one.channels:
                    assert one.channels[channel].tobytes() == two.channels[channel].tobytes()
    assert brought.rows["photo"] == 1
    assert not brought.changed
    assert files_of(tmp_path / "one") == files_of(tmp_path / "two")


def test_the_package_is_what_the_standard_says(campaign, tmp_path):
    import warnings

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from frictionless import Package

        export_package(campaign, tmp_path / "p")
        package = Package(str(tmp_path / "p" / "datapackage.json"))
        package.resources = [r for r in package.resources if r.name in TABLES]
        assert len(package.resources) == len(TABLES)
        report = package.validate()
    assert report.valid, report.flatten(["type", "note"])


def test_a_picture_lands_inside_whatever_its_id_says(campaign, tmp_path):
    export_package(campaign, tmp_path / "in" / "p")
    assert files_of(tmp_path / "in").keys() == {f"p/{n}" for n in files_of(tmp_path / "in" / "p")}
    assert files_of(tmp_path / "in" / "p")["photo/row_1.jpg"] == JPEG


def test_nothing_is_written_over_and_nothing_half_stays(campaign, tmp_path, monkeypatch):
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "mine.txt").write_text("mine")
    with pytest.raises(StoreError, match="not empty"):
        export_package(campaign, tmp_path / "full")
    monkeypatch.setattr(pulls, "load_samples", lambda *_: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        export_package(campaign, tmp_path / "half")
    assert {p.name for p in tmp_path.iterdir()} >= {"full"}
    assert not [p for p in tmp_path.iterdir() if "half" in p.name]


def _edit(folder, change):
    path = folder / "datapackage.json"
    said = json.loads(path.read_text())
    change(said)
    path.write_text(json.dumps(said))


def _set(key, value):
    return lambda said: said["resources"][0].__setitem__(key, value)


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda p: _edit(p, _set("path", "../secret.csv")), "leads out"),
        (lambda p: _edit(p, _set("path", "/etc/passwd")), "leads out"),
        (lambda p: _edit(p, _set("path", "tables/gone.csv")), "not there"),
        (lambda p: _edit(p, _set("path", 5)), "no path"),
        (lambda p: _edit(p, lambda s: s.__setitem__("resources", {})), "no list"),
        (lambda p: _edit(p, lambda s: s.pop("bruiser")), "not of a campaign"),
        (lambda p: _edit(p, lambda s: s["bruiser"].update(schema="0001_begin")), "version"),
        (lambda p: (p / "datapackage.json").write_text("[" * 10_000), "no JSON"),
        (lambda p: (p / "datapackage.json").unlink(), "has no datapackage.json"),
        (lambda p: (p / "tables/lot.csv").write_bytes(b"\xff\xfe"), "no UTF-8"),
        (lambda p: _cell(p, "lot.csv", "diameter_m", "-1"), "lot"),
        (lambda p: _cell(p, "finding.csv", "place", "moon"), "finding"),
        (lambda p: _cell(p, "trace_analysis.csv", "result", "{"), "trace_analysis"),
        (lambda p: _cell(p, "pull.csv", "specimen_id", "nobody"), "refers to"),
        (lambda p: next((p / "traces").iterdir()).write_text("time_s,load_N\n0,x\n"), "traces/"),
        (lambda p: next((p / "traces").iterdir()).write_text("time_s,load_N\n5,1\n1,1\n"), "rate"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_stored(campaign, tmp_path, spoil, says):
    (tmp_path / "secret.csv").write_text("x")
    export_package(campaign, tmp_path / "p")
    spoil(tmp_path / "p")
    with empty(tmp_path / "b.bruiser") as other:
        with other.reading() as c:
            before = read_tables(c)
        with pytest.raises((InputError, StoreError), match=says):
            package_into(other, tmp_path / "p")
        with other.reading() as c:
            assert read_tables(c) == before
    with pytest.raises((InputError, StoreError), match=says):
        package_as_campaign(tmp_path / "p", tmp_path / "c.bruiser")
    assert not (tmp_path / "c.bruiser").exists()


def _cell(folder, name, column, value):
    from bruiser.formats.package_tables import read_table, write_table
    from bruiser.workshop.exchange.packages import columns_of

    columns = columns_of(name.removesuffix(".csv"))
    path = folder / "tables" / name
    rows = read_table(name, path.read_text(), columns)
    rows[0][column] = value
    path.write_text(write_table(columns, rows).replace("'-1", "-1"))


def test_a_link_out_of_the_folder_is_not_followed(campaign, tmp_path):
    export_package(campaign, tmp_path / "p")
    shutil.move(tmp_path / "p" / "tables" / "lot.csv", tmp_path / "lot.csv")
    (tmp_path / "p" / "tables" / "lot.csv").symlink_to(tmp_path / "lot.csv")
    with pytest.raises(InputError, match="leads out"):
        package_as_campaign(tmp_path / "p", tmp_path / "c.bruiser")


def test_a_campaign_with_pulls_is_merged_not_filled(campaign, tmp_path):
    export_package(campaign, tmp_path / "p")
    with pytest.raises(StoreError, match="not empty"):
        package_into(campaign, tmp_path / "p")


def test_what_was_changed_since_is_said(campaign, tmp_path):
    export_package(campaign, tmp_path / "p")
    path = tmp_path / "p" / "tables" / "lot.csv"
    path.write_text(path.read_text() + "\n")
    with pytest.raises(InputError, match=r"lot.csv, row"):
        package_as_campaign(tmp_path / "p", tmp_path / "c.bruiser")
    path.write_text(path.read_text().rstrip("\n").replace(",T6,", ",T7,") + "\n")
    brought = package_as_campaign(tmp_path / "p", tmp_path / "d.bruiser")
    assert brought.changed == ("tables/lot.csv",)
