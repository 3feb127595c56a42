"""The form of a use: what it asks, and how it weighs and scores the ratings."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QWidget

from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.choice.use_profile import UseProfile
from bruiser.core.records.families import FAMILIES
from bruiser.core.records.preparation import Hands
from bruiser.ui.kit.fields import ChoiceField, Field, Form, Labelled, Ticks
from bruiser.ui.kit.inline_form import side_by_side
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.stations.guide.presenter import GuidePresenter
from bruiser.ui.theme.tokens import SPACE
from bruiser.workshop.guide.book import withdraw_profile, write_profile
from bruiser.workshop.guide.entry import YES, new_key, profile_texts, read_profile

SWITCHES = {
    "no_end": "No end at hand",
    "closed_ring": "Round a closed ring",
    "must_open": "Must open without a tool",
    "stays": "No pull may have come out",
    "slippery": "For slippery cordage",
}


class TickField(Labelled):
    """A box to tick, read and filled as a text like other fields."""

    def __init__(self, label: str, name: str) -> None:
        self.box = QCheckBox(label)
        super().__init__("", self.box, name, self._read_box, self._fill_box)
        self.box.setAccessibleName(label)
        self.label.hide()

    def _read_box(self) -> str:
        return YES if self.box.isChecked() else ""

    def _fill_box(self, text: str) -> None:
        self.box.setChecked(text == YES)


class UsePanel(QWidget):
    """Edits the use that is chosen above, adds another, or withdraws it."""

    def __init__(self, presenter: GuidePresenter) -> None:
        super().__init__()
        self._presenter = presenter
        self._base: UseProfile | None = None
        self._new = False
        self.name = Field("Name of the use", "guide.use.name")
        self.load = Field("Opened after, % of the rope", "guide.use.load", hint="60 %")
        self.holds = Field("Holds, % of the rope", "guide.use.holds", hint="20 %")
        self.hands = ChoiceField("Tied with", "guide.use.hands", {h.value: h.value for h in Hands})
        self.host = Field("Fastened to (a word of the host)", "guide.use.host", hint="post")
        self.directions = Field(
            "Holds in these directions", "guide.use.directions", hint="end to end; ring load"
        )
        self.caution = Field("Caution beside the list", "guide.use.caution")
        self.families = Ticks("Families that serve (none ticked: any)", "guide.use.families")
        self.checks = {k: TickField(words, f"guide.use.{k}") for k, words in SWITCHES.items()}
        fields: dict[str, Labelled] = {
            "name": self.name,
            "load": self.load,
            "holds": self.holds,
            "hands": self.hands,
            "host": self.host,
            "directions": self.directions,
            "caution": self.caution,
            **self.checks,
        }
        for rating in Rating:
            name = SCALES[rating].name
            fields[f"weight.{rating}"] = Field(f"Weight of {name}", f"guide.use.weight.{rating}")
            fields[f"anchors.{rating}"] = Field(
                f"{name} in points, from 0 to 100", f"guide.use.anchors.{rating}"
            )
        self.form = Form(fields)
        self.store = button("Keep this use", "guide.use.store", "primary")
        self.add = button("Another use", "guide.use.add", "chip")
        self.withdraw = button("Withdraw it", "guide.use.withdraw", "chip")
        self.said = Words("", "small", "muted")
        self.said.setObjectName("guide.use.said")
        self._lay_out()
        self.store.clicked.connect(self._on_store)
        self.add.clicked.connect(self._on_add)
        self.withdraw.clicked.connect(self._on_withdraw)

    def _lay_out(self) -> None:
        asks = Card("WHAT IT ASKS (WHAT FAILS IS EXCLUDED)")
        asks.column.addLayout(
            side_by_side((self.name, 4), (self.holds, 3), (self.load, 3), (self.hands, 3))
        )
        asks.column.addLayout(side_by_side((self.host, 4), (self.directions, 6)))
        ticks = QGridLayout()
        for n, check in enumerate(self.checks.values()):
            ticks.addWidget(check, n // 2, n % 2)
        asks.column.addLayout(ticks)
        asks.column.addWidget(self.families, 1)
        asks.column.addWidget(self.caution)
        ranks = Card("HOW IT RANKS (WEIGHTS, AND POINTS ALONG EACH SCALE)")
        scroll = Scrolled("guide.use.ranks", spacing="s")
        for rating in Rating:
            fields = self.form.fields
            row = side_by_side((fields[f"weight.{rating}"], 3), (fields[f"anchors.{rating}"], 7))
            scroll.column.addLayout(row)
        scroll.column.addStretch(1)
        ranks.column.addWidget(scroll, 1)
        ranks.column.addWidget(self.said)
        acts = QHBoxLayout()
        acts.setSpacing(SPACE["xs"])
        acts.addWidget(self.add)
        acts.addWidget(self.withdraw)
        acts.addStretch(1)
        acts.addWidget(self.store)
        ranks.column.addLayout(acts)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(asks, 1)
        across.addWidget(ranks, 1)

    def show_use(self) -> None:
        """Fill the form with the use chosen, unless one is being typed."""
        base = self._presenter.base
        if base is None or (self._new and base == self._base):
            return
        self._new = False
        self._base = base
        self.form.fill(profile_texts(base))
        self.families.offer([(f, f) for f in FAMILIES], base.families)
        own = base.key in self._presenter.book.own_profiles
        self.said.say("Changed in this campaign." if own else "As shipped.")
        self.withdraw.setEnabled(len(self._presenter.book.profiles) > 1)

    def _on_add(self) -> None:
        self._new = True
        texts = self.form.texts()
        self.form.fill({**texts, "name": ""})
        self.said.say("A new use: give it a name, then keep it.")
        self.name.focus()

    def _on_store(self) -> None:
        p = self._presenter
        base = self._base
        if base is None:
            return
        texts = self.form.texts()
        if self._new:
            base = replace(base, key=new_key(texts["name"], p.book.profiles))
        made, errors = read_profile(texts, self.families.keys, base)
        self.form.complain(errors)
        if made is None:
            return
        if self._new:
            p.wish = replace(p.wish, use=made.key, changes={})
        self._new = False
        p.attempt(lambda: write_profile(p.workshop, made))

    def _on_withdraw(self) -> None:
        p = self._presenter
        base = self._base
        if base is not None:
            p.attempt(lambda: withdraw_profile(p.workshop, base))
