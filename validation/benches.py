"""Several benches at one server, killed at random, the server stopped: is all there, and once?

``./run validate benches`` runs two and then eight benches for a minute each, with 20 random kills,
and once more with the server stopped ten times; the figures are in ``docs/laboratory.md``.
"""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field, replace
from pathlib import Path

import sqlalchemy as sa
from tests.servers import ThrowawayServer

from bruiser.store.holds import LASTS_S
from bruiser.store.open_campaign import Worker
from bruiser.store.progress import wrong_progress, wrong_tally
from bruiser.store.schema import finding, pull, trace_chunk
from bruiser.store.server.address import ServerAddress
from bruiser.store.sharing_schema import hold
from bruiser.store.tables import sample_count
from bruiser.workshop.bench.delivering import deliver_waiting, files_waiting
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.findings.settling import unsettled
from bruiser.workshop.logbook.commands import PlanSpecimen, Together
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop, open_workshop
from validation.bench_worker import WATCHER

_PATIENCE_S = 10.0
"""So long the watcher is given to see the first finding of others."""
QUEUE = 400


@dataclass(kw_only=True)
class Trial:
    """What a trial came to; `wrong` is empty where everything was there, and once."""

    benches: int
    seconds: float
    kills: int = 0
    stops: int = 0
    pulls: int = 0
    samples: int = 0
    findings: int = 0
    undone: int = 0
    delivered: int = 0
    differently: int = 0
    twice: int = 0
    late: set[str] = field(default_factory=set)
    heard_s: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


def fill_queue(address: ServerAddress, count: int) -> None:
    """Plan specimens like those that wait."""
    shop = open_workshop(address)
    model = read_logbook(shop).at(Stage.PLANNED)[0].specimen
    parts = tuple(
        PlanSpecimen(
            replace(
                model, id=f"queued {n}", code=f"Q-{n:03}", queue_position=1000 + n, seed=n + 1,
                replaces_id=None, pair="",
            )
        )
        for n in range(count)
    )  # fmt: skip
    shop.do(Together(parts, "plan"))
    shop.close()


class Benches:
    """The processes of a trial, each with a folder and a ledger of its own."""

    def __init__(self, address: ServerAddress, count: int, folder: Path, until: float) -> None:
        self.address, self.folder, self.until = address, folder, until
        self.names = [f"bench-{n + 1}" for n in range(count)]
        self.starts = Counter[str]()
        self.running = {name: self.start(name) for name in (*self.names, WATCHER)}

    def start(self, name: str) -> subprocess.Popen[bytes]:
        """Start a bench, or start it anew."""
        self.starts[name] += 1
        words = (str(self.address), name, str(self.ledger(name)), str(self.until))
        seed = f"{name} {self.starts[name]}"
        with (self.folder / f"{name}.err").open("ab") as said:
            return subprocess.Popen(
                [sys.executable, "-m", "validation.bench_worker", *words, seed],
                env={**os.environ, "XDG_STATE_HOME": str(self.home(name))},
                stderr=said,
            )

    def home(self, name: str) -> Path:
        """Where a bench keeps what waits."""
        path = self.folder / name
        path.mkdir(exist_ok=True)
        return path

    def ledger(self, name: str) -> Path:
        """Its ledger."""
        return self.folder / f"{name}.jsonl"

    def kill(self, dice: random.Random) -> None:
        """Kill one at random, and start it anew."""
        name = dice.choice(self.names)
        self.running[name].send_signal(signal.SIGKILL)
        self.running[name].wait()
        self.running[name] = self.start(name)

    def end(self) -> list[str]:
        """Wait until all have ended, and the watcher has looked; what any of them raised."""
        for name in self.names:
            self.running[name].wait(120)
        patience = time.monotonic() + _PATIENCE_S
        while not self.heard_s() and time.monotonic() < patience:
            time.sleep(0.1)
        self.running[WATCHER].terminate()
        self.running[WATCHER].wait(120)
        said = [(self.folder / f"{n}.err").read_text(errors="replace") for n in self.running]
        return [text.strip().splitlines()[-1] for text in said if text.strip()]

    def lines(self) -> list[tuple[str, str, int]]:
        """What the ledgers of all benches say."""
        return [(what, key, number) for n in self.names for what, key, number, _ in self._read(n)]

    def heard_s(self) -> list[float]:
        """From the moment a bench knew a finding stored until the watcher saw it, in second."""
        stored = {
            key: at for n in self.names for what, key, _, at in self._read(n) if what == "found"
        }
        seen: dict[str, float] = {}
        for _, key, _, at in self._read(WATCHER):
            seen.setdefault(key, at)
        return sorted(max(0.0, seen[k] - at) for k, at in stored.items() if k in seen)

    def _read(self, name: str) -> list[tuple[str, str, int, float]]:
        if not self.ledger(name).exists():
            return []
        # The last line may be written just now.
        whole, _, _ = self.ledger(name).read_text(encoding="utf-8").rpartition("\n")
        lines = whole.splitlines()
        return [tuple(json.loads(line)) for line in lines]


