"""Publishing a guide: a draft is frozen, checked by somebody, and released as pages."""

from __future__ import annotations

import zlib
from collections.abc import Mapping
from dataclasses import dataclass, replace

from bruiser.core.choice.guide import Guide
from bruiser.core.errors import InputError, Refused
from bruiser.core.json_records import read_record, write_record
from bruiser.core.progress import Progress, no_progress
from bruiser.store import guides
from bruiser.store.guides import GuideRow, Revision, StepRow
from bruiser.store.open_campaign import Connection
from bruiser.workshop.guide.book import GuideBook
from bruiser.workshop.guide.changes import compare_guides
from bruiser.workshop.guide.choosing import Shelf
from bruiser.workshop.guide.content import Stamp, Wanted, make_guide
from bruiser.workshop.logbook.commands import Changes, Command
from bruiser.workshop.logbook.workshop import Workshop


@dataclass(frozen=True)
class KeepGuide(Command):
    """Store a draft. What was published is not taken back; another revision follows it."""

    row: GuideRow
    body: str
    title: str = "make a revision"

    def apply(self, connection: Connection) -> Changes:
        guides.insert_guide(connection, self.row, self.body)
        return Changes(frozenset({"guide"}), (self.row.id,))

    @property
    def undoable(self) -> bool:
        return False


@dataclass(frozen=True, kw_only=True)
class StepGuide(Command):
    """Check or release a revision."""

    row: StepRow
    html: bytes | None = None
    pdf: bytes | None = None
    title: str = "check the guide"

    def apply(self, connection: Connection) -> Changes:
        guides.insert_step(connection, self.row, self.html, self.pdf)
        return Changes(frozenset({"guide_step"}), (self.row.guide_id,))

    @property
    def undoable(self) -> bool:
        return False


def draft_guide(
    workshop: Workshop,
    shelf: Shelf,
    book: GuideBook,
    wanted: Wanted,
    progress: Progress = no_progress,
) -> Guide:
    """The next revision as it would be now, with what changed since the last one; not stored."""
    number = 1 + (book.revisions[-1].row.revision if book.revisions else 0)
    stamp = Stamp(number, workshop.now())
    made = make_guide(shelf, workshop.campaign, book, wanted, stamp, progress)
    if book.revisions:
        earlier = read_guide(workshop, book.revisions[-1])
        made = replace(made, changes=compare_guides(earlier, made))
    return made


def keep_draft(workshop: Workshop, made: Guide) -> Revision:
    """Freeze a draft as a revision."""
    row = GuideRow(
        id=workshop.new_id(),
        revision=made.revision,
        made_at=made.made_at,
        data_revision=made.data_revision,
    )
    workshop.do(KeepGuide(row, write_record(made)))
    return Revision(row)


def read_guide(workshop: Workshop, revision: Revision) -> Guide:
    """A revision as it was frozen, with how far it has got since."""
    with workshop.file.reading() as connection:
        body = guides.load_body(connection, revision.row.id)
    return _as_it_stands(read_record(Guide, body), revision)


def _as_it_stands(made: Guide, revision: Revision) -> Guide:
    checked, released = revision.checked, revision.released
    reasons = {} if released is None else released.reasons
    return replace(
        made,
        state=revision.state,
        checked_by="" if checked is None else f"{checked.by}, {checked.made_at[:10]}",
        blocking=tuple(replace(b, reason=reasons.get(b.key, b.reason)) for b in made.blocking),
    )


def check_guide(workshop: Workshop, revision: Revision, initials: str) -> None:
    """Say who read a draft.

    Raises
    ------
    InputError
        Without initials.
    Refused
        If it was released already.
    """
    if not initials.strip():
        raise InputError("Initials are missing.", "Who read the draft?", where="initials")
    if revision.released is not None:
        raise Refused(f"Revision {revision.row.revision} is released; make a new one.")
    row = StepRow(
        id=workshop.new_id(),
        guide_id=revision.row.id,
        made_at=workshop.now(),
        step=guides.CHECKED,
        by=initials.strip(),
        reasons={},
    )
    workshop.do(StepGuide(row=row))


def release_ready(
    workshop: Workshop, revision: Revision, reasons: Mapping[str, str], by: str
) -> tuple[Guide, StepRow]:
    """The guide as it would be released, and the step that says so.

    Raises
    ------
    Refused
        If nobody checked it, or it is released already.
    InputError
        If something stands in the way and no reason is given for releasing all the same.
    """
    number = revision.row.revision
    if revision.released is not None:
        raise Refused(f"Revision {number} is released already.")
    if revision.checked is None:
        raise Refused(f"Revision {number} was not checked.", "Somebody reads it first.")
    made = read_guide(workshop, revision)
    given = {key: text.strip() for key, text in reasons.items() if text.strip()}
    missing = [b for b in made.blocking if b.key not in given]
    if missing:
        raise InputError(
            missing[0].words,
            "Resolve it, or give the reason that is printed in the guide.",
            where=missing[0].key,
        )
    row = StepRow(
        id=workshop.new_id(),
        guide_id=revision.row.id,
        made_at=workshop.now(),
        step=guides.RELEASED,
        by=by.strip(),
        reasons=given,
    )
    return _as_it_stands(made, replace(revision, steps=(*revision.steps, row))), row


def keep_release(workshop: Workshop, row: StepRow, html: str, pdf: bytes) -> None:
    """Store the pages of a release."""
    kept = zlib.compress(html.encode("utf-8"), 9)
    workshop.do(StepGuide(row=row, html=kept, pdf=zlib.compress(pdf, 9), title="release the guide"))


def released_pages(workshop: Workshop, revision: Revision) -> tuple[str, bytes] | None:
    """HTML and PDF of a revision as they were released; None where it is not."""
    with workshop.file.reading() as connection:
        found = guides.load_released(connection, revision.row.id)
    if found is None:
        return None
    html, pdf = (zlib.decompress(part) for part in found)
    return html.decode("utf-8"), pdf
