"""Something of every kind that a technician can do to a campaign, at random."""

import re
from dataclasses import replace

from bruiser.core.choice.brief import Claim, Criterion, DesignFactorEntry
from bruiser.core.choice.criteria import Measure, PassCriterion
from bruiser.core.choice.rating import RatingLimits
from bruiser.core.choice.use_profile import shipped_profiles
from bruiser.core.json_records import write_record
from bruiser.core.performance.claims import ClaimKind
from bruiser.core.records.bench_book import BenchRecord, Fixture, LoadCheck, RoomDay
from bruiser.core.records.layouts import End
from bruiser.core.records.preparation import Hands, Preparation, PrepStep, TyingTrial
from bruiser.core.records.records import (
    Exclusion,
    Finding,
    Gave,
    JamLevel,
    KnotInspection,
    TailDraw,
)
from bruiser.core.trace import TraceSettings
from bruiser.formats.sheets import text_sheet
from bruiser.store.guides import GuideRow, LimitsRow, ProfileRow, StepRow
from bruiser.store.readings import Photo
from bruiser.workshop.bench.instruments import RecordCheck
from bruiser.workshop.course import typed_series
from bruiser.workshop.desk import brief_commands
from bruiser.workshop.exchange import bring_in_command as bringing
from bruiser.workshop.findings import photos as photo_commands
from bruiser.workshop.findings.excluding import Exclude
from bruiser.workshop.findings.tracing import (
    Reanalyse,
    stored_trace,
)
from bruiser.workshop.guide import book as guide_book
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.guide.publishing import KeepGuide, StepGuide
from bruiser.workshop.logbook import commands
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import AnalysisKey
from bruiser.workshop.plan import bench_entry
from tests.build import SPECIMEN
from tests.workshop.logbook.stock_deeds import StockDeeds

TRADES = ("general", "climbing", "sailing")


def every_command():
    found, waiting = set(), list(commands.Command.__subclasses__())
    while waiting:
        kind = waiting.pop()
        waiting += kind.__subclasses__()
        if kind.__module__.startswith("bruiser."):
            found.add(kind)
    return found


def deed_of(kind):
    return re.sub(r"(?<!^)(?=[A-Z])", "_", kind.__name__).lower()


