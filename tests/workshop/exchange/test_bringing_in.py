"""A spreadsheet of peaks becomes pulls of the campaign: all of them as one step, or none."""

import json

import pytest
from tests.alike import whole
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)

from bruiser.catalogue.finding import fold
from bruiser.core.errors import InputError, Refused
from bruiser.core.performance.report import make_report
from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave, JamLevel
from bruiser.formats.column_mapping import TableMapping
from bruiser.formats.pull_groups import group_pulls
from bruiser.formats.pull_table import COLUMNS, read_pull_table
from bruiser.formats.results_json import report_json
from bruiser.formats.sheets import read_sheets, text_sheet
from bruiser.formats.table_files import table_bytes
from bruiser.formats.table_templates import TEMPLATES
from bruiser.store.backups import BackupWhy, list_backups
from bruiser.workshop.exchange.bring_in_command import bring_in, look_at_table, recognised
from bruiser.workshop.exchange.pull_table_out import pull_rows
from bruiser.workshop.exchange.rescuing import check_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.results.lot_results import campaign_report

TABLE = """No;Rope;Dia (mm);Knot;Ends;Max load [kN];Result;Untied;By;Date
1;blue 8 mm;8;-;;21,4;broke mid;;TV;2024-03-13
2;blue 8 mm;8;plain;;20,9;clear;;TV;2024-03-13
3;blue 8 mm;8;Bowline;2;14,2;snapped;by hand;TV;2024-03-14
4;blue 8 mm;8;Bowline;2;13,9;broke at knot;spike;TV;2024-03-14
5;blue 8 mm;8;Pig tail loop;1;9,25;slipped;spike;OQ;2024-03-14
6;blue 8 mm;8;Bowline;1;1;void;;OQ;2024-03-14
"""


def look(shop, text, mapping=None, name="t.csv"):
    book = read_logbook(shop)
    sheet = text_sheet(text, name)
    mapping = mapping or recognised(sheet, book)
    return look_at_table(shop, book, sheet, mapping, name)


def test_everything_comes_in_as_one_step_and_goes_as_one(workshop, tmp_path):
    before = whole(workshop)
    plan = look(workshop, TABLE)
    assert not plan.problems
    assert [lot.name for lot in plan.lots] == ["blue 8 mm"]
    assert [s.key for s in plan.structures] == ["pig-tail-loop"]
    bring_in(workshop, plan, "t.csv")
    book = read_logbook(workshop)
    assert len(book.entries) == len(before.entries) + 6
    first = book.entries[-4]
    assert (first.finding.gave, first.finding.place) == (Gave.BROKE, "nip_a")
    assert first.finding.peak_load_n == pytest.approx(14_200)
    assert first.pull.started_at.startswith("2024-03-14")
    assert [(x.end, x.jam_level) for x in first.finding.inspections] == [(End.B, JamLevel.HAND)]
    assert book.entries[-2].finding.gave is Gave.CAME_OUT
    assert [b.why for b in list_backups(workshop.file.path)] == [BackupWhy.IMPORT]
    workshop.file.copy_to(tmp_path / "copy.bruiser")
    assert check_campaign(tmp_path / "copy.bruiser").sound
    workshop.undo()
    after = read_logbook(workshop)
    assert (after.entries, after.lots, after.knots) == (before.entries, before.lots, before.knots)
    workshop.redo()
    assert len(read_logbook(workshop).entries) == len(book.entries)


def test_the_same_table_twice_is_there_already(workshop):
    bring_in(workshop, look(workshop, TABLE), "t.csv")
    plan = look(workshop, TABLE)
    assert (len(plan.rows), plan.already, plan.lots, plan.knots) == (0, 6, (), ())
    with pytest.raises(Refused, match="6 rows came in before"):
        bring_in(workshop, plan, "t.csv")


