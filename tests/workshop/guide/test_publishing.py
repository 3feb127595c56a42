"""Publishing: frozen when made, later pulls do not change it, nothing blocked goes out unsaid."""

from dataclasses import replace

import pytest

from bruiser.core.choice.guide import Blocking, GaugeFacts
from bruiser.core.choice.rating import Rating
from bruiser.core.errors import InputError, Refused
from bruiser.core.json_records import write_record
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_pages import guide_html
from bruiser.store import guides
from bruiser.ui.theme.tokens import CHALK, TEXT_MM
from bruiser.workshop.desk.brief_commands import WriteCriterion
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.guide.book import read_guide_book, set_limits
from bruiser.workshop.guide.changes import beyond, compare_guides
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Stamp, Wanted, blocking, data_revision, make_guide
from bruiser.workshop.guide.publishing import (
    KeepGuide,
    check_guide,
    draft_guide,
    keep_draft,
    keep_release,
    read_guide,
    release_ready,
    released_pages,
)
from bruiser.workshop.logbook.live import read_logbook
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

STYLE = PrintStyle(CHALK, TEXT_MM)


def release_guide(workshop, revision, style, *, reasons=None, by="", to_pdf):
    """Release as the station does: ready, then printed, then kept."""
    made, row = release_ready(workshop, revision, reasons or {}, by)
    html = guide_html(made, style)
    keep_release(workshop, row, html, to_pdf(html))
    return made


def quick_pdf(html):
    """Stands in for the printing, which has tests of its own."""
    return b"%PDF " + str(len(html)).encode()


def wanted(workshop):
    lots = {lot.name: lot.id for lot in read_logbook(workshop).lots}
    return Wanted(uses=("tether-loop",), lot_ids=(lots["R8"],), scope="tethers")


def publish(workshop):
    """A draft of the tether loop, kept."""
    shelf = fill_shelf(read_logbook(workshop))
    made = draft_guide(workshop, shelf, read_guide_book(workshop), wanted(workshop))
    return made, keep_draft(workshop, made)


def newest(workshop):
    return read_guide_book(workshop).revisions[-1]


def test_a_draft_is_frozen_and_later_pulls_do_not_change_it(workshop):
    made, revision = publish(workshop)
    assert read_guide(workshop, revision) == made
    assert (made.revision, made.state, made.changes) == (1, "draft", None)
    before = write_record(made)
    logbook = read_logbook(workshop)
    bowline = next(r for r in made.results if r.name == "Bowline")
    entries = [e for e in logbook.entries if e.specimen.code in bowline.pulls and e.finding]
    for entry in entries[:3]:
        exclude_pull(workshop, entry, "to see whether the guide moves")
    assert data_revision(read_logbook(workshop)) != made.data_revision
    assert write_record(read_guide(workshop, newest(workshop))) == before
    again, _ = publish(workshop)
    assert again.revision == 2
    assert again.data_revision != made.data_revision
    assert again.changes.revision == 1
    assert again.changes.lines[0] == "3 fewer pulls count."


def test_it_is_checked_before_it_is_released_and_the_pages_stay(workshop):
    _, revision = publish(workshop)
    with pytest.raises(Refused, match="not checked"):
        release_guide(workshop, revision, STYLE, to_pdf=quick_pdf)
    with pytest.raises(InputError, match="Initials"):
        check_guide(workshop, revision, "  ")
    check_guide(workshop, revision, "OQ")
    assert newest(workshop).state == "checked"
    released = release_guide(workshop, newest(workshop), STYLE, by="TV", to_pdf=quick_pdf)
    assert released.state == "released"
    assert released.checked_by.startswith("OQ, ")
    html, pdf = released_pages(workshop, newest(workshop))
    assert "released" in html
    assert "not checked, not released" not in html
    assert pdf.startswith(b"%PDF")
    with pytest.raises(Refused, match="released"):
        release_guide(workshop, newest(workshop), STYLE, to_pdf=quick_pdf)
    with pytest.raises(Refused, match="released"):
        check_guide(workshop, newest(workshop), "RK")
    logbook = read_logbook(workshop)
    exclude_pull(workshop, [e for e in logbook.entries if e.finding and e.excluded is None][9], "x")
    assert released_pages(workshop, newest(workshop)) == (html, pdf)


