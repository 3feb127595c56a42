"""``bruiser-cli new``: make a campaign without a window."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from bruiser.core.errors import InputError
from bruiser.store.server.address import ServerAddress
from bruiser.workshop.course.new_campaign import NewCampaign, make_campaign


def new_command(options: argparse.Namespace) -> str:
    """Make the campaign that was asked for; a file that is there is never replaced.

    Raises
    ------
    InputError
        If a title, unit, trade or place is not right; the words say which.
    StoreError
        If it cannot be written.
    """
    force, _, length = options.units.partition(",")
    draft = NewCampaign(
        title=options.title,
        path=Path() if isinstance(options.file, ServerAddress) else options.file,
        address=options.file if isinstance(options.file, ServerAddress) else None,
        force=force.strip(),
        length=length.strip() or NewCampaign.length,
        trade=options.trade,
    )
    try:
        path = make_campaign(draft)
    except InputError as error:
        raise InputError(f"{error.where}: {error.headline}", error.remedy) from error
    if options.json:
        return json.dumps({"file": str(path), "title": draft.title.strip()}, ensure_ascii=False)
    return f"{path}: “{draft.title.strip()}”, in {draft.force} and {draft.length}."
