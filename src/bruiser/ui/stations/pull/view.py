"""The pull station: the bench as seen and held by the technician."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.figures.strip import StripState
from bruiser.ui.kit.live_plot import LivePlot
from bruiser.ui.kit.parts import Card, Readout, StationPage, Words, button
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.pull.instrument import InstrumentDialog
from bruiser.ui.stations.pull.presenter import PullPresenter
from bruiser.ui.theme.tokens import SIDE_WIDTH, SPACE

CAUTION = (
    "A line under tension stores energy; when it parts, ends, pins and shackles fly along the "
    "line of pull. Stand clear of that line and keep the guard shut. Take the load off before "
    "you touch anything."
)
STOP_NOTE = "STOP (Esc) is no substitute for the bench's own emergency stop."


class PullView(StationPage):
    """Builds the pull station and connects it to its presenter."""

    findings_wanted = pyqtSignal()

    def __init__(self, presenter: PullPresenter) -> None:
        super().__init__("pull")
        self._presenter = presenter
        self.next_up = QLabel()
        self.next_up.setObjectName("pull.next")
        self.next_up.setProperty("tone", "muted")
        self.corner.addWidget(self.next_up)
        self.choose = button("Instrument", "pull.instrument", "chip")
        self.corner.addWidget(self.choose)
        self.elsewhere = button("Save the samples elsewhere", "pull.elsewhere")
        self.load = Readout("LOAD", "pull.load", "plum")
        self.highest = Readout("HIGHEST", "pull.highest")
        self.travel = Readout("TRAVEL", "pull.travel")
        self.share = Readout("SHARE OF BASELINE", "pull.share")
        self.plot = LivePlot("pull.trace")
        self.strip = StripView("pull.strip")
        self.words = Words("", "strong")
        self.words.setObjectName("pull.words")
        self.words.setMinimumHeight(44)
        self.bench_note = Words("", "small", "muted")
        self.bench_note.setObjectName("pull.bench")
        self.rule = Words("", "small", "muted")
        self.rule.setObjectName("pull.rule")
        self.lane = QCheckBox("Lane is clear, guard is shut")
        self.lane.setObjectName("pull.lane")
        self.eyes = QCheckBox("Eye and hand protection on")
        self.eyes.setObjectName("pull.eyes")
        self.arm = button("Arm the bench", "pull.arm", "primary", bench=True)
        self.run = button("Hold to pull (Space)", "pull.run", "primary", bench=True)
        self.slack = button("Hold to slack off", "pull.slack", bench=True)
        self.end = button("End this pull here", "pull.end", bench=True)
        self.go = button("Go to findings", "pull.go", "primary", bench=True)
        self.stop = button("STOP", "pull.stop", "stop", bench=True)
        self._focus_run = False
        self.first = self.lane
        self._build()
        self._connect()
        app = QApplication.instance()
        if app is not None:
            app.installEventFilter(self)

    def _build(self) -> None:
        readouts = Card()
        row = QHBoxLayout()
        row.setSpacing(SPACE["l"])
        for readout in (self.load, self.highest, self.travel, self.share):
            row.addWidget(readout, 1)
        readouts.column.addLayout(row)
        plot = Card()
        plot.column.addWidget(self.plot, 1)
        strip = Card()
        strip.column.addWidget(self.strip, 1)
        strip.setFixedHeight(150)
        left = QVBoxLayout()
        left.setSpacing(SPACE["s"])
        left.addWidget(readouts)
        left.addWidget(plot, 1)
        left.addWidget(strip)
        caution = Card("STAND CLEAR", caution=True)
        caution.column.addWidget(Words(CAUTION, "small"))
        caution.column.addWidget(self.rule)
        for box in (self.lane, self.eyes):
            box.setAccessibleName(box.text())
            caution.column.addWidget(box)
        side = QWidget()
        side.setFixedWidth(SIDE_WIDTH)
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(SPACE["s"])
        right.addWidget(caution)
        right.addStretch(1)
        right.addWidget(self.words)
        for control in (
            self.arm, self.run, self.slack, self.end, self.elsewhere, self.go, self.stop
        ):  # fmt: skip
            right.addWidget(control)
        right.addWidget(Words(STOP_NOTE, "small", "muted"))
        right.addWidget(self.bench_note)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addLayout(left, 1)
        across.addWidget(side)
        self.body.addLayout(across, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.specimen_changed.connect(self._on_specimen_changed)
        p.moved.connect(self._on_moved)
        for box in (self.lane, self.eyes):
            box.toggled.connect(self._on_checks)
        self.arm.clicked.connect(self._on_arm)
        self.run.pressed.connect(lambda: p.press("pull"))
        self.run.released.connect(p.release)
        self.slack.pressed.connect(lambda: p.press("slack"))
        self.slack.released.connect(p.release)
        self.end.clicked.connect(p.end_here)
        self.stop.clicked.connect(p.stop)
        self.go.clicked.connect(self.findings_wanted)
        self.choose.clicked.connect(self._on_choose)
        self.elsewhere.clicked.connect(self._on_elsewhere)
        p.instrument.changed.connect(self._on_moved)

    @override
    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """Esc stops an armed bench from anywhere, through dialogs too."""
        if (
            isinstance(a1, QKeyEvent)
            and a1.type() == QEvent.Type.KeyPress
            and a1.key() == Qt.Key.Key_Escape
            and self._presenter.armed
        ):
            self._presenter.stop()
            return True
        return super().eventFilter(a0, a1)

    def _on_checks(self) -> None:
        self._presenter.confirm_lane(self.lane.isChecked() and self.eyes.isChecked())

    def _on_arm(self) -> None:
        self._focus_run = True
        self._presenter.arm()

    def _on_choose(self) -> None:
        InstrumentDialog(self._presenter.instrument, self).open()

    def _on_elsewhere(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the samples", "trace.csv", "Trace file (*.csv)"
        )
        if name:
            self._presenter.save_elsewhere(Path(name))

    def _on_specimen_changed(self) -> None:
        p = self._presenter
        for box in (self.lane, self.eyes):
            box.setChecked(False)
        if p.entry is None:
            self.title.say("Nothing waits for the bench")
            self.subtitle.say("The queue is empty. Plan more specimens to go on.")
            self.next_up.setText("")
            self._on_moved()
            return
        s = p.entry.specimen
        diameter_mm = 1000 * s.lot.diameter_m
        self.rule.say(f"{p.energy} {p.rule_words()}".strip())
        self.title.say(f"{s.code} · {s.title}")
        parts = [
            f"{diameter_mm:g} mm {s.lot.material} {s.lot.construction}, lot {s.lot.name}, "
            f"{s.lot.condition}",
            p.method_words(),
        ]
        if s.pin_diameter_m:
            ratio = s.pin_diameter_m / s.lot.diameter_m
            parts.append(f"{1000 * s.pin_diameter_m:g} mm pins, D/d {ratio:.1f}")
        self.subtitle.say("  ·  ".join(parts))
        waiting = "  ".join(p.next_codes)
        self.next_up.setText(f"next: {waiting}" if waiting else "last in the queue")
        tails = {t.key: f"tail {p.units.length_text(t.length_m)}" for t in s.tails}
        self.strip.show_strip(s.layout, StripState(tail_notes=tails))
        self.plot.prepare(f"travel ({p.units.length})", f"load ({p.units.force})", (60.0, 2.0))
        self.plot.show_siblings(p.sibling_traces(), p.sibling_band())
        self._on_moved()

    def _on_moved(self) -> None:
        p = self._presenter
        seen = p.readings()
        self.load.show_number(seen.load, seen.force_unit)
        self.highest.show_number(seen.highest, seen.force_unit)
        self.travel.show_number(seen.travel, seen.length_unit)
        self.share.show_number(seen.share, "%")
        if p.session is not None:
            self.plot.show_trace(*p.trace())
        can = p.controls()
        self.words.say(can.words, can.tone)
        self.arm.setEnabled(can.may_arm)
        self.run.setEnabled(can.may_pull)
        self.slack.setEnabled(can.may_slack)
        self.end.setEnabled(can.may_end)
        self.stop.setEnabled(can.may_stop)
        self.arm.setVisible(not (can.may_pull or can.may_stop or can.done))
        self.run.setVisible(can.may_pull or can.may_stop)
        if self._focus_run and can.may_pull:
            self._focus_run = False
            self.run.setFocus()
        self.end.setVisible(can.may_end)
        self.elsewhere.setVisible(p.may_save_elsewhere)
        self.go.setVisible(can.done)
        checks = not p.loaded and not can.done and p.entry is not None
        self.lane.setEnabled(checks or p.loaded)
        self.eyes.setEnabled(checks or p.loaded)
        self.bench_note.say(p.bench_words())
