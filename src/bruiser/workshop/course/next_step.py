"""What comes next: the one step that the whole campaign waits for, and what a station offers."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from bruiser.core.records.records import Lot, Role, Specimen
from bruiser.core.words import count
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.logbook import Logbook

STRAIGHT_PULLS = 5


class Deed(StrEnum):
    """What a button of the way on does; the window knows how."""

    ASK = "ask"
    ENTER_LOT = "enter lot"
    PLAN_STRAIGHT = "plan straight pulls"
    CHOOSE_KNOTS = "choose knots"
    PLAN = "plan"
    CHOOSE_BENCH = "choose a bench"
    PULL = "pull"
    INSPECT = "inspect"
    READ = "read results"
    PUBLISH = "publish"


STATION_OF: dict[Deed, str] = {
    Deed.ASK: "brief",
    Deed.ENTER_LOT: "cordage",
    Deed.PLAN_STRAIGHT: "plan",
    Deed.CHOOSE_KNOTS: "knots",
    Deed.PLAN: "plan",
    Deed.CHOOSE_BENCH: "pull",
    Deed.PULL: "pull",
    Deed.INSPECT: "findings",
    Deed.READ: "results",
    Deed.PUBLISH: "guide",
}


SHORT: dict[Deed, str] = {
    Deed.ASK: "the question",
    Deed.ENTER_LOT: "a lot",
    Deed.PLAN_STRAIGHT: "straight pulls",
    Deed.CHOOSE_KNOTS: "knots",
    Deed.PLAN: "plan pulls",
    Deed.CHOOSE_BENCH: "a bench",
    Deed.PULL: "pull",
    Deed.INSPECT: "inspect",
    Deed.READ: "read results",
    Deed.PUBLISH: "publish",
}


@dataclass(frozen=True, kw_only=True)
class NextStep:
    """A step that waits.

    Parameters
    ----------
    words : str
        Why it comes next, in a sentence.
    does : str
        What its button says.
    lot_id : str
        The lot it is about, where it is about one.
    """

    deed: Deed
    words: str
    does: str
    lot_id: str = ""

    @property
    def short(self) -> str:
        """The step in a word or two, for the end of the rope."""
        return SHORT[self.deed]

    @property
    def station(self) -> str:
        """The station where it is done."""
        return STATION_OF[self.deed]


def is_straight(specimen: Specimen) -> bool:
    """Whether it is plain rope pulled straight, over nothing."""
    return specimen.role is Role.BASELINE and not specimen.method.method.fixture


def has_plain_rope(logbook: Logbook, lot_id: str) -> bool:
    """Whether a straight pull of a lot, or of the lot it is a condition of, counts."""
    return Stage.INSPECTED in logbook.tally.straight(lot_id)


def lots_without_plain_rope(logbook: Logbook) -> tuple[Lot, ...]:
    """Lots in use that have no straight pull, neither counted nor waiting."""
    tally = logbook.tally
    return tuple(lot for lot in logbook.lots_in_use if not tally.straight(lot.id) - {Stage.VOID})


def plan_straight(lot: Lot) -> NextStep:
    """Straight pulls of a lot, as a step."""
    return NextStep(
        deed=Deed.PLAN_STRAIGHT,
        words=f"{lot.name} has no straight pulls yet: without its plain rope no knot has a share.",
        does=f"Plan {count(STRAIGHT_PULLS, 'straight pull')} of {lot.name}",
        lot_id=lot.id,
    )


def next_step(logbook: Logbook, question: str, revision: bool, *, bench: bool = True) -> NextStep:
    """The one step the campaign waits for.

    Parameters
    ----------
    question : str
        What the campaign asks; empty while nothing was written.
    revision : bool
        Whether a revision of the guide was frozen.
    bench : bool
        Whether anything is chosen that a pull can be recorded with.
    """
    pulled = logbook.tally.count(Stage.PULLED)
    if pulled:
        return NextStep(
            deed=Deed.INSPECT,
            words=f"{count(pulled, 'specimen')} pulled and not inspected.",
            does="Write down what was found",
        )
    if not question.strip():
        return NextStep(
            deed=Deed.ASK,
            words="Nothing is asked yet: one sentence says what these pulls are for.",
            does="Write the question",
        )
    if not logbook.lots_in_use:
        return NextStep(
            deed=Deed.ENTER_LOT,
            words="No cordage yet. A lot is one make of cord in one condition.",
            does="Enter a lot",
        )
    waiting = logbook.tally.count(Stage.PLANNED)
    if waiting:
        straight = logbook.tally.count(Stage.PLANNED, role=Role.BASELINE)
        what = "straight pull" if straight == waiting else "specimen"
        if not bench:
            return _choose_bench()
        return NextStep(
            deed=Deed.PULL,
            words=f"{count(waiting, what)} in the queue.",
            does="Go to the bench",
        )
    return _after_the_queue(logbook, revision)


def _after_the_queue(logbook: Logbook, revision: bool) -> NextStep:
    """What comes when nothing waits to be pulled."""
    bare = lots_without_plain_rope(logbook)
    pulled_knots = logbook.tally.lots(role=Role.KNOT)
    urgent = [lot for lot in bare if lot.id in pulled_knots]
    if bare and (urgent or len(bare) == len(logbook.lots_in_use)):
        return plan_straight((urgent or list(bare))[0])
    if not logbook.knots_in_play:
        return NextStep(
            deed=Deed.CHOOSE_KNOTS,
            words="No knots in play yet: choose what you tie from the catalogue.",
            does="Choose knots",
        )
    if not logbook.tally.count(Stage.INSPECTED, role=Role.KNOT):
        return NextStep(
            deed=Deed.PLAN,
            words="No knot has been pulled: pick knots and lots, and queue their pulls.",
            does="Plan pulls",
        )
    if not revision:
        return _publish()
    return NextStep(
        deed=Deed.READ,
        words="Everything planned is pulled and inspected.",
        does="Read the results",
    )


@dataclass(frozen=True, kw_only=True)
class Offer:
    """What a station offers where its own work cannot begin, or has nothing to show.

    Parameters
    ----------
    what : str
        One sentence: what goes here.
    step : NextStep
        The step that fills it.
    bare : bool
        Whether there is nothing to be shown behind it.
    """

    what: str
    step: NextStep
    bare: bool


def offer(
    station: str,
    logbook: Logbook,
    question: str,
    revision: bool,
    *,
    bench: bool = True,
    lot_id: str = "",
) -> Offer:
    """What a station offers in the state the campaign is in; one step, never none.

    Parameters
    ----------
    lot_id : str
        The lot that is looked at in Cordage; its own straight pulls come before anything else.
    """
    step = next_step(logbook, question, revision, bench=bench)
    bare_lots = lots_without_plain_rope(logbook)
    counted = logbook.tally.count(Stage.INSPECTED) > 0
    ever_pulled = logbook.tally.ever_pulled
    match station:
        case "cordage" if not logbook.lots:
            lot = NextStep(deed=Deed.ENTER_LOT, words="", does="Enter a lot")
            return Offer(
                what="Here lie the lots: each a make of cord in one condition, against whose plain "
                "rope its knots are measured.",
                step=lot,
                bare=True,
            )
        case "cordage" if looked_at := [x for x in bare_lots if x.id == lot_id]:
            straight = plan_straight(looked_at[0])
            return Offer(what=straight.words, step=straight, bare=False)
        case "plan" if not logbook.lots_in_use:
            return Offer(
                what="Here pulls are planned: which knots, in which cordage, how many of each. "
                "There is no cordage yet.",
                step=NextStep(deed=Deed.ENTER_LOT, words="", does="Enter a lot"),
                bare=True,
            )
        case "plan" if not logbook.knots_in_play:
            first = plan_straight(bare_lots[0]) if bare_lots else None
            return Offer(
                what="Here pulls are planned. Straight pulls of the plain rope need no knot; for "
                "anything else, choose knots first.",
                step=first or NextStep(deed=Deed.CHOOSE_KNOTS, words="", does="Choose knots"),
                bare=not logbook.tally.count(Stage.PLANNED),
            )
        case "pull" if not logbook.tally.count(Stage.PLANNED):
            return Offer(
                what="Here a specimen is tied, checked and pulled. Nothing waits in the queue.",
                step=step if step.deed is not Deed.PULL else _plan(),
                bare=True,
            )
        case "pull" if not bench:
            return Offer(
                what="Here a specimen is tied, checked and pulled. Nothing is chosen that measures "
                "its load: the simulated bench is switched off in the preferences.",
                step=_choose_bench(),
                bare=True,
            )
        case "findings" if not logbook.tally.count(Stage.PULLED):
            what = "Here stands what was found on a specimen after its pull. "
            what += "Nothing waits to be inspected." if ever_pulled else "Nothing was pulled yet."
            return Offer(what=what, step=step, bare=True)
        case "results" if not counted:
            return Offer(
                what="Here stands what the pulls say: strength kept, slipping, jamming, and how "
                "sure that is. No pull has been inspected that counts.",
                step=step,
                bare=True,
            )
        case "results" if step.deed is Deed.READ:
            return Offer(what=step.words, step=_publish(), bare=False)
        case "guide" if not counted:
            return Offer(
                what="Here a knot is chosen for a use, and the guide is printed. "
                "Nothing has been measured yet.",
                step=step,
                bare=True,
            )
    return Offer(what=step.words, step=step, bare=False)


def _choose_bench() -> NextStep:
    return NextStep(
        deed=Deed.CHOOSE_BENCH,
        words="Specimens wait, and nothing is chosen that measures their load.",
        does="Choose what measures the load",
    )


def _publish() -> NextStep:
    return NextStep(
        deed=Deed.PUBLISH,
        words="There are results: choose for a use, or freeze a guide of them.",
        does="Choose and publish",
    )


def _plan() -> NextStep:
    return NextStep(deed=Deed.PLAN, words="", does="Plan pulls")
