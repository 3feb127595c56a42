"""The findings station: what gave and where, how far tails drew, what it took to untie."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from bruiser.core.layouts import End
from bruiser.core.records import JAM_WORDS, Gave, JamLevel
from bruiser.figures.strip import StripState
from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.kit.trace_view import TraceView
from bruiser.ui.stations.findings.presenter import FindingsPresenter
from bruiser.ui.theme.tokens import SIDE_WIDTH, SPACE

GAVE_WORDS = {
    Gave.BROKE: "Broke",
    Gave.CAME_OUT: "Came out",
    Gave.CAPSIZED: "Capsized",
    Gave.STOPPED: "Nothing gave",
    Gave.VOID: "Void",
}


class KnotCard(Card):
    """What was found at one knot: draws, jam level, seconds."""

    jam_chosen = pyqtSignal(object, object)

    def __init__(self, end: End) -> None:
        super().__init__()
        self.end = end
        self.heading = Words("", "strong", elide=True)
        self.column.addWidget(self.heading)
        self.draws: dict[str, Field] = {}
        self._draw_row = QHBoxLayout()
        self.column.addLayout(self._draw_row)
        self.column.addWidget(Words("What it took to untie", "small", "muted"))
        self.levels = QButtonGroup(self)
        self.levels.setExclusive(True)
        grid = QGridLayout()
        grid.setSpacing(SPACE["xs"])
        for half in (0, 1):
            grid.setColumnStretch(half, 1)
        self._buttons: dict[JamLevel, QPushButton] = {}
        for number, level in enumerate(JamLevel):
            chip = button(JAM_WORDS[level], f"findings.jam.{end}.{level}", "chip", bench=True)
            chip.setAccessibleName(f"Knot {end}: {JAM_WORDS[level]}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False, lv=level: self.jam_chosen.emit(self.end, lv))
            self.levels.addButton(chip)
            self._buttons[level] = chip
            grid.addWidget(chip, number // 2, number % 2)
        self.column.addLayout(grid)
        self.untie = Field("Seconds to untie", f"findings.untie.{end}", hint="12 s")
        grid.addWidget(self.untie, 3, 1, 2, 1)
        self.wrong = Words("", "small", "brick")
        self.wrong.setObjectName(f"findings.jam.{end}.wrong")
        self.column.addWidget(self.wrong)
        self.column.addStretch(1)

    def set_up(self, name: str, tails: list[tuple[str, str, str]]) -> None:
        """Show a knot's name and its tails: key, label, hint."""
        self.heading.say(name)
        for field in self.draws.values():
            self._draw_row.removeWidget(field)
            field.setParent(None)
            field.deleteLater()
        self.draws = {}
        for key, label, hint in tails:
            field = Field(label, f"findings.draw.{key}", hint=hint)
            self.draws[key] = field
            self._draw_row.addWidget(field)
        self.levels.setExclusive(False)
        for chip in self._buttons.values():
            chip.setChecked(False)
        self.levels.setExclusive(True)
        self.untie.entry.clear()
        self.clear_complaints()

    def show_level(self, level: JamLevel | None) -> None:
        """Mark the level chosen."""
        if level is not None:
            self._buttons[level].setChecked(True)

    def clear_complaints(self) -> None:
        """Take back what was said to be wrong."""
        for field in (*self.draws.values(), self.untie):
            field.complain("")
        self.wrong.say("")


