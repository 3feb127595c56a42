"""A guide made from the campaign as it stands: everything in it, as one frozen record."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from bruiser.core.choice.brief import say_criterion
from bruiser.core.choice.guide import (
    Blocking,
    Guide,
    LimitFacts,
    ListFacts,
    PullFacts,
    RankedFacts,
    ResultFacts,
    TurnedFacts,
    UseFacts,
)
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.choice.working_load import School, school_for_all
from bruiser.core.errors import InputError
from bruiser.core.progress import Progress, no_progress
from bruiser.core.records.records import Knot, Lot
from bruiser.core.units import UnitChoice
from bruiser.store.campaigns import CampaignRow
from bruiser.workshop.guide.book import GuideBook
from bruiser.workshop.guide.choosing import (
    Choice,
    Listed,
    Shelf,
    Turned,
    choose,
    lots_tested,
    rate_for,
    was_tested,
)
from bruiser.workshop.guide.knot_pages import (
    across_facts,
    gauge_facts,
    knot_facts,
    lot_facts,
    result_facts,
)
from bruiser.workshop.guide.rating_knots import Conditions
from bruiser.workshop.guide.requirements import say_needs
from bruiser.workshop.guide.words import CAUTIONS, definitions
from bruiser.workshop.logbook.entries import Entry, Stage
from bruiser.workshop.logbook.lines import outcome_words
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.plan.proposals import is_confirmed
from bruiser.workshop.results.hands_work import hands_statement, measure_all_hands
from bruiser.workshop.results.judging import judge_lot
from bruiser.workshop.results.lot_facts import knot_loads
from bruiser.workshop.results.result_words import percent

NOT_CONFIRMED = (
    "Not confirmed by fresh pulls: the first of several tends to look a little too good."
)


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What a guide is to hold.

    Parameters
    ----------
    uses : tuple of str
        Uses by key; empty for those of the brief, or all.
    lot_ids : tuple of str
        Cordages; empty for all in which a knot was pulled.
    scope : str
        What it is for, in the user's words.
    school : School or None
        Whose working load stands on the short lists; None for the default rule.
    """

    uses: tuple[str, ...] = ()
    lot_ids: tuple[str, ...] = ()
    scope: str = ""
    school: School | None = None


@dataclass(frozen=True)
class Stamp:
    """When a guide is made and which revision it is."""

    revision: int
    made_at: str


def _turned(turned: Turned) -> TurnedFacts:
    by_pulls = any(r.pull_ids for r in turned.reasons)
    return TurnedFacts(
        name=turned.name, why=turned.words, pulled=turned.rated is not None, by_pulls=by_pulls
    )


def data_revision(logbook: Logbook) -> str:
    """A short name of the state of the pulls and of the cordage they were made in.

    The same findings, exclusions, readings of the traces, trials and lots share it.
    """
    parts = list(logbook.data_lines())
    parts += [repr(replace(lot, archived=False)) for lot in logbook.lots]
    return hashlib.sha256("\n".join(sorted(parts)).encode()).hexdigest()[:10]


def wanted_profiles(logbook: Logbook, book: GuideBook, wanted: Wanted) -> tuple[UseProfile, ...]:
    """The uses of a guide: those named, else those of the brief, else all."""
    keys = wanted.uses or logbook.brief.uses or tuple(book.profiles)
    return tuple(book.profiles[k] for k in keys if k in book.profiles)


def wanted_lots(shelf: Shelf, wanted: Wanted) -> tuple[Lot, ...]:
    """The cordages of a guide."""
    if wanted.lot_ids:
        return tuple(shelf.logbook.lot(k) for k in wanted.lot_ids)
    return lots_tested(shelf)


