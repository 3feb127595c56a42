"""The bench as seen and held by the technician: readings, trace, strip and the held controls."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.figures.silhouette import knots_of
from bruiser.figures.strip import StripState
from bruiser.ui.kit.live_plot import LivePlot
from bruiser.ui.kit.parts import Card, Readout, Words, button, lead_with
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.pull.asking import AskCard
from bruiser.ui.stations.pull.presenter import PullPresenter
from bruiser.ui.theme.tokens import SIDE_WIDTH, SPACE
from bruiser.workshop.bench.instruments import InstrumentKind

CAUTION = (
    "A line under tension stores energy; when it parts, ends, pins and shackles fly along the "
    "line of pull. Stand clear of that line and keep the guard shut. Take the load off before "
    "you touch anything."
)
STOP_NOTE = "STOP (Esc) is no substitute for the bench's own emergency stop."
_ARM_WORDS = {
    InstrumentKind.BY_HAND: "It was pulled: go and type its peak",
    InstrumentKind.LOGGER: "It was pulled: take the logger's file",
}


class BenchPanel(QWidget):
    """Builds the bench over its presenter."""

    findings_wanted = pyqtSignal()

    def __init__(self, presenter: PullPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.again = button("Try to store them again", "pull.again")
        self.elsewhere = button("Save the samples elsewhere", "pull.elsewhere")
        self.load = Readout("LOAD", "pull.load", "plum")
        self.highest = Readout("HIGHEST", "pull.highest")
        self.travel = Readout("TRAVEL", "pull.travel")
        self.share = Readout("SHARE OF BASELINE", "pull.share")
        self.method = Words("", "strong-small", elide=True)
        self.method.setObjectName("pull.method")
        self.progress = QProgressBar()
        self.progress.setObjectName("pull.progress")
        self.progress.setAccessibleName("How much of the method is done")
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.slips = Words("", "small", "ochre", elide=True)
        self.slips.setObjectName("pull.slips")
        self.time = button("Against time", "pull.time", "chip")
        self.time.setCheckable(True)
        self.plot = LivePlot("pull.trace")
        self.ask = AskCard(presenter)
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
        self._watching = False
        self._showing = self._behind = False
        self._build()
        self._connect()

    def _build(self) -> None:
        readouts = Card()
        row = QHBoxLayout()
        row.setSpacing(SPACE["l"])
        for readout in (self.load, self.highest, self.travel, self.share):
            row.addWidget(readout, 1)
        readouts.column.addLayout(row)
        plot = Card()
        above = QHBoxLayout()
        above.addWidget(self.method, 3)
        above.addWidget(self.slips, 2)
        above.addWidget(self.time)
        plot.column.addLayout(above)
        plot.column.addWidget(self.progress)
        plot.column.addWidget(self.plot, 1)
        strip = Card()
        strip.column.addWidget(self.strip, 1)
        strip.setFixedHeight(140)
        left = QVBoxLayout()
        left.setSpacing(SPACE["s"])
        left.addWidget(readouts)
        left.addWidget(plot, 1)
        left.addWidget(self.ask)
        left.addWidget(strip)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["m"])
        across.addLayout(left, 1)
        across.addWidget(self._side())

    def _side(self) -> QWidget:
        caution = Card("STAND CLEAR", caution=True)
        caution.column.addWidget(Words(CAUTION, "small"))
        caution.column.addWidget(self.rule)
        for box in (self.lane, self.eyes):
            box.setAccessibleName(box.text())
            lead_with(box, False)
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
            self.arm, self.run, self.slack, self.end, self.again, self.elsewhere, self.go, self.stop
        ):  # fmt: skip
            right.addWidget(control)
        right.addWidget(Words(STOP_NOTE, "small", "muted"))
        right.addWidget(self.bench_note)
        return side

    def _connect(self) -> None:
        p = self._presenter
        p.specimen_changed.connect(self._on_specimen_changed)
        p.moved.connect(self._on_moved)
        p.look_again.connect(self._untick)
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
        self.time.toggled.connect(p.show_against)
        self.again.clicked.connect(p.save_again)
        self.elsewhere.clicked.connect(self._on_elsewhere)
        p.instrument.changed.connect(self._on_moved)

    def _watch(self, armed: bool) -> None:
        """Look at every event of the application, but only while the bench may move."""
        app = QApplication.instance()
        if app is None or armed == self._watching:
            return
        self._watching = armed
        if armed:
            app.installEventFilter(self)
        else:
            app.removeEventFilter(self)

    @override
    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """Esc stops an armed bench from anywhere; losing the focus stops its travel."""
        if not self._presenter.armed or a1 is None:
            return super().eventFilter(a0, a1)
        kind = a1.type()
        if kind == QEvent.Type.KeyPress and isinstance(a1, QKeyEvent):
            if a1.key() == Qt.Key.Key_Escape:
                self._presenter.stop()
                return True
        elif kind == QEvent.Type.WindowDeactivate and a0 is self.window():
            self._presenter.interrupt()
        return super().eventFilter(a0, a1)

    @override
    def hideEvent(self, a0: QHideEvent | None) -> None:
        """Another station is shown: nobody looks at the bench, so it does not move."""
        self._presenter.interrupt()
        super().hideEvent(a0)

    def _untick(self) -> None:
        for box in (self.lane, self.eyes):
            box.setChecked(False)

    def _on_checks(self) -> None:
        self._presenter.confirm_lane(self.lane.isChecked() and self.eyes.isChecked())

    def _on_arm(self) -> None:
        if self._presenter.instrument.choice.kind is InstrumentKind.LOGGER:
            name, _ = QFileDialog.getOpenFileName(
                self, "The logger's file", "", "Trace file (*.csv *.txt)"
            )
            if name:
                self._presenter.take_file(Path(name))
            return
        self._focus_run = True
        self._presenter.arm()

    def _on_elsewhere(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the samples", "trace.csv", "Trace file (*.csv)"
        )
        if name:
            self._presenter.save_elsewhere(Path(name))

    def _on_specimen_changed(self) -> None:
        p = self._presenter
        if p.session is None:
            self._untick()
        if p.entry is not None:
            self.rule.say(f"{p.energy} {p.bench.rule_words()}".strip())
            title, least = p.along
            self.plot.prepare(title, f"load ({p.units.force})", (least, 2.0))
            ghosts = [] if p.against_time else p.sibling_traces()
            self.plot.show_siblings(ghosts, p.sibling_band())
        self._on_moved()

    def _on_moved(self) -> None:
        """Show how things stand; what changes meanwhile is shown afterwards.

        Taking a held button away lets go of it, which may end the pull: what was to be shown is
        then out of date.
        """
        self._behind = True
        if self._showing:
            return
        self._showing = True
        try:
            while self._behind:
                self._behind = False
                self._show_how_it_stands()
        finally:
            self._showing = False

    def _show_how_it_stands(self) -> None:
        p = self._presenter
        self._watch(p.armed)
        seen = p.readings()
        self.load.show_number(seen.load, seen.force_unit)
        self.highest.show_number(seen.highest, seen.force_unit)
        self.travel.show_number(seen.travel, seen.length_unit)
        self.share.show_number(seen.share, "%")
        if p.session is not None:
            x, y = p.trace()
            self.plot.show_trace(x, y)
            self.plot.show_slips(x, y, p.slip_samples())
        if p.entry is not None:
            notes, stretched = p.strip_notes()
            state = StripState(
                tail_notes=notes, stretched=stretched, knots=knots_of(p.entry.specimen)
            )
            self.strip.show_strip(p.entry.specimen.layout, state)
        self.method.say(p.programme_words())
        self.progress.setValue(round(1000 * p.progress))
        self.slips.say(p.slip_words())
        self.ask.show_asked(p.asked())
        self._show_controls()
        self.bench_note.say(p.bench.words())

    def _show_controls(self) -> None:
        p = self._presenter
        can = p.controls()
        self.words.say(can.words, can.tone)
        kind = p.instrument.choice.kind
        self.arm.setText(_ARM_WORDS.get(kind, "Arm the bench"))
        self.run.setText("Run by itself (Space twice)" if p.latched else "Hold to pull (Space)")
        for control, may in (
            (self.arm, can.may_arm),
            (self.run, can.may_pull),
            (self.slack, can.may_slack),
            (self.end, can.may_end),
            (self.stop, can.may_stop),
        ):
            control.setEnabled(may)
        self.arm.setVisible(not (can.may_pull or can.may_stop or can.done))
        self.run.setVisible(can.may_pull or can.may_stop)
        if self._focus_run and can.may_pull:
            self._focus_run = False
            self.run.setFocus()
        self.end.setVisible(can.may_end)
        self.again.setVisible(bool(p.unsaved))
        self.elsewhere.setVisible(p.may_save_elsewhere)
        self.go.setVisible(can.done)
        checks = p.loaded or (not can.done and p.entry is not None)
        self.lane.setEnabled(checks)
        self.eyes.setEnabled(checks)
        lead_with(self.lane, checks and not self.lane.isChecked())
        lead_with(self.eyes, checks and self.lane.isChecked() and not self.eyes.isChecked())
