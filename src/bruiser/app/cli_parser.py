"""What ``bruiser-cli`` understands: its commands, their options, and an example of each."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from bruiser.core.choice.working_load import School
from bruiser.core.errors import InputError
from bruiser.core.records.families import GENERAL, TRADES
from bruiser.core.units import unit_names
from bruiser.formats.guide_kinds import KINDS

if TYPE_CHECKING:
    from bruiser.store.places import Place

CODES = "Exit status: 0 done, 1 could not be done, 2 the input is at fault."


def _add(
    commands: argparse._SubParsersAction[argparse.ArgumentParser],
    name: str,
    words: str,
    *examples: str,
) -> argparse.ArgumentParser:
    lines = "\n".join(f"  bruiser-cli {name} {example}" for example in examples)
    return commands.add_parser(
        name,
        help=words,
        description=words[:1].upper() + words[1:] + ".",
        epilog=f"examples:\n{lines}\n\n{CODES}",
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )


def _place(text: str) -> Place:
    """A campaign's file, or its address on a server."""
    if "://" not in text:
        return Path(text)
    from bruiser.store.places import read_place

    try:
        return read_place(text)
    except InputError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def _campaign(parser: argparse.ArgumentParser, name: str = "file", words: str = "") -> None:
    said = words or "a campaign: its file, or its address (postgresql://…)"
    parser.add_argument(name, type=_place, help=said)


def _json(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="print JSON")


def make_parser() -> argparse.ArgumentParser:
    """The whole command line."""
    parser = argparse.ArgumentParser(
        prog="bruiser-cli",
        description="Bruiser without a window.",
        epilog=f"“bruiser-cli COMMAND --help” shows examples. {CODES}",
    )
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    _files(commands)
    _exchange(commands)
    _bench(commands)
    _guide(commands)
    _drawing(commands)
    completion = _add(
        commands, "completion", "print what lets a shell complete these commands", "bash", "zsh"
    )
    completion.add_argument("shell", choices=("bash", "zsh", "tcsh"))
    return parser