def run_trial(
    server: ThrowawayServer,
    filled: ServerAddress,
    benches: int,
    seconds: float,
    kills: int = 0,
    stops: int = 0,
    seed: int = 1,
) -> Trial:
    """Let benches work, kill them and stop the server at random moments, and look at what is there.

    Parameters
    ----------
    filled : ServerAddress
        A campaign with a lot, knots and a specimen that waits.
    """
    trial = Trial(benches=benches, seconds=seconds, kills=kills, stops=stops)
    dice = random.Random(seed)
    address = server.copy_of(filled)
    # A copy of a database forgets the numbers it gave if it dies before its first checkpoint.
    server.run_sql("CHECKPOINT", database=address.database)
    fill_queue(address, QUEUE)
    with tempfile.TemporaryDirectory(prefix="bruiser-benches-") as name:
        folder = Path(name)
        start = time.time() + 1.5  # Until all have opened it.
        group = Benches(address, benches, folder, start + seconds)
        moments = [(start + dice.uniform(0.5, 0.95 * seconds), "kill") for _ in range(kills)]
        moments += [(start + dice.uniform(0.5, 0.9 * seconds), "stop") for _ in range(stops)]
        for moment, what in sorted(moments):
            time.sleep(max(0.0, moment - time.time()))
            if what == "kill":
                group.kill(dice)
            else:
                server.stop(at_once=dice.random() < 0.5)
                time.sleep(dice.uniform(0.2, 1.5))
                server.start()
        trial.wrong += group.end()
        trial.heard_s = group.heard_s()
        _look(trial, group)
    server.forget(address)
    return trial


def _look(trial: Trial, group: Benches) -> None:
    """Deliver what waits, end what was cut off, and hold the campaign against the ledgers."""
    for name in group.names:
        os.environ["XDG_STATE_HOME"] = str(group.home(name))
        shop = open_workshop(group.address, worker=Worker(who=name, bench=name))
        _expire(shop, trial)
        done = deliver_waiting(shop)
        trial.delivered += len(done.codes)
        trial.late |= set(done.codes)
        trial.wrong += [f"{name}: {words}" for words in done.left]
        close_interrupted_pulls(shop)
        if files_waiting(shop):
            trial.wrong.append(f"{name}: something still waits")
        shop.close()
    shop = open_workshop(group.address)
    said = group.lines()
    trial.delivered += sum(what == "delivered" for what, _, _ in said)
    with shop.file.reading() as connection:
        _look_at_pulls(trial, connection, said)
        _look_at_findings(trial, connection, said)
        trial.wrong += [f"progress of {key}" for key in wrong_progress(connection)]
        trial.wrong += [f"tally of {key}" for key in wrong_tally(connection)]
    for entry in read_logbook(shop).entries:
        trial.differently += bool(unsettled(entry.history))
    shop.close()


def _expire(shop: Workshop, trial: Trial) -> None:
    """Whoever was killed held what it had in hand for half a minute at most; then it is free."""
    query = sa.select(sa.func.max(hold.c.until - sa.func.extract("epoch", sa.func.now())))
    with shop.file.reading() as connection:
        longest = connection.execute(query).scalar()
    if longest is not None and longest > LASTS_S + 1:
        trial.wrong.append(f"a claim lasts {longest:.0f} s")
    with shop.file.writing() as connection:
        connection.execute(sa.update(hold).values(until=0.0))


