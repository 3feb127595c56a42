"""The sheet of claims: what is said, its region, and what the pulls say to it."""

from __future__ import annotations

import math
from functools import partial

from bruiser.core.choice.brief import say_deciders
from bruiser.core.performance.claims import ClaimKind, ClaimVerdict
from bruiser.core.units import UnitChoice
from bruiser.core.words import count
from bruiser.figures.claim_chart import ClaimRow, claim_figure
from bruiser.ui.stations.results.sheet import Behind, ResultLine, Sheet
from bruiser.workshop.desk.brief_entry import claim_words
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.claiming import VERDICT_WORDS, JudgedClaim
from bruiser.workshop.results.overview import Overview
from bruiser.workshop.results.result_words import percent, say_claims


def claims_sheet(found: Overview, logbook: Logbook, chosen: str, units: UnitChoice) -> Sheet:
    """Build the sheet; `chosen` is the key of the judgement talked about."""
    behind: dict[str, Behind] = {}
    rows = tuple(_row(j, n, logbook, units, behind) for n, j in enumerate(found.claims))
    if not rows:
        return Sheet(
            about="The claims of the brief",
            main=None,
            sentence=say_claims(()),
            empty="The brief holds no claim to test. Write one in Brief, F1.",
        )
    lines = []
    at = next((n for n, r in enumerate(rows) if r.key == chosen), None)
    if at is not None:
        supports, contradicts = say_deciders(found.claims[at].claim)
        lines.append(
            ResultLine(f"Supported by {supports}; contradicted by {contradicts}.", "muted")
        )
        if found.claims[at].why:
            lines.append(
                ResultLine(f"{found.claims[at].why[0].upper()}{found.claims[at].why[1:]}.", "ochre")
            )
    n = len(logbook.brief.claims_in_force)
    return Sheet(
        about=f"{count(n, 'claim')} of the brief, in every lot they are about",
        main=partial(claim_figure, rows, chosen),
        sentence=say_claims(found.claims),
        parts=(),
        lines=tuple(lines),
        behind=behind,
    )


def _row(
    judged: JudgedClaim,
    n: int,
    logbook: Logbook,
    units: UnitChoice,
    behind: dict[str, Behind],
) -> ClaimRow:
    key = f"{judged.claim.id}|{judged.lot_id}"
    text = claim_words(logbook, judged.claim, units)
    if judged.claim.lot_id is None and judged.lot_name:
        text += f" · {judged.lot_name}"
    judgement = judged.judgement
    if judgement is None:
        return ClaimRow(
            key=key,
            text=text,
            verdict="nothing can be said",
            words=judged.why,
            value=None,
            low=None,
            high=None,
            region=None,
            scale="",
            said="",
            more="",
        )
    spot = f"n:claim|{n}"
    behind[spot] = Behind(text, judgement.pull_ids)
    i = judgement.interval
    scale = judged.scale
    region = (judgement.lower, judgement.upper)
    if scale == "load" and i is not None:
        # Loads are drawn as multiples of the load claimed.
        unit = judgement.lower
        i = type(i)(i.value / unit, i.low / unit, i.high / unit)
        region = (1.0, math.inf)
    more = ""
    if judgement.verdict is ClaimVerdict.UNDECIDED:
        more = "cannot say" if judgement.more_pulls is None else f"{judgement.more_pulls}"
        if judgement.more_pulls is not None and judgement.more_pulls > 999:
            more = "> 999"
    return ClaimRow(
        key=key,
        text=text,
        verdict=VERDICT_WORDS[judgement.verdict],
        words=f"from {count(judgement.pulls, 'pull')}",
        value=None if i is None else i.value,
        low=None if i is None else i.low,
        high=None if i is None else i.high,
        region=region,
        scale=scale,
        said=_said(judged, units),
        more=more,
        behind=spot,
    )


def _said(judged: JudgedClaim, units: UnitChoice) -> str:
    judgement = judged.judgement
    if judgement is None or judgement.interval is None:
        return "no interval"
    i = judgement.interval
    if judged.scale == "points":
        return f"{100 * i.low:+.0f} to {100 * i.high:+.0f} points"
    if judged.scale == "load":
        return f"{units.force_text(i.low)} or more"
    if judged.scale == "rate":
        if judgement.verdict is ClaimVerdict.CONTRADICTED:
            return f"seen in {percent(i.value)} %"
        return f"0 to {percent(i.high)} % possible"
    if judged.claim.kind is ClaimKind.GRIPS_MORE:
        return f"{100 * i.low:+.0f} to {100 * i.high:+.0f} % beside the other"
    if not math.isfinite(i.high):
        return f"at least {percent(i.value)} %"
    if i.high > 1:
        return f"{percent(i.low)} % and more"
    return f"{percent(i.low)} to {percent(i.high)} %"
