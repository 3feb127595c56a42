"""Two campaigns made one, as rows: what is the same, what differs, what is new.

A lot is the same under its name, a knot under its structure and choices, everything else under its
id. What differs is decided by the values alone, so that the order of merging does not matter: what
is said beats what is not, the smaller number and the longer text hold; each such fact is listed and
may be decided otherwise.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from bruiser.catalogue.finding import fold
from bruiser.core.words import count
from bruiser.store.tables import REFERENCES, TABLES, Row, Tables, key_of

COUNTED = {
    "lot": "lot",
    "knot": "knot",
    "specimen": "specimen",
    "pull": "pull",
    "finding": "finding",
    "photo": "photo",
    "guide": "guide",
}
_PLACED = {"finding": ("entry",), "taken_back": ("n",)}
_PLACED |= {"rating_limits": ("version",), "guide": ("revision",)}
"""Columns that say where a row stands among others, and are given anew."""
_IDS = ("id", "supersedes")
_QUIET = ("queue_position", "position")
"""Places in a queue: the earlier holds, and nobody is asked."""


class MergeSide(StrEnum):
    """Whose word holds."""

    MINE = "mine"
    THEIRS = "theirs"


@dataclass(frozen=True, kw_only=True)
class DifferingFact:
    """A fact that the two campaigns tell differently, and whose word is taken."""

    table: str
    row: str
    about: str
    field: str
    mine: object
    theirs: object
    taken: MergeSide

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is known by."""
        return self.table, self.row, self.field


Choices = Mapping[tuple[str, str, str], MergeSide]


@dataclass(frozen=True, kw_only=True)
class Merged:
    """What two campaigns are together."""

    tables: Tables
    changed: frozenset[str]
    added: Mapping[str, int]
    same: Mapping[str, int]
    differing: tuple[DifferingFact, ...] = ()
    renamed: tuple[tuple[str, str, str], ...] = ()
    """Table, name before, name after, where both used it for something else."""
    corrected_twice: tuple[str, ...] = ()
    """Codes of specimens whose findings both sides corrected."""

    @property
    def words(self) -> str:
        """What comes in, in one line."""
        said = [count(n, COUNTED[t]) for t, n in self.added.items() if n and t in COUNTED]
        return ", ".join(said) if said else "nothing that is not there"


def merge_tables(
    mine: Tables,
    theirs: Tables,
    choices: Choices | None = None,
    apart: Iterable[str] = (),
) -> Merged:
    """Put the rows of another campaign to one's own.

    Parameters
    ----------
    mine, theirs : dict
        Rows by table, as :func:`bruiser.store.tables.read_tables` gives them.
    choices : mapping, optional
        Whose word holds, by table, row and field.
    apart : iterable of str
        Names of lots that are two, though they are called alike.

    Returns
    -------
    Merged
        Its rows refer to each other by the ids of `mine`.
    """
    work = _Merge(mine, choices or {}, frozenset(map(fold, apart)))
    theirs = work.translated(theirs)
    for table in TABLES:
        work.unite(table, theirs.get(table, []))
    return work.finish()


