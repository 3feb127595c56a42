"""Each family from its plan to its guide page in a real window; some of them every day."""

import re

import pypdfium2
import pytest
from PyQt6.QtWidgets import QLineEdit, QWidget

from bruiser.app.window import MainWindow
from bruiser.core.records.readings import Takes
from bruiser.core.records.records import Role
from bruiser.workshop.bench.running import RunState
from bruiser.workshop.bench.simulation import felt_reading
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.bench_entry import AddFixture
from tests.build import Situation, post
from tests.journeys.conftest import Hands
from tests.journeys.test_from_use_to_guide import tick
from tests.journeys.test_methods_at_the_bench import Bench
from tests.specimens import patient_bench
from tests.usual import store

CORD, HOST = "lot R8", "lot R11"
POST, PLATE = post(0.060, "host", "post 1"), post(0.012, "plate", "plate 1")
FAMILIES = [
    ("autoblock", "cord on rope", "Gripping a rope", "grip", "wraps (slides at|did not slide)"),
    ("farrimond", "slide test", "Adjustable guy", "grip", "it held|slides at"),
    (
        "truckers-hitch",
        "advantage test",
        "Fastening to a smooth post",
        "work",
        "times the hand's load",
    ),
    ("constrictor", "retention test", "Closing a bundle", "work", "came slack|of the grip"),
    ("halter-hitch", "release test", "Lowering with quick release", "work", "freed"),
    (
        "figure-eight-stopper",
        "stopper through a plate",
        "Stopping a line at a hole",
        "work",
        "pulls through|held",
    ),
    ("zeppelin-bend", "bulk and snag", "Line joined for good", "work", "over the ledge"),
]


@pytest.fixture
def window(dressed, qtbot, tmp_path, request):
    s = Situation()
    s.lot("R8", rated_strength_n=9_500.0)
    s.lot("R11", diameter_m=0.011)
    s.knot(request.param)
    path = tmp_path / "own.bruiser"
    store(s, path, hanks=((CORD, 90.0), (HOST, 60.0)))
    workshop = open_workshop(path)
    for fixture in (POST, PLATE):
        workshop.do(AddFixture(fixture))
    made = MainWindow(workshop, patient_bench(60.0))
    qtbot.addWidget(made, before_close_func=lambda w: w.pull.abandon())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    yield made
    made.close()


def answer(bench):
    """What a method asks, as it lies on the simulated bench."""
    driver = bench.driver
    act = driver.act
    if act.takes is Takes.SHEATH:
        bench.click(f"pull.ask.{felt_reading(act.takes, driver.session.instrument.remains())[1]}")
        return
    felt = felt_reading(act.takes, driver.session.instrument.remains(act.number))
    assert felt is not None, act.takes
    value, _ = felt
    if value is None:
        bench.click("pull.ask.would_not")
        return
    line = bench.window.findChild(QLineEdit, "pull.ask.load")
    wide = act.takes is Takes.WIDTH
    bench.qtbot.keyClicks(line, f"{1000 * value:.1f} mm" if wide else f"{value:.1f} N")
    bench.click("pull.ask.keep")


def pull_it(bench):
    """One specimen by its method, whatever it asks, until its findings are asked for."""
    window, held = bench.window, False

    def stands():
        run = bench.driver.run
        resting = (RunState.DONE, RunState.ASKING, RunState.PAUSED, RunState.READY)
        return window.station == "findings" or run is None or run.state in resting

    for _ in range(40):
        run = bench.driver.run
        if window.station == "findings":
            return
        if run is not None and run.state is RunState.DONE:
            break
        if run is not None and run.state is RunState.ASKING:
            if held:
                bench.let_go()
                held = False
            answer(bench)
            continue
        if held:
            bench.let_go()
        if not bench.driver.armed:
            bench.arm()
        bench.run()
        held = not bench.driver.latched
        bench.qtbot.wait(50)
        bench.wait(stands)
    if held:
        bench.let_go()
    if window.station != "findings":
        if window.pull.live.load_is_on:
            bench.slack_off()
        bench.end()


def inspect(hands):
    """Write down what lies on the bench."""
    lies = hands.window.findings.entry.pull.remains
    if lies["place"] is not None:
        hands.tap("findings.strip", lies["place"])
    hands.click(f"findings.gave.{lies['gave']}")
    for knot in lies["knots"]:
        hands.click(f"findings.jam.{knot['end']}.{knot['jam_level']}")
    for tail, drawn in lies["draws_m"].items():
        hands.type(f"findings.draw.{tail}", f"{1000 * drawn:.0f} mm")
    hands.click("findings.accept")
    if hands.window.logbook.at(Stage.PULLED):
        hands.type("findings.against", "seen")
        hands.click("findings.accept")


