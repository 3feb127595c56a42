"""Brief, Cordage and Knots through the real window."""

import math
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QTableWidget

from bruiser.app.demo_pulls import inspect_specimen, pull_specimen
from bruiser.core.records.records import Role, Specimen, Tail
from bruiser.ui.kit.two_lines import KEY
from bruiser.workshop.desk.lot_commands import EditLot
from bruiser.workshop.logbook.commands import PlanSpecimen
from bruiser.workshop.logbook.entries import State
from bruiser.workshop.logbook.live import read_logbook

LBF = 4.4482216152605


def enter_lot(hands):
    hands.go("cordage")
    hands.click("cordage.new")
    for name, text in (
        ("name", "T5-X"),
        ("material", "polyester"),
        ("construction", "double braid"),
        ("condition", "new, dry"),
        ("diameter", "5/16 in"),
        ("rating", "3100 lbf"),
        ("mass", "0,0331 lb/ft"),
        ("stretch", "3,2"),
    ):
        hands.type(f"cordage.{name}", text)
    hands.choose("cordage.rating_means", "minimum")
    hands.click("cordage.store")
    return next(x for x in hands.window.logbook.lots if x.name == "T5-X")


def pull_in(workshop, lot, knot, count, first):
    """Pull `count` specimens of a lot on the simulated bench and find what lies there."""
    for n in range(first, first + count):
        specimen = Specimen(
            id=f"t{n}",
            code=f"T-{n:03}",
            role=Role.KNOT if knot else Role.BASELINE,
            lot=lot,
            layout_key="loop_pair" if knot else "baseline",
            queue_position=900 + n,
            span_m=0.4,
            knot_a=knot,
            knot_b=knot,
            tails=(Tail("tail_a", 0.15), Tail("tail_b", 0.15)) if knot else (),
            pin_diameter_m=0.012,
            set_load_n=600.0 if knot else 0.0,
            seed=40 + n,
        )
        workshop.do(PlanSpecimen(specimen))
        pull_id, remains = pull_specimen(workshop, specimen, "TV", None)
        inspect_specimen(workshop, pull_id, remains)


