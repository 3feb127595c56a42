"""Every import contract bites: one violation of each is planted in a copy and must be found."""

import ast
import os
import subprocess
import sys
from collections import defaultdict
from pathlib import Path
from shutil import copy, copytree

import pytest

ROOT = Path(__file__).parents[2]

VIOLATIONS = {
    "floors": ("store/traces.py", "from bruiser.workshop import logbook"),
    "pure-core": ("core/units.py", "import threading"),
    "qt-above": ("workshop/logbook/entries.py", "from PyQt6 import QtCore"),
    "sql-in-store": ("workshop/logbook/entries.py", "import sqlalchemy"),
    "stations-apart": (
        "ui/stations/pull/presenter.py",
        "from bruiser.ui.stations.results import presenter",
    ),
    "rooms-of-the-workshop": (
        "workshop/logbook/traces.py",
        "from bruiser.workshop.desk import cutting",
    ),
    "rooms-of-the-core": (
        "core/records/stock.py",
        "from bruiser.core.planning import safety",
    ),
    "no-cycles": ("core/errors.py", "from bruiser.core import units"),
}


def lint(folder: Path, contract: str) -> subprocess.CompletedProcess:
    tool = Path(sys.executable).with_name("lint-imports")
    return subprocess.run(
        [tool, "--no-cache", "--contract", contract],
        cwd=folder,
        env={**os.environ, "PYTHONPATH": str(folder / "src")},
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.mark.parametrize("contract", VIOLATIONS)
def test_a_planted_violation_is_found(tmp_path, contract):
    copy(ROOT / "pyproject.toml", tmp_path)
    copytree(ROOT / "src", tmp_path / "src")
    assert lint(tmp_path, contract).returncode == 0
    name, line = VIOLATIONS[contract]
    file = tmp_path / "src" / "bruiser" / name
    file.write_text(f"{file.read_text(encoding='utf-8')}\n{line}\n", encoding="utf-8")
    found = lint(tmp_path, contract)
    assert found.returncode == 1
    assert "BROKEN" in found.stdout


def test_a_new_floor_must_be_named(tmp_path):
    copy(ROOT / "pyproject.toml", tmp_path)
    copytree(ROOT / "src", tmp_path / "src")
    attic = tmp_path / "src" / "bruiser" / "attic"
    attic.mkdir()
    (attic / "__init__.py").write_text('"""Nobody said what lives here."""\n', encoding="utf-8")
    assert lint(tmp_path, "floors").returncode == 1


def test_no_colour_literal_outside_the_tokens():
    import re

    found = [
        p.name
        for p in (ROOT / "src" / "bruiser").rglob("*.py")
        if p.name != "tokens.py" and re.search(r"#[0-9A-Fa-f]{6}\b", p.read_text(encoding="utf-8"))
    ]
    assert found == []


def test_no_file_is_too_long():
    long = [
        p.name
        for p in ROOT.glob("src/**/*.py")
        if len(p.read_text(encoding="utf-8").splitlines()) > 400
    ]
    assert long == []


def test_no_two_records_share_a_name():
    """One meaning each, as in docs/glossary.md; private classes keep to their module."""
    found = defaultdict(list)
    for path in (ROOT / "src" / "bruiser").rglob("*.py"):
        if "migrations" in path.parts:
            continue
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found[node.name].append(path.stem)
    assert {name: where for name, where in found.items() if len(where) > 1} == {}


@pytest.mark.parametrize("floor", ["core", "workshop"])
def test_every_room_says_what_lives_there_and_is_no_drawer(floor):
    home = ROOT / "src" / "bruiser" / floor
    for room in (p for p in home.iterdir() if (p / "__init__.py").exists()):
        said = (room / "__init__.py").read_text(encoding="utf-8")
        assert said.startswith('"""'), room.name
        assert len(list(room.glob("*.py"))) - 1 <= 13, room.name