def make_guide(
    shelf: Shelf,
    campaign: CampaignRow,
    book: GuideBook,
    wanted: Wanted,
    stamp: Stamp,
    progress: Progress = no_progress,
) -> Guide:
    """Make the guide as a draft.

    Raises
    ------
    InputError
        If no use or no cordage is left to write about.
    """
    logbook = shelf.logbook
    units = UnitChoice(campaign.force_unit, campaign.length_unit)
    profiles, lots = wanted_profiles(logbook, book, wanted), wanted_lots(shelf, wanted)
    if not profiles:
        raise InputError("The guide has no use to write about.", "Choose one.")
    if not lots:
        raise InputError("No knot was pulled in any cordage yet.", "Pull some first.")
    results: list[ResultFacts] = []
    knots: dict[str, Knot] = {}
    steps = len(lots) * (1 + len(profiles))
    for n, lot in enumerate(lots):
        progress(n, steps)
        mine = rate_for(shelf, lot.id, book.limits, Conditions())
        knots |= {one.knot.id: one.knot for one in mine}
        results += [result_facts(shelf, one, units) for one in mine]
    uses = []
    for n, profile in enumerate(profiles):
        lists = []
        for k, lot in enumerate(lots):
            progress(len(lots) * (1 + n) + k, steps)
            lists.append(choose(shelf, lot.id, profile, book.limits))
        uses.append(_use(logbook, profile, lists, wanted.school, units))
    ordered = sorted(knots.values(), key=lambda k: k.title.lower())
    pulls = _pulls(logbook, {lot.id for lot in lots}, units)
    days = sorted(p.day for p in pulls if p.day)
    factor = logbook.brief.factor
    return Guide(
        title=campaign.title,
        station=campaign.station,
        question=campaign.question,
        scope=wanted.scope,
        synthetic=campaign.synthetic or logbook.simulated,
        revision=stamp.revision,
        made_at=stamp.made_at,
        state="draft",
        checked_by="",
        data_revision=data_revision(logbook),
        pull_count=sum(p.counts for p in pulls),
        first_day=days[0] if days else "",
        last_day=days[-1] if days else "",
        technicians=_all(p.technician for p in pulls),
        benches=_all(logbook.instruments()),
        methods=_all(p.method.partition(":")[0] for p in pulls),
        factor_text="" if factor is None else f"{factor.value:g}, {factor.source}",
        limits=LimitFacts(book.limits.version, dict(book.limits.bands), book.limits.security),
        uses=tuple(uses),
        lots=tuple(lot_facts(logbook, shelf.results[lot.id], units) for lot in lots),
        knots=tuple(knot_facts(shelf, k, [lot.id for lot in lots], units) for k in ordered),
        results=tuple(results),
        pulls=pulls,
        definitions=definitions(book.limits),
        cautions=CAUTIONS,
        blocking=blocking(shelf, [lot.id for lot in lots]),
        across=across_facts(shelf, book.limits.across, lots),
        hands=tuple(hands_statement(measure_all_hands(logbook, shelf.gathered))),
    )


def _all(texts: Iterable[str]) -> tuple[str, ...]:
    return tuple(sorted({t for t in texts if t}))


def blocking(shelf: Shelf, lot_ids: Sequence[str]) -> tuple[Blocking, ...]:
    """What stands in the way of a release: no baseline, a criterion changed without comment."""
    logbook = shelf.logbook
    found = []
    for lot_id in lot_ids:
        results = shelf.results[lot_id]
        lot = results.baseline.lot
        if was_tested(shelf, lot.id) and results.baseline.median_n is None:
            words = f"{lot.name}, {lot.condition}: no measured baseline, so no share can be given."
            found.append(Blocking(f"no-baseline:{lot_id}", words))
    changed = {
        j.criterion.id: j
        for lot_id in lot_ids
        for j in judge_lot(logbook, shelf.results[lot_id], shelf.gathered)
        if j.late and j.earlier and not j.criterion.comment.strip()
    }
    for key, judged in changed.items():
        words = (
            f"The pass criterion “{say_criterion(judged.criterion.rule)}” was changed after "
            f"{judged.late} of its pulls, without a comment."
        )
        found.append(Blocking(f"criterion:{key}", words))
    return tuple(found)


def _pulls(logbook: Logbook, lot_ids: set[str], units: UnitChoice) -> tuple[PullFacts, ...]:
    return tuple(
        _pull(e, units)
        for e in logbook.of_lots(lot_ids)
        if e.pull is not None and e.finding is not None
    )


def _pull(e: Entry, units: UnitChoice) -> PullFacts:
    s, f, pull = e.specimen, e.finding, e.pull
    assert f is not None
    assert pull is not None
    void = e.stage is Stage.VOID
    host = f"pin {1000 * s.pin_diameter_m:g} mm" if s.pin_diameter_m else ""
    if s.fixture is not None:
        host = s.fixture.name
    return PullFacts(
        code=s.code,
        day=pull.started_at[:10],
        lot=s.lot.id,
        knot=s.title,
        method=s.method.words,
        host=host,
        outcome=outcome_words(e),
        load_n=None if void else f.peak_load_n,
        load_text="" if void else units.force_text(f.peak_load_n),
        technician=pull.technician,
        counts=not void and e.excluded is None,
        note="" if e.excluded is None else f"left out: {e.excluded.reason}",
    )