def test_one_problem_and_nothing_is_stored(workshop):
    before = whole(workshop)
    plan = look(workshop, TABLE.replace("14,2", "fourteen").replace("slipped", "zapped"))
    assert [(p.line, p.column) for p in plan.problems] == [(4, "Max load [kN]"), (6, "Result")]
    with pytest.raises(InputError, match=r"Row 4, column Max load \[kN\].*\(1 more\)"):
        bring_in(workshop, plan, "t.csv")
    assert read_logbook(workshop).entries == before.entries
    assert not list_backups(workshop.file.path)


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("7,R8,bowline,1,-5,broke,,", "below zero"),
        ("7,R8,bowline,1,0,broke,,", "must be above zero"),
        ("7,R8,bowline,1,,broke,,", "column peak (kN): is empty"),
        ("7,R8,bowline,1,5,,,", "column finding: is empty"),
        ("7,,bowline,1,5,broke,,", "column cordage: is empty"),
        ("7,R8,bowline,3,5,broke,,", "neither 1 nor 2"),
        ("7,R8,sheet bend,2,5,broke,,", "not tied at both ends"),
        ("7,R8,bowline,1,5,broke,,eight", "say which of the two"),
        ("7,R8,,1,5,came out,,", "plain rope has no knot"),
        ("1,R8,bowline,1,5,broke,,", "stands there twice"),
        ("7,new rope,bowline,1,5,broke,,", "diameter is not said"),
        ("7,R8,!!!,1,5,broke,,", "cannot be the name of a knot"),
        ("7,R8,bowline,1,5 stone,broke,,", "no number in a unit of force"),
        ("7,R8,bowline,1.5,5,broke,,", "no whole number"),
        ("7,R8,bowline,1,5,broke,C,", "no word for end that failed"),
    ],
)
def test_every_problem_names_its_row_and_column(workshop, row, says):
    headings = "pull,cordage,knot,ends,peak (kN),finding,failed_end,knot_b"
    text = f"{headings}\n1,R8,bowline,1,5,broke,,\n{row}\n"
    plan = look(workshop, text)
    assert plan.problems
    assert says in str(plan.problems[0])
    assert plan.problems[0].line == 3


def test_lots_and_knots_are_found_by_any_name_or_as_the_mapping_says(workshop):
    text = (
        "cordage,condition,knot,peak (kN),finding\nR8,wet,Sheet bend,5,broke\nr8,,weird,5,broke\n"
    )
    sheet_mapping = recognised(text_sheet(text, "t"), read_logbook(workshop))
    mapping = TableMapping(columns=sheet_mapping.columns, knots={"weird": "bowline"})
    plan = look(workshop, text, mapping)
    assert not plan.problems
    assert [row.specimen.lot.name for row in plan.rows] == ["R8 wet", "R8"]
    assert plan.rows[1].specimen.knot_a.structure == "bowline"
    as_lot = TableMapping(
        columns={k: v for k, v in mapping.columns.items() if k != "condition"},
        lots={"R8": "N7"}, knots={"weird": "bend"},
    )  # fmt: skip
    plan = look(workshop, text.replace("r8,,", "R8,,"), as_lot)
    assert {row.specimen.lot.name for row in plan.rows} == {"N7"}
    assert [s.key for s in plan.structures] == ["weird"]
    assert plan.rows[1].specimen.layout_key == "bend"


def test_a_knot_of_two_ends_and_two_knots_stand_as_in_the_table(workshop):
    text = (
        "cordage,knot,knot_b,ends,peak (kN),finding,failed_end,jam_level,draw_mm,untie_s\n"
        "R8,bowline,figure-eight-loop,1,5,broke,B,tool,12,30\n"
    )
    (row,) = look(workshop, text).rows
    assert row.specimen.layout_key == "loop_pair"
    assert row.specimen.knot_b.structure == "figure-eight-loop"
    assert row.finding.place == "nip_b"
    assert [(x.end, x.jam_level, x.untie_s) for x in row.finding.inspections] == [
        (End.A, JamLevel.TOOL, 30.0)
    ]
    assert row.finding.draws[0].draw_m == pytest.approx(0.012)


def numbers(report):
    said = json.loads(report_json(report))
    return {
        (g["cordage"].split(",")[0], g["knot"]): (g["n"], g["mle"], g["efficiency"])
        for g in said["groups"]
    }