def _look_at_pulls(
    trial: Trial, connection: sa.engine.Connection, said: list[tuple[str, str, int]]
) -> None:
    rows = connection.execute(sa.select(pull.c.id, pull.c.specimen_id, pull.c.end)).all()
    there = {row.id: row for row in rows}
    mine = [key for what, key, _ in said if what == "pull"]
    trial.pulls = len(set(mine) & set(there))
    for what, key, number in said:
        if what == "pulled":
            kept = sample_count(connection, key)
            trial.samples += kept
            if key not in there:
                trial.wrong.append(f"pull {key} is not there")
            elif kept != number or there[key].end != "gave":
                trial.wrong.append(f"pull {key}: {kept} of {number} samples, {there[key].end}")
    for key in mine:
        if key in there and there[key].end is None:
            trial.wrong.append(f"pull {key} never ended")
        spans = connection.execute(
            sa.select(trace_chunk.c.first_seq, trace_chunk.c.count)
            .where(trace_chunk.c.pull_id == key)
            .order_by(trace_chunk.c.first_seq)
        ).all()
        until = 0
        for first, count in spans:
            if first != until:
                trial.wrong.append(f"pull {key}: a gap at {until}")
            until = first + count
    late = {key for what, key, _ in said if what == "delivered"} | trial.late
    for key, count in Counter(row.specimen_id for row in rows).items():
        if count > 1 and key.startswith("queued"):
            trial.twice += 1
            if f"Q-{int(key.split()[1]):03}" not in late:
                trial.wrong.append(f"specimen {key} pulled {count} times")


def _look_at_findings(
    trial: Trial, connection: sa.engine.Connection, said: list[tuple[str, str, int]]
) -> None:
    f = finding.c
    rows = connection.execute(sa.select(f.id, f.pull_id, f.entry, f.supersedes)).all()
    there = {row.id: row for row in rows}
    undone = {key for what, key, _ in said if what == "undone"}
    trial.undone = len(undone)
    for what, key, _ in said:
        if what == "found" and key not in undone and key not in there:
            # An undo may have been stored before it could be said.
            gone = sa.text("SELECT count(*) FROM taken_back WHERE row_key = :key")
            if not connection.execute(gone, {"key": key}).scalar():
                trial.wrong.append(f"finding {key} is not there")
        trial.findings += what == "found"
    trial.wrong += [f"finding {key} came back" for key in undone & set(there)]
    by_pull: dict[str, list[int]] = {}
    for row in rows:
        by_pull.setdefault(row.pull_id, []).append(row.entry)
        parent = there.get(row.supersedes)
        if parent is not None and parent.pull_id != row.pull_id:
            trial.wrong.append(f"finding {row.id} corrects one of another pull")
    for key, entries in by_pull.items():
        if len(entries) != len(set(entries)):
            trial.wrong.append(f"pull {key}: two findings of one number")


def _heard(trial: Trial) -> str:
    """How long others took to see a finding, in second."""
    lags = trial.heard_s
    if not lags:
        return "-"
    return f"{lags[len(lags) // 2]:.2f} {lags[int(0.95 * len(lags))]:.2f} {lags[-1]:.2f}"


def main() -> int:
    """The full number, as the table of docs/laboratory.md."""
    from tests.usual import store, usual, usual_brief, usual_queue

    server = ThrowawayServer()
    server.start()
    wrong = 0
    print(
        "| benches | seconds | kills | stops | pulls | samples | findings | undone | delivered "
        "late | found differently | pulled twice | heard of after, median, p95, longest | wrong |"
    )
    print("|" + "---|" * 13)
    try:
        with tempfile.TemporaryDirectory() as folder:
            made = usual()
            path = store(
                made, Path(folder, "u.bruiser"), brief=usual_brief(made), queue=usual_queue(made)
            )
            filled = server.filled_with(path)
        for benches, kills, stops in ((2, 20, 0), (8, 20, 0), (2, 0, 10), (8, 10, 10)):
            t = run_trial(server, filled, benches, 60.0, kills, stops, seed=benches)
            wrong += len(t.wrong)
            print(f"| {t.benches} | {t.seconds:g} | {t.kills} | {t.stops} | {t.pulls} | "
                  f"{t.samples} | {t.findings} | {t.undone} | {t.delivered} | {t.differently} | "
                  f"{t.twice} | {_heard(t)} | {len(t.wrong)} |", flush=True)  # fmt: skip
            for words in t.wrong[:20]:
                print("  wrong:", words)
    finally:
        server.remove()
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