def test_from_a_lot_typed_in_three_units_to_its_working_loads(hands):
    lot = enter_lot(hands)
    assert lot.diameter_m == pytest.approx(0.0254 * 5 / 16)
    assert lot.rated_strength_n == pytest.approx(3100 * LBF)
    assert lot.mass_per_length_kg_m == pytest.approx(0.0331 * 0.45359237 / 0.3048)
    assert lot.static_elongation == pytest.approx(0.032)
    assert "A rating is no baseline" in hands.words("cordage.baseline.missing")

    # Its hank, and its baseline, recorded pull by pull.
    hands.click("cordage.panel.stock")
    hands.type("cordage.hank.label", "T5/1")
    hands.type("cordage.hank.length", "131 ft")
    hands.click("cordage.hank.store")
    assert hands.window.logbook.stock.on_hand_m(lot.id) == pytest.approx(131 * 0.3048)
    workshop = hands.window.workshop
    corded = replace(lot, cord_model="polyester double braid")
    workshop.do(EditLot(corded))
    pull_in(workshop, corded, None, 5, 1)
    hands.settle()
    hands.click("cordage.panel.facts")
    facts = hands.window.cordage.baseline()
    assert len(facts.marks) == 5
    assert facts.estimate_words == hands.words("cordage.baseline.estimate")
    shown = hands.words("cordage.baseline.rating")
    share = 100 * facts.interval.value / (3100 * LBF)
    assert shown == f"Rated 13.79 kN as a minimum. Measured here: {share:.0f} % of the rating."

    # A knot by the name sailors use, in a variant that is chosen.
    hands.go("knots")
    hands.type("knots.search", "flemish loop")
    found = hands.find(QListWidget, "knots.found")
    assert found.keys() == ["figure-eight-loop"]
    found.setCurrentRow(0)
    hands.settle()
    assert "Flemish loop (sailing)" in hands.words("knots.names")
    hands.click("knots.sheet.variant")
    hands.choose("knots.axis.backup", "double overhand")
    hands.click("knots.play")
    assert hands.words("knots.state").startswith("In play")
    variant = "Figure-eight loop, double overhand on the standing part"
    knot = next(k for k in hands.window.logbook.knots if k.title == variant)
    assert dict(knot.choices) == {"backup": "double-overhand"}
    plain = hands.window.logbook.catalogue["figure-eight-loop"]
    rows = {r[0]: r for r in hands.window.knots.cord_table()}
    by_hand = (plain.cord_use_d + 12) * lot.diameter_m * 1000
    assert rows["T5-X"][2] == f"{by_hand:.0f} mm"
    assert rows["T5-X"][5] == f"{(plain.tail_floor_d + 8) * lot.diameter_m * 1000:.0f} mm"
    table = hands.find(QTableWidget, "knots.cords")
    assert table.rowCount() == len(hands.window.logbook.lots_in_use)

    # Its pulls, and the working loads by the four schools.
    pull_in(workshop, corded, knot, 5, 11)
    hands.go("cordage")
    hands.click("cordage.panel.loads")
    hands.choose("cordage.loads.knot", variant)
    hands.type("cordage.loads.factor", "8")
    hands.type("cordage.loads.source", "station rule")
    hands.click("cordage.loads.store")
    assert hands.window.logbook.brief.factor.value == 8
    loads = hands.window.cordage.loads(variant).loads
    row = next(r for r in hands.window.cordage.results.knots if r.name == variant)
    rating = 3100 * LBF
    halve, third, typical, floor = (w.load_n for w in loads.schools)
    assert halve == pytest.approx(rating / 2 / 8)
    assert third == pytest.approx(rating / 3 / 8)
    assert typical == pytest.approx(rating * row.efficiency.interval.value / 8)
    assert floor == pytest.approx(row.result.tolerance[0.95].load_n / 8)
    events = row.efficiency.counts.broke + row.efficiency.counts.came_out
    assert loads.default is loads.schools[3 if events >= 5 else 1]
    figure = hands.find(type(hands.window.pages["cordage"].loads.figure), "cordage.loads.figure")
    assert [r[1] for r in figure.figure.rows] == [
        f"{x / 1000:.2f} kN" for x in (halve, third, typical, floor)
    ]
    mean = math.exp(row.result.estimate.mu)
    assert floor * 8 < mean


def test_an_odd_rating_asks_and_is_only_stored_on_request(hands):
    hands.go("cordage")
    before = len(hands.window.logbook.lots)
    hands.click("cordage.new")
    for name, text in (
        ("name", "Odd"),
        ("material", "polyester"),
        ("construction", "braid"),
        ("condition", "new"),
        ("diameter", "8"),
        ("rating", "13000"),
    ):
        hands.type(f"cordage.{name}", text)
    hands.click("cordage.store")
    assert "Is the unit right?" in hands.wrong("cordage.rating")
    assert len(hands.window.logbook.lots) == before
    hands.type("cordage.rating", "13")
    hands.click("cordage.store")
    assert len(hands.window.logbook.lots) == before + 1
    hands.window.undo()
    assert len(hands.window.logbook.lots) == before


def test_a_lot_in_use_is_archived_not_deleted(hands):
    hands.go("cordage")
    lot = hands.window.logbook.lots[0]
    hands.tap("cordage.shelf", lot.id)
    hands.click("cordage.delete")
    assert "depend on it" in hands.window.notice.words
    hands.click("cordage.archive")
    assert hands.window.logbook.lot(lot.id).archived
    hands.window.undo()
    assert not hands.window.logbook.lot(lot.id).archived


def test_a_planned_piece_is_cut_on_screen_and_the_ledger_says_so(hands):
    hands.go("cordage")
    logbook = hands.window.logbook
    planned = logbook.next_to_pull().specimen
    hands.tap("cordage.shelf", planned.lot.id)
    hands.click("cordage.panel.stock")
    ledger = hands.find(QTableWidget, "cordage.ledger")
    rows = ledger.rowCount()
    hands.choose("cordage.cut.specimen", planned.code)
    hands.click("cordage.cut.store")
    assert ledger.rowCount() == rows + 1
    assert ledger.item(0, 4).text() == planned.code
    logbook = hands.window.logbook
    assert logbook.state(logbook.entry(planned.id)) is State.CUT
    hands.type("cordage.back.rest", "0.1 m")
    hands.click("cordage.back.store")
    assert "not kept" in hands.window.notice.words


