"""What changed between two revisions of a guide."""

from __future__ import annotations

from bruiser.core.choice.guide import ChangesSince, GaugeFacts, Guide, Moved
from bruiser.core.words import count


def _facts(guide: Guide) -> dict[tuple[str, str, str], tuple[str, str, GaugeFacts]]:
    """Every rating by knot, lot and rating, with the names it is said with."""
    return {
        (r.name, r.lot, g.rating.value): (r.name, guide.lot(r.lot).name, g)
        for r in guide.results
        for g in r.gauges
        if g.value is not None
    }


def beyond(before: GaugeFacts, now: GaugeFacts) -> bool:
    """Whether a number now lies outside the interval it had before."""
    if before.low is None or before.high is None or now.value is None:
        return False
    return not before.low <= now.value <= before.high


def compare_guides(before: Guide, now: Guide) -> ChangesSince:
    """What changed since an earlier revision: numbers beyond their interval, what came and went."""
    old, new = _facts(before), _facts(now)
    moved = tuple(
        Moved(knot=name, lot=lot, rating=g.rating, before=_said(old[key][2]), now=_said(g))
        for key, (name, lot, g) in new.items()
        if key in old and beyond(old[key][2], g)
    )
    lines = [_pulls(before, now)]
    if before.limits != now.limits:
        lines.append(
            f"The limits changed from version {before.limits.version} to {now.limits.version}."
        )
    lines += _leaders(before, now)
    return ChangesSince(
        revision=before.revision,
        moved=moved,
        new=tuple(f"{new[k][0]} in {new[k][1]}, {k[2]}" for k in new if k not in old),
        gone=tuple(f"{old[k][0]} in {old[k][1]}, {k[2]}" for k in old if k not in new),
        lines=tuple(lines),
    )


def _said(g: GaugeFacts) -> str:
    return f"{g.text} ({g.range_text}), n {g.n}"


def _pulls(before: Guide, now: Guide) -> str:
    more = now.pull_count - before.pull_count
    if before.data_revision == now.data_revision:
        return "The pulls are the same."
    if more == 0:
        return "As many pulls count as before, but not the same findings."
    word = "more" if more > 0 else "fewer"
    return f"{count(abs(more), f'{word} pull counts', f'{word} pulls count')}."


def _leaders(before: Guide, now: Guide) -> list[str]:
    """Short lists whose first knot is another one."""

    def first(guide: Guide) -> dict[tuple[str, str], str]:
        return {
            (use.name, found.lot): found.rows[0].name
            for use in guide.uses
            for found in use.lists
            if found.rows
        }

    old, said = first(before), []
    for (use, lot), name in first(now).items():
        earlier = old.get((use, lot))
        if earlier is not None and earlier != name:
            where = now.lot(lot).name
            said.append(f"{use} in {where}: {name} is first, before it was {earlier}.")
    return said
