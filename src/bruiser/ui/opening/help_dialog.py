"""The user guide in a window of its own: contents, search, pages; offline, and printable."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QTextBlock, QTextCharFormat, QTextCursor, QTextDocument
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from bruiser.ui.kit.parts import Words, button
from bruiser.ui.opening.user_guide import (
    WORDS_PAGE,
    GuidePage,
    guide_pages,
    page_for,
    pages_with,
    terms_in,
)
from bruiser.ui.theme.theme import theme
from bruiser.ui.theme.tokens import SPACE

_SIZE = (940, 680)
_CONTENTS, _PICTURE = 300, 540
_TERM = "term"
_LINE_PERCENT = 125.0
_PROPORTIONAL = 1
"""QTextBlockFormat.LineHeightTypes.ProportionalHeight, as a number."""


class HelpDialog(QDialog):
    """Shows the page it was opened for; links lead from page to page."""

    def __init__(self, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("help")
        self.setWindowTitle("How it is done")
        self.resize(*_SIZE)
        self.search = QLineEdit()
        self.search.setObjectName("help.search")
        self.search.setAccessibleName("Search the guide")
        self.search.setPlaceholderText("Search …")
        self.contents = QListWidget()
        self.contents.setObjectName("help.contents")
        self.contents.setAccessibleName("Pages")
        self.contents.setFixedWidth(_CONTENTS)
        self.nothing = Words("", "small", "muted")
        self.page = QTextBrowser()
        self.page.setObjectName("help.page")
        self.page.setAccessibleName("The page")
        self.page.setOpenLinks(False)
        self.page.anchorClicked.connect(self._follow)
        self.print = button("Print …", "help.print", "chip")
        self.close_it = button("Close", "help.close")
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.contents, 1)
        left.addWidget(self.nothing)
        across = QHBoxLayout()
        across.setSpacing(SPACE["m"])
        across.addLayout(left)
        across.addWidget(self.page, 1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.print)
        buttons.addStretch(1)
        buttons.addWidget(self.close_it)
        column = QVBoxLayout(self)
        column.addLayout(across, 1)
        column.addLayout(buttons)
        for made in (self.print, self.close_it):
            made.setAutoDefault(False)
        self.search.textChanged.connect(self._list)
        self.contents.currentItemChanged.connect(self._on_chosen)
        self.print.clicked.connect(self._on_print)
        self.close_it.clicked.connect(self.accept)
        self._list("")
        self.show_page(page_for(key))

    def _list(self, words: str) -> None:
        pages = pages_with(words) if words.strip() else list(guide_pages())
        self.contents.blockSignals(True)
        self.contents.clear()
        for page in pages:
            item = QListWidgetItem(page.title)
            item.setData(Qt.ItemDataRole.UserRole, page.key)
            self.contents.addItem(item)
        self.contents.blockSignals(False)
        self.nothing.say("" if pages else f"No page holds “{words.strip()}”.")
        if words.strip() and pages:
            self.contents.setCurrentRow(0)
            self._mark(words)

    def _mark(self, words: str) -> None:
        """Show where the first of the words stands."""
        self.page.moveCursor(QTextCursor.MoveOperation.Start)
        self.page.find(words.split()[0])

    def show_page(self, page: GuidePage) -> None:
        """Show a page."""
        document = QTextDocument(self.page)
        document.setDefaultFont(theme().font("body"))
        document.setDefaultStyleSheet(f"a {{ color: {theme().colour('plum').name()}; }}")
        document.setMetaInformation(
            QTextDocument.MetaInformation.DocumentUrl, QUrl.fromLocalFile(page.path).toString()
        )
        document.setMarkdown(page.text)
        _space(document)
        if page.key != WORDS_PAGE:
            _link_terms(document)
        self.page.setDocument(document)
        for n in range(self.contents.count()):
            item = self.contents.item(n)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == page.key:
                self.contents.blockSignals(True)
                self.contents.setCurrentRow(n)
                self.contents.blockSignals(False)

    def _on_chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.show_page(page_for(str(item.data(Qt.ItemDataRole.UserRole))))

    def _follow(self, url: QUrl) -> None:
        if url.scheme() == _TERM:
            self.show_page(page_for(WORDS_PAGE))
            self.page.moveCursor(QTextCursor.MoveOperation.Start)
            self.page.find(f"{url.path()}.", QTextDocument.FindFlag.FindCaseSensitively)
            return
        key = url.fileName().removesuffix(".md").lstrip("0123456789-")
        self.show_page(page_for(key))

    def _on_print(self) -> None:
        printer = QPrinter()
        dialog = QPrintDialog(printer, self)
        dialog.accepted.connect(lambda: self.print_on(printer))
        dialog.open()

    def print_on(self, printer: QPrinter) -> None:
        """Print the page that is shown."""
        self.page.print(printer)


def _space(document: QTextDocument) -> None:
    """Room around the page and between its paragraphs."""
    document.setDocumentMargin(SPACE["l"])
    block = document.begin()
    while block.isValid():
        spaced = block.blockFormat()
        spaced.setBottomMargin(SPACE["xs"] if block.textList() is not None else SPACE["m"])
        spaced.setLineHeight(_LINE_PERCENT, _PROPORTIONAL)
        QTextCursor(block).setBlockFormat(spaced)
        _fit_pictures(block)
        block = block.next()


def _fit_pictures(block: QTextBlock) -> None:
    """Draw pictures as wide as the page."""
    at = block.begin()
    while not at.atEnd():
        piece = at.fragment()
        form = piece.charFormat().toImageFormat()
        if form.isValid():
            form.setWidth(_PICTURE)
            cursor = QTextCursor(block.document())
            cursor.setPosition(piece.position())
            cursor.setPosition(piece.position() + piece.length(), QTextCursor.MoveMode.KeepAnchor)
            cursor.setCharFormat(form)
            return
        at += 1


def _link_terms(document: QTextDocument) -> None:
    """Underline with dots, where it first stands below the title, each term that has an entry."""
    title = document.begin().length()
    text = document.toPlainText()
    cursor = QTextCursor(document)
    for start, end, heading in terms_in(text[title:]):
        cursor.setPosition(title + start)
        cursor.setPosition(title + end, QTextCursor.MoveMode.KeepAnchor)
        if cursor.charFormat().isAnchor():
            continue
        dotted = QTextCharFormat()
        dotted.setAnchor(True)
        dotted.setAnchorHref(f"{_TERM}:{heading}")
        dotted.setUnderlineStyle(QTextCharFormat.UnderlineStyle.DotLine)
        dotted.setUnderlineColor(theme().colour("plum"))
        cursor.mergeCharFormat(dotted)
