"""Publishing: what the guide holds, its revisions and what stands in their way, and its pages."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, Qt
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPdfWidgets import QPdfView
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from bruiser.formats.guide_files import FILES
from bruiser.ui.kit.fields import Field, Ticks
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.scrolled import Scrolled
from bruiser.ui.kit.two_lines import KEY, TwoLineList
from bruiser.ui.stations.guide.publish_presenter import LIVE, PublishPresenter
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

_NO_PAGES = "The pages stand here once they are made: Show the pages."


class Pages(Card):
    """The pages of a guide, to read and turn."""

    def __init__(self) -> None:
        super().__init__()
        self.document = QPdfDocument(self)
        self.view = QPdfView(self)
        self.view.setObjectName("guide.pages")
        self.view.setAccessibleName("The pages of the guide")
        self.view.setDocument(self.document)
        self.view.setPageMode(QPdfView.PageMode.SinglePage)
        self.view.setZoomMode(QPdfView.ZoomMode.FitInView)
        self.view.setFrameShape(QFrame.Shape.NoFrame)
        self.none = Words(_NO_PAGES, "body", "muted")
        self.none.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.at = Words("", "small", "muted", elide=True)
        self.at.setObjectName("guide.pages.at")
        self.back = button("Page back", "guide.pages.back", "chip")
        self.on = button("Page on", "guide.pages.on", "chip")
        self.back.clicked.connect(lambda: self.turn(-1))
        self.on.clicked.connect(lambda: self.turn(1))
        row = QHBoxLayout()
        row.addWidget(self.at, 1)
        row.addWidget(self.back)
        row.addWidget(self.on)
        self.column.addWidget(self.view, 1)
        self.column.addWidget(self.none, 1)
        self.column.addLayout(row)
        self._buffer: QBuffer | None = None
        theme().changed.connect(self._take_ground)
        self._take_ground()
        self.show_pages(None)

    def _take_ground(self) -> None:
        palette = self.view.palette()
        palette.setColor(palette.ColorRole.Dark, theme().colour("sunk"))
        self.view.setPalette(palette)

    def show_pages(self, pdf: bytes | None) -> None:
        """Show a document; None puts it away."""
        self.document.close()
        there = pdf is not None
        if pdf is not None:
            buffer = QBuffer(self)
            buffer.setData(QByteArray(pdf))
            buffer.open(QIODevice.OpenModeFlag.ReadOnly)
            self.document.load(buffer)
            self._buffer = buffer
        self.view.setVisible(there)
        self.none.setVisible(not there)
        self._say_page()

    @property
    def page(self) -> int:
        """The page shown, 0 the first."""
        navigator = self.view.pageNavigator()
        return 0 if navigator is None else navigator.currentPage()

    def turn(self, by: int) -> None:
        """Turn pages."""
        self.go_to(self.page + by)

    def go_to(self, page: int) -> None:
        """Show a page."""
        navigator = self.view.pageNavigator()
        if navigator is not None and 0 <= page < self.document.pageCount():
            navigator.jump(page, QPointF(), 0)
        self._say_page()

    def _say_page(self) -> None:
        count = self.document.pageCount()
        self.at.say(f"page {self.page + 1} of {count}" if count else "")
        self.back.setEnabled(self.page > 0)
        self.on.setEnabled(self.page + 1 < count)


class PublishPanel(QWidget):
    """What it holds and its revisions at the left, its pages at the right."""

    def __init__(self, presenter: PublishPresenter) -> None:
        super().__init__()
        self._presenter = p = presenter
        self.scope = Field("What this guide is for", "guide.scope", hint="tethers up to 300 m")
        self.uses = Ticks("Uses (none ticked: those of the brief)", "guide.uses")
        self.lots = Ticks("Cordage (none ticked: all tested)", "guide.lots")
        self.show_pages = button("Show the pages", "guide.preview", "chip")
        self.make = button("Freeze a revision", "guide.make", "primary")
        self.list = TwoLineList("guide.revisions", "Revisions of the guide")
        self.initials = Field("Checked by (initials)", "guide.initials")
        self.check = button("It was checked", "guide.check", "chip")
        self.release = button("Release", "guide.release", "chip")
        self.export = button("Write a file …", "guide.export", "chip")
        self.standing = Scrolled("guide.standing", spacing="xs")
        self.reasons: dict[str, Field] = {}
        self.pages = Pages()
        self._offered: tuple[object, object] = ((), ())
        self._menu = QMenu(self.export)
        for kind, file in FILES.items():
            action = self._menu.addAction(file.words)
            if action is not None:
                action.setObjectName(f"guide.export.{kind}")
                action.triggered.connect(partial(self._on_export, kind))
        self.export.setMenu(self._menu)
        self._lay_out()
        self.show_pages.clicked.connect(self._on_preview)
        self.make.clicked.connect(self._on_make)
        self.list.itemSelectionChanged.connect(self._on_selected)
        self.check.clicked.connect(self._on_check)
        self.release.clicked.connect(self._on_release)
        p.changed.connect(self.show_state)
        p.pages_ready.connect(self._on_pages)

    def _lay_out(self) -> None:
        holds = Card("WHAT IT HOLDS")
        holds.column.addWidget(self.scope)
        ticks = QHBoxLayout()
        ticks.setSpacing(SPACE["s"])
        ticks.addWidget(self.uses, 1)
        ticks.addWidget(self.lots, 1)
        holds.column.addLayout(ticks, 1)
        acts = QHBoxLayout()
        acts.addWidget(self.show_pages)
        acts.addStretch(1)
        acts.addWidget(self.make)
        holds.column.addLayout(acts)
        frozen = Card("REVISIONS, FROZEN")
        frozen.column.addWidget(self.list, 3)
        frozen.column.addWidget(self.standing, 4)
        steps = QHBoxLayout()
        steps.setSpacing(SPACE["xs"])
        steps.addWidget(self.initials, 2)
        for part in (self.check, self.release, self.export):
            steps.addWidget(part, 0, Qt.AlignmentFlag.AlignBottom)
        frozen.column.addLayout(steps)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(SPACE["s"])
        column.addWidget(holds, 4)
        column.addWidget(frozen, 5)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(SPACE["s"])
        across.addWidget(left, 6)
        across.addWidget(self.pages, 5)

    def show_state(self) -> None:
        """Show revisions, what stands in the way, and what can be done."""
        p = self._presenter
        offered = (p.uses(), p.lots())
        if offered != self._offered:
            self._offered = offered
            self.uses.offer(offered[0], self.uses.keys)
            self.lots.offer(offered[1], self.lots.keys)
        self.list.offer(p.rows(), p.selected)
        revision = p.revision
        released = revision is not None and revision.released is not None
        fixed = p.busy or p.workshop.read_only
        self.make.setEnabled(not fixed)
        self.show_pages.setEnabled(not p.busy)
        self.export.setEnabled(not p.busy)
        self.check.setEnabled(revision is not None and not released and not fixed)
        checked = revision is not None and revision.checked is not None
        self.release.setEnabled(checked and not released and not fixed)
        self.initials.setEnabled(self.check.isEnabled())
        self._show_standing(released)
        if p.pdf is None:
            self.pages.show_pages(None)

    def _show_standing(self, released: bool) -> None:
        p = self._presenter
        widgets: list[QWidget] = []
        if p.selected == LIVE:
            widgets.append(Words("Freeze a revision to have it checked and released.", "small"))
        kept = {key: field.text for key, field in self.reasons.items()}
        self.reasons = {}
        for b in p.blocking():
            widgets.append(Words(b.words, "small", "ochre"))
            if released:
                widgets.append(Words(f"Released because: {b.reason}", "small", "muted"))
                continue
            field = Field("Released all the same because", f"guide.reason.{len(self.reasons)}")
            field.fill(kept.get(b.key, b.reason))
            self.reasons[b.key] = field
            widgets.append(field)
        if p.revision is not None and not p.blocking():
            widgets.append(Words("Nothing stands in the way of a release.", "small", "moss"))
        if p.changes_words():
            widgets.append(Words(p.changes_words(), "small", "muted"))
        self.standing.replace(widgets)

    def _want(self) -> None:
        self._presenter.want(self.uses.keys, self.lots.keys, self.scope.text)

    def _on_preview(self) -> None:
        self._want()
        self._presenter.preview()

    def _on_make(self) -> None:
        self._want()
        self._presenter.make_revision()

    def _on_selected(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.data(KEY) != self._presenter.selected:
            self._presenter.select(str(item.data(KEY)))

    def _on_check(self) -> None:
        self.initials.complain(self._presenter.check(self.initials.text))

    def _on_release(self) -> None:
        wrong = self._presenter.release({k: f.text for k, f in self.reasons.items()})
        for key, field in self.reasons.items():
            field.complain(wrong.get(key, ""))

    def _on_pages(self) -> None:
        self.pages.show_pages(self._presenter.pdf)

    def _on_export(self, kind: str) -> None:
        file = FILES[kind]
        name, _ = QFileDialog.getSaveFileName(self, file.words, f"guide-{kind}{file.suffix}")
        if name:
            self._want()
            self._presenter.export(kind, Path(name))
