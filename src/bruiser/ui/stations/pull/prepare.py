"""Prepare: the queue, how a specimen is tied, what was ticked, measured and timed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from bruiser.figures.display import Figure
from bruiser.figures.knot_drawing import FRONT
from bruiser.figures.silhouette import knots_of
from bruiser.figures.strip import StripState
from bruiser.ui.kit.fields import ChoiceField, Field, Form, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.knot_panel import FACES, KnotPanel
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.pull.check_tie import TieDialog
from bruiser.ui.stations.pull.inspector import InspectorDialog
from bruiser.ui.stations.pull.prepare_presenter import HANDS, PreparePresenter
from bruiser.ui.theme.tokens import NARROW_SHELF_WIDTH, SHELF_WIDTH, SPACE

FACE_HEIGHT = 110
WORDS_PX, _LEAST_PX = 120, 60
_MOST_LENGTHS = 5


class PreparePanel(QWidget):
    """Builds the preparation over its presenter."""

    def __init__(self, presenter: PreparePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.queue = RowsTable("pull.prepare.queue", "The queue", ("code", "what"), (1.0, 2.3))
        self.queue.setSelectionMode(RowsTable.SelectionMode.SingleSelection)
        self.queue.draw_strips(1, presenter.specimen_of)
        self.strip = StripView("pull.prepare.strip")
        self.faces = [KnotPanel(f"pull.prepare.{face}", FACE_HEIGHT, only=face) for face in FACES]
        self.sheet = Words("", "small")
        self.sheet.setObjectName("pull.prepare.sheet")
        self.sheet.setTextFormat(Qt.TextFormat.PlainText)
        self.points = Ticks("Tick what was done; the rest is recorded as not done", "pull.points")
        self.marked = QCheckBox("Ink marks at every nip and tail")
        self.marked.setObjectName("pull.marked")
        self.marked.setAccessibleName(self.marked.text())
        self.lengths = [Field("Length as tied", f"pull.length.{n}") for n in range(_MOST_LENGTHS)]
        self.cord = Field("Cord used in its knots", "pull.cord")
        self.by = Field("Tied by (initials)", "pull.tied_by", hint="TV")
        self.checker = Field("Checked by (initials)", "pull.checked_by", hint="OQ")
        self.tied = button("Keep as tied", "pull.keep_tied", "primary")
        self.check = button("Keep the check", "pull.keep_checked")
        self.soak = button("Soak begins", "pull.soak")
        self.same = button("As last", "pull.same", "chip")
        self.same.setAccessibleName("Tied the same way as the last one")
        self.state = Words("", "small", "ochre")
        self.state.setObjectName("pull.prepare.state")
        self.clock = Words("", "strong-small", "storm")
        self.clock.setObjectName("pull.prepare.clock")
        self.watch = button("Start (Alt+T)", "pull.watch", bench=True)
        self.watch.setShortcut("Alt+T")
        self.trial = Form(
            {
                "seconds": Field("Seconds to tie", "pull.trial.seconds", hint="from the clock"),
                "attempts": Field("Attempts", "pull.trial.attempts", hint="1"),
                "wrong": Field("Wrong ties", "pull.trial.wrong", hint="0"),
                "hands": ChoiceField("Hands", "pull.trial.hands", HANDS),
            }
        )
        self.ask = button("Ask the inspector", "pull.ask_inspector")
        self.lay_out = button("Check the tie", "pull.check_tie", "chip")
        self.lay_out.setMinimumWidth(_LEAST_PX)
        self.seen = Words("", "small", "muted", elide=True)
        self.seen.setObjectName("pull.trial.seen")
        self._said: dict[str, str] = {}
        self.keep_trial = button("Keep the trial", "pull.keep_trial")
        self.trials = Words("", "small", "muted")
        self.trials.setObjectName("pull.trials")
        for part in (self.queue, self.sheet, self.state, self.clock, self.trials):
            # A long text wraps or elides in the room there is; it must not ask for more.
            part.setMinimumWidth(WORDS_PX)
        self._offered: tuple[str, ...] = ()
        self._seconds = QTimer(self)
        self._seconds.setInterval(20_000)
        self._seconds.timeout.connect(self._show_clock)
        self._build()
        self._connect()

    def _build(self) -> None:
        left = Card("THE QUEUE")
        left.setMinimumWidth(NARROW_SHELF_WIDTH)
        left.setMaximumWidth(SHELF_WIDTH)
        left.column.addWidget(self.queue, 1)
        sheet = Card("HOW IT IS TIED")
        self.strip.setFixedHeight(74)
        sheet.column.addWidget(self.strip)
        room = Scrolled("pull.prepare.scroll")
        both = QHBoxLayout()
        for panel in self.faces:
            both.addWidget(panel, 1, Qt.AlignmentFlag.AlignTop)
        room.column.addLayout(both)
        room.column.addWidget(self.sheet)
        room.column.addStretch(1)
        sheet.column.addWidget(room, 1)
        sheet.column.addWidget(self.lay_out)
        self.clock.hide()
        sheet.column.addWidget(self.clock)
        done = Card("HOW THIS ONE WAS TIED")
        done.column.addWidget(self.points, 1)
        done.column.addWidget(self.marked)
        grid = QGridLayout()
        grid.setSpacing(SPACE["s"])
        for n, field in enumerate((*self.lengths, self.cord)):
            grid.addWidget(field, n // 3, n % 3)
        done.column.addLayout(grid)
        row = side_by_side((self.by, 2), (self.checker, 2))
        done.column.addLayout(row)
        keys = QHBoxLayout()
        for part in (self.same, self.soak):
            keys.addWidget(part)
        keys.addStretch(1)
        for part in (self.check, self.tied):
            keys.addWidget(part)
        done.column.addLayout(keys)
        done.column.addWidget(self.state)
        trial = Card("TYING TRIAL")
        f = self.trial.fields
        trial.column.addLayout(
            side_by_side((f["seconds"], 2), (f["attempts"], 1), (f["wrong"], 1), (f["hands"], 2))
        )
        row = QHBoxLayout()
        row.addWidget(self.watch)
        row.addWidget(self.ask)
        row.addWidget(self.seen, 1)
        row.addWidget(self.keep_trial)
        trial.column.addLayout(row)
        trial.column.addWidget(self.trials)
        right = QVBoxLayout()
        right.setSpacing(SPACE["s"])
        right.addWidget(done, 1)
        right.addWidget(trial)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["m"])
        across.addWidget(left, 4)
        across.addWidget(sheet, 4)
        across.addLayout(right, 5)

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        self.queue.chosen.connect(self._on_picked)
        self.points.list.itemChanged.connect(self._on_ticked)
        self.marked.toggled.connect(self._on_marked)
        self.tied.clicked.connect(self._on_tied)
        self.check.clicked.connect(lambda: p.keep_checked(self.checker.text))
        self.soak.clicked.connect(lambda: p.soak(self.by.text))
        self.same.clicked.connect(self._on_same)
        self.watch.clicked.connect(self._on_watch)
        self.ask.clicked.connect(lambda: self._on_ask())
        self.lay_out.clicked.connect(self._on_lay_out)
        self.keep_trial.clicked.connect(self._on_trial)
        self._seconds.start()

    def _show_clock(self) -> None:
        self.clock.say(self._presenter.clock())

    def _on_picked(self) -> None:
        if self.queue.keys:
            self._presenter.pick(self.queue.keys[0])

    def _on_ticked(self, item: QListWidgetItem) -> None:
        del item
        self._presenter.draft.ticked = set(self.points.keys)

    def _on_marked(self, marked: bool) -> None:
        self._presenter.draft.marked = marked

    def _texts(self) -> dict[str, str]:
        wanted = self._presenter.lengths()
        texts = {key: field.text for (key, _, _), field in zip(wanted, self.lengths, strict=False)}
        return {**texts, "cord": self.cord.text}

    def _on_tied(self) -> None:
        errors = self._presenter.keep_tied(self._texts(), self.by.text)
        for (key, _, _), field in zip(self._presenter.lengths(), self.lengths, strict=False):
            field.complain(errors.get(key, ""))
        self.cord.complain(errors.get("cord", ""))
        self.by.complain(errors.get("by", ""))

    def _on_same(self) -> None:
        last = self._presenter.same_as_last()
        self.by.fill(last.get("by", self.by.text))
        self.checker.fill(last.get("checked", self.checker.text))
        if last.get("hands"):
            self.trial.fields["hands"].fill(last["hands"])

    def _on_lay_out(self) -> None:
        p = self._presenter
        desk = p.tie()
        if p.entry is None or desk is None:
            return

        def ask() -> None:
            self._on_ask(lambda page: desk.drawn_tie(page, FRONT))

        def keep(by: str) -> str:
            return p.keep_tie(by, desk)

        title = f"{p.entry.specimen.code}: {p.entry.specimen.title}"
        TieDialog(desk, title, keep, ask, self).open()

    def _on_ask(self, drawn: Callable[[tuple[float, float]], Figure | None] | None = None) -> None:
        entry = self._presenter.entry
        if entry is None:
            return
        named = self._presenter.named()
        dialog = InspectorDialog(entry.specimen.code, named, self, drawn=drawn)
        dialog.accepted.connect(lambda: self._take_seen(dialog.texts))
        dialog.open()

    def _take_seen(self, said: dict[str, str]) -> None:
        self._said = said
        names = dict(self._presenter.named())
        words = f"{said['inspector']}: {said['verdict']}"
        self.seen.say(f"{words}, takes it for {names[said['named']]}" if said["named"] else words)

    def _on_watch(self) -> None:
        seconds = self._presenter.turn_clock()
        if seconds:
            self.trial.fields["seconds"].fill(seconds)

    def _on_trial(self) -> None:
        texts = self.trial.texts() | self._said
        errors = self._presenter.keep_trial(texts, self.by.text)
        self.trial.complain(errors)
        self.by.complain(errors.get("by", ""))
        self.seen.say(errors.get("inspector", self.seen.words))
        if not errors:
            self._clear_trial()

    def _clear_trial(self) -> None:
        for name in ("seconds", "attempts", "wrong"):
            self.trial.fields[name].fill("")
        self._said = {}
        self.seen.say("")

    def _on_changed(self) -> None:
        p = self._presenter
        self.queue.show_rows(p.rows())
        self.queue.look_again()
        self.queue.select_key("" if p.entry is None else p.entry.specimen.id)
        nothing = p.entry is None
        for part in (self.tied, self.check, self.keep_trial, self.watch, self.ask):
            part.setEnabled(not nothing and not p.workshop.read_only)
        self.lay_out.setEnabled(p.can_lay_out and not p.workshop.read_only)
        self.soak.setVisible(p.may_soak)
        self.state.say(p.state_words())
        self.clock.say(p.clock())
        self.clock.setVisible(bool(p.clock()))
        self.trials.say(p.trial_words())
        self.watch.setText(f"{'Stop' if p.clock_runs else 'Start'} (Alt+T)")
        key = "" if p.entry is None else p.entry.specimen.id
        wanted = (key, *p.points())
        if wanted != self._offered:
            self._offered = wanted
            self._show_specimen()

    def _show_specimen(self) -> None:
        p = self._presenter
        points = [(point, point) for point in p.points()]
        self.points.list.blockSignals(True)
        self.points.offer(points, tuple(p.draft.ticked))
        self.points.list.blockSignals(False)
        self.marked.setChecked(p.draft.marked)
        lengths = p.lengths()
        for n, field in enumerate(self.lengths):
            there = n < len(lengths)
            field.setVisible(there)
            if there:
                key, label, planned = lengths[n]
                field.label.say(f"{label}, as tied")
                field.entry.setAccessibleName(f"{label}, as tied")
                field.entry.setPlaceholderText(f"planned {planned}" if planned else "")
                field.fill(p.draft.texts.get(key, ""))
            field.complain("")
        self.cord.fill(p.draft.texts.get("cord", ""))
        self._clear_trial()
        if p.entry is None:
            self.sheet.say("The queue is empty.")
            return
        specimen = p.entry.specimen
        state = StripState(compact=True, knots=knots_of(specimen))
        self.strip.show_strip(specimen.layout, state)
        knot = specimen.knot_a
        for panel in self.faces:
            panel.setVisible(knot is not None)
            if knot is not None:
                panel.show_knot(knot.structure, dict(knot.choices), knot.title)
        self.sheet.say("\n\n".join(self._sheet_words()))

    def _sheet_words(self) -> list[str]:
        said = []
        for s in self._presenter.sheets():
            where = f" ({s.where})" if s.where else ""
            said.append(f"{s.title.upper()}{where}\n{s.tail_words}")
            said.append("RIGHT WHEN\n" + "\n".join(f"·  {cue}" for cue in s.cues))
            steps = (*s.dressing, *s.setting)
            said.append(
                "DRESS AND SET\n" + "\n".join(f"{n}  {x}" for n, x in enumerate(steps, start=1))
            )
            if s.look_alikes:
                said.append("WRONG WHEN\n" + "\n".join(f"·  {x}" for x in s.look_alikes))
        return said or ["Plain rope: four turns on each drum, the end clamped. Nothing to tie."]