class FindingsView(StationPage):
    """Builds the findings station and connects it to its presenter."""

    trace_wanted = pyqtSignal(str)

    def __init__(self, presenter: FindingsPresenter) -> None:
        super().__init__("findings")
        self._presenter = presenter
        self.strip = StripView("findings.strip", tappable=True)
        self.gave = QButtonGroup(self)
        self._gave_buttons: dict[Gave, QPushButton] = {}
        self.place_wrong = Words("", "small", "brick")
        self.place_wrong.setObjectName("findings.place.wrong")
        self.cards = {end: KnotCard(end) for end in End}
        self.opinion = Words("", "body")
        self.opinion.setObjectName("findings.trace.words")
        self.against = Words("", "strong-small", "ochre")
        self.against.setObjectName("findings.contradiction")
        self.trace = TraceView("findings.trace")
        self.look = button("Look into the trace", "findings.trace.open", "chip")
        self.look.clicked.connect(self._on_look)
        self.remains = Words("", "small")
        self.remains.setObjectName("findings.remains")
        self.peak = Field("Peak (from the trace)", "findings.peak")
        self.untied = Field("How it was untied", "findings.untied", hint="bent back, then pushed")
        self.note = Field("Note", "findings.note")
        self.reason = Field("Why it is void", "findings.void_reason")
        self.accept = button(
            "Accept findings (Ctrl+Enter)", "findings.accept", "primary", bench=True
        )
        self.first = self.strip
        self._build()
        self._connect()

    def _build(self) -> None:
        strip = Card("WHERE DID IT GIVE? TAP THE PLACE")
        self.strip.setMinimumHeight(132)
        strip.column.addWidget(self.strip, 1)
        row = QHBoxLayout()
        row.setSpacing(SPACE["s"])
        for gave, words in GAVE_WORDS.items():
            chip = button(words, f"findings.gave.{gave}", bench=True)
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False, g=gave: self._presenter.choose(g))
            self.gave.addButton(chip)
            self._gave_buttons[gave] = chip
            row.addWidget(chip)
        row.addWidget(self.place_wrong, 1)
        strip.column.addLayout(row)
        strip.setFixedHeight(232)
        knots = QHBoxLayout()
        knots.setSpacing(SPACE["m"])
        for card in self.cards.values():
            card.jam_chosen.connect(self._presenter.set_jam)
            knots.addWidget(card, 1)
        more = Card()
        fields = QHBoxLayout()
        fields.setSpacing(SPACE["m"])
        for field, share in ((self.peak, 2), (self.untied, 3), (self.note, 3), (self.reason, 3)):
            fields.addWidget(field, share, Qt.AlignmentFlag.AlignTop)
        more.column.addLayout(fields)
        left = QVBoxLayout()
        left.setSpacing(SPACE["s"])
        left.addWidget(strip)
        left.addLayout(knots, 1)
        left.addWidget(more)
        side = QWidget()
        side.setFixedWidth(SIDE_WIDTH)
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(SPACE["s"])
        said = Card("WHAT THE TRACE SAYS")
        self.trace.setFixedHeight(150)
        said.column.addWidget(self.trace)
        said.column.addWidget(self.look, 0, Qt.AlignmentFlag.AlignLeft)
        said.column.addWidget(self.opinion)
        said.column.addWidget(self.against)
        self._lies = Card("ON THE SIMULATED BENCH")
        self._lies.column.addWidget(self.remains)
        caution = Card("BEFORE YOU TOUCH IT", caution=True)
        caution.column.addWidget(
            Words("Load off, bench disarmed. This piece is retired: it never goes back.", "small")
        )
        for part in (said, self._lies, caution):
            right.addWidget(part)
        right.addStretch(1)
        right.addWidget(self.accept)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addLayout(left, 1)
        across.addWidget(side)
        self.body.addLayout(across, 1)

    def _connect(self) -> None:
        p = self._presenter
        p.specimen_changed.connect(self._on_specimen_changed)
        p.draft_changed.connect(self._on_draft_changed)
        p.refused.connect(self._on_refused)
        self.strip.spot_tapped.connect(p.tap)
        self.accept.clicked.connect(self._on_accept)
        for keys in ("Ctrl+Return", "Ctrl+Enter"):
            QShortcut(
                keys, self, self._on_accept, context=Qt.ShortcutContext.WidgetWithChildrenShortcut
            )

    def _on_look(self) -> None:
        entry = self._presenter.entry
        if entry is not None and entry.pull is not None:
            self.trace_wanted.emit(entry.pull.id)

    def _on_accept(self) -> None:
        draft = self._presenter.draft
        draft.peak = self.peak.text
        draft.untied_how = self.untied.text
        draft.note = self.note.text
        draft.void_reason = self.reason.text
        for end, card in self.cards.items():
            for key, field in card.draws.items():
                draft.draws[key] = field.text
            draft.untie[end] = card.untie.text
        self._clear_complaints()
        self._presenter.accept()

    def _clear_complaints(self) -> None:
        self.place_wrong.say("")
        for card in self.cards.values():
            card.clear_complaints()
        for field in (self.peak, self.reason):
            field.complain("")

    def _on_refused(self, errors: dict[str, str]) -> None:
        self.place_wrong.say(errors.get("place", ""))
        self.peak.complain(errors.get("peak", ""))
        self.reason.complain(errors.get("void_reason", ""))
        for end, card in self.cards.items():
            card.wrong.say(errors.get(f"jam.{end}", ""))
            card.untie.complain(errors.get(f"untie.{end}", ""))
            for key, field in card.draws.items():
                field.complain(errors.get(f"draw.{key}", ""))
        first = next((f for f in self._fields() if f.complaint), None)
        if first is not None:
            first.entry.setFocus()

    def _fields(self) -> list[Field]:
        found = [f for card in self.cards.values() for f in (*card.draws.values(), card.untie)]
        return [*found, self.peak, self.reason]

    def _on_specimen_changed(self) -> None:
        p = self._presenter
        self._clear_complaints()
        for field in (self.peak, self.untied, self.note, self.reason):
            field.entry.clear()
        nothing = p.entry is None
        self.setProperty("empty", nothing)
        self.accept.setEnabled(not nothing)
        for part in (*self.cards.values(), self.strip, *self._gave_buttons.values()):
            part.setEnabled(not nothing)
        if p.entry is None or p.entry.pull is None:
            self.title.say("Nothing waits to be inspected")
            self.subtitle.say("Pull the next specimen; its findings come here.")
            self._lies.hide()
            self.opinion.say("")
            self.against.say("")
            return
        s = p.entry.specimen
        more = f"  ·  {p.waiting - 1} more waiting" if p.waiting > 1 else ""
        self.title.say(f"{s.code} · {s.title}")
        self.subtitle.say(f"lot {s.lot.name}, {s.lot.condition}{more}")
        for end, card in self.cards.items():
            knot = s.knot_at(end)
            card.setVisible(knot is not None)
            tails = []
            for spot in s.layout.tails if knot is not None else ():
                if spot.end is end:
                    tied = s.tail_length_m(spot.key)
                    of = "" if tied is None else f" (of {p.units.length_text(tied)})"
                    tails.append((spot.key, f"{spot.label} drew{of}", f"14 {p.units.length}"))
            name = "" if knot is None else knot.name
            both = s.knot_b is not None
            card.set_up(f"Knot {end}: {name}" if both else name, tails)
        if p.entry.analysis is not None:
            self.peak.entry.setPlaceholderText(p.units.force_text(p.entry.analysis.peak_n))
        self.opinion.say(p.trace_words())
        self.trace.show_trace(p.trace(), p.entry.analysis, p.units)
        lines = p.remains_words()
        self._lies.setVisible(bool(lines))
        self.remains.say("\n".join(lines))
        self._on_draft_changed()

    def _on_draft_changed(self) -> None:
        p = self._presenter
        if p.entry is None:
            return
        self.gave.setExclusive(False)
        for gave, chip in self._gave_buttons.items():
            chip.setChecked(p.draft.gave is gave)
        self.gave.setExclusive(True)
        state = StripState(place=p.draft.place, gave=p.draft.gave)
        self.strip.show_strip(p.entry.specimen.layout, state)
        self.reason.setVisible(p.draft.gave is Gave.VOID)
        for end, card in self.cards.items():
            card.show_level(p.draft.jams.get(end))
        self.against.say(p.contradiction())
        if p.draft.place is not None and p.draft.gave is not None:
            self.place_wrong.say("")
