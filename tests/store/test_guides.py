"""Limits, uses and guides in the file: they come back as they went in and are never changed."""

import sqlite3

import pytest

from bruiser.core.errors import StoreError
from bruiser.store.guides import (
    CHECKED,
    RELEASED,
    GuideRow,
    LimitsRow,
    ProfileRow,
    StepRow,
    insert_guide,
    insert_limits,
    insert_profile,
    insert_step,
    load_body,
    load_guides,
    load_limits,
    load_profiles,
    load_released,
    load_steps,
)
from bruiser.store.opening import create_campaign

LIMITS = LimitsRow(
    id="l1", made_at="2026-10-01", version=1, body='{"a": 1}', comment="first", by="OQ"
)
PROFILE = ProfileRow(id="p1", key="tether-loop", made_at="2026-10-01", body="{}")
GUIDE = GuideRow(id="g1", revision=1, made_at="2026-10-02", data_revision="abc")
CHECK = StepRow(id="s1", guide_id="g1", made_at="2026-10-03", step=CHECKED, by="OQ", reasons={})
RELEASE = StepRow(
    id="s2",
    guide_id="g1",
    made_at="2026-10-04",
    step=RELEASED,
    by="TV",
    reasons={"no-baseline:x": "It burned – all."},
)


@pytest.fixture
def file(tmp_path):
    with create_campaign(tmp_path / "c.bruiser") as made:
        with made.writing() as connection:
            insert_limits(connection, LIMITS)
            insert_profile(connection, PROFILE)
            insert_guide(connection, GUIDE, '{"title": "Ridge"}')
            insert_step(connection, CHECK)
            insert_step(connection, RELEASE, b"html", b"pdf")
        yield made


def test_everything_comes_back_as_it_went_in(file):
    with file.reading() as connection:
        assert load_limits(connection) == [LIMITS]
        assert load_profiles(connection) == [PROFILE]
        assert load_guides(connection) == [GUIDE]
        assert load_steps(connection) == [CHECK, RELEASE]
        assert load_body(connection, "g1") == '{"title": "Ridge"}'
        assert load_released(connection, "g1") == (b"html", b"pdf")


def test_what_was_never_released_has_no_pages_and_what_is_not_there_is_said(file):
    with file.writing() as connection:
        insert_guide(
            connection,
            GuideRow(id="g2", revision=2, made_at="2026-10-05", data_revision="abd"),
            "{}",
        )
    with file.reading() as connection:
        assert load_released(connection, "g2") is None
        with pytest.raises(ValueError, match="no guide g3"):
            load_body(connection, "g3")


@pytest.mark.parametrize(
    ("table", "column"),
    [("rating_limits", "body"), ("use_profile", "body"), ("guide", "body"), ("guide_step", "by")],
)
def test_what_was_written_is_never_changed(file, table, column):
    with sqlite3.connect(file.path) as plain, pytest.raises(sqlite3.IntegrityError, match="append"):
        plain.execute(f"UPDATE {table} SET {column} = 'other'")
    plain.close()


@pytest.mark.parametrize(
    "write",
    [
        lambda c: insert_limits(c, LimitsRow(id="l2", made_at="2026-10-01", version=1, body="{}")),
        lambda c: insert_guide(
            c, GuideRow(id="g9", revision=1, made_at="2026-10-01", data_revision="x"), "{}"
        ),
        lambda c: insert_step(
            c,
            StepRow(
                id="s9", guide_id="g1", made_at="2026-10-01", step="burned", by="OQ", reasons={}
            ),
        ),
        lambda c: insert_step(
            c,
            StepRow(
                id="s9", guide_id="nowhere", made_at="2026-10-01", step=CHECKED, by="OQ", reasons={}
            ),
        ),
    ],
)
def test_the_tables_refuse_what_makes_no_sense(file, write):
    with pytest.raises(StoreError), file.writing() as connection:
        write(connection)
    with file.reading() as connection:
        assert load_guides(connection) == [GUIDE]


def test_the_last_writing_of_a_use_stands_last(file):
    with file.writing() as connection:
        insert_profile(
            connection,
            ProfileRow(id="p2", key="tether-loop", made_at="2026-10-02", body="{}", withdrawn=True),
        )
        insert_limits(connection, LimitsRow(id="l2", made_at="2026-10-02", version=2, body="{}"))
    with file.reading() as connection:
        assert [r.withdrawn for r in load_profiles(connection)] == [False, True]
        assert [r.version for r in load_limits(connection)] == [1, 2]
