"""Odd campaigns made from seeds, and a small checker of what is said of them.

The checker compares words with records: it knows nothing of how a sentence was made.
"""

import re

import numpy as np

from bruiser.core.memory import Memory
from bruiser.core.records.readings import GAVE_NOTE, WOULD_NOT, Sheath, Takes
from bruiser.core.records.records import Gave, JamLevel, Role
from bruiser.core.records.tied_state import PLAIN_STATE, TiedState
from bruiser.core.units import UnitChoice
from bruiser.ui.stations.results.sheets import SHEETS, Chosen, Material
from bruiser.workshop.findings.pull_words import pull_words
from bruiser.workshop.results.overview import SheetQuery, overview
from tests.build import Situation, post

UNITS = UnitChoice()
EASY, HARD = (JamLevel.SHAKEN, JamLevel.HAND, JamLevel.WORKED), (JamLevel.TOOL, JamLevel.CUT)
POST, PLATE = post(), post(0.012, "plate", "plate 1")
BREAKING = ("bowline", "figure-eight-loop", "sheet-bend", "zeppelin-bend", "alpine-butterfly")
WAYS = ("", "eye against one end", "standing part the other way along the host", "in no known way")


def odd_campaign(seed):
    """A campaign of a few knots in one lot: every outcome, none to twelve pulls of each."""
    rng = np.random.default_rng(seed)
    s = Situation()
    plain = tuple(float(x) for x in rng.normal(10_000, 300, int(rng.choice([0, 1, 2, 5]))))
    lot, host = s.lot("R8", plain=plain), s.lot("R11", diameter_m=0.011)
    for _ in range(int(rng.integers(1, 5))):
        kind = rng.choice(
            ["breaks", "steps", "shakes", "slides", "lets go", "hauls", "binds", "seats"]
        )
        {
            "breaks": _breaks, "steps": _steps, "shakes": _shakes, "slides": _slides,
            "lets go": _lets_go, "hauls": _hauls, "binds": _binds, "seats": _seats,
        }[str(kind)](s, lot, host, rng)  # fmt: skip
    return s.logbook()


def _count(rng):
    return int(rng.choice([0, 1, 1, 2, 3, 5, 8, 12]))


def _breaks(s, lot, host, rng):
    del host
    structure = str(rng.choice(BREAKING))
    s.knot(structure)
    mode = str(rng.choice(["mixed", "broke", "came out", "floors", "void"]))
    jams = str(rng.choice(["none", "easy", "hard", "separated", "mixed"]))
    way = str(rng.choice(WAYS)) if rng.random() < 0.3 else ""
    state = TiedState(tail_d=float(rng.choice([2, 5]))) if rng.random() < 0.2 else PLAIN_STATE
    wide = float(rng.choice([0.02, 0.1, 0.4]))
    for _ in range(_count(rng)):
        load = float(np.clip(6_000 * np.exp(wide * rng.standard_normal()), 300, 13_000))
        gave = {
            "broke": Gave.BROKE, "came out": Gave.CAME_OUT, "floors": Gave.STOPPED,
            "void": Gave.VOID,
        }.get(mode) or rng.choice(list(Gave))  # fmt: skip
        level = {
            "none": None, "easy": rng.choice(EASY), "hard": rng.choice(HARD),
            "separated": JamLevel.HAND if load < 6_000 else JamLevel.TOOL,
        }.get(jams, rng.choice(list(JamLevel)))  # fmt: skip
        s.pull(
            structure, lot, load, gave=Gave(gave), state=state, drew_m=float(rng.uniform(0, 0.1)),
            method="cross and reverse" if way else "ramp to failure", direction=way,
            jam=None if level is None else JamLevel(level),
            slip_n=float(rng.uniform(0.2, 1.0)) * load if rng.random() < 0.5 else None,
        )  # fmt: skip


def _steps(s, lot, host, rng):
    del host
    stuck = float(rng.uniform(500, 9_000))
    for _ in range(_count(rng)):
        top = float(rng.uniform(1_000, 7_000))

        def tried(e, top=top):
            steps = [top * k / 4 for k in range(1, 5)]
            return [
                s.reading(
                    e, Takes.UNTYING, n, x, 5.0, end=e.specimen.layout.ends[0],
                    level=JamLevel.HAND if x < stuck else JamLevel.TOOL,
                )
                for n, x in enumerate(steps, 1)
            ]  # fmt: skip

        s.pull("carrick-bend", lot, top, gave=Gave.STOPPED, method="stepped load", readings=tried)


