"""The findings station: what gave and where, how far tails drew, what it took to untie."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QShortcut
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QVBoxLayout, QWidget
from typing_extensions import override

from bruiser.core.records.layouts import End
from bruiser.core.records.records import Gave
from bruiser.figures.silhouette import knots_of
from bruiser.figures.strip import StripState
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Card, StationPage, Words, button
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.kit.trace_view import TraceView
from bruiser.ui.runtime.input_gate import input_gate
from bruiser.ui.stations.findings.history_view import HistoryDialog
from bruiser.ui.stations.findings.keys import (
    CLOCK_KEY,
    GAVE_KEYS,
    GAVE_OF,
    GAVE_WORDS,
    LEVEL_OF,
    MARKS_KEY,
)
from bruiser.ui.stations.findings.knot_card import KnotCard
from bruiser.ui.stations.findings.load_may_be_on import LoadMayBeOn
from bruiser.ui.stations.findings.photos import PhotosCard
from bruiser.ui.stations.findings.presenter import FindingsPresenter
from bruiser.ui.stations.findings.settling_card import SettlingCard
from bruiser.ui.theme.tokens import SIDE_WIDTH, SPACE
from bruiser.workshop.desk.preparing import not_done

_STRIP_HIGH, _STRIP_LOW = 216, 88
"""Heights in pixels of the card with the strip, and of the strip where findings are settled."""


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
        self.proposal = Words("", "small", "muted")
        self.proposal.setObjectName("findings.proposal")
        self.marks = button(f"No mark moved ({MARKS_KEY})", "findings.marks", bench=True)
        self.cards = {end: KnotCard(end) for end in End}
        self.opinion = Words("", "body")
        self.opinion.setObjectName("findings.trace.words")
        self.against = Words("", "strong-small", "ochre")
        self.against.setObjectName("findings.contradiction")
        self.kept = Field("Kept, because", "findings.against")
        self.trace = TraceView("findings.trace")
        self.look = button("Look into the trace", "findings.trace.open", "chip")
        self.remains = Words("", "small")
        self.remains.setObjectName("findings.remains")
        self.photos = PhotosCard(presenter.photos, self.strip)
        self.peak = Field("Peak (from the trace)", "findings.peak")
        self.untied = Field("How it was untied", "findings.untied", hint="bent back, then pushed")
        self.note = Field("Note", "findings.note")
        self.by = Field("By (initials)", "findings.by", hint="TV")
        self.reason = Field("Why it is void", "findings.void_reason")
        self.correction = Field("Why it is corrected", "findings.correction")
        self.earlier = ChoiceField("", "findings.earlier")
        self.earlier.box.setAccessibleName("Specimen: what waits, or an earlier one to correct")
        self.earlier.label.hide()
        self.earlier.setFixedWidth(170)
        self.same = button("Same as last", "findings.same", "chip")
        self.history = button("History", "findings.history", "chip")
        self.settling = SettlingCard(presenter)
        self.loaded, self._form = LoadMayBeOn(), QWidget()
        self.accept = button(
            "Accept findings (Ctrl+Enter)", "findings.accept", "primary", bench=True
        )
        self.first = self.strip
        self._showing = False
        self._build()
        self._connect()
        self._on_specimen_changed()

    def _build(self) -> None:
        for part in (self.earlier, self.same, self.history):
            self.corner.addWidget(part, 0, Qt.AlignmentFlag.AlignTop)
        strip = self._strip_card = Card("WHERE DID IT GIVE? TAP THE PLACE, OR TYPE ITS NUMBER")
        self.strip.setMinimumHeight(124)
        strip.column.addWidget(self.strip, 1)
        row = QHBoxLayout()
        row.setSpacing(SPACE["s"])
        for gave, words in GAVE_WORDS.items():
            said = f"{words} {GAVE_KEYS[gave]}"
            chip = button(said, f"findings.gave.{gave}", "chip", bench=True)
            chip.setAccessibleName(words)
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False, g=gave: self._presenter.choose(g))
            self.gave.addButton(chip)
            self._gave_buttons[gave] = chip
            row.addWidget(chip)
        row.addWidget(self.proposal)
        row.addWidget(self.place_wrong, 1)
        strip.column.addLayout(row)
        strip.setFixedHeight(_STRIP_HIGH)
        knots = QHBoxLayout()
        knots.setSpacing(SPACE["m"])
        for card in self.cards.values():
            knots.addWidget(card, 1)
        more = Card()
        fields = QHBoxLayout()
        fields.setSpacing(SPACE["m"])
        for field, share in (
            (self.peak, 3), (self.untied, 4), (self.note, 4), (self.by, 2), (self.reason, 4),
            (self.correction, 4),
        ):  # fmt: skip
            fields.addWidget(field, share, Qt.AlignmentFlag.AlignTop)
        more.column.addLayout(fields)
        left = QVBoxLayout()
        left.setSpacing(SPACE["s"])
        form = QVBoxLayout(self._form)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(SPACE["s"])
        form.addWidget(self.settling)
        form.addWidget(strip)
        form.addLayout(knots, 1)
        form.addWidget(more)
        left.addWidget(self.loaded)
        left.addWidget(self._form, 1)
        left.addStretch()
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addLayout(left, 1)
        across.addWidget(self._side())
        self.body.addLayout(across, 1)

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(SIDE_WIDTH)
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(SPACE["s"])
        said = Card("WHAT THE TRACE SAYS")
        self.trace.setFixedHeight(126)
        said.column.addWidget(self.trace)
        said.column.addWidget(self.look, 0, Qt.AlignmentFlag.AlignLeft)
        said.column.addWidget(self.opinion)
        said.column.addWidget(self.against)
        said.column.addWidget(self.kept)
        self._lies = Card("ON THE SIMULATED BENCH")
        self._lies.column.addWidget(self.remains)
        caution = Card("BEFORE YOU TOUCH IT", caution=True)
        caution.column.addWidget(
            Words("Take the load off, disarm the bench. This piece is retired for good.", "small")
        )
        for part in (said, self._lies, self.photos, caution):
            right.addWidget(part)
        right.addStretch(1)
        right.addWidget(self.marks)
        right.addWidget(self.accept)
        return side

    def _connect(self) -> None:
        p = self._presenter
        p.specimen_changed.connect(self._on_specimen_changed)
        p.draft_changed.connect(self._on_draft_changed)
        p.photos_changed.connect(self._on_photos)
        p.photos.ruled.connect(self._on_draft_changed)
        p.refused.connect(self._on_refused)
        p.place_judged.connect(self.place_wrong.say)
        self.strip.spot_tapped.connect(p.tap)
        self.strip.spot_dragged.connect(lambda key, share: p.drag_tail(key[6:], share))
        self.marks.clicked.connect(p.nothing_drew)
        self.look.clicked.connect(self._on_look)
        self.earlier.chosen.connect(p.open_earlier)
        self.same.clicked.connect(p.same_as_last)
        self.history.clicked.connect(self._on_history)
        self.accept.clicked.connect(self._on_accept)
        self.loaded.looked.clicked.connect(p.looked)
        for field in (
            self.peak, self.untied, self.note, self.reason, self.by, self.kept, self.correction
        ):  # fmt: skip
            field.entry.textChanged.connect(self._on_typed)
        for card in self.cards.values():
            card.typed.connect(self._on_typed)
            card.jam_chosen.connect(p.set_jam)
            card.clock_turned.connect(p.turn_clock)
        for keys in ("Ctrl+Return", "Ctrl+Enter"):
            accept = QShortcut(
                keys, self, self._on_accept, context=Qt.ShortcutContext.WidgetWithChildrenShortcut
            )
            accept.setAutoRepeat(False)

    @override
    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        """One key a place, a finding and a level, while no field is typed in."""
        p = self._presenter
        key = "" if a0 is None else a0.text().upper()
        places = () if p.entry is None else p.entry.specimen.layout.places
        if a0 is None or a0.isAutoRepeat() or p.entry is None:
            super().keyPressEvent(a0)
        elif key.isdigit() and 0 < int(key) <= len(places):
            self.strip.point_at(places[int(key) - 1].key)
            p.tap(places[int(key) - 1].key)
        elif key in GAVE_OF:
            p.choose(GAVE_OF[key])
        elif key == MARKS_KEY:
            p.nothing_drew()
        elif key == CLOCK_KEY:
            p.turn_clock()
        elif key in LEVEL_OF and p.next_knot() is not None:
            p.set_jam(p.next_knot() or End.A, LEVEL_OF[key])
        else:
            super().keyPressEvent(a0)

    def _on_look(self) -> None:
        entry = self._presenter.entry
        if entry is not None and entry.pull is not None:
            self.trace_wanted.emit(entry.pull.id)

    def _on_history(self) -> None:
        entry = self._presenter.entry
        if entry is not None:
            HistoryDialog(entry.specimen.code, self._presenter.history(), self).open()

    def _on_typed(self) -> None:
        """Take what is typed into the draft; not while the fields are being filled from it."""
        if self._showing:
            return
        draft = self._presenter.draft
        draft.peak = self.peak.text
        draft.untied_how = self.untied.text
        draft.note = self.note.text
        draft.void_reason = self.reason.text
        draft.by = self.by.text
        draft.against = self.kept.text
        draft.correction = self.correction.text
        for end, card in self.cards.items():
            draft.draws |= {key: field.text for key, field in card.draws.items()}
            draft.lengths |= {key: field.text for key, field in card.lengths.items()}
            draft.untie[end] = card.untie.text
            draft.forms[end] = card.form.text

    def _show_fields(self) -> None:
        """Put the draft into the fields; what is typed is in it already."""
        self._showing = True
        draft = self._presenter.draft
        pairs = [
            (self.peak, draft.peak),
            (self.untied, draft.untied_how),
            (self.note, draft.note),
            (self.reason, draft.void_reason),
            (self.by, draft.by),
            (self.kept, draft.against),
            (self.correction, draft.correction),
        ]
        for end, card in self.cards.items():
            pairs += [(f, draft.draws.get(key, "")) for key, f in card.draws.items()]
            pairs += [(f, draft.lengths.get(key, "")) for key, f in card.lengths.items()]
            pairs += [(card.untie, draft.untie.get(end, "")), (card.form, draft.forms.get(end, ""))]
        for field, text in pairs:
            if field.text != text:
                field.fill(text)
        self._showing = False

    def _on_accept(self) -> None:
        self._on_refused({})
        self._presenter.accept()

    def _on_refused(self, errors: dict[str, str]) -> None:
        self.place_wrong.say(errors.get("place", ""))
        self.loaded.wrong.say(errors.get("load", ""))
        for name, field in (
            ("peak", self.peak),
            ("void_reason", self.reason),
            ("against", self.kept),
            ("correction", self.correction),
        ):
            field.complain(errors.get(name, ""))
        for card in self.cards.values():
            card.complain(errors)
        first = next((f for f in self._fields() if f.complaint), None)
        if first is not None:
            first.entry.setFocus()

    def _fields(self) -> list[Field]:
        found = [f for card in self.cards.values() for f in card.fields]
        return [*found, self.peak, self.reason, self.kept, self.correction]

    def _on_photos(self) -> None:
        self.photos.show_photos()
        self._on_draft_changed()

    def _on_specimen_changed(self) -> None:
        p = self._presenter
        self._on_refused({})
        self.earlier.offer(p.earlier())
        self.earlier.fill("" if p.entry is None or p.entry.pull is None else p.entry.pull.id)
        self.strip.point_at(None)
        input_gate().close_to_held()
        self.strip.setMinimumHeight(_STRIP_LOW if p.versions else 124)
        self._strip_card.setFixedHeight(_STRIP_HIGH - (36 if p.versions else 0))
        nothing = p.entry is None
        self.loaded.come_first(p.must_look, self._form)
        self.setProperty("empty", nothing)
        for part in (
            *self.cards.values(), self.strip, *self._gave_buttons.values(), self.accept,
            self.photos, self.marks, self.history, self.same,
        ):  # fmt: skip
            part.setEnabled(not nothing)
        self.photos.show_photos()
        if p.entry is None or p.entry.pull is None:
            self.title.say("Nothing waits to be inspected")
            self.subtitle.say("Pull the next specimen; its findings come here.")
            self._lies.hide()
            self.opinion.say("")
            self.against.say("")
            self.kept.hide()
            self.correction.hide()
            return
        s = p.entry.specimen
        more = f"  ·  {p.waiting - 1} more waiting" if p.waiting > 1 else ""
        note = "  ·  corrected: the first entry stays" if p.correcting else more
        self.title.say(f"{s.code} · {s.title}")
        missing = not_done(p.entry)
        left = f"  ·  before the pull: {'; '.join(missing)}" if missing else ""
        self.subtitle.say(f"lot {s.lot.name}, {s.lot.condition}  ·  {s.method.words}{note}{left}")
        self._showing = True
        for end, card in self.cards.items():
            self._set_up(end, card)
        self.peak.entry.setPlaceholderText("")
        if p.entry.analysis is not None:
            self.peak.entry.setPlaceholderText(p.units.force_text(p.entry.analysis.peak_n))
        self.opinion.say(p.trace_words())
        self.trace.show_trace(p.trace(), p.entry.analysis, p.units)
        lines = p.remains_words()
        self._lies.setVisible(bool(lines))
        self.remains.say("\n".join(lines))
        self._on_draft_changed()

    def _set_up(self, end: End, card: KnotCard) -> None:
        p = self._presenter
        if p.entry is None:
            return
        s, unit = p.entry.specimen, p.units.length
        knot = s.knot_at(end)
        card.setVisible(knot is not None)
        mine = [t for t in s.layout.tails if knot is not None and t.end is end]
        tails = [(t.key, f"{t.label} drew", f"14 {unit}") for t in mine]
        lengths = [
            (x.key, x.label if x.moves else f"{x.label} after", "as before")
            for x in s.layout.lengths
            if knot is not None and x.end is end
        ]
        name = "" if knot is None else knot.name
        card.set_up(f"Knot {end}: {name}" if s.knot_b is not None else name, tails, lengths)

    def _on_draft_changed(self) -> None:
        p = self._presenter
        self.loaded.come_first(p.must_look, self._form)
        if p.entry is None:
            return
        self._show_fields()
        self.gave.setExclusive(False)
        for gave, chip in self._gave_buttons.items():
            chip.setChecked(p.draft.gave is gave)
        self.gave.setExclusive(True)
        state = StripState(
            place=p.draft.place,
            gave=p.draft.gave,
            tail_notes=p.tail_notes(),
            drawn=p.drawn_shares(),
            keys=True,
            photos=len(p.entry.photos),
            knots=knots_of(p.entry.specimen),
        )
        self.strip.show_strip(p.entry.specimen.layout, state)
        self.photos.place_thumbs()
        self.reason.setVisible(p.draft.gave is Gave.VOID)
        self.correction.setVisible(p.correcting)
        for end, card in self.cards.items():
            card.show_level(p.draft.jams.get(end))
            card.show_clock(p.clock_runs)
        against = p.contradiction()
        self.against.say(against)
        self.kept.setVisible(bool(against))
        read = p.proposal if p.draft.gave is None else None
        self.proposal.say(
            ""
            if read is None
            else f"The trace reads: {GAVE_WORDS[read].lower()}. {GAVE_KEYS[read]} says so."
        )
