"""What a lot bears: its straight pulls beside the rating, working loads, and cord on a host."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bruiser.figures.load_scale import baseline_figure, schools_figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField, Field, Form
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.stations.cordage.presenter import CordagePresenter
from bruiser.ui.theme.tokens import SPACE

_APPROVAL = (
    "Comparisons from small samples on one bench. They approve nothing: lifting, rescue, fall "
    "protection and climbing follow the local code, the maker's instructions and a competent, "
    "licensed person. Wet, icy, dirty, worn or sharp-edged use lowers strength further unless "
    "that condition was tested."
)


class BaselinePanel(Card):
    """Straight pulls of a lot: the number, what is missing, and the rating beside it."""

    pull_wanted = pyqtSignal(str)

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.estimate = Words("", "strong")
        self.estimate.setObjectName("cordage.baseline.estimate")
        self.rating = Words("", "body")
        self.rating.setObjectName("cordage.baseline.rating")
        self.missing = Words("", "small", "ochre")
        self.missing.setObjectName("cordage.baseline.missing")
        self.scale = FigureView("cordage.baseline.scale", tappable=True)
        self.scale.setMinimumHeight(92)
        self.filler = QWidget()
        self.hint = Words("Tap a mark to open the pull behind it in Results.", "small", "muted")
        self.column.setSpacing(SPACE["s"])
        for part in (self.estimate, self.rating):
            self.column.addWidget(part)
        self.column.addWidget(self.scale, 1)
        self.column.addWidget(self.hint)
        self.column.addWidget(self.missing)
        self.column.addWidget(self.filler, 1)
        presenter.results_ready.connect(self._on_results)
        self.scale.resized.connect(self._draw)
        self.scale.spot_tapped.connect(self.pull_wanted)
        self._on_results()

    def _on_results(self) -> None:
        facts = self._presenter.baseline()
        self.estimate.say("" if facts is None else facts.estimate_words or "No baseline.")
        self.rating.say("" if facts is None else facts.rating_words)
        self.missing.say("" if facts is None else "\n".join(facts.missing))
        some = facts is not None and bool(facts.marks)
        self.scale.setVisible(some)
        self.hint.setVisible(some)
        self.filler.setVisible(not some)
        self._draw()

    def _draw(self) -> None:
        p = self._presenter
        facts = p.baseline()
        if facts is not None and facts.marks:
            scale = p.baseline_scale(facts)
            width, height = self.scale.page_mm()
            height = min(height, 62.0)
            self.scale.show_figure(baseline_figure(scale, width, height, p.units.force_text))


class LoadsPanel(Card):
    """Working load of a knot of the lot by four schools, each sum shown."""

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.knot = ChoiceField("Knot", "cordage.loads.knot")
        self.factor = Field("Design factor", "cordage.loads.factor", hint="yours")
        self.source = Field("Its source", "cordage.loads.source", hint="local code, or the maker")
        self.form = Form({"factor": self.factor, "source": self.source})
        self.store = button("Enter", "cordage.loads.store")
        self.figure = FigureView("cordage.loads.figure")
        self.warning = Words("", "body", "ochre")
        self.warning.setObjectName("cordage.loads.warning")
        self.basis = Words("", "small", "muted")
        self.basis.setObjectName("cordage.loads.basis")
        self.column.setSpacing(SPACE["s"])
        row = side_by_side((self.knot, 4), (self.factor, 2), (self.source, 4))
        row.addWidget(self.store, 0, Qt.AlignmentFlag.AlignBottom)
        self.column.addLayout(row)
        self.column.addWidget(self.figure, 1)
        self.column.addWidget(self.warning)
        self.column.addWidget(self.basis)
        caution = Card(caution=True)
        caution.column.addWidget(Words(_APPROVAL, "small"))
        self.column.addWidget(caution)
        presenter.results_ready.connect(self._on_results)
        presenter.changed.connect(self._on_changed)
        self.knot.chosen.connect(lambda _: self._show())
        self.store.clicked.connect(self._on_store)
        self.figure.resized.connect(self._show)

    def _on_changed(self) -> None:
        if not (self.factor.entry.hasFocus() or self.source.entry.hasFocus()):
            self.form.fill(self._presenter.factor_texts())

    def _on_results(self) -> None:
        self.knot.offer(self._presenter.knot_choices())
        self._show()

    def _show(self) -> None:
        p = self._presenter
        loads = p.loads(self.knot.text)
        rows = [] if loads is None else p.school_rows(loads)
        self.figure.setVisible(bool(rows))
        if loads is None:
            return
        if rows:
            page = self.figure.page_mm()
            self.figure.show_figure(schools_figure(rows, *page, p.units.force_text))
            self.warning.say(loads.warning)
            self.basis.say(f"{p.default_rule()} {loads.basis}.")
        else:
            self.warning.say(
                "No design factor entered, so no working load. Enter the factor your local code or "
                "the maker gives, and name the source."
            )
            self.basis.say("")

    def _on_store(self) -> None:
        checked = self._presenter.store_factor(self.form.texts())
        self.form.complain(checked.errors)
        self._show()


class HostPanel(Card):
    """The lot as cord of a friction hitch on a host lot, by three schools."""

    def __init__(self, presenter: CordagePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self.host = ChoiceField("Host rope", "cordage.host")
        self.figure = FigureView("cordage.host.figure")
        self.empty = Words("", "body", "muted")
        self.column.setSpacing(SPACE["m"])
        row = QHBoxLayout()
        row.addWidget(self.host, 2)
        row.addStretch(3)
        self.column.addLayout(row)
        self.column.addWidget(self.figure, 1)
        self.column.addWidget(self.empty)
        self.column.addWidget(
            Words(
                "Rules of thumb of the trade, and they part. The measured grip against the number "
                "of wraps decides: plan grip pulls of this pair.",
                "small",
                "muted",
            )
        )
        presenter.changed.connect(self._on_changed)
        self.host.chosen.connect(lambda _: self._draw())
        self.figure.resized.connect(self._draw)

    def _on_changed(self) -> None:
        self.host.offer(self._presenter.hosts())
        self._draw()

    def _draw(self) -> None:
        width, height = self.figure.page_mm()
        figure = self._presenter.cord_figure(self.host.text, (width, min(height, 82.0)))
        self.figure.setVisible(figure is not None)
        self.empty.say("" if figure else "Enter the host rope as a lot of its own; it comes here.")
        if figure is not None:
            self.figure.show_figure(figure)