def test_a_mark_of_the_baseline_opens_its_pull_in_results(hands):
    hands.go("cordage")
    mark = hands.window.cordage.baseline().marks[1]
    hands.tap("cordage.baseline.scale", mark.pull_id)
    assert hands.window.station == "results"
    assert hands.window.results.selected == mark.pull_id


def test_a_cord_is_set_against_a_host(hands):
    hands.go("cordage")
    names = {lot.name: lot.id for lot in hands.window.logbook.lots}
    hands.tap("cordage.shelf", names["N6-K"])
    hands.click("cordage.panel.host")
    hands.choose("cordage.host", "K10-H")
    figure = hands.window.pages["cordage"].host.figure.figure
    assert [row[3] for row in figure.rows] == [
        "inside",
        "thinner than this",
        "thinner than this",
    ]


def test_a_criterion_is_written_changed_and_seen_in_results(hands):
    hands.go("brief")
    hands.click("brief.criteria.add")
    hands.choose("brief.criterion.measure", "opens without")
    assert not hands.window.pages["brief"].criterion_form.threshold.isVisible()
    hands.choose("brief.criterion.measure", "holds")
    hands.type("brief.criterion.threshold", "140 %")
    hands.type("brief.criterion.need", "5")
    hands.type("brief.criterion.of", "4")
    hands.click("brief.criterion.store")
    assert "100 %" in hands.wrong("brief.criterion.threshold")
    assert "No more than 4" in hands.wrong("brief.criterion.need")
    hands.type("brief.criterion.threshold", "70 %")
    hands.type("brief.criterion.need", "3")
    hands.click("brief.criterion.store")
    row = hands.window.brief.criteria()[-1]
    assert row.words == "Holds 70 % of baseline or more, in 3 of 4 pulls"
    assert row.late
    change = f"brief.criterion.change.{row.criterion.id}"
    hands.click(change)
    hands.type("brief.criterion.threshold", "60 %")
    hands.click("brief.criterion.store")
    assert "Say why" in hands.wrong("brief.criterion.comment")
    hands.type("brief.criterion.comment", "set too high")
    hands.click("brief.criterion.store")
    assert "It was: holds 70 %" in hands.window.brief.criteria()[-1].was
    hands.go("results")
    sheet = hands.window.results.sheet()
    lines = [line for line in sheet.lines if "Asked:" in line.text]
    assert any("it was: holds 70 % of baseline" in line.text for line in lines)
    for line in lines:
        pulls = sheet.behind[line.behind].heading
        assert any(word in pulls for word in ("passed", "failed", "cannot say"))


def test_a_claim_is_entered_by_filling_a_pattern(hands):
    hands.go("brief")
    before = len(hands.window.brief.claims())
    hands.click("brief.claims.add")
    hands.choose("brief.claim.kind", "X is stronger")
    hands.click("brief.claim.store")
    assert hands.wrong("brief.claim.share")
    hands.type("brief.claim.share", "5")
    assert "5 points" in hands.words("brief.claim.deciders")
    hands.choose("brief.claim.knot", "Figure-eight loop")
    hands.choose("brief.claim.other", "Overhand loop")
    hands.click("brief.claim.store")
    row = hands.window.brief.claims()[-1]
    assert len(hands.window.brief.claims()) == before + 1
    assert row.words == "Figure-eight loop is stronger than Overhand loop by at least 5 points"
    assert row.state == "judged in Results"
    hands.click(f"brief.claim.withdraw.{row.claim.id}")
    assert len(hands.window.brief.claims()) == before


def test_units_trade_and_question_reach_every_station(hands):
    hands.go("brief")
    hands.choose("brief.force", "lbf")
    hands.window.brief.change(force_unit="lbf")
    hands.window.brief.change(length_unit="in", trade="rigging")
    hands.go("cordage")
    assert "lbf" in hands.words("cordage.baseline.rating")
    hands.go("results")
    hands.choose("results.lot", "P8-B, new")
    names = {r.name for r in hands.window.results.results.knots}
    for name in ("Becket bend", "Bowling knot"):
        assert any(n.startswith(name) for n in names)
    page = hands.window.pages["brief"]
    hands.go("brief")
    page.question.setPlainText("Which bend for the drop line?")
    page.question.left.emit()
    assert hands.window.workshop.campaign.question == "Which bend for the drop line?"
    hands.click("brief.use.guy")
    assert "guy" in hands.window.logbook.brief.uses
    hands.type("brief.offcut", "2 yd")
    hands.leave("brief.offcut")
    assert "no unit" in hands.wrong("brief.offcut")
    hands.type("brief.offcut", "3 ft")
    hands.leave("brief.offcut")
    assert hands.window.workshop.campaign.offcut_minimum_m == pytest.approx(0.9144)