class Deeds(StockDeeds):
    """One random command of each kind, made of what the campaign holds; None where none fits."""

    def __init__(self, workshop, rng):
        self.w, self.rng = workshop, rng
        self.j = read_logbook(workshop)

    def new(self):
        return self.w.new_id()

    def pick(self, rows):
        rows = list(rows)
        return self.rng.choice(rows) if rows else None

    def entry(self, *stages):
        return self.pick(e for e in self.j.entries if e.stage in stages)

    def make(self, kind):
        return getattr(self, deed_of(kind))()

    def plan_specimen(self):
        lot, knot = self.pick(self.j.lots), self.pick(self.j.knots)
        if lot is None or knot is None:
            return None
        number = 1 + max((int(e.specimen.code[2:]) for e in self.j.entries), default=0)
        return commands.PlanSpecimen(
            replace(
                SPECIMEN, id=self.new(), code=f"S-{number:03}", lot=lot, knot_a=knot, knot_b=knot,
                queue_position=number, fixture=self.pick([None, *self.j.bench_book.fixtures]),
            )
        )  # fmt: skip

    def drop_specimen(self):
        entry = self.entry(*Stage)
        return entry and commands.DropSpecimen(entry.specimen)

    def move_in_queue(self):
        waiting = [e.specimen for e in self.j.at(Stage.PLANNED)]
        places = [s.queue_position for s in waiting]
        self.rng.shuffle(places)
        return commands.MoveInQueue(tuple((s.id, p) for s, p in zip(waiting, places, strict=True)))

    def prepare(self):
        entry = self.entry(*Stage)
        if entry is None:
            return None
        step = self.rng.choice(tuple(PrepStep))
        trial = TyingTrial(seconds=self.rng.uniform(5, 60)) if step is PrepStep.TRIAL else None
        made = Preparation(
            id=self.new(),
            specimen_id=entry.specimen.id,
            made_at=self.w.now(),
            step=step,
            by=self.rng.choice("ABC"),
            trial=trial,
        )
        return commands.Prepare(made)

    def accept_finding(self):
        entry = self.entry(Stage.PULLED, Stage.INSPECTED, Stage.VOID)
        if entry is None:
            return None
        tied = bool(entry.specimen.layout.ends)
        gave = self.rng.choice((Gave.BROKE, Gave.CAME_OUT, Gave.STOPPED, Gave.VOID))
        if not tied and gave is Gave.CAME_OUT:
            gave = Gave.BROKE
        somewhere = "knot_a" if tied else "span"
        place = somewhere if gave in (Gave.BROKE, Gave.CAME_OUT) else None
        return commands.AcceptFinding(
            Finding(
                id=self.new(), pull_id=entry.pull.id, made_at=self.w.now(), gave=gave, place=place,
                peak_load_n=self.rng.uniform(1e3, 9e3), untied_how="hand", void_reason="why",
                supersedes=entry.history[-1].id if entry.history else None,
                draws=(TailDraw(key="tail_a", draw_m=self.rng.uniform(0, 0.05)),),
                inspections=(KnotInspection(end=End.B, jam_level=JamLevel.HAND, untie_s=12.0),),
            )
        )  # fmt: skip

    def type_series(self):
        lot = self.pick(x for x in self.j.lots_in_use if x.stock_lot_id is None)
        if lot is None:
            return None
        texts = ("plain; 5; clear", self.rng.choice(("bowline", "sheet bend")) + "; 4; broke; hand")
        lines = [typed_series.read_line(t, self.j, self.w.units) for t in texts]
        head = typed_series.SeriesHead(lot=lot, capacity_n=9e3, technician="A")
        return typed_series.series_command(self.w, self.j, head, lines)

    def bring_in(self):
        rows = "".join(
            f"{self.rng.randrange(10**6)},{self.rng.choice(('brought rope', 'other rope'))},8,"
            f"{self.rng.choice(('bowline', 'plain', 'own knot'))},5,stopped\n"
            for _ in range(2)
        )
        sheet = text_sheet("pull,cordage,diameter_mm,knot,peak,finding\n" + rows, "t")
        mapping = bringing.recognised(sheet, self.j)
        plan = bringing.look_at_table(self.w, self.j, sheet, mapping, "t")
        return bringing.BringIn(plan) if plan.rows and not plan.problems else None

    def together(self):
        kinds = [commands.PlanSpecimen, commands.Prepare, brief_commands.EnterClaim]
        parts = [self.make(k) for k in self.rng.sample(kinds, 2)]
        return commands.Together(tuple(p for p in parts if p is not None), "several")

    def exclude(self):
        entry = self.entry(Stage.INSPECTED)
        if entry is None:
            return None
        out = entry.excluded is None
        return Exclude(
            Exclusion(
                id=self.new(),
                pull_id=entry.pull.id,
                made_at=self.w.now(),
                excluded=out,
                reason="why",
                by="A",
            )
        )

    def reanalyse(self):
        entry = self.pick(e for e in self.j.entries if e.analysis is not None)
        trace = entry and stored_trace(self.w, entry)
        if not trace or len(trace.load_n) < 10:
            return None
        by = TraceSettings(diameter_m=0.008, slip_share=self.rng.choice((0.02, 0.05, 0.1)))
        return Reanalyse(
            AnalysisKey(id=self.new(), pull_id=entry.pull.id, made_at=self.w.now()), by
        )

    def keep_photo(self):
        entry = self.pick(e for e in self.j.entries if e.pull is not None)
        if entry is None:
            return None
        photo = Photo(
            id=self.new(),
            pull_id=entry.pull.id,
            made_at=self.w.now(),
            name='it\'s a "photo"',
            width=2,
            height=2,
        )
        return photo_commands.KeepPhoto(photo, self.rng.randbytes(40))

    def drop_photo(self):
        photo = self.pick(p for e in self.j.entries for p in e.photos)
        return photo and photo_commands.DropPhoto(
            photo, photo_commands.read_picture(self.w, photo.id)
        )

    def edit_campaign(self):
        return brief_commands.EditCampaign(
            replace(
                self.w.campaign,
                question=self.rng.choice(("Which?", "What's best: 100 %?", "")),
                force_unit=self.rng.choice(("kN", "lbf")),
                trade=self.rng.choice(TRADES),
            )
        )

    def choose_uses(self):
        return brief_commands.ChooseUses(tuple(self.rng.sample(("a", "b", "c"), 2)))

    def write_criterion(self):
        old = self.pick([None, *self.j.brief.criteria_in_force])
        rule_ = PassCriterion(
            measure=Measure.HOLDS_SHARE, threshold=self.rng.random(), need=1, of=2, at_least=True
        )
        knot = self.pick(self.j.knots)
        return brief_commands.WriteCriterion(
            Criterion(
                id=self.new(),
                made_at=self.w.now(),
                rule=rule_,
                lot_ids=(),
                knot_ids=(knot.id,) if knot else (),
                comment="why",
                supersedes=old and old.id,
                withdrawn=old is not None and self.rng.random() < 0.5,
            )
        )

    def enter_claim(self):
        old, knot = self.pick([None, *self.j.brief.claims_in_force]), self.pick(self.j.knots)
        if old is not None:
            return brief_commands.EnterClaim(
                replace(old, id=self.new(), supersedes=old.id, withdrawn=True)
            )
        kind = ClaimKind.DOES_NOT_WEAKEN
        return knot and brief_commands.EnterClaim(
            Claim(id=self.new(), made_at=self.w.now(), kind=kind, knot_id=knot.id)
        )

    def set_factor(self):
        made = DesignFactorEntry(
            id=self.new(), made_at=self.w.now(), value=self.rng.uniform(2, 12), source="the code"
        )
        return brief_commands.SetFactor(replace(made, withdrawn=self.rng.random() < 0.2))

    def put_bench(self):
        known = self.pick([None, *self.j.bench_book.benches])
        made = BenchRecord(
            id=self.new(),
            name=f"bench {self.new()}",
            stroke_m=1.0,
            rate_m_s=0.008,
            capacity_n=2e4,
            resolution_n=2.0,
            sample_rate_hz=500.0,
        )
        return bench_entry.PutBench(replace(known or made, stroke_m=self.rng.uniform(0.5, 2)))

    def drop_bench(self):
        bench = self.pick(self.j.bench_book.benches)
        return bench and bench_entry.DropBench(bench)

    def add_fixture(self):
        return bench_entry.AddFixture(
            Fixture(
                id=self.new(),
                kind="pin",
                name=f"pin {self.new()}",
                material="steel",
                finish="smooth",
                diameter_m=0.012,
            )
        )

    def drop_fixture(self):
        fixture = self.pick(self.j.bench_book.fixtures)
        return fixture and bench_entry.DropFixture(fixture)

    def note_room(self):
        day = self.rng.choice(("2026-02-01", "2026-02-02"))
        return bench_entry.NoteRoom(RoomDay(day, self.rng.uniform(5, 30), 0.5))

    def set_limits(self):
        limits = replace(RatingLimits(), version=self.rng.randrange(5))
        return guide_book.SetLimits(
            LimitsRow(id=self.new(), made_at=self.w.now(), version=0, body=write_record(limits))
        )

    def write_profile(self):
        use = self.rng.choice(list(shipped_profiles().values()))
        use = replace(use, load=self.rng.uniform(0.1, 0.9), hands=self.rng.choice(tuple(Hands)))
        row = ProfileRow(id=self.new(), key=use.key, made_at=self.w.now(), body=write_record(use))
        return guide_book.WriteProfile(replace(row, withdrawn=self.rng.random() < 0.3))

    def keep_guide(self):
        number = 1 + len(read_guide_book(self.w).revisions)
        return KeepGuide(
            GuideRow(id=self.new(), revision=number, made_at=self.w.now(), data_revision="x"), "{}"
        )

    def step_guide(self):
        revision = self.pick(read_guide_book(self.w).revisions)
        return revision and StepGuide(
            row=StepRow(
                id=self.new(),
                guide_id=revision.row.id,
                made_at=self.w.now(),
                step="checked",
                by="A",
                reasons={},
            )
        )

    def record_check(self):
        return RecordCheck(
            LoadCheck(
                id=self.new(),
                made_at=self.w.now(),
                bench="bench",
                known_n=500.0,
                read_n=498.0,
                by="A",
            )
        )