def test_nothing_blocked_is_released_without_a_reason_that_is_printed(workshop):
    made, _ = publish(workshop)
    block = Blocking("no-baseline:x", "R8, new, dry: no measured baseline.")
    blocked = replace(made, revision=7, blocking=(block,))
    row = guides.GuideRow(
        id="g7", revision=7, made_at=made.made_at, data_revision=made.data_revision
    )
    workshop.do(KeepGuide(row, write_record(blocked)))
    check_guide(workshop, newest(workshop), "OQ")
    for reasons in ({}, {"no-baseline:x": "  "}, {"other": "why not"}):
        with pytest.raises(InputError, match="no measured baseline") as refused:
            release_guide(workshop, newest(workshop), STYLE, reasons=reasons, to_pdf=quick_pdf)
        assert refused.value.where == "no-baseline:x"
    reasons = {"no-baseline:x": "The rope was used up."}
    out = release_guide(workshop, newest(workshop), STYLE, reasons=reasons, to_pdf=quick_pdf)
    assert out.blocking[0].reason == "The rope was used up."
    html, _ = released_pages(workshop, newest(workshop))
    assert "Released all the same because: <bdi>The rope was used up.</bdi>" in html


def test_a_lot_without_plain_rope_and_an_uncommented_change_stand_in_the_way(workshop):
    logbook = read_logbook(workshop)
    ids = [lot.id for lot in logbook.lots]
    assert blocking(fill_shelf(logbook), ids) == ()
    (changed,) = [c for c in logbook.brief.criteria_in_force if c.supersedes]
    silent = replace(
        changed, id="silent", made_at=workshop.now(), comment="", supersedes=changed.id
    )
    workshop.do(WriteCriterion(silent))
    plain = [e for e in logbook.entries if e.specimen.lot.name == "T6" and e.finding
             and e.specimen.knot_a is None]  # fmt: skip
    for entry in plain:
        exclude_pull(workshop, entry, "to have none")
    found = {b.key: b.words for b in blocking(fill_shelf(read_logbook(workshop)), ids)}
    assert set(found) == {"criterion:silent", f"no-baseline:{plain[0].specimen.lot.id}"}
    assert "without a comment" in found["criterion:silent"]


def test_a_number_that_left_its_interval_is_listed_and_one_that_did_not_is_not(guide):
    def with_strength(value):
        first = guide.results[0]
        gauges = tuple(
            replace(g, value=value, text=f"{value:.2f}") if g.rating is Rating.STRENGTH else g
            for g in first.gauges
        )
        results = (replace(first, gauges=gauges), *guide.results[1:])
        return replace(guide, revision=2, data_revision="other", results=results)

    gauge = next(g for g in guide.results[0].gauges if g.rating is Rating.STRENGTH)
    inside = compare_guides(guide, with_strength(0.5 * (gauge.low + gauge.high)))
    assert inside.moved == ()
    away = compare_guides(guide, with_strength(gauge.high + 0.01))
    (moved,) = away.moved
    assert (moved.knot, moved.rating) == (guide.results[0].name, Rating.STRENGTH)
    assert away.lines[0] == "As many pulls count as before, but not the same findings."
    assert not beyond(GaugeFacts(rating=Rating.STRENGTH), gauge)


def test_what_came_went_and_leads_is_said(guide):
    fewer = replace(guide, results=guide.results[1:], pull_count=9)
    since = compare_guides(guide, replace(fewer, revision=2, data_revision="other"))
    assert any(guide.results[0].name in line for line in since.gone)
    assert "fewer pulls count" in since.lines[0]
    back = compare_guides(fewer, guide)
    assert any(guide.results[0].name in line for line in back.new)
    use = guide.uses[0]
    turned = replace(use.lists[0], rows=tuple(reversed(use.lists[0].rows)))
    other = replace(guide, uses=(replace(use, lists=(turned, *use.lists[1:])), *guide.uses[1:]))
    said = compare_guides(guide, other).lines
    assert any("is first, before it was Bowline" in line for line in said)


def test_changed_limits_are_said_with_their_versions(workshop):
    publish(workshop)
    book = read_guide_book(workshop)
    security = replace(book.limits.security, onset=(0.5, 0.2))
    set_limits(workshop, replace(book.limits, security=security), "stricter")
    again, _ = publish(workshop)
    assert "The limits changed from version 0 to 1." in again.changes.lines
    assert again.limits.version == 1


def test_a_guide_needs_something_to_write_about(workshop, filled):
    shelf, book, campaign = filled
    stamp = Stamp(1, "2026-10-01T08:00:00Z")
    with pytest.raises(InputError, match="no use"):
        make_guide(shelf, campaign, book, Wanted(uses=("kite",)), stamp)
    none = replace(shelf.gathered, tied={k: {} for k in shelf.gathered.tied})
    bare = replace(shelf, gathered=none)
    with pytest.raises(InputError, match="No knot was pulled"):
        make_guide(bare, campaign, book, Wanted(), stamp)
