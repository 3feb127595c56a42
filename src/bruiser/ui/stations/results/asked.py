"""The pass criteria of the brief, judged, with the pulls that passed, failed or cannot say."""

from __future__ import annotations

from bruiser.ui.stations.results.sheet import Behind, ResultLine
from bruiser.workshop.desk.brief_entry import criterion_words
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.results.judging import Judged, early_words


def asked_lines(
    logbook: Logbook, judged: list[Judged], behind: dict[str, Behind], where: str
) -> list[ResultLine]:
    """The pass criteria, judged; a wording written after the first pull says so."""
    lines = []
    for criterion in dict.fromkeys(j.criterion for j in judged):
        same = [j for j in judged if j.criterion is criterion]
        verdicts = "  ·  ".join(f"{j.name}: {_verdict(j)}" for j in same)
        text = f"{where}Asked: {criterion_words(criterion)}.  {verdicts}."
        late = max(j.late for j in same)
        earlier = [e for e in same[0].earlier if not e.withdrawn]
        if late:
            text += f" Written after {late} of these pulls."
        if earlier:
            was = criterion_words(earlier[0]).lower()
            text += f" Changed {criterion.made_at[:10]}; it was: {was}."
        key = f"asked:{criterion.id}|{same[0].lot_id}"
        pulls = tuple(
            p for j in same for p in (*j.result.passed, *j.result.failed, *j.result.cannot_say)
        )
        behind[key] = Behind("\n".join(f"{j.name}: {_pulls(logbook, j)}" for j in same), pulls)
        lines.append(ResultLine(text, "ochre" if late or earlier else "ink", key))
    return lines


def _verdict(judged: Judged) -> str:
    r = judged.result
    parts = [f"{len(r.passed)} passed"] if r.passed else []
    parts += [f"{len(r.failed)} failed"] if r.failed else []
    parts += [f"{len(r.cannot_say)} cannot say"] if r.cannot_say else []
    met = early_words(r) or str(r.met)
    return f"{met} ({', '.join(parts)})" if parts else met


def _pulls(logbook: Logbook, judged: Judged) -> str:
    r = judged.result
    groups = (("passed", r.passed), ("failed", r.failed), ("cannot say", r.cannot_say))
    return "; ".join(
        f"{word} {', '.join(logbook.by_pull[pull].specimen.code for pull in pulls)}"
        for word, pulls in groups
        if pulls
    )
