"""The pull station: prepare a specimen, pull it, and see what its directions say."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel, QLineEdit

from bruiser.ui.kit.fields import Chips
from bruiser.ui.kit.parts import StationPage, button
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.stations.pull.bench import BenchPanel
from bruiser.ui.stations.pull.decided import DecidedLine
from bruiser.ui.stations.pull.directions import DirectionsPanel
from bruiser.ui.stations.pull.instrument import InstrumentDialog
from bruiser.ui.stations.pull.ladder import LadderLine
from bruiser.ui.stations.pull.prepare import PreparePanel
from bruiser.ui.stations.pull.presenter import PullPresenter

PANELS = {"prepare": "Prepare", "bench": "Bench", "directions": "Directions"}


class PullView(StationPage):
    """Builds the pull station and connects it to its presenter."""

    findings_wanted = pyqtSignal()

    def __init__(self, presenter: PullPresenter) -> None:
        super().__init__("pull")
        self._presenter = presenter
        self.next_up = QLabel()
        self.next_up.setTextFormat(Qt.TextFormat.PlainText)
        self.next_up.setObjectName("pull.next")
        self.next_up.setProperty("tone", "muted")
        self.technician = QLineEdit()
        self.technician.setObjectName("pull.technician")
        self.technician.setAccessibleName("Technician (initials)")
        self.technician.setPlaceholderText("initials")
        self.technician.setFixedWidth(72)
        self.choose = button("Instrument", "pull.instrument", "chip")
        self.panels = Chips("pull.panel", PANELS)
        self.prepare = PreparePanel(presenter.prepare)
        self.bench = BenchPanel(presenter)
        self.directions = DirectionsPanel(presenter.directions)
        self.stack = ShownStack()
        for panel in (self.prepare, self.bench, self.directions):
            self.stack.addWidget(panel)
        for part in (self.next_up, self.technician, self.choose, self.panels):
            self.corner.addWidget(part)
        self.decided = DecidedLine(presenter.decided)
        self.ladder = LadderLine(presenter.decided.ladder)
        self.body.addWidget(self.decided)
        self.body.addWidget(self.ladder)
        self.body.addWidget(self.stack, 1)
        self.first = self.bench.lane
        self.panels.chosen.connect(self._on_panel)
        self.panels.pick("bench")
        self.bench.findings_wanted.connect(self.findings_wanted)
        self.choose.clicked.connect(self.choose_instrument)
        self.technician.textChanged.connect(presenter.work_as)
        presenter.specimen_changed.connect(self._on_specimen_changed)
        presenter.prepare.changed.connect(self._on_specimen_changed)

    def _on_panel(self, key: str) -> None:
        self.stack.setCurrentIndex(list(PANELS).index(key))
        self.first = self.bench.lane if key == "bench" else self.prepare.queue
        self._presenter.show_panel(key)

    def choose_instrument(self) -> None:
        """Ask what pulls are recorded with."""
        InstrumentDialog(self._presenter.instrument, self).open()

    def _on_specimen_changed(self) -> None:
        p = self._presenter
        if p.entry is None:
            self.title.say("Nothing waits for the bench")
            self.subtitle.say("The queue is empty. Plan more specimens to go on.")
            self.next_up.setText("")
            return
        s = p.entry.specimen
        self.title.say(f"{s.code} · {s.title}")
        parts = [
            f"{p.units.section_text(s.lot.diameter_m, s.lot.thickness_m)} {s.lot.material} "
            f"{s.lot.construction}, "
            f"lot {s.lot.name}, {s.lot.condition}",
            p.method_words(),
        ]
        if s.pin_diameter_m:
            ratio = s.pin_diameter_m / s.lot.bend_m
            parts.append(f"{1000 * s.pin_diameter_m:g} mm pins, D/d {ratio:.1f}")
        self.subtitle.say("  ·  ".join(parts))
        waiting = "  ".join(p.next_codes[:2])
        self.next_up.setText(f"next: {waiting}" if waiting else "last in the queue")