@dataclass
class _Merge:
    mine: Tables
    choices: Choices
    apart: frozenset[str]
    tables: Tables = field(default_factory=dict)
    added: dict[str, int] = field(default_factory=dict)
    same: dict[str, int] = field(default_factory=dict)
    differing: list[DifferingFact] = field(default_factory=list)
    renamed: list[tuple[str, str, str]] = field(default_factory=list)
    twice: set[str] = field(default_factory=set)

    def translated(self, theirs: Tables) -> Tables:
        """Their rows, referring to mine where they mean the same."""
        ids: dict[str, dict[str, str]] = {}
        for table, identity in _IDENTITIES.items():
            known = {identity(r): r["id"] for r in self.mine.get(table, [])}
            here = {r["id"] for r in self.mine.get(table, [])}
            ids[table] = {
                row["id"]: known[identity(row)]
                for row in theirs.get(table, [])
                if row["id"] not in here and identity(row) in known and not self._apart(table, row)
            }
        return {
            table: [_translate(table, dict(row), ids) for row in rows]
            for table, rows in theirs.items()
        }

    def _apart(self, table: str, row: Row) -> bool:
        return table == "lot" and fold(row["name"]) in self.apart

    def unite(self, table: str, theirs: list[Row]) -> None:
        """Put their rows of a table to mine."""
        if table == "taken_back":
            self._unite_taken_back(theirs)
            return
        rows = {_key(table, row): dict(row) for row in self.mine.get(table, [])}
        before = len(rows)
        for row in theirs:
            key = _key(table, row)
            if table == "campaign":
                only = next(iter(rows.values()))
                only["synthetic"] = max(only["synthetic"], row["synthetic"])
            elif key in rows:
                rows[key] = self._agree(table, rows[key], row)
                self.same[table] = self.same.get(table, 0) + 1
            else:
                rows[key] = row
        self.added[table] = len(rows) - before
        self.tables[table] = list(rows.values())

    def _agree(self, table: str, mine: Row, theirs: Row) -> Row:
        agreed = dict(mine)
        for name, value in mine.items():
            other = theirs.get(name)
            if value == other or name in _IDS or name in _PLACED.get(table, ()):
                continue
            taken = MergeSide.MINE if _holds(value, other) is value else MergeSide.THEIRS
            row = " ".join(map(str, key_of(table, mine)))
            chosen = self.choices.get((table, row, name), taken)
            agreed[name] = value if chosen is MergeSide.MINE else other
            if _empty(value) or _empty(other) or name in _QUIET:
                continue
            self.differing.append(
                DifferingFact(
                    table=table,
                    row=row,
                    about=_called(mine),
                    field=name,
                    mine=value,
                    theirs=other,
                    taken=chosen,
                )
            )
        return agreed

    def _unite_taken_back(self, theirs: list[Row]) -> None:
        def key(row: Row) -> tuple[Any, ...]:
            return row["made_at"], row["table_name"], row["row_key"], row["about"]

        rows = {key(row): dict(row) for row in self.mine.get("taken_back", [])}
        for row in theirs:
            kept = rows.setdefault(key(row), dict(row))
            kept["again_at"] = _holds(kept["again_at"], row["again_at"])
        self.tables["taken_back"] = list(rows.values())

    def finish(self) -> Merged:
        """Places, names and order given anew, where both sides had a say."""
        self._drop_taken_back()
        for rows in self.tables.values():
            if rows and "made_at" in rows[0]:
                rows.sort(key=lambda row: row["made_at"])
        self._unique("lot", lambda r: (fold(r["name"]),), "name")
        self._unique("specimen", lambda r: (r["code"],), "code")
        self._unique("hank", lambda r: (r["lot_id"], r["label"]), "label")
        self._number_findings()
        for table, column in (("rating_limits", "version"), ("guide", "revision")):
            self._number(table, column)
        self._number_taken_back()
        changed = frozenset(t for t, rows in self.tables.items() if rows != self.mine.get(t, []))
        return Merged(
            tables=self.tables,
            changed=changed,
            added=self.added,
            same=self.same,
            differing=tuple(self.differing),
            renamed=tuple(self.renamed),
            corrected_twice=tuple(sorted(self.twice)),
        )

    def _drop_taken_back(self) -> None:
        """Rows that one side took back go, unless something rests on them."""
        gone = {
            (row["table_name"], row["row_key"])
            for row in self.tables["taken_back"]
            if row["again_at"] is None
        }
        for table in reversed(TABLES):
            doomed = {key for name, key in gone if name == table}
            if not doomed or "id" not in TABLES[table].columns:
                continue
            owned = _OWNED.get(table, ())
            needed = {
                row[column]
                for child, columns in REFERENCES.items()
                if child not in owned
                for column, parent in columns.items()
                if parent == table
                for row in self.tables[child]
                if row.get("id") not in doomed or child != table
            }
            doomed -= needed
            self.tables[table] = [r for r in self.tables[table] if r["id"] not in doomed]
            for child in owned:
                column = next(c for c, parent in REFERENCES[child].items() if parent == table)
                self.tables[child] = [r for r in self.tables[child] if r[column] not in doomed]

    def _unique(self, table: str, name_of: Callable[[Row], tuple[Any, ...]], column: str) -> None:
        """Give rows that are called alike names of their own; the earliest keeps its."""
        groups: dict[tuple[Any, ...], list[Row]] = {}
        for row in self.tables[table]:
            groups.setdefault(name_of(row), []).append(row)
        first_pull: dict[str, str] = {}
        for pull in self.tables["pull"]:
            known = first_pull.get(pull["specimen_id"], "~")
            first_pull[pull["specimen_id"]] = min(known, pull["started_at"])
        for rows in groups.values():
            rows.sort(key=lambda r: (first_pull.get(r["id"], "~"), r["id"]))
            for row in rows[1:]:
                before = row[column]
                row[column] = f"{before}/{hashlib.sha256(row['id'].encode()).hexdigest()[:6]}"
                self.renamed.append((table, before, row[column]))

    def _number_findings(self) -> None:
        """Findings of a pull in the order made, where both sides inspected it."""
        before = {row["id"] for row in self.mine.get("finding", [])}
        specimens = {row["id"]: row["code"] for row in self.tables["specimen"]}
        code = {row["id"]: specimens.get(row["specimen_id"], "") for row in self.tables["pull"]}
        groups: dict[str, list[Row]] = {}
        for row in self.tables["finding"]:
            groups.setdefault(row["pull_id"], []).append(row)
        for pull_id, rows in groups.items():
            old = [r for r in rows if r["id"] in before]
            if old and len(old) < len(rows):
                rows.sort(key=lambda r: (r["made_at"], r["id"]))
                for entry, row in enumerate(rows, 1):
                    row["entry"] = entry
                if any(r["supersedes"] for r in old) and any(
                    r["supersedes"] for r in rows if r["id"] not in before
                ):
                    self.twice.add(code.get(pull_id, pull_id))
            elif old and len({r["entry"] for r in rows}) < len(rows):
                for entry, row in enumerate(rows, 1):
                    row["entry"] = entry

    def _number(self, table: str, column: str) -> None:
        rows = self.tables[table]
        if len(rows) > len(self.mine.get(table, [])) and self.mine.get(table):
            rows.sort(key=lambda r: (r["made_at"], r["id"]))
            for number, row in enumerate(rows, 1):
                row[column] = number

    def _number_taken_back(self) -> None:
        rows = self.tables["taken_back"]
        rows.sort(key=lambda r: (r["made_at"], r["table_name"], r["row_key"]))
        if len(rows) > len(self.mine.get("taken_back", [])):
            for number, row in enumerate(rows, 1):
                row["n"] = number