def test_knots_are_found_by_what_they_must_do(hands):
    hands.go("knots")
    found = hands.find(QListWidget, "knots.found")
    everything = found.count()
    hands.click("knots.need.midline")
    assert 0 < found.count() < everything
    hands.click("knots.need.opens")
    assert "by repute" in hands.window.knots.found_words()
    hands.click("knots.need.midline")
    hands.click("knots.need.opens")
    hands.choose("knots.family", "friction hitch")
    assert 0 < found.count() < everything
    keys = [found.item(n).data(KEY) for n in range(found.count())]
    assert "prusik" in keys
    hands.type("knots.search", "nothing like it")
    assert found.count() == 0


def test_two_look_alikes_stand_side_by_side(hands):
    hands.go("knots")
    hands.window.knots.show("sheet-bend")
    hands.settle()
    hands.click("knots.beside.double-sheet-bend")
    pairs = {p.what: p for p in hands.window.knots.pairs()}
    assert (pairs[""].left, pairs[""].right) == ("Sheet bend", "Double sheet bend")
    assert pairs["how to tell"].left
    assert pairs["how to tell"].right
    assert pairs["front"].left != pairs["front"].right
    hands.choose("knots.other", "Bowline")
    assert {p.what: p for p in hands.window.knots.pairs()}[""].right.startswith("Bowline")


def test_a_name_that_means_another_knot_is_pointed_out(hands):
    hands.go("knots")
    hands.window.knots.show("anchor-bend")
    assert "means another knot in climbing" in hands.words("knots.clashes")


def test_measured_cord_corrects_the_figure_on_screen(hands):
    hands.go("knots")
    hands.window.knots.show("overhand-loop")
    hands.click("knots.sheet.variant")
    for length in ("120", "12.4 cm", "128 mm"):
        hands.choose("knots.reading.lot", "P8-B")
        hands.type("knots.reading.cord", length)
        hands.click("knots.reading.store")
    assert "Measured: 15.5 d from 3 knots" in hands.words("knots.cord")
    hands.type("knots.reading.cord", "12")
    hands.click("knots.reading.store")
    assert "unit right" in hands.wrong("knots.reading.cord")
    hands.click("knots.delete")
    assert "depend on it" in hands.window.notice.words


def test_a_structure_is_adapted_and_taken_back(hands):
    hands.go("knots")
    hands.window.knots.show("clove-hitch")
    hands.click("knots.sheet.own")
    hands.type("knots.own.cord_use_d", "lots")
    hands.click("knots.own.adapt")
    assert hands.wrong("knots.own.cord_use_d")
    hands.type("knots.own.cord_use_d", "19")
    hands.click("knots.own.adapt")
    assert "take 31 d" in hands.wrong("knots.own.cord_use_d")
    assert not hands.window.knots.is_own
    hands.click("knots.own.anyway")
    assert hands.window.knots.structure.cord_use_d == 19
    assert hands.window.knots.is_own
    hands.click("knots.own.drop")
    assert hands.window.knots.structure.cord_use_d != 19
    assert not hands.window.knots.is_own


def test_the_shelf_is_walked_with_the_keyboard(hands):
    hands.go("cordage")
    shelf = hands.window.pages["cordage"].shelf
    lots = hands.window.cordage.shelf()
    shelf.setFocus()
    hands.qtbot.keyClick(shelf, Qt.Key.Key_Down)
    hands.qtbot.keyClick(shelf, Qt.Key.Key_Return)
    hands.settle()
    assert hands.window.cordage.lot_id == lots[1].key
    assert read_logbook(hands.window.workshop).lot(lots[1].key).name == lots[1].name
