"""The headless command line: ``bruiser-cli new | results | trace | rig | guide | drawing``."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path

from bruiser.core.choice.working_load import School
from bruiser.core.errors import BruiserError
from bruiser.core.records.families import GENERAL, TRADES
from bruiser.formats.guide_kinds import KINDS


def parse(arguments: list[str] | None = None) -> argparse.Namespace:
    """Read the command line."""
    parser = argparse.ArgumentParser(prog="bruiser-cli", description="Bruiser without a window.")
    commands = parser.add_subparsers(dest="command", required=True)
    new = commands.add_parser("new", help="make an empty campaign")
    new.add_argument("file", type=Path)
    new.add_argument("--title", required=True)
    new.add_argument("--units", default="kN,mm", help="of force, and of length after a comma")
    new.add_argument("--trade", default=GENERAL, choices=TRADES, help="whose knot names")
    results = commands.add_parser(
        "results", help="rate the pulls of a campaign or a pull table (CSV)"
    )
    results.add_argument("file", type=Path)
    results.add_argument("--json", action="store_true", help="print JSON")
    trace = commands.add_parser("trace", help="read a logger's record of one pull (CSV)")
    trace.add_argument("file", type=Path)
    trace.add_argument("--json", action="store_true", help="print JSON")
    trace.add_argument("--rate", type=float, help="samples a second, where the file has no time")
    trace.add_argument("--diameter-mm", type=float, help="diameter of the cord")
    trace.add_argument("--tail-mm", type=float, help="tail as tied")
    trace.add_argument("--capacity-n", type=float, help="capacity of the load cell")
    rig = commands.add_parser("rig", help="serve the simulated bench on a pseudo-terminal")
    rig.add_argument("--simulate", action="store_true", required=True)
    rig.add_argument("--cord", default="polyester double braid", help="synthetic cord")
    rig.add_argument("--knot", default="bowline", help="catalogue key; “none” for plain rope")
    rig.add_argument("--diameter-mm", type=float, default=8.0)
    rig.add_argument("--rate", type=float, default=500.0, help="samples a second")
    rig.add_argument("--channels", type=int, default=2, choices=(2, 3, 4))
    rig.add_argument("--seed", type=int, default=1)
    rig.add_argument("--seconds", type=float, help="end after so long (for tests)")
    guide = commands.add_parser("guide", help="write the selection guide of a campaign")
    guide.add_argument("file", type=Path)
    guide.add_argument(
        "--use", action="append", default=[], help="a use by key or name; again for more"
    )
    guide.add_argument(
        "--cordage", action="append", default=[], help="a lot by name; again for more"
    )
    guide.add_argument("--scope", default="", help="what the guide is for, in words")
    guide.add_argument(
        "--school", choices=[s.value for s in School], help="working load on the short lists"
    )
    guide.add_argument("--revision", type=int, help="a frozen revision instead of the pulls now")
    drawing = commands.add_parser("drawing", help="a knot's drawing, and what it is proven to be")
    drawing.add_argument("knot", nargs="?", default="", help="catalogue key")
    drawing.add_argument("--list", action="store_true", help="print the keys that have a drawing")
    drawing.add_argument(
        "--variant", action="append", default=[], metavar="AXIS=OPTION", help="again for more"
    )
    drawing.add_argument("--back", action="store_true", help="the other face")
    drawing.add_argument("--svg", type=Path, metavar="OUT", help="write the drawing")
    drawing.add_argument("--json", action="store_true", help="print curves, codes and polynomials")
    for kind, words in KINDS.items():
        guide.add_argument(f"--{kind}", type=Path, metavar="OUT", help=words)
    return parser.parse_args(arguments)


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 2 when its input is at fault.

    Who reads the output may close it early (``| head``): that is no fault.
    """
    try:
        code = run(parse(arguments))
        sys.stdout.flush()
    except BrokenPipeError:
        # Python would complain once more when it flushes at its end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    return code


def run(options: argparse.Namespace) -> int:
    """Run the command that was parsed; 0 when it worked, 2 when its input is at fault.

    What a command needs is loaded with it: ``--help`` waits for none of it.
    """
    try:
        match options.command:
            case "guide":
                from bruiser.app.guide_command import guide_command

                print("\n".join(guide_command(options)))
                return 0
            case "drawing":
                from bruiser.app.drawing_command import drawing_command

                print(drawing_command(options))
                return 0
            case "new":
                from bruiser.app.new_command import new_command

                print(new_command(options))
                return 0
            case "trace":
                from bruiser.app.commands import trace_command

                return trace_command(options)
            case "rig":
                from bruiser.app.commands import rig_command

                return rig_command(options)
        from bruiser.app.commands import results_command

        return results_command(options)
    except BruiserError as error:
        print(error, file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(main())