def _shakes(s, lot, host, rng):
    del host
    takes, method = (
        (Takes.SHAKE, "slack and snatch") if rng.random() < 0.5 else (Takes.CYCLE, "cycles")
    )
    for _ in range(_count(rng)):
        n = int(rng.integers(1, 30))
        s.pull(
            "reef", lot, 1_000.0, method=method,
            gave=Gave.CAME_OUT if rng.random() < 0.4 else Gave.STOPPED,
            readings=lambda e, n=n: [s.reading(e, takes, k, 1_000.0, 0.0) for k in range(1, n + 1)],
        )  # fmt: skip


def _slides(s, lot, host, rng):
    mode = str(rng.choice(["slid", "held", "broke", "mixed"]))
    for _ in range(_count(rng)):
        load = float(3_000 * np.exp(0.3 * rng.standard_normal()))
        how = str(rng.choice(["slid", "held", "broke"])) if mode == "mixed" else mode

        def read(e, how=how, load=load):
            hand = float(rng.uniform(20, 300))
            return [
                s.reading(
                    e, Takes.SLID, 1, load, 0.0 if how == "held" else 1.0,
                    note=GAVE_NOTE if how == "broke" else "",
                ),
                s.reading(e, Takes.BY_HAND, 1, 0.0, hand, note="" if hand < 150 else WOULD_NOT),
                s.reading(e, Takes.SHEATH, 1, 0.0, note=str(rng.choice(list(Sheath)))),
            ]  # fmt: skip

        s.pull(
            "prusik", lot, load, method="cord on rope", lot_b=host, readings=read,
            gave=Gave.BROKE if how == "broke" else Gave.STOPPED,
            values=(("wraps", float(rng.integers(1, 5))),),
        )  # fmt: skip


def _lets_go(s, lot, host, rng):
    del host
    for _ in range(_count(rng)):
        itself = rng.random() < 0.3
        force, refused = float(rng.uniform(50, 600)), rng.random() < 0.3
        s.pull(
            "halter-hitch", lot, 2_000.0, method="release test", fixture=POST,
            gave=Gave.CAME_OUT if itself else Gave.STOPPED,
            readings=() if itself else lambda e, f=force, no=refused: [
                s.reading(e, Takes.RELEASE, 1, 2_000.0, f, note=WOULD_NOT if no else "")
            ],
        )  # fmt: skip


def _hauls(s, lot, host, rng):
    del host
    for _ in range(_count(rng)):
        hand, kept = float(rng.uniform(350, 900)), float(rng.choice([0.0, 0.6, 0.9, 0.99]))
        s.pull(
            "truckers-hitch", lot, 1_000.0, gave=Gave.STOPPED, method="advantage test",
            readings=lambda e, h=hand, k=kept: [
                s.reading(e, Takes.TWO_LOADS, 1, 1_000.0, h),
                s.reading(e, Takes.KEPT, 1, 1_000.0, k),
            ],
        )  # fmt: skip


def _binds(s, lot, host, rng):
    del host
    for _ in range(_count(rng)):
        before, after = float(rng.uniform(100, 900)), float(rng.choice([0.0, 50.0, 400.0]))
        s.pull(
            "constrictor", lot, 1_500.0, gave=Gave.STOPPED, method="retention test", fixture=POST,
            jam=JamLevel(rng.choice(list(JamLevel))),
            readings=lambda e, b=before, a=after: [
                s.reading(e, Takes.MOVED, 1, 0.0, b),
                s.reading(e, Takes.MOVED, 2, 0.0, a),
            ],
        )  # fmt: skip


def _seats(s, lot, host, rng):
    del host
    for _ in range(_count(rng)):
        s.pull(
            "figure-eight-stopper", lot, float(rng.uniform(1_000, 8_000)), fixture=PLATE,
            method="stopper through a plate",
            gave=Gave(rng.choice([Gave.CAME_OUT, Gave.BROKE, Gave.STOPPED])),
        )  # fmt: skip