_OWNED = {"finding": ("tail_draw", "knot_inspection")}
_IDENTITIES: dict[str, Callable[[Row], tuple[Any, ...]]] = {
    "lot": lambda r: (fold(r["name"]),),
    "knot": lambda r: (r["structure"], r["variant"]),
    "bench": lambda r: (r["name"],),
    "fixture": lambda r: (r["kind"], r["name"], r["material"], r["finish"], r["diameter_m"]),
}


def _key(table: str, row: Row) -> tuple[Any, ...]:
    return ("only",) if table == "campaign" else key_of(table, row)


def _translate(table: str, row: Row, ids: Mapping[str, Mapping[str, str]]) -> Row:
    if table in ids:
        row["id"] = ids[table].get(row["id"], row["id"])
    for column, parent in REFERENCES.get(table, {}).items():
        if row[column] is not None:
            row[column] = ids.get(parent, {}).get(row[column], row[column])
    if table == "criterion":
        for column, parent in (("lot_ids", "lot"), ("knot_ids", "knot")):
            named = json.loads(row[column])
            row[column] = json.dumps([ids[parent].get(x, x) for x in named], separators=(",", ":"))
    return row


def _empty(value: object) -> bool:
    return value is None or value == "" or value in ("{}", "[]")


def _holds(a: Any, b: Any) -> Any:
    """Which of two values holds, whichever stands first."""
    if _empty(a) or _empty(b):
        return b if _empty(a) else a
    if isinstance(a, str) and isinstance(b, str):
        return max(a, b, key=lambda text: (len(text), text))
    return min(a, b)


def _called(row: Row) -> str:
    for name in ("name", "code", "label", "day", "title", "key"):
        if row.get(name):
            return str(row[name])
    return str(row.get("id") or row.get("specimen_id") or "")