def plan_it(hands, title, method, *, rope):
    """Two pulls of a knot by a method, on the post, the plate and the rope there are."""
    tick(hands, "plan.lots", "R8")
    tick(hands, "plan.knots", title)
    hands.type("plan.pulls", "2")
    hands.leave("plan.pulls")
    hands.choose("plan.ends", "at one end")
    hands.click("plan.picks.how")
    tick(hands, "plan.methods", method)
    for fixture in ("host post 1", "plate plate 1"):
        tick(hands, "plan.hosts", fixture)
    if rope:
        tick(hands, "plan.lots_b", "R11")
    hands.settle()
    hands.click("plan.queue")


@pytest.mark.parametrize(
    ("window", "method", "use", "sheet", "printed"),
    [
        pytest.param(*family, marks=() if n % 4 == 0 else pytest.mark.slow)
        for n, family in enumerate(FAMILIES)
    ],
    indirect=["window"],
)
def test_a_family_from_its_plan_to_its_page(
    window, qtbot, tmp_path, monkeypatch, method, use, sheet, printed
):
    hands, bench = Hands(qtbot, window), Bench(qtbot, window)
    hands.go("plan")
    knot = window.logbook.knots_in_play[0]
    plan_it(hands, knot.title, method, rope=knot.family == "friction hitch")
    waiting = [e.specimen for e in window.logbook.at(Stage.PLANNED)]
    tied = [s for s in waiting if s.role is Role.KNOT and s.lot.id == CORD]
    assert len(tied) == 2
    assert {s.method.key for s in tied} == {method}
    for specimen in tied:
        hands.go("pull")
        window.pull.put_on(specimen.id)
        pull_it(bench)
        inspect(hands)
    hands.go("results")
    hands.click(f"results.sheet.{sheet}")
    rows = [r for r in window.results.found.work if r.knot.id == knot.id]
    assert len(rows) == 1
    assert len(rows[0].pull_ids) >= 1
    hands.go("guide")
    hands.click("guide.part.publish")
    hands.type("guide.scope", "one family")
    tick(hands, "guide.uses", use)
    hands.click("guide.preview")
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=120_000)
    assert hands.find(QWidget, "guide.pages").isVisible()
    target = tmp_path / "family.pdf"
    target.write_bytes(window.pages["guide"].publishing.pdf)
    whole = " ".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(target))
    assert re.search(printed, re.sub(r"\s+", " ", whole))


@pytest.mark.parametrize("window", ["double-fishermans"], indirect=True)
def test_a_sling_with_two_tails_is_planned_pulled_and_read_by_its_leg(window, qtbot):
    hands, bench = Hands(qtbot, window), Bench(qtbot, window)
    hands.go("plan")
    tick(hands, "plan.lots", "R8")
    tick(hands, "plan.knots", "Double fisherman's")
    hands.type("plan.pulls", "2")
    hands.leave("plan.pulls")
    hands.click("plan.picks.purpose")
    hands.choose("plan.bends", "closed to a sling")
    assert "all the way round" in hands.wrong("plan.around")
    hands.type("plan.around", "800 mm")
    hands.leave("plan.around")
    hands.type("plan.joint", "2 m")
    hands.leave("plan.joint")
    assert "half as long" in hands.wrong("plan.joint")
    hands.type("plan.joint", "150 mm")
    hands.leave("plan.joint")
    hands.type("plan.tails", "none")
    hands.leave("plan.tails")
    assert "usual, 6, 10" in hands.wrong("plan.tails")
    hands.type("plan.tails", "usual, 6")
    hands.leave("plan.tails")
    hands.click("plan.queue")
    slung = [e.specimen for e in window.logbook.at(Stage.PLANNED)]
    slung = [s for s in slung if s.role is Role.KNOT]
    assert {(s.layout_key, s.state.tail_d, s.state.joint_m) for s in slung} == {
        ("sling", 0.0, 0.15),
        ("sling", 6.0, 0.15),
    }
    hands.go("pull")
    window.pull.put_on(slung[0].id)
    pull_it(bench)
    inspect(hands)
    hands.go("results")
    (row,) = [r for r in window.results.found.shown[0].knots if r.group.tried]
    (tried,) = row.group.tried
    assert tried.load_n == tried.finding.peak_load_n / 2
    assert "bears half in each leg" in " ".join(x.text for x in window.results.sheet().lines)