def everything_said(logbook):
    """Every sentence, line and table of every sheet of every lot: where it stands, and its text."""
    memory = Memory()
    for kind in SHEETS.values():
        for lot in logbook.lots:
            asked = SheetQuery(sheet=kind.key, work=kind.work, lot_ids=(lot.id,))
            found = overview(logbook, asked, memory)
            material = Material(found=found, logbook=logbook, row="", chosen=Chosen(), units=UNITS)
            keys = {""} | {
                *(r.case.key for r in (*found.slip, *found.jam)),
                *(f"{r.lot.id}|{r.name}" for r in found.shown[0].knots),
            }
            for row in sorted(keys):
                sheet = kind.build(Material(**{**material.__dict__, "row": row}))
                where = f"{kind.key} {lot.name} {row.rpartition('|')[2]}"
                yield lot, where, sheet.sentence, True
                for line in sheet.lines:
                    yield lot, where, line.text, bool(line.behind)
                charts = [sheet.main, *(p.draw for p in sheet.parts)]
                for draw in charts:
                    figure = None if draw is None else draw(240.0, 120.0)
                    table = figure
                    for cells in () if table is None else table.rows:
                        yield lot, f"{where} table", " | ".join(map(str, cells)), False


def pulls_said(logbook):
    """Every pull in words, with its entry."""
    for entry in logbook.entries:
        words = pull_words(entry, UNITS)
        if words:
            yield entry, words


SEEN = re.compile(r"\b(tried|held|at least|seen up to|open up to|opened)\b|≥")
LOAD = re.compile(r"(\d+(?:\.\d+)?) kN")
SHARE = re.compile(r"(?<![\d.+−-])(\d+(?:\.\d+)?)(?= %|%)")
SIGNED = re.compile(r"[+−-]\d+(?:\.\d+)?(?: to [+−-]?\d+(?:\.\d+)?)?(?=[ ]?%| points)")
ALL_OR_NONE = re.compile(r"\b([Nn]ever|[Ee]very|[Nn]one|all)\b|\bNo [A-Z]")


def tops(logbook, lot_id):
    """The highest load that anything of a lot bore, and as a share of its typical plain rope."""
    loads = [
        max([e.finding.peak_load_n, *(r.load_n for r in e.readings)])
        for e in logbook.entries
        if e.finding is not None and e.specimen.lot.id == lot_id
    ]
    plain = [
        e.finding.peak_load_n
        for e in logbook.entries
        if e.finding is not None
        and e.specimen.lot.id == lot_id
        and e.specimen.role is Role.BASELINE
        and not e.specimen.state.words
    ]
    top = max(loads, default=0.0)
    return top, top / min(plain) if plain else None


def nonsense(text, top_n, top_share, *, counts):
    """What is wrong with a text beside the records; empty where it makes sense.

    Parameters
    ----------
    top_n, top_share : float, float or None
        The highest load tried in the lot, and as a share of its weakest plain rope.
    counts : bool
        Whether it speaks of pulls, so that "never" and "all" need their number.
    """
    wrong = []
    plain = SIGNED.sub("", text)
    for clause in re.split(r"[;:|]|\. |, ", plain):
        if not SEEN.search(clause):
            continue
        wrong += [f"load {x} above the highest tried" for x in LOAD.findall(clause)
                  if float(x) > top_n / 1000 + 0.0051]  # fmt: skip
        if top_share is not None and "after" not in clause:
            wrong += [
                f"share {x} above the highest tried"
                for x in SHARE.findall(clause)
                if float(x) > 100 * top_share + 0.51 and float(x) <= 100
            ]
    wrong += [f"share {x} outside 0 to 100" for x in SHARE.findall(plain) if float(x) > 100]
    if counts and ALL_OR_NONE.search(text) and not re.search(r"\d", text):
        wrong.append("“never”, “all” or “no” without a number")
    if re.search(r"\bnan\b|\binf\b|\bNone (%|kN|N|d|mm|s)\b", text):
        wrong.append("no number")
    return wrong


def misworded(entry, words):
    """Whether a break is worded as a slide."""
    broke = entry.finding.gave is Gave.BROKE
    return broke and bool(re.search(r"\b(slid|slides) at\b", words, re.IGNORECASE))
