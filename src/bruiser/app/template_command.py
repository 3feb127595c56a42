"""``bruiser-cli template``: tables to start from."""

from __future__ import annotations

import argparse
from pathlib import Path

from bruiser.core.errors import InputError, StoreError
from bruiser.formats.table_files import table_bytes, write_new_file
from bruiser.formats.table_templates import TEMPLATES, template_called


def _every(folder: Path) -> str:
    """Write all of them as workbooks into a folder."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreError(f"{folder} cannot be made: {error.strerror}.") from error
    said = []
    for template in TEMPLATES:
        path = folder / f"{template.key}.xlsx"
        write_new_file(path, table_bytes(".xlsx", template.headings, template.rows))
        said.append(f"{path}: {template.words}")
    return "\n".join(said)


def template_command(options: argparse.Namespace) -> str:
    """Write a table to start from, or name those there are; returns what is printed.

    Raises
    ------
    BruiserError
        If there is no such table or kind of file, or the file is there already.
    """
    if options.list:
        return "\n".join(f"{t.key}: {t.words}" for t in TEMPLATES)
    if options.out is None:
        raise InputError("Which file? Its name ends in .csv, .tsv or .xlsx.", where="out")
    if not options.out.suffix:
        return _every(options.out)
    template = template_called(options.kind)
    content = table_bytes(options.out.suffix, template.headings, template.rows)
    write_new_file(options.out, content)
    return f"{options.out}: {template.words}"
