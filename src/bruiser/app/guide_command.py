"""``bruiser-cli guide``: a selection guide of a campaign as files, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path

from bruiser.catalogue.drawings import offer_own
from bruiser.core.choice.guide import Guide
from bruiser.core.choice.working_load import School
from bruiser.core.errors import InputError, StoreError
from bruiser.formats.guide_figures import PrintStyle
from bruiser.formats.guide_files import FILES, GuideFile, as_bytes
from bruiser.formats.pdf import html_to_pdf
from bruiser.store.guides import Revision
from bruiser.store.headers import check_header
from bruiser.ui.theme.tokens import CHALK, TEXT_MM
from bruiser.workshop.guide.book import GuideBook, read_guide_book
from bruiser.workshop.guide.choosing import fill_shelf
from bruiser.workshop.guide.content import Wanted
from bruiser.workshop.guide.publishing import draft_guide, read_guide, released_pages
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop, open_workshop

STYLE = PrintStyle(CHALK, TEXT_MM)


def _lot_ids(logbook: Logbook, names: list[str]) -> tuple[str, ...]:
    found: list[str] = []
    for name in names:
        mine = [lot.id for lot in logbook.lots if lot.name.lower() == name.strip().lower()]
        if not mine:
            known = ", ".join(dict.fromkeys(lot.name for lot in logbook.lots))
            raise InputError(f"There is no cordage “{name}”.", f"There are: {known}.")
        found += mine
    return tuple(found)


def _revision(book: GuideBook, number: int) -> Revision:
    for revision in book.revisions:
        if revision.row.revision == number:
            return revision
    known = ", ".join(str(r.row.revision) for r in book.revisions) or "none yet"
    raise InputError(f"There is no revision {number}.", f"There are: {known}.")


def guide_of(workshop: Workshop, options: argparse.Namespace) -> tuple[Guide, Revision | None]:
    """The guide asked for: a frozen revision, or what the pulls say now.

    Raises
    ------
    InputError
        If a use, a cordage or a revision is not there.
    """
    book = read_guide_book(workshop)
    if options.revision is not None:
        revision = _revision(book, options.revision)
        return read_guide(workshop, revision), revision
    logbook = read_logbook(workshop)
    offer_own({k: s.drawing for k, s in logbook.catalogue.items() if s.drawing})
    wanted = Wanted(
        uses=tuple(book.profile(name).key for name in options.use),
        lot_ids=_lot_ids(logbook, options.cordage),
        scope=options.scope,
        school=None if options.school is None else School(options.school),
    )
    shelf = fill_shelf(logbook, wanted.lot_ids)
    return draft_guide(workshop, shelf, book, wanted), None


def _content(file: GuideFile, guide: Guide) -> bytes:
    made = file.make(guide, STYLE)
    return html_to_pdf(str(made)) if file.printed else as_bytes(made)


def guide_command(options: argparse.Namespace) -> str:
    """Write the files asked for; returns a line about each.

    Raises
    ------
    InputError
        If nothing is to be written, or what is asked for is not there.
    StoreError
        If the campaign cannot be read or a file cannot be written.
    """
    kinds = [kind for kind in FILES if getattr(options, kind) is not None]
    if not kinds:
        asked = ", ".join(f"--{kind}" for kind in FILES)
        raise InputError("Nothing is to be written.", f"Name a file with one of {asked}.")
    if isinstance(options.file, Path):
        check_header(options.file)
    workshop = open_workshop(options.file, read_only=True)
    try:
        guide, revision = guide_of(workshop, options)
        pages = None if revision is None else released_pages(workshop, revision)
    finally:
        workshop.close()
    said = []
    for kind in kinds:
        path: Path = getattr(options, kind)
        kept = None if pages is None else {"html": pages[0].encode(), "pdf": pages[1]}.get(kind)
        content = kept or _content(FILES[kind], guide)
        try:
            path.write_bytes(content)
        except OSError as error:
            raise StoreError(f"{path.name} was not written: {error.strerror}.") from error
        said.append(f"{path.name}: {FILES[kind].words}, revision {guide.revision}, {guide.state}")
    return "\n".join(said)