def test_the_pulls_say_the_same_as_the_table_they_came_from(fresh, tmp_path):
    rows = ["pull,role,cordage,condition,knot,ends,peak,unit,finding,failed_end,jam_level"]
    for n, peak in enumerate((21.4, 20.7, 22.1, 20.9, 21.6)):
        rows.append(f"b{n},baseline,blue 8 mm,,,,{peak},kN,broke_clear,,")
    for n, peak in enumerate((14.2, 13.1, 15.0, 14.4, 13.7)):
        rows.append(f"k{n},knot,blue 8 mm,,Bowline,2,{peak},kN,broke_at_knot,A,worked")
    for n, (peak, what) in enumerate(
        ((7.1, "came_out"), (8.3, "broke_at_knot"), (6.0, "stopped"), (7.7, "came_out"))
    ):
        rows.append(f"s{n},knot,blue 8 mm,,Sheet bend,1,{peak},kN,{what},,")
    text = "\n".join(rows) + "\n"
    of_table = make_report(group_pulls(read_pull_table(text)))
    book = read_logbook(fresh)
    sheet = text_sheet(text, "t")
    mapping = recognised(sheet, book)
    mapping = TableMapping(columns=mapping.columns, units=mapping.units, fixed={"diameter_mm": "8"})
    bring_in(fresh, look_at_table(fresh, book, sheet, mapping, "t"), "t")
    book = read_logbook(fresh)
    of_campaign = campaign_report(book)
    mine, theirs = numbers(of_campaign), numbers(of_table)
    assert mine.keys() == theirs.keys()
    for key in theirs:
        assert mine[key][0] == theirs[key][0], key
        for one, two in zip(mine[key][1:], theirs[key][1:], strict=True):
            assert one == pytest.approx(two), key
    out, left = pull_rows(book)
    assert left == 0
    again = table_bytes(".csv", COLUMNS, [[r[c] for c in COLUMNS] for r in out]).decode()
    back = numbers(make_report(group_pulls(read_pull_table(again))))
    for key in theirs:
        assert back[key][1] == pytest.approx(theirs[key][1]), key


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
@pytest.mark.parametrize("suffix", [".csv", ".tsv", ".xlsx"])
def test_every_template_is_a_pull_table_that_can_be_rated(template, suffix, tmp_path):
    path = tmp_path / f"t{suffix}"
    path.write_bytes(table_bytes(suffix, template.headings, template.rows))
    (sheet,) = read_sheets(path)
    text = "\n".join(",".join(row) for row in sheet.rows)
    assert make_report(group_pulls(read_pull_table(text))).groups


OTHERS = """pull,role,cordage,diameter_mm,cordage_b,knot,method,peak,unit,finding,wraps,\
slides_by_hand,frees_by_hand,sheath,release_force,freed,freed_itself,hand_load,applied_load,kept_load,\
before_load,after_load,cycles,cycles_end,width_d,ledge_force,passed
b1,baseline,red,8,,,,20.1,kN,broke_clear,,,,,,,,,,,,,,,,,
b2,baseline,red,8,,,,21.0,kN,broke_clear,,,,,,,,,,,,,,,,,
b3,baseline,red,8,,,,20.4,kN,broke_clear,,,,,,,,,,,,,,,,,
s1,knot,red,8,,Prusik hitch,slide,4.2,kN,slid,,yes,yes,glazed,,,,,,,,,,,,,
s2,knot,red,8,,Prusik hitch,slide,5.0,kN,stopped,,no,yes,clean,,,,,,,,,,,,,
s3,knot,red,8,,Prusik hitch,slide,4.6,kN,slid,,yes,no,torn,,,,,,,,,,,,,
r1,knot,red,8,,Highwayman's hitch,release,3.0,kN,,,,,,0.2,yes,no,,,,,,,,,,
r2,knot,red,8,,Highwayman's hitch,release,3.1,kN,,,,,,0.4,no,no,,,,,,,,,,
a1,knot,red,8,,Trucker's hitch,advantage,,kN,,,,,,,,,0.5,1.1,0.8,,,,,,,
a2,knot,red,8,,Trucker's hitch,advantage,,kN,,,,,,,,,0.5,1.2,0.9,,,,,,,
t1,knot,red,8,,Constrictor knot,retention,,kN,,,,,,,,,,,,0.30,0.25,20,,,,
t2,knot,red,8,,Constrictor knot,retention,,kN,,,,,,,,,,,,0.32,0,20,,,,
p1,knot,red,8,,Figure-eight stopper,seat,2.0,kN,came_out,,,,,,,,,,,,,,,,,
p2,knot,red,8,,Figure-eight stopper,seat,2.5,kN,stopped,,,,,,,,,,,,,,,,,
w1,knot,red,8,,Sheet bend,bulk,,kN,,,,,,,,,,,,,,,,3.1,0.05,yes
w2,knot,red,8,,Sheet bend,bulk,,kN,,,,,,,,,,,,,,,,3.3,0.30,no
c1,knot,red,8,,Bowline,cycles,4,kN,came_out,,,,,,,,,,,,,38,failed,,,
c2,knot,red,8,,Bowline,shaking,1,kN,stopped,,,,,,,,,,,,,40,survived,,,
"""


def work_of(report, knot):
    said = json.loads(report_json(report))
    keys = ("grip", "release", "advantage", "retention", "seat", "bulk")
    found = {}
    for group in said["groups"]:
        if group["knot"] == knot:
            found |= {k: group[k] for k in keys if group.get(k)}
    return found


