"""One bench of the trial of many: records pulls, enters and corrects findings until it is killed.

Before it stores anything it says so in its own ledger, and once it is stored it says that too; the
trial holds the campaign against the ledgers.
"""

from __future__ import annotations

import json
import logging
import os
import random
import sys
import time
from dataclasses import replace
from pathlib import Path

import sqlalchemy as sa

from bruiser.app.file_watch import SERVER_LOOK_MS
from bruiser.core.errors import BruiserError, Refused, Unreachable
from bruiser.core.records.records import Finding, Gave, PullEnd
from bruiser.store.open_campaign import Worker
from bruiser.store.schema import finding
from bruiser.store.server.address import read_address
from bruiser.workshop.bench.delivering import deliver_waiting
from bruiser.workshop.bench.handing_out import hand_out
from bruiser.workshop.bench.live_pull import Phase
from bruiser.workshop.bench.pull_end import close_interrupted_pulls
from bruiser.workshop.bench.pulling import PullSession
from bruiser.workshop.bench.simulation import TRAVEL_RATE_M_S, bench_with
from bruiser.workshop.findings.settling import settle, unsettled
from bruiser.workshop.logbook.commands import AcceptFinding
from bruiser.workshop.logbook.entries import Entry
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop, open_workshop

SPEED = 12.0
WATCHER = "watcher"
"""The bench that only looks."""
_PATIENCE_S = 60.0
"""On a busy machine a bench may take so long to its first finding."""


class Ledger:
    """What one bench meant to store and what it heard was stored, line by line."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("a", encoding="utf-8")
        self.said: set[str] = set()

    def say(self, what: str, key: str, number: int = 0) -> None:
        """Write a line that outlives the program."""
        self.said.add(what)
        self._file.write(json.dumps([what, key, number, time.time()]) + "\n")
        self._file.flush()
        os.fsync(self._file.fileno())


def pull_one(shop: Workshop, ledger: Ledger, kept: set[str]) -> None:
    """Pull the next free specimen, whatever the server does meanwhile."""
    entry, _ = hand_out(shop, read_logbook(shop), "", kept)
    if entry is None:
        return
    bench = bench_with(entry.specimen, speed=SPEED, watchdog_s=60.0)
    session = PullSession(shop, entry.specimen, bench, TRAVEL_RATE_M_S, shop.file.worker.who)
    session.arm()
    while not session.zero_taken:
        time.sleep(0.005)
    told = False
    until = time.monotonic() + 60
    while session.phase is not Phase.GAVE and time.monotonic() < until:
        if session.phase in (Phase.ARMED, Phase.HELD):
            if not session.armed:
                session.arm()
            session.pull()
        session.keep_alive()
        session.poll()
        if session.pull_id is not None and not told:
            ledger.say("pull", session.pull_id)
            told = True
        time.sleep(0.005)
    session.finish(PullEnd.GAVE)
    pull_id = session.pull_id
    if pull_id is None:
        return
    # Kept here or on the server: from now on it must not get lost.
    ledger.say("pulled", pull_id, session.recorder.count)
    if session.waits:
        kept.add(entry.specimen.id)
        return
    found = Finding(
        id=shop.new_id(),
        pull_id=pull_id,
        made_at=shop.now(),
        gave=Gave.STOPPED,
        place=None,
        peak_load_n=round(session.poll().highest_n, 1),
        by=shop.file.worker.who,
    )
    store(shop, ledger, found)


def store(shop: Workshop, ledger: Ledger, found: Finding) -> None:
    """Store a finding, with a line before and a line after."""
    ledger.say("finding", found.id)
    shop.do(AcceptFinding(found))
    ledger.say("found", found.id)


def correct_one(shop: Workshop, ledger: Ledger, dice: random.Random, seen: list[Entry]) -> None:
    """Correct a finding as this bench saw it last, which may be a while ago."""
    if not seen or dice.random() < 0.5:
        newest = read_logbook(shop).newest_found(3)
        book = read_logbook(shop)
        seen[:] = [book.by_pull[line.pull_id] for line in newest]
    if not seen:
        return
    entry = dice.choice(seen)
    last = entry.history[-1]
    note = f"{shop.file.worker.bench} {dice.random():.6f}"
    again = replace(
        last, id=shop.new_id(), made_at=shop.now(), supersedes=last.id, note=note, reason="again"
    )
    store(shop, ledger, again)
    if dice.random() < 0.25:
        try:
            shop.undo()
        except Refused:
            return
        ledger.say("undone", again.id)


def settle_one(shop: Workshop) -> None:
    """Settle a pull that was found differently."""
    book = read_logbook(shop)
    for pull_id in book.unsettled[:1]:
        entry = book.by_pull[pull_id]
        open_ones = unsettled(entry.history)
        if open_ones:
            settle(shop, entry, open_ones[0].id)


def deliver(shop: Workshop, ledger: Ledger, kept: set[str]) -> None:
    """Bring what waited here to the server."""
    for code in deliver_waiting(shop).codes:
        ledger.say("delivered", code)
        kept.clear()


def work(shop: Workshop, ledger: Ledger, dice: random.Random, until: float) -> None:
    """Pull, correct and settle until it is time and something was found, or the server goes."""
    seen: list[Entry] = []
    kept: set[str] = set()
    while time.time() < until or not ledger.said & {"found", "delivered"}:
        if time.time() > until + _PATIENCE_S:
            return
        try:
            if shop.file.online:
                deliver(shop, ledger, kept)
            shop.catch_up()
            if dice.random() < 0.4:
                pull_one(shop, ledger, kept)
            elif dice.random() < 0.8:
                correct_one(shop, ledger, dice, seen)
            else:
                settle_one(shop)
        except Unreachable:
            time.sleep(0.05)
        except Refused:
            continue


def watch(shop: Workshop, ledger: Ledger) -> None:
    """Look as often as a window does, and say which findings of others are there; never ends."""
    known: set[str] = set()
    while True:
        if shop.catch_up():
            read_logbook(shop)
            with shop.file.reading() as connection:
                now = set(connection.execute(sa.select(finding.c.id)).scalars())
            for key in now - known:
                ledger.say("seen", key)
            known |= now
        time.sleep(SERVER_LOOK_MS / 1000)


def main(address: str, bench: str, ledger: str, until: str, seed: str) -> int:
    """Begin, and begin again where the server is away."""
    logging.disable(logging.WARNING)
    end = float(until)
    while bench == WATCHER or time.time() < end:
        try:
            shop = open_workshop(read_address(address), worker=Worker(who=bench, bench=bench))
        except BruiserError:
            time.sleep(0.1)
            continue
        shop.file.listen()
        try:
            book = Ledger(Path(ledger))
            if bench == WATCHER:
                watch(shop, book)
            deliver(shop, book, set())
            close_interrupted_pulls(shop)
            work(shop, book, random.Random(seed), end)
        except Unreachable:
            continue
        finally:
            shop.close()
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
