"""Pulls recorded while the server was away: kept in a campaign file on this machine.

The file holds the specimen, its lot and knots, the pull and all its samples;
:mod:`bruiser.workshop.bench.delivering` brings them to the server.
"""

from __future__ import annotations

from dataclasses import replace

from bruiser.core.errors import StoreError
from bruiser.core.records.records import Pull, Specimen
from bruiser.core.trace import Trace
from bruiser.store import bench_books, campaigns, pulls
from bruiser.store.open_campaign import Connection
from bruiser.store.opening import create_campaign, open_campaign
from bruiser.workshop.logbook.workshop import Workshop


class WaitingRoom:
    """A file on this machine for the pulls of one window, made when the first has to wait.

    Parameters
    ----------
    workshop : Workshop
        The campaign on a server that is away.
    """

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self.room: Workshop | None = None

    def open(self) -> Workshop:
        """The campaign file that stands in for the server.

        Raises
        ------
        StoreError
            If it cannot be made: the samples stay in memory then.
        """
        if self.room is None:
            server = self._workshop.file
            # Under another name until it is whole: one that was cut off is no campaign.
            key, stem = self._workshop.new_id(), server.path.stem
            making = server.path.with_name(f"{stem}.making-{key}")
            with create_campaign(making) as made, made.writing() as connection:
                campaigns.insert_campaign(connection, self._workshop.campaign)
            path = server.path.with_name(f"{stem}.waiting-{key}.bruiser")
            try:
                making.rename(path)
            except OSError as error:
                raise StoreError(f"{path.name} cannot be made: {error.strerror}.") from error
            file = open_campaign(path)
            file.worker = server.worker
            self.room = Workshop(file, now=self._workshop.now, new_id=self._workshop.new_id)
        return self.room

    def begin(self, pull: Pull, specimen: Specimen, samples: Trace) -> None:
        """Keep a pull with all its samples so far.

        Raises
        ------
        StoreError
            If the file cannot be written.
        """
        with self.open().file.writing() as connection:
            _bring_specimen(connection, specimen)
            pulls.insert_pull(connection, pull)
            if len(samples):
                pulls.append_samples(connection, pull.id, samples)

    def close(self) -> None:
        """Let go of the file; what is in it waits."""
        if self.room is not None:
            self.room.close()
            self.room = None


def _bring_specimen(connection: Connection, specimen: Specimen) -> None:
    """Store a specimen with what it refers to, as far as it is not there."""
    lots = {lot.id for lot in campaigns.load_lots(connection)}
    for lot in (specimen.lot, specimen.lot_b):
        if lot is not None and lot.id not in lots:
            campaigns.insert_lot(connection, replace(lot, stock_lot_id=None))
            lots.add(lot.id)
    knots = {knot.id for knot in campaigns.load_knots(connection)}
    for knot in (specimen.knot_a, specimen.knot_b):
        if knot is not None and knot.id not in knots:
            campaigns.insert_knot(connection, knot)
            knots.add(knot.id)
    fixture = specimen.fixture
    known = {f.id for f in bench_books.load_bench_book(connection).fixtures}
    if fixture is not None and fixture.id not in known:
        bench_books.insert_fixture(connection, fixture)
    if not campaigns.load_diameters(connection, [specimen.id]):
        campaigns.insert_specimen(connection, replace(specimen, replaces_id=None))
