"""The bench book, and whether the bench it describes can bear what is planned."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.core.planning.bench_checks import CheckVerdict
from bruiser.core.planning.safety import ASSUMPTIONS
from bruiser.core.records.bench_book import FIXTURE_KINDS
from bruiser.core.records.methods import METHODS
from bruiser.ui.kit.fields import Chips, ChoiceField, Field, Form, Labelled, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.plain_table import PlainTable
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.shown_stack import ShownStack
from bruiser.ui.stations.plan.bench_presenter import BenchPresenter
from bruiser.ui.theme.tokens import SPACE

_TONES = {CheckVerdict.PASS: "moss", CheckVerdict.CAUTION: "ochre", CheckVerdict.STOP: "brick"}
_LANE = (
    "A line under tension stores energy; when it parts, ends, pins and shackles fly along the line "
    "of pull, at speeds no distance in a workshop makes safe. Guard the lane, keep everybody out "
    "of it while anything is loaded, and unload before touching."
)
FIELDS: tuple[tuple[str, str, str, int, int, int], ...] = (
    ("name", "Bench", "", 0, 0, 2),
    ("stroke", "Stroke", "1000 mm", 0, 2, 1),
    ("rate", "Rate", "8 mm/s", 0, 3, 1),
    ("capacity", "Load cell", "25 kN", 1, 0, 1),
    ("accuracy_class", "Its class", "0.5", 1, 1, 1),
    ("resolution", "Resolution", "2 N", 1, 2, 1),
    ("sample_rate", "Readings a second", "500", 1, 3, 1),
    ("calibrated_on", "Calibrated on", "2026-01-15", 2, 0, 1),
    ("calibration_due", "Calibration due", "2027-01-15", 2, 1, 1),
    ("estop_checked_on", "Emergency stop tried", "2026-03-31", 2, 2, 1),
    ("compliance", "Stretch, µm/N", "0.1", 2, 3, 1),
    ("keep_away", "Keep-away rule", "nobody in the lane while loaded", 3, 0, 3),
    ("factor", "Calibration factor", "1", 3, 3, 1),
    ("guard", "Guard", "", 4, 0, 3),
    ("guard_energy", "Rated for, J", "", 4, 3, 1),
)
PAGES = {"checks": "What it bears", "book": "The bench book", "more": "Fixtures and room"}


class BenchBookPanel(QWidget):
    """Checks first; the book behind them."""

    def __init__(self, presenter: BenchPresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.bench = ChoiceField("Bench", "plan.bench")
        self.pages = Chips("plan.bench.page", PAGES)
        self.verdict = Words("", "strong")
        self.verdict.setObjectName("plan.bench.verdict")
        self.checks = Scrolled("plan.bench.checks")
        fields: dict[str, Labelled] = {
            name: Field(label, f"plan.bench.{name}", hint=hint) for name, label, hint, *_ in FIELDS
        }
        self.form = Form(fields)
        self.methods = Ticks("Load modes it can do", "plan.bench.methods")
        self.store = button("Write it down", "plan.bench.store", "primary")
        self.new = button("Another bench", "plan.bench.new")
        self.drop = button("Take it out", "plan.bench.drop")
        self.kind = ChoiceField("Kind", "plan.fixture.kind", {k: k for k in FIXTURE_KINDS})
        self.fixture_form = Form(
            {
                "kind": self.kind,
                "name": Field("Marked", "plan.fixture.name", hint="pin 3"),
                "material": Field("Material", "plan.fixture.material", hint="steel"),
                "finish": Field("Finish", "plan.fixture.finish", hint="polished"),
                "diameter": Field("Diameter", "plan.fixture.diameter", hint="12 mm"),
            }
        )
        self.add_fixture = button("Add", "plan.fixture.store")
        self.fixtures = PlainTable(
            "plan.fixtures", "Fixtures", ("Kind", "Marked", "Material", "Finish", "Diameter")
        )
        self.room_form = Form(
            {
                "temperature": Field("Temperature today, °C", "plan.room.temperature", hint="18"),
                "humidity": Field("Humidity today, %", "plan.room.humidity", hint="55 %"),
            }
        )
        self.note_room = button("Note", "plan.room.store")
        self.room = PlainTable("plan.rooms", "The room by day", ("Day", "Temperature", "Humidity"))
        self.stack = ShownStack()
        for page in (self._checks_page(), self._book_page(), self._more_page()):
            self.stack.addWidget(page)
        top = QHBoxLayout()
        top.addWidget(self.pages, 1)
        top.addWidget(self.bench, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addLayout(top)
        column.addWidget(self.stack, 1)
        self._connect()

    def _checks_page(self) -> QWidget:
        page = Card()
        page.column.setSpacing(SPACE["s"])
        page.column.addWidget(self.verdict)
        page.column.addWidget(self.checks, 1)
        caution = Card(caution=True)
        caution.column.addWidget(Words(_LANE, "small"))
        formula = Words(f"Stored energy and speed: {'; '.join(ASSUMPTIONS)}.", "small", "muted")
        formula.setObjectName("plan.bench.formula")
        caution.column.addWidget(formula)
        page.column.addWidget(caution)
        return page

    def _book_page(self) -> QWidget:
        page = Card()
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE["s"])
        grid.setVerticalSpacing(SPACE["xs"])
        for column in range(4):
            grid.setColumnStretch(column, 1)
        for name, _, _, row, column, span in FIELDS:
            grid.addWidget(self.form.fields[name], row, column, 1, span)
        page.column.addLayout(grid)
        page.column.addWidget(self.methods, 1)
        row_ = QHBoxLayout()
        row_.addWidget(self.drop)
        row_.addWidget(self.new)
        row_.addStretch(1)
        row_.addWidget(self.store)
        page.column.addLayout(row_)
        return page

    def _more_page(self) -> QWidget:
        page = Card()
        page.column.setSpacing(SPACE["s"])
        fields = self.fixture_form.fields
        adding = side_by_side(*((fields[n], 2) for n in fields))
        adding.addWidget(self.add_fixture)
        page.column.addLayout(adding)
        page.column.addWidget(self.fixtures, 3)
        rooms = self.room_form.fields
        noting = side_by_side((rooms["temperature"], 2), (rooms["humidity"], 2))
        noting.addWidget(self.note_room)
        noting.addStretch(3)
        page.column.addLayout(noting)
        page.column.addWidget(self.room, 2)
        return page

    def _connect(self) -> None:
        p = self._presenter
        p.changed.connect(self._on_changed)
        p.checks_changed.connect(self._on_checks)
        self.pages.chosen.connect(lambda key: self.stack.setCurrentIndex(list(PAGES).index(key)))
        self.bench.chosen.connect(p.show_bench)
        self.new.clicked.connect(lambda: p.show_bench(""))
        self.drop.clicked.connect(p.drop)
        self.store.clicked.connect(self._on_store)
        self.add_fixture.clicked.connect(self._on_fixture)
        self.note_room.clicked.connect(self._on_room)

    def _on_changed(self) -> None:
        p = self._presenter
        self.bench.offer(p.benches())
        self.bench.fill(p.bench_id)
        self.form.fill(p.texts())
        picked = p.bench.methods if p.bench is not None else METHODS[:2]
        self.methods.offer([(m, m) for m in METHODS], picked)
        self.drop.setVisible(p.bench is not None)
        self.fixtures.show_rows(p.fixtures())
        self.room.show_rows(p.rooms())

    def _on_checks(self) -> None:
        verdict, words = self._presenter.verdict()
        self.verdict.say(words, _TONES[verdict])
        made: list[QWidget] = []
        for group in self._presenter.groups:
            card = QWidget()
            column = QVBoxLayout(card)
            column.setContentsMargins(0, 0, 0, SPACE["s"])
            column.setSpacing(1)
            column.addWidget(Words(group.title, "strong"))
            column.addWidget(Words(group.about, "small", "muted"))
            for check in group.checks:
                text = f"{check.verdict.value}: {check.name.lower()}, {check.number}."
                column.addWidget(
                    Words(f"{text} {check.mend}".strip(), "small", _TONES[check.verdict])
                )
            made.append(card)
        self.checks.replace(made)

    def _on_store(self) -> None:
        checked = self._presenter.store(self.form.texts(), self.methods.keys)
        self.form.complain(checked.errors)

    def _on_fixture(self) -> None:
        checked = self._presenter.add_fixture(self.fixture_form.texts())
        if checked.stored:
            self.fixture_form.fill({"kind": self.kind.text})
        else:
            self.fixture_form.complain(checked.errors)

    def _on_room(self) -> None:
        self.room_form.complain(self._presenter.note_room(self.room_form.texts()).errors)