def same(one, two):
    if isinstance(one, dict) and isinstance(two, dict):
        return one.keys() == two.keys() and all(same(one[k], two[k]) for k in one)
    return one == (pytest.approx(two, rel=1e-6) if isinstance(two, float) else two)


def test_every_method_of_the_table_comes_in_and_says_the_same(fresh):
    of_table = make_report(group_pulls(read_pull_table(OTHERS)))
    plan = look(fresh, OTHERS)
    assert not plan.problems, plan.problems[:3]
    assert not plan.structures
    bring_in(fresh, plan, "t")
    book = read_logbook(fresh)
    assert not fresh.file.set_aside
    of_campaign = campaign_report(book)
    for knot in ("Prusik hitch", "Highwayman's hitch", "Trucker's hitch", "Constrictor knot",
                 "Figure-eight stopper", "Sheet bend"):  # fmt: skip
        mine, theirs = work_of(of_campaign, plan.knots_as[fold(knot)]), work_of(of_table, knot)
        assert theirs
        assert mine.keys() == theirs.keys(), knot
        for key in theirs:
            assert same(mine[key], theirs[key]), (knot, key, mine[key], theirs[key])
    rows, left = pull_rows(book)
    assert left == 0
    out = table_bytes(".csv", COLUMNS, [[row[c] for c in COLUMNS] for row in rows]).decode()
    again = make_report(group_pulls(read_pull_table(out)))
    for knot in ("Prusik hitch", "Trucker's hitch", "Constrictor knot", "Sheet bend"):
        back, theirs = work_of(again, plan.knots_as[fold(knot)]), work_of(of_table, knot)
        assert same(back, theirs), knot
    by_code = {e.specimen.code: e for e in book.entries}
    assert [r.number for r in by_code["c1"].readings] == [37]
    assert [r.number for r in by_code["c2"].readings] == [40]
    fresh.undo()
    assert not read_logbook(fresh).entries
    fresh.redo()
    assert len(read_logbook(fresh).entries) == len(book.entries)


@pytest.mark.parametrize(
    ("spoilt", "says"),
    [
        ("a1,knot,red,8,,Trucker's hitch,advantage,,kN,,,,,,,,,,1.1,0.8,,,,,,,", "hand line"),
        ("w1,knot,red,8,,Sheet bend,bulk,,kN,,,,,,,,,,,,,,,,,0.05,yes", "width_d: is empty"),
        ("b9,baseline,red,8,,,slide,20.1,kN,broke_clear,,,,,,,,,,,,,,,,,", "is a ramp"),
        ("s9,knot,red,8,,Prusik hitch,wrestle,4.2,kN,slid,,,,,,,,,,,,,,,,,", "no word for method"),
    ],
)
def test_a_method_without_what_it_measures_is_refused(fresh, spoilt, says):
    head = OTHERS.split("\n", 1)[0]
    plan = look(fresh, f"{head}\n{spoilt}\n")
    assert plan.problems
    assert says in str(plan.problems[0]).replace("hand_load: is empty", "hand line")


def test_what_is_kept_apart_in_brackets_stays_apart(fresh):
    apart = ("Bowline (pin 12 mm, ring load)", "Bowline (ring load)")
    rows = ("Bowline (pin 12 mm)", "Bowline", *apart, "Bowline, round turn (double)")
    text = "pull,cordage,diameter_mm,knot,peak (kN),finding\n" + "".join(
        f'{n},red,8,"{knot}",5,broke\n' for n, knot in enumerate(rows)
    )
    plan = look(fresh, text)
    assert not plan.problems
    assert [s.key for s in plan.structures] == ["bowline-ring-load"]
    made = [(r.specimen.knot_a.title, r.specimen.pin_diameter_m) for r in plan.rows]
    assert made == [
        ("Bowline", 0.012), ("Bowline", 0.0), ("Bowline (ring load)", 0.012),
        ("Bowline (ring load)", 0.0), ("Bowline, round turn (double)", 0.0),
    ]  # fmt: skip


def test_a_diameter_may_stand_in_the_name_of_the_cordage(fresh):
    text = "cordage,knot,peak (kN),finding\n8 mm braid,bowline,5,broke\nred,bowline,5,broke\n"
    plan = look(fresh, text)
    assert [(lot.name, lot.diameter_m) for lot in plan.lots] == [("8 mm braid", 0.008)]
    assert [p.line for p in plan.problems] == [3]