def _conditions(profile: UseProfile) -> str:
    said = f"Opened after {percent(profile.load)} % of the plain rope; tied with {profile.hands}"
    return f"{said}."


def _use(
    logbook: Logbook,
    profile: UseProfile,
    lists: Sequence[Choice],
    school: School | None,
    units: UnitChoice,
) -> UseFacts:
    return UseFacts(
        key=profile.key,
        name=profile.name,
        needs=say_needs(profile),
        weights=dict(profile.weights),
        anchors=dict(profile.anchors),
        conditions=_conditions(profile),
        caution=profile.caution,
        lists=tuple(list_facts(logbook, choice, school, units) for choice in lists),
    )


def list_facts(
    logbook: Logbook, choice: Choice, school: School | None, units: UnitChoice
) -> ListFacts:
    """A short list as it is printed; one school answers for all of it."""
    names = {one.rated.key: one.rated.name for one in choice.listed}
    if school is None:
        found = [knot_loads(logbook, x.rated.lot, x.rated.row, units).loads for x in choice.listed]
        school = school_for_all([x for x in found if x is not None])
    return ListFacts(
        lot=choice.lot.id,
        rows=_mark_first(
            logbook, [_ranked(logbook, one, names, school, units) for one in choice.listed], choice
        ),
        not_ranked=tuple(_turned(t) for t in choice.not_ranked),
        excluded=tuple(_turned(t) for t in choice.excluded),
        other_kinds=len(choice.other_kinds),
        leaders=say_leaders(choice, names),
        near=tuple(
            f"{n.cordage.name}, {n.cordage.condition}: {', '.join(n.differs) or 'the same'}"
            for n in choice.near
        ),
    )


def say_leaders(choice: Choice, names: dict[str, str]) -> tuple[str, ...]:
    """Where another weight would put another knot first."""
    said = []
    for rating, path in (choice.paths or {}).items():
        if len(path.leaders) < 2:
            continue
        name = SCALES[rating].name.lower()
        turns = [f"{names[key]} from {percent(at)} % on" for at, key in path.leaders[1:]]
        first = names[path.leaders[0][1]]
        said.append(
            f"Weight of “{name}” (now {percent(path.now)} %): {first} leads, then "
            f"{', then '.join(turns)}."
        )
    if not said and len(choice.listed) > 1:
        said.append(f"{choice.listed[0].rated.name} leads whatever weight is moved alone.")
    return tuple(said)


def _mark_first(
    logbook: Logbook, rows: list[RankedFacts], choice: Choice
) -> tuple[RankedFacts, ...]:
    """The rows, the first one marked where no fresh pulls confirmed it: winners look too good."""
    if not rows or is_confirmed(logbook, choice.lot.id, rows[0].knot):
        return tuple(rows)
    first = rows[0]
    return replace(first, confirmed=False, why=f"{first.why} {NOT_CONFIRMED}"), *rows[1:]


def _ranked(
    logbook: Logbook,
    one: Listed,
    names: dict[str, str],
    school: School | None,
    units: UnitChoice,
) -> RankedFacts:
    r = one.ranked
    load, by = working_load_text(logbook, one, school, units)
    return RankedFacts(
        result=r.key,
        knot=one.rated.knot.id,
        name=one.rated.name,
        score=r.score.value,
        low=r.score.low,
        high=r.score.high,
        parts=dict(r.parts),
        chances=r.chances,
        likely=r.likely,
        letters=r.letters,
        tied_with=tuple(names[k] for k in r.tied_with),
        why=one.why,
        gauges=tuple(gauge_facts(one.rated.gauges[rating]) for rating in Rating),
        load_text=load,
        load_school=by,
    )


def working_load_text(
    logbook: Logbook, one: Listed, school: School | None, units: UnitChoice
) -> tuple[str, str]:
    """Working load of a knot by a school, or by its own default, and which school that is.

    Where the school cannot answer, the second text says why instead.
    """
    loads = knot_loads(logbook, one.rated.lot, one.rated.row, units).loads
    if loads is None:
        return "", "no design factor entered"
    found = loads.default
    if school is not None:
        found = next(s for s in loads.schools if s.school is school)
    if found is None or found.load_n is None:
        return "", "" if found is None else f"{found.school.value}: {found.steps[0]}"
    return units.force_text(found.load_n), found.school.value
