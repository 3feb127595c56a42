"""Photos on the findings station: thumbnails, dropped or pasted, and the photo rule."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QIcon,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from bruiser.store.readings import Photo
from bruiser.ui.kit.fields import ChoiceField, Field
from bruiser.ui.kit.parts import Card, Words, button
from bruiser.ui.kit.strip_view import StripView
from bruiser.ui.stations.findings.photos_presenter import PhotosPresenter
from bruiser.ui.theme.theme import theme

_THUMB = QSize(36, 27)
_THUMB_BOX = (40, 31)
_SHOWN = 2


class PhotosCard(Card):
    """The photos of a specimen; pictures are dropped on it, pasted or picked.

    Thumbnails lie on `strip`, in its widest place.
    """

    def __init__(self, presenter: PhotosPresenter, strip: StripView) -> None:
        super().__init__("PHOTOS: DROP, PASTE OR PICK")
        self.setObjectName("findings.photos")
        self.setAcceptDrops(True)
        self._presenter = presenter
        self._strip = strip
        self.thumbs: list[QToolButton] = []
        self.add = button("Add", "findings.photos.add", "chip")
        self.paste = button("Paste", "findings.photos.paste", "chip")
        self.words = Words("", "small", "muted", elide=True)
        below = QHBoxLayout()
        below.addWidget(self.words, 1)
        below.addWidget(self.paste)
        below.addWidget(self.add)
        self.column.addLayout(below)
        self.add.clicked.connect(self._on_add)
        self.paste.clicked.connect(self._on_paste)
        strip.resized.connect(self.place_thumbs)

    def show_photos(self) -> None:
        """Show the photos kept."""
        for thumb in self.thumbs:
            thumb.hide()
            thumb.deleteLater()
        self.thumbs = []
        photos = self._presenter.photos()
        for photo in photos[-_SHOWN:]:
            pixmap = QPixmap()
            pixmap.loadFromData(self._presenter.picture(photo))
            thumb = QToolButton(self._strip)
            thumb.setObjectName(f"findings.photo.{photo.id}")
            thumb.setIcon(QIcon(pixmap))
            thumb.setIconSize(_THUMB)
            thumb.setAutoRaise(True)
            thumb.setToolTip(f"{photo.name}: measure on it")
            thumb.setAccessibleName(f"Photo {photo.name}")
            thumb.clicked.connect(lambda _=False, p=photo: self.rule(p))
            thumb.show()
            self.thumbs.append(thumb)
        few = "Tap one on the strip to measure on it."
        more = f"{len(photos)} kept; the last {_SHOWN} lie on the strip."
        said = few if photos else "None kept of this specimen."
        self.words.say(more if len(photos) > _SHOWN else said)

    def place_thumbs(self) -> None:
        """Lay the thumbnails into the strip's widest place, above the rope."""
        figure = self._strip.figure
        if figure is None:
            return
        places = [s for s in figure.spots if not s.drags]
        widest = max(places, key=lambda s: s.width, default=None)
        if widest is None:
            return
        px = self._strip.spot_centre(widest.key).x() / (widest.x + widest.width / 2)
        left = widest.x * px + 14
        for n, thumb in enumerate(self.thumbs):
            thumb.setGeometry(round(left + n * (_THUMB.width() + 6)), 2, *_THUMB_BOX)

    def rule(self, photo: Photo) -> PhotoRule:
        """Open the photo rule on a photo."""
        dialog = PhotoRule(self._presenter, photo, self)
        dialog.open()
        return dialog

    def _on_add(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(
            self, "Photos of this specimen", "", "Pictures (*.jpg *.jpeg *.png *.webp)"
        )
        self._presenter.keep_files([Path(n) for n in names])

    def _on_paste(self) -> None:
        clipboard = QApplication.clipboard()
        image = QImage() if clipboard is None else clipboard.image()
        if image.isNull():
            self.words.say("There is no picture to paste.")
            return
        room = QBuffer()
        room.open(QIODevice.OpenModeFlag.WriteOnly)
        image.save(room, "PNG")
        self._presenter.keep("pasted", bytes(room.data().data()))

    @override
    def dragEnterEvent(self, a0: QDragEnterEvent | None) -> None:
        data = None if a0 is None else a0.mimeData()
        if a0 is not None and data is not None and data.hasUrls():
            a0.acceptProposedAction()

    @override
    def dropEvent(self, a0: QDropEvent | None) -> None:
        data = None if a0 is None else a0.mimeData()
        if data is not None:
            local = [Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()]
            self._presenter.keep_files(local)


class RuledPhoto(QWidget):
    """A photo to point at; tells points in the photo's own pixels."""

    pointed = pyqtSignal(float, float)

    def __init__(self, jpeg: bytes) -> None:
        super().__init__()
        self.setObjectName("findings.rule.photo")
        self.setAccessibleName("The photo: point at two known points, then at two marks")
        self.setMinimumSize(420, 300)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self._pixmap = QPixmap()
        self._pixmap.loadFromData(jpeg)
        self._points: list[tuple[float, float]] = []

    def show_points(self, points: list[tuple[float, float]]) -> None:
        """Mark the points."""
        self._points = list(points)
        self.update()

    def _scale(self) -> float:
        w, h = max(1, self._pixmap.width()), max(1, self._pixmap.height())
        return min(self.width() / w, self.height() / h)

    def at(self, x: float, y: float) -> QPointF:
        """Where a point of the photo lies in the widget."""
        return QPointF(x * self._scale(), y * self._scale())

    @override
    def mouseReleaseEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is not None:
            scale = self._scale()
            self.pointed.emit(a0.position().x() / scale, a0.position().y() / scale)

    @override
    def paintEvent(self, a0: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        scale = self._scale()
        painter.scale(scale, scale)
        painter.drawPixmap(0, 0, self._pixmap)
        painter.resetTransform()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for first, token in ((0, "storm"), (2, "plum")):
            pair = [self.at(*p) for p in self._points[first : first + 2]]
            for token_, width in (("surface", 4.0), (token, 2.0)):
                painter.setPen(QPen(theme().colour(token_), width))
                if len(pair) == 2:
                    painter.drawLine(pair[0], pair[1])
                for point in pair:
                    painter.drawEllipse(point, 5.0, 5.0)
        painter.end()


class PhotoRule(QDialog):
    """Reads a tail's draw off a photo by a known distance in it."""

    def __init__(
        self, presenter: PhotosPresenter, photo: Photo, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("findings.rule")
        self.setWindowTitle(f"Measure on {photo.name}")
        self._presenter = presenter
        self._photo = photo
        self.view = RuledPhoto(presenter.picture(photo))
        self.next = Words("", "strong-small", "plum")
        self.next.setObjectName("findings.rule.next")
        self.known = Field("Known distance", "findings.rule.known", hint="100 mm")
        self.before = Field("Between the marks before", "findings.rule.before", hint="0 mm")
        self.tail = ChoiceField("Is the draw of", "findings.rule.tail", presenter.tails())
        self.said = Words("", "body")
        self.said.setObjectName("findings.rule.said")
        self.use = button("Take it as the reading", "findings.rule.use", "primary")
        self.drop = button("Take this photo out", "findings.rule.drop")
        column = QVBoxLayout(self)
        column.addWidget(self.view, 1)
        column.addWidget(self.next)
        row = QHBoxLayout()
        for part, share in ((self.known, 2), (self.before, 2), (self.tail, 3)):
            row.addWidget(part, share)
        column.addLayout(row)
        column.addWidget(self.said)
        column.addWidget(
            Words(
                "The known distance must lie as near to the camera as the marks, and the photo be "
                "taken square to them; what is nearer looks longer, and no figure here shows it.",
                "small",
                "muted",
            )
        )
        below = QHBoxLayout()
        below.addWidget(self.drop)
        below.addStretch(1)
        below.addWidget(self.use)
        column.addLayout(below)
        self.resize(820, 680)
        self.view.pointed.connect(presenter.point_at)
        presenter.ruled.connect(self._show)
        for field in (self.known, self.before):
            field.entry.textChanged.connect(self._show)
        self.use.clicked.connect(self._on_use)
        self.drop.clicked.connect(self._on_drop)
        presenter.begin_rule(photo)

    def _show(self) -> None:
        p = self._presenter
        self.view.show_points(p.points)
        self.next.say(p.next_words())
        ruled, errors = p.read(self.known.text, self.before.text)
        typed = bool(self.known.text)
        self.known.complain(errors.get("known", "") if typed else "")
        self.before.complain(errors.get("before", ""))
        self.said.say(p.words(ruled))
        self.use.setEnabled(ruled is not None and bool(self.tail.text))

    def _on_use(self) -> None:
        ruled, _ = self._presenter.read(self.known.text, self.before.text)
        if ruled is not None:
            self._presenter.use(self.tail.text, ruled)
            self.accept()

    def _on_drop(self) -> None:
        self._presenter.drop(self._photo)
        self.accept()
