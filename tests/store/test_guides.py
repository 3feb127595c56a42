"""Limits, uses and guides in the file: they come back as they went in and are never changed."""

import sqlite3

import pytest

from bruiser.core.errors import StoreError
from bruiser.store.campaign_file import create_campaign
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

LIMITS = LimitsRow("l1", "2026-10-01", 1, '{"a": 1}', "first", "OQ")
PROFILE = ProfileRow("p1", "tether-loop", "2026-10-01", "{}")
GUIDE = GuideRow("g1", 1, "2026-10-02", "abc")
CHECK = StepRow("s1", "g1", "2026-10-03", CHECKED, "OQ", {})
RELEASE = StepRow("s2", "g1", "2026-10-04", RELEASED, "TV", {"no-baseline:x": "It burned – all."})


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
        insert_guide(connection, GuideRow("g2", 2, "2026-10-05", "abd"), "{}")
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
        lambda c: insert_limits(c, LimitsRow("l2", "2026-10-01", 1, "{}")),
        lambda c: insert_guide(c, GuideRow("g9", 1, "2026-10-01", "x"), "{}"),
        lambda c: insert_step(c, StepRow("s9", "g1", "2026-10-01", "burned", "OQ", {})),
        lambda c: insert_step(c, StepRow("s9", "nowhere", "2026-10-01", CHECKED, "OQ", {})),
    ],
)
def test_the_tables_refuse_what_makes_no_sense(file, write):
    with pytest.raises(StoreError), file.writing() as connection:
        write(connection)
    with file.reading() as connection:
        assert load_guides(connection) == [GUIDE]


def test_the_last_writing_of_a_use_stands_last(file):
    with file.writing() as connection:
        insert_profile(connection, ProfileRow("p2", "tether-loop", "2026-10-02", "{}", True))
        insert_limits(connection, LimitsRow("l2", "2026-10-02", 2, "{}"))
    with file.reading() as connection:
        assert [r.withdrawn for r in load_profiles(connection)] == [False, True]
        assert [r.version for r in load_limits(connection)] == [1, 2]
