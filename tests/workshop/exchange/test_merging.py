"""Two benches' campaigns made one: the same recognised, nothing twice, in any order."""

from dataclasses import replace
from shutil import copyfile

import numpy as np
import pytest
import sqlalchemy as sa

from bruiser.core.errors import InputError
from bruiser.core.trace import trace_of
from bruiser.store import campaigns, pulls, schema
from bruiser.store.backups import BackupWhy, list_backups
from bruiser.store.opening import open_campaign
from bruiser.store.tables import REFERENCES, TABLES, read_tables
from bruiser.workshop.exchange.merge_files import merge_into
from bruiser.workshop.exchange.merging import MergeSide
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop


@pytest.fixture
def benches(usual_file, tmp_path):
    """Three campaigns that went on from one, each with something of its own."""
    paths = [usual_file, *(tmp_path / f"{name}.bruiser" for name in "bc")]
    for path in paths[1:]:
        copyfile(usual_file, path)
    for n, path in enumerate(paths):
        with open_campaign(path) as file:
            shop = Workshop(file, now=lambda n=n: f"2026-11-0{n + 1}T08:00:00+00:00")
            book = read_logbook(shop)
            new_lot(file, f"lot of {n}", "Rope of one bench" if n else "Shared rope", n)
            new_pull(file, book, n)
            correct(file, book, n)
            exclude_pull(shop, book.entries[n], "crooked", "TV") if n else None
    return paths


def new_lot(file, key, name, n):
    with file.writing() as c:
        lot = campaigns.load_lots(c)[0]
        names = (name, "Shared rope") if n == 1 else (f"{name} {n}",)
        for number, called in enumerate(names):
            made = replace(
                lot, id=f"{key} {number}", name=called, stock_lot_id=None, designation=f"by {n}"
            )
            campaigns.insert_lot(c, made)
        if n == 0:
            campaigns.insert_lot(c, replace(made, id="shared 0", name="shared  ROPE"))


def new_pull(file, book, n):
    done = next(e for e in book.entries if e.finding is not None)
    specimen = replace(
        done.specimen, id=f"new specimen {n}", code="K-900", queue_position=500, replaces_id=None
    )
    pull = replace(
        done.pull, id=f"new pull {n}", specimen_id=specimen.id,
        started_at=f"2026-11-0{3 - n}T08:00:00+00:00",
    )  # fmt: skip
    with file.writing() as c:
        campaigns.insert_specimen(c, specimen)
        pulls.insert_pull(c, pull)
        pulls.append_samples(c, pull.id, trace_of(np.arange(5.0) * n, np.arange(5.0)))
        pulls.insert_finding(
            c, replace(done.finding, id=f"new finding {n}", pull_id=pull.id, supersedes=None)
        )


def correct(file, book, n):
    done = next(e for e in book.entries if e.finding is not None)
    with file.writing() as c:
        pulls.insert_finding(
            c,
            replace(
                done.finding, id=f"correction {n}", supersedes=done.finding.id, reason=f"bench {n}",
                made_at=f"2026-11-0{n + 1}T09:00:00+00:00", peak_load_n=8000.0 + n,
            ),
        )  # fmt: skip


def merged(target, *others):
    with open_campaign(target) as file:
        for path in others:
            with open_campaign(path, read_only=True) as other:
                merge_into(file, other)
        with file.reading() as c:
            rows = read_tables(c)
            samples = {
                p: pulls.load_samples(c, p, 1.0).load_n.tobytes()
                for p in c.execute(sa.select(schema.pull.c.id)).scalars()
            }
    return rows, samples


def without_ids(rows):
    """Tables that compare whoever's ids were kept: lots, knots and fixtures by their names."""
    names = {
        "lot": {r["id"]: r["name"].casefold().split() for r in rows["lot"]},
        "knot": {r["id"]: (r["structure"], r["variant"]) for r in rows["knot"]},
        "fixture": {r["id"]: (r["kind"], r["name"]) for r in rows["fixture"]},
    }
    found = {}
    for table in TABLES:
        if table == "campaign":
            continue
        plain = []
        for row in rows[table]:
            row = dict(row)
            for column, parent in REFERENCES.get(table, {}).items():
                row[column] = names.get(parent, {}).get(row[column], row[column])
            if table in names:
                row["id"] = names[table][row["id"]]
            if table == "lot":
                row["name"] = row["name"].casefold().split()
            if table == "criterion":
                row.pop("lot_ids"), row.pop("knot_ids")
            plain.append(repr(sorted(row.items())))
        found[table] = sorted(plain)
    return found


