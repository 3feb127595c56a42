"""Foreign files read in a process of its own, of limited memory and time; its death is told."""

from __future__ import annotations

import json
import resource
import subprocess
import sys
from collections.abc import Callable
from importlib import import_module
from typing import Any

from bruiser.core.errors import InputError

MOST_MEMORY = 2 * 2**30
MOST_SECONDS = 40
READERS = {"workbook": "bruiser.formats.workbook:read_workbook"}
"""Readers by name: each takes a file's name and content, and gives what JSON can hold."""
_REFUSED = 3


def read_apart(reader: str, name: str, content: bytes) -> Any:
    """What a reader makes of a file, or why not.

    Parameters
    ----------
    reader : str
        One of :data:`READERS`.

    Raises
    ------
    InputError
        If the reader refuses the file, took more than :data:`MOST_MEMORY` bytes or
        :data:`MOST_SECONDS` seconds, or ended in any other way.
    """
    command = [sys.executable, "-m", "bruiser.formats.apart", reader, name]
    try:
        done = subprocess.run(
            command, input=content, capture_output=True, timeout=2 * MOST_SECONDS, check=False
        )
    except subprocess.TimeoutExpired as error:
        raise InputError(f"{name} takes too long to read.", "Is it a table of pulls?") from error
    except OSError as error:
        raise InputError(f"{name} cannot be read: {error.strerror}.", "Make room.") from error
    if done.returncode == _REFUSED:
        raise InputError(**json.loads(done.stdout))
    if done.returncode:
        raise InputError(
            f"{name} cannot be read: its reader ran out of room or failed.",
            "Save it anew as CSV; nothing was changed.",
        )
    return json.loads(done.stdout)


def main(arguments: list[str] | None = None) -> int:
    """Read standard input by a reader, and write what it made of it as JSON."""
    reader, name = sys.argv[1:] if arguments is None else arguments
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    module, _, function = READERS[reader].partition(":")
    read: Callable[[str, bytes], Any] = getattr(import_module(module), function)
    try:
        made = read(name, sys.stdin.buffer.read())
    except InputError as error:
        said = {"headline": error.headline, "remedy": error.remedy, "where": error.where}
        sys.stdout.write(json.dumps(said))
        return _REFUSED
    json.dump(made, sys.stdout)
    return 0


if __name__ == "__main__":
    sys.exit(main())
