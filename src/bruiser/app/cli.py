"""The headless command line, without a window; what each command needs is loaded with it."""

from __future__ import annotations

import argparse
import importlib
import os
import sys

from bruiser.app.cli_parser import make_parser
from bruiser.core.errors import (
    BruiserError,
    Busy,
    Full,
    Gone,
    PasswordWanted,
    ReadOnly,
    StoreError,
    Unreachable,
)

DONE, COULD_NOT, BAD_INPUT = 0, 1, 2
_COMMANDS = {
    "new": "new_command",
    "results": "commands",
    "next": "next_command",
    "copy": "exchange_commands",
    "trace": "commands",
    "rig": "commands",
    "guide": "guide_command",
    "drawing": "drawing_command",
    "export": "exchange_commands",
    "import": "import_command",
    "merge": "exchange_commands",
    "check": "keeping_commands",
    "backup": "keeping_commands",
    "template": "template_command",
    "simulate": "simulate_command",
}
"""In which module of this package each command is."""


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    return make_parser().parse_args(arguments)


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 1 when it could not be done, 2 when its input is at fault.

    Who reads the output may close it early (``| head``): that is no fault.
    """
    try:
        code = run(parse(arguments))
        sys.stdout.flush()
    except BrokenPipeError:
        # Python would complain once more when it flushes at its end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE
    except KeyboardInterrupt:
        print("stopped", file=sys.stderr)
        return COULD_NOT
    return code


def run(options: argparse.Namespace) -> int:
    """Run the command that was parsed; the status it ends with.

    What a command needs is loaded with it: ``--help`` waits for none of it.
    """
    try:
        if options.command == "completion":
            import shtab

            print(shtab.complete(make_parser(), options.shell))
            return DONE
        module = importlib.import_module(f"bruiser.app.{_COMMANDS[options.command]}")
        command = getattr(module, f"{options.command}_command")
        said: str | int | tuple[str, int] = command(options)
    except BruiserError as error:
        print(error, file=sys.stderr)
        return code_of(error)
    if isinstance(said, int):
        return said
    text, code = said if isinstance(said, tuple) else (said, DONE)
    print(text)
    return code


def code_of(error: BruiserError) -> int:
    """The status for an error: what could not be written is no fault of the input."""
    if isinstance(error, Busy | Full | Gone | ReadOnly | Unreachable | PasswordWanted):
        return COULD_NOT
    if isinstance(error, StoreError) and isinstance(error.__cause__, OSError):
        return BAD_INPUT if isinstance(error.__cause__, FileNotFoundError) else COULD_NOT
    return BAD_INPUT


if __name__ == "__main__":
    sys.exit(main())