def _files(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    new = _add(commands, "new", "make an empty campaign", 'yard.bruiser --title "Yard lines"')
    _campaign(new)
    new.add_argument("--title", required=True)
    new.add_argument("--units", default="kN,mm", help="of force, and of length after a comma")
    new.add_argument("--trade", default=GENERAL, choices=TRADES, help="whose knot names")
    _json(new)
    results = _add(
        commands,
        "results",
        "rate the pulls of a campaign or a pull table",
        "yard.bruiser",
        "pulls.csv --json",
    )
    _campaign(results)
    _next(commands)
    copy = _add(
        commands,
        "copy",
        "copy a whole campaign: to a server, from one, or to another file",
        "yard.bruiser postgresql://mara@lab/yard",
        "postgresql://mara@lab/yard yard-today.bruiser",
    )
    _campaign(copy)
    _campaign(copy, "to", "a new file, or an empty database on a server")
    _json(copy)
    _json(results)
    check = _add(
        commands,
        "check",
        "look through a campaign for damage, and rescue what can be read",
        "yard.bruiser",
        "yard.bruiser --rescue rescued.bruiser",
    )
    check.add_argument("file", type=Path)
    check.add_argument("--rescue", type=Path, metavar="OUT", help="put what reads in a new file")
    _json(check)
    backup = _add(
        commands,
        "backup",
        "keep a copy of a campaign, list those kept, or put one back",
        "yard.bruiser",
        "yard.bruiser --list",
        "yard.bruiser --restore “2026-11-20T08-00-00 scheduled.bruiser”",
    )
    backup.add_argument("file", type=Path)
    backup.add_argument("--list", action="store_true", help="list the copies that are kept")
    backup.add_argument("--restore", metavar="NAME", help="put a copy back, by name or path")
    _json(backup)


def _next(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    coming = _add(
        commands,
        "next",
        "say what to pull next for a use in a cordage",
        'yard.bruiser --use "Line joined for good" --cordage R8',
        "yard.bruiser --use line-joined-for-good --cordage R8 --budget 40 --json",
    )
    _campaign(coming)
    coming.add_argument("--use", required=True, help="by name or key")
    coming.add_argument("--cordage", required=True, help="a lot, by name")
    coming.add_argument("--budget", type=int, help="pulls of knots in all; eight each by default")
    coming.add_argument("--hours", type=float, help="bench hours left")
    coming.add_argument("--seed", type=int, default=1, help="shuffles the block")
    coming.add_argument(
        "--without", action="append", default=[], metavar="KNOT", help="not in the running"
    )
    _json(coming)


def _exchange(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    export = _add(
        commands,
        "export",
        "write a whole campaign as a Data Package into a new folder",
        "yard.bruiser yard-package",
        "yard.bruiser yard-package --traces parquet",
        "yard.bruiser pulls.csv --pull-table",
    )
    _campaign(export)
    export.add_argument("folder", type=Path, help="a new folder; a new file with --pull-table")
    export.add_argument("--traces", choices=("csv", "parquet"), default="csv")
    export.add_argument(
        "--pull-table",
        action="store_true",
        help="write the pulls as one table instead",
    )
    _json(export)
    bring = _add(
        commands,
        "import",
        "bring a Data Package or a table of pulls into a campaign",
        "yard.bruiser yard-package",
        "yard.bruiser pulls.xlsx --mapping mapping.json",
        "yard.bruiser pulls.csv --preview",
    )
    _campaign(bring)
    bring.add_argument("source", type=Path, help="the folder of a Data Package, or a table")
    bring.add_argument("--mapping", type=Path, help="what the columns of a table mean (JSON)")
    bring.add_argument("--sheet", default="", help="which sheet of a workbook")
    bring.add_argument("--preview", action="store_true", help="say what would come; write nothing")
    _json(bring)
    merge = _add(
        commands,
        "merge",
        "merge another campaign into this one; twice changes nothing",
        "yard.bruiser tower.bruiser",
        "yard.bruiser tower.bruiser --prefer mine",
        "yard.bruiser tower.bruiser --preview --json",
    )
    _campaign(merge)
    _campaign(merge, "other", "a campaign, its address, or the folder of a Data Package")
    merge.add_argument(
        "--prefer", choices=("mine", "theirs"), help="whose word holds where facts differ"
    )
    merge.add_argument(
        "--apart", action="append", default=[], metavar="LOT", help="two lots, though called alike"
    )
    merge.add_argument("--preview", action="store_true", help="say what would come; write nothing")
    _json(merge)
    template = _add(
        commands,
        "template",
        "write tables to start from",
        "pulls.xlsx",
        "grip.csv --kind grip",
        "templates",
        "--list",
    )
    template.add_argument(
        "out", nargs="?", type=Path, help="a new file (.csv, .tsv, .xlsx), or a folder for all"
    )
    template.add_argument("--kind", default="strength", help="which table; see --list")
    template.add_argument("--list", action="store_true", help="name the tables there are")


def _bench(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    trace = _add(
        commands,
        "trace",
        "read a logger's record of one pull",
        "record.csv --json",
        "record.txt --rate 500 --diameter-mm 8",
    )
    trace.add_argument("file", type=Path)
    _json(trace)
    trace.add_argument("--rate", type=float, help="samples a second, where the file has no time")
    trace.add_argument(
        "--unit", default="", choices=("", *unit_names("force")), help="of loads without one"
    )
    trace.add_argument(
        "--travel-unit", default="", choices=("", "mm", "cm", "m", "in"), help="of travel without"
    )
    trace.add_argument(
        "--decimal", default="ask", choices=("ask", ".", ","), help="the decimal sign"
    )
    trace.add_argument("--diameter-mm", type=float, help="diameter of the cord")
    trace.add_argument("--tail-mm", type=float, help="tail as tied")
    trace.add_argument("--capacity-n", type=float, help="capacity of the load cell")
    simulate = _add(
        commands,
        "simulate",
        "pull on the simulated bench: traces, and what was true of each",
        "--seed 7 --out traces",
        '--seed 7 --knot figure-eight-loop --cord "nylon kernmantle" --count 20 --out traces',
    )
    simulate.add_argument("--seed", type=int, required=True)
    simulate.add_argument("--out", type=Path, required=True, metavar="DIR", help="a new folder")
    simulate.add_argument("--count", type=int, default=5, help="how many pulls")
    simulate.add_argument("--cord", default="polyester double braid", help="synthetic cord")
    simulate.add_argument("--knot", default="bowline", help="catalogue key; “none” for plain rope")
    simulate.add_argument("--diameter-mm", type=float, default=8.0)
    _json(simulate)
    rig = _add(
        commands, "rig", "serve the simulated bench on a pseudo-terminal", "--simulate --seconds 60"
    )
    rig.add_argument("--simulate", action="store_true", required=True)
    rig.add_argument("--cord", default="polyester double braid", help="synthetic cord")
    rig.add_argument("--knot", default="bowline", help="catalogue key; “none” for plain rope")
    rig.add_argument("--diameter-mm", type=float, default=8.0)
    rig.add_argument("--rate", type=float, default=500.0, help="samples a second")
    rig.add_argument("--channels", type=int, default=2, choices=(2, 3, 4))
    rig.add_argument("--seed", type=int, default=1)
    rig.add_argument("--seconds", type=float, help="end after so long (for tests)")


def _guide(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    guide = _add(
        commands,
        "guide",
        "write the selection guide of a campaign",
        'yard.bruiser --use "Loop at the end of a line" --pdf guide.pdf',
        "yard.bruiser --html guide.html --xlsx guide.xlsx",
    )
    _campaign(guide)
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
    for kind, words in KINDS.items():
        guide.add_argument(f"--{kind}", type=Path, metavar="OUT", help=words)


def _drawing(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    drawing = _add(
        commands,
        "drawing",
        "a knot's drawing, and what it is proven to be",
        "bowline --svg bowline.svg",
        "clove --variant slipped=slipped --json",
        "--list",
    )
    drawing.add_argument("knot", nargs="?", default="", help="catalogue key")
    drawing.add_argument("--list", action="store_true", help="print the keys that have a drawing")
    drawing.add_argument(
        "--variant", action="append", default=[], metavar="AXIS=OPTION", help="again for more"
    )
    drawing.add_argument("--back", action="store_true", help="the other face")
    drawing.add_argument("--svg", type=Path, metavar="OUT", help="write the drawing")
    drawing.add_argument("--json", action="store_true", help="print curves, codes and polynomials")
