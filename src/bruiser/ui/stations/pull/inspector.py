"""The inspector is asked before being told: nothing here names the knot that was tied."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from bruiser.figures.display import Figure
from bruiser.ui.canvas.figure_view import FigureView
from bruiser.ui.kit.fields import ChoiceField, Field, Form
from bruiser.ui.kit.parts import Words, button
from bruiser.ui.stations.pull.prepare_presenter import VERDICTS
from bruiser.ui.theme.tokens import SPACE

_DRAWN_HEIGHT = 220
_UNTOLD = "Nobody tells you which knot it was meant to be; say what you see before you are told."
_LOOK = f"Look at the knot, not at the screen behind this. {_UNTOLD}"
_LOOK_DRAWN = f"It is drawn as it was tied. {_UNTOLD}"


def _draw(view: FigureView, drawn: Callable[[tuple[float, float]], Figure | None]) -> None:
    figure = drawn(view.page_mm())
    if figure is not None:
        view.show_figure(figure)


class InspectorDialog(QDialog):
    """Covers the station and asks what lies there; `texts` holds what was said."""

    def __init__(
        self,
        code: str,
        named: Sequence[tuple[str, str]],
        parent: QWidget | None = None,
        *,
        drawn: Callable[[tuple[float, float]], Figure | None] | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("pull.inspector")
        self.setWindowTitle("For the inspector")
        self.form = Form(
            {
                "inspector": Field("Your initials", "pull.inspector.by", hint="OQ"),
                "named": ChoiceField("What is it?", "pull.inspector.named", named),
                "verdict": ChoiceField("And is it right?", "pull.inspector.verdict", VERDICTS),
            }
        )
        self.keep = button("That is what I see", "pull.inspector.keep", "primary", bench=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(*(SPACE["l"],) * 4)
        column.setSpacing(SPACE["m"])
        column.addStretch(1)
        title = f"{code} lies before you." if drawn is None else "A knot is drawn before you."
        column.addWidget(Words(title, "title"))
        column.addWidget(Words(_LOOK if drawn is None else _LOOK_DRAWN, "body", "muted"))
        if drawn is not None:
            view = FigureView("pull.inspector.drawing")
            view.setMinimumHeight(_DRAWN_HEIGHT)
            view.resized.connect(lambda: _draw(view, drawn))
            column.addWidget(view, 6)
        for field in self.form.fields.values():
            field.setMaximumWidth(420)
            column.addWidget(field)
        row = QHBoxLayout()
        row.addWidget(self.keep)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(2)
        self.keep.clicked.connect(self._on_keep)
        window = None if parent is None else parent.window()
        if window is not None:
            self.resize(window.size())

    def _on_keep(self) -> None:
        missing = {}
        if not self.form.fields["inspector"].text.strip():
            missing["inspector"] = "Who is looking?"
        if not self.form.fields["verdict"].text:
            missing["verdict"] = "Say whether it is right, wrong, or you cannot tell."
        self.form.complain(missing)
        if not missing:
            self.accept()

    @property
    def texts(self) -> dict[str, str]:
        """What was said."""
        return self.form.texts()