@pytest.mark.long
def test_the_order_of_merging_does_not_matter(benches, tmp_path):
    results = []
    for n, order in enumerate([(0, 1, 2), (2, 1, 0), (1, 0, 2)]):
        target = tmp_path / f"order{n}.bruiser"
        copyfile(benches[order[0]], target)
        results.append(merged(target, *(benches[k] for k in order[1:])))
    tables = [without_ids(rows) for rows, _ in results]
    for other in tables[1:]:
        for table in TABLES:
            if table != "campaign":
                assert other[table] == tables[0][table], table
    assert all(samples == results[0][1] for _, samples in results)


def test_twice_changes_nothing(benches, tmp_path):
    once, samples = merged(benches[0], benches[1])
    kept = len(list_backups(benches[0]))
    twice, again = merged(benches[0], benches[1])
    assert once == twice
    assert samples == again
    assert len(list_backups(benches[0])) == kept == 1
    assert list_backups(benches[0])[0].why is BackupWhy.MERGE


def test_pulls_come_once_and_corrections_of_both_are_kept(benches):
    before = open_rows(benches[0])
    rows, _ = merged(benches[0], benches[1], benches[2])
    assert len(rows["pull"]) == len(before["pull"]) + 2
    assert len({r["id"] for r in rows["pull"]}) == len(rows["pull"])
    corrections = [r for r in rows["finding"] if r["id"].startswith("correction")]
    assert {r["reason"] for r in corrections} == {"bench 0", "bench 1", "bench 2"}
    entries = [r["entry"] for r in rows["finding"] if r["pull_id"] == corrections[0]["pull_id"]]
    assert sorted(entries) == [1, 2, 3, 4]
    last = max(corrections, key=lambda r: r["entry"])
    assert last["reason"] == "bench 2"
    codes = [r["code"] for r in rows["specimen"] if r["code"].startswith("K-900")]
    assert len(set(codes)) == 3
    earliest = next(r for r in rows["specimen"] if r["code"] == "K-900")
    assert earliest["id"] == "new specimen 2"


def open_rows(path):
    with open_campaign(path, read_only=True) as file, file.reading() as c:
        return read_tables(c)


def test_lots_called_alike_are_one_and_what_differs_is_listed_and_chosen(benches):
    with open_campaign(benches[0]) as file, open_campaign(benches[1], read_only=True) as other:
        from bruiser.workshop.exchange.merge_files import look_at_merge

        seen = look_at_merge(file, other)
        named = [r for r in seen.tables["lot"] if r["name"].lower().split() == ["shared", "rope"]]
        assert len(named) == 1
        fact = next(f for f in seen.differing if f.field == "designation")
        assert {fact.mine, fact.theirs} == {"by 0", "by 1"}
        chosen = look_at_merge(file, other, {fact.key: MergeSide.MINE})
        kept = next(r for r in chosen.tables["lot"] if r["id"] == "shared 0")
        assert kept["designation"] == "by 0"
        apart = look_at_merge(file, other, apart=["shared rope"])
        two = [r for r in apart.tables["lot"] if r["id"] in ("shared 0", "lot of 1 1")]
        assert {r["name"] for r in two} == {"Shared rope", "shared  ROPE/489079"}


def test_what_one_bench_took_back_stays_taken_back(usual_file, tmp_path):
    copyfile(usual_file, tmp_path / "b.bruiser")
    with open_campaign(usual_file) as file:
        shop = Workshop(file)
        entry = next(e for e in read_logbook(shop).entries if e.finding is not None)
        exclude_pull(shop, entry, "crooked", "TV")
    copyfile(usual_file, tmp_path / "b.bruiser")
    with open_campaign(usual_file) as file:
        shop = Workshop(file)
        exclude_pull(shop, read_logbook(shop).entries[1], "bent", "TV")
        shop.undo()
    rows, _ = merged(usual_file, tmp_path / "b.bruiser")
    assert [r["reason"] for r in rows["exclusion"] if r["reason"] in ("crooked", "bent")] == [
        "crooked"
    ]


def test_a_campaign_is_not_merged_with_itself(usual_file):
    with (
        open_campaign(usual_file) as file,
        open_campaign(usual_file, read_only=True) as other,
        pytest.raises(InputError, match="itself"),
    ):
        merge_into(file, other)


def test_every_reference_of_the_file_is_known_to_the_merge(usual_file):
    with open_campaign(usual_file) as file, file.reading() as c:
        for table in TABLES:
            keys = c.exec_driver_sql(f"PRAGMA foreign_key_list({table})").mappings().all()
            assert {k["from"]: k["table"] for k in keys} == REFERENCES.get(table, {}), table
