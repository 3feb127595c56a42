"""Campaigns made: a new one from its title, one that goes on from another, and a copy."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.core.records.families import GENERAL, TRADES
from bruiser.core.records.stock import StockEntry, StockMove
from bruiser.store import bench_books, briefs, campaigns, guides, stock
from bruiser.store.campaigns import CampaignRow
from bruiser.store.open_campaign import Connection
from bruiser.store.places import Place
from bruiser.store.server.address import ServerAddress
from bruiser.store.setting_aside import set_aside
from bruiser.workshop.desk.brief_entry import change_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import (
    Workshop,
    create_workshop,
    open_workshop,
    random_id,
    utc_now,
)

SUFFIX = ".bruiser"
LONGEST_TITLE = 120
FORCES = ("kN", "N", "daN", "kgf", "lbf")
LENGTHS = ("mm", "in")


@dataclass(frozen=True, kw_only=True)
class NewCampaign:
    """What is asked of a new campaign.

    Parameters
    ----------
    path : Path
        Where it is kept, with or without its suffix.
    replace : bool
        Whether a file that is there may be set aside for it.
    address : ServerAddress, optional
        The empty database on a server that it is begun in, instead of a file.
    """

    title: str
    path: Path
    address: ServerAddress | None = None
    force: str = "kN"
    length: str = "mm"
    trade: str = GENERAL
    replace: bool = False


def file_name(title: str) -> str:
    """A file name that says the title; what no file system takes becomes a hyphen."""
    plain = re.sub(r"[^\w.+]+", "-", title.strip())[:60].strip("-.")
    return (plain or "campaign").lower() + SUFFIX


def with_suffix(path: Path) -> Path:
    """A path that ends as campaigns do."""
    return path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)


def check(draft: NewCampaign) -> dict[str, str]:
    """What is wrong with a new campaign, by field: ``title``, ``path``, ``units``, ``trade``."""
    errors: dict[str, str] = {}
    title = draft.title.strip()
    if not title:
        errors["title"] = "Give it a title."
    elif len(title) > LONGEST_TITLE:
        errors["title"] = f"At most {LONGEST_TITLE} characters; this has {len(title)}."
    elif any(not c.isprintable() for c in title):
        errors["title"] = "One line of text, please."
    on_server = draft.address is not None
    wrong = "" if on_server else _place_wrong(with_suffix(draft.path), draft.replace)
    if wrong:
        errors["path"] = wrong
    if draft.force not in FORCES or draft.length not in LENGTHS:
        errors["units"] = "No such unit."
    if draft.trade not in TRADES:
        errors["trade"] = "No such trade."
    return errors


def _place_wrong(path: Path, may_replace: bool) -> str:
    folder = path.parent
    if path.name in ("", SUFFIX):
        return "Name a file."
    if len(path.name.encode()) > 255:
        return "The file name is too long."
    if not folder.exists():
        return f"The folder {folder} is not there."
    if not folder.is_dir():
        return f"{folder} is no folder."
    if path.is_dir():
        return f"{path.name} is a folder."
    if path.exists() and not may_replace:
        return f"{path.name} is there already."
    return ""


def make_campaign(draft: NewCampaign) -> Place:
    """Make a campaign; a file in its place is set aside where that was allowed.

    Raises
    ------
    InputError
        If something asked is wrong; `where` names the field.
    StoreError
        If it cannot be written.
    """
    for field, words in check(draft).items():
        raise InputError(words, where=field)
    place = draft.address or with_suffix(draft.path)
    if isinstance(place, Path) and place.exists():
        _set_aside(place)
    row = CampaignRow(
        id=random_id(),
        title=draft.title.strip(),
        station="",
        question="",
        synthetic=False,
        force_unit=draft.force,
        length_unit=draft.length,
        created_at=utc_now(),
        trade=draft.trade,
    )
    create_workshop(place, row).close()
    return place


def _set_aside(path: Path) -> None:
    try:
        set_aside(path)
    except OSError as error:
        raise StoreError(
            f"{path.name} cannot be set aside: {error.strerror}.", "Choose another name."
        ) from error


def continue_campaign(workshop: Workshop, draft: NewCampaign) -> Path:
    """Make the next campaign from one: its cordage, knots, uses, limits and benches, no pulls.

    Hanks come along with what is left on them. A campaign that cannot be made whole is not there.

    Raises
    ------
    InputError, StoreError
        As :func:`make_campaign`.
    """
    logbook = read_logbook(workshop)
    with workshop.file.reading() as connection:
        limits = guides.load_limits(connection)[-1:]
        profiles = guides.load_profiles(connection)
    path = with_suffix(draft.path)
    made = open_workshop(make_campaign(draft))
    try:
        with made.file.writing() as connection:
            for lot in logbook.lots_in_use:
                campaigns.insert_lot(connection, lot)
            for knot in logbook.knots_in_play:
                campaigns.insert_knot(connection, knot)
            for own in logbook.own_structures:
                briefs.put_structure(connection, own)
            briefs.replace_uses(connection, logbook.brief.uses)
            factor = logbook.brief.factor
            if factor is not None:
                briefs.insert_factor(connection, factor)
            for bench in logbook.bench_book.benches:
                bench_books.put_bench(connection, bench)
            for fixture in logbook.bench_book.fixtures:
                bench_books.insert_fixture(connection, fixture)
            for row in limits:
                guides.insert_limits(connection, replace(row, version=1))
            for profile in profiles:
                guides.insert_profile(connection, profile)
            _carry_stock(connection, logbook)
    except BaseException:
        made.close()
        path.unlink(missing_ok=True)
        raise
    made.close()
    return path


def _carry_stock(connection: Connection, logbook: Logbook) -> None:
    kept = {lot.id for lot in logbook.lots_in_use}
    for hank in logbook.stock.hanks:
        left = logbook.stock.left_m(hank.id)
        if hank.lot_id not in kept or left <= 0:
            continue
        stock.insert_hank(connection, hank)
        came = StockEntry(
            id=random_id(),
            hank_id=hank.id,
            made_at=utc_now(),
            move=StockMove.RECEIVED,
            change_m=left,
            note="left of the campaign before",
        )
        stock.insert_entry(connection, came)


def copy_campaign(workshop: Workshop, target: Path) -> Path:
    """Write a copy of the open campaign; the window stays with the one it has.

    Raises
    ------
    StoreError
        If a file of that name exists, or it cannot be written.
    """
    path = with_suffix(target)
    wrong = _place_wrong(path, may_replace=False)
    if wrong:
        raise StoreError(wrong, "Choose another name or place.")
    workshop.file.copy_to(path)
    return path


def rename_campaign(workshop: Workshop, title: str) -> None:
    """Give the campaign another title; its file keeps its name.

    Raises
    ------
    InputError
        If the title is blank or too long.
    """
    said = check(NewCampaign(title=title, path=workshop.file.path, replace=True)).get("title")
    if said:
        raise InputError(said, where="title")
    change_campaign(workshop, title=title.strip())
