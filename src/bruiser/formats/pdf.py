"""A page of ours as PDF, here or in a process of its own that can be stopped."""

from __future__ import annotations

import base64
import logging
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from html import escape, unescape
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Any

from bruiser.core.choice.guide import FORMAT
from bruiser.core.errors import DataError
from bruiser.core.progress import Progress
from bruiser.formats.package_tables import no_collection

if TYPE_CHECKING:
    from weasyprint.document import Document

_LOOK_S = 0.1
_USUAL_S = 30


def html_to_pdf(html: str) -> bytes:
    """A page as PDF.

    Raises
    ------
    ValueError
        If the page refers to anything outside itself, which is not fetched.
    """
    from weasyprint import HTML, URLFetcher
    from weasyprint.urls import FatalURLFetchingError

    inside_only = URLFetcher(allowed_protocols=("data",), fail_on_errors=True)
    logging.getLogger("fontTools").setLevel(logging.WARNING)

    def laid_out(page: str) -> Document:
        return HTML(string=page, url_fetcher=inside_only).render()

    page = _with_page_numbers(_pictures_apart(html), None)
    try:
        with no_collection():
            document = laid_out(page)
            over = _runs_over(document)
            if over:
                page = page.replace("</style>", f"{_tighter_css(over)}</style>", 1)
                document = laid_out(page)
            front, found, _ = page.partition(FRONT_ENDS)
            if found:
                front = _with_page_numbers(front, document)
                pages = laid_out(f"{front}</main></body></html>").pages
                document = document.copy([*pages, *document.pages[len(pages) :]])
            made: bytes = document.write_pdf(pdf_identifier=FORMAT.encode(), pdf_tags=True)
    except FatalURLFetchingError as error:
        raise ValueError(f"the page refers to something outside: {error}") from error
    return made


def _runs_over(document: Document) -> list[str]:
    """Sections whose last page is less than a third full: they are to be set tighter."""
    found, last, seen = [], "", set[str]()
    for page, following in pairwise(document.pages):
        box = page._page_box
        low = max((_bottom(b) for b in box.children if b.element_tag == "html"), default=0.0)
        # A section that goes on stands among the anchors of its later pages as well.
        begun = [name for name in page.anchors if _SECTION.fullmatch(name) and name not in seen]
        seen.update(begun)
        if low < box.height * _SHORT and not begun and last and following.anchors:
            found.append(last)
        last = begun[-1] if begun else last
    return found


def _bottom(box: Any) -> float:
    """Where the lowest text or picture of a box ends, in CSS pixels."""
    inner = [_bottom(child) for child in getattr(box, "children", ())]
    own = box.position_y + box.height if not inner and isinstance(box.height, float) else 0.0
    return max([own, *inner])


def _tighter_css(sections: Sequence[str]) -> str:
    return "".join(
        f"#{name} {{ line-height: 1.14; }} #{name} .drawn img {{ height: 17mm; }} "
        f"#{name} .side, #{name} .notes p {{ line-height: 1.14; }} "
        f"#{name} .gauges p {{ line-height: 1.02; }} #{name} .gauges img {{ margin: 0; }} "
        f"#{name} h3 {{ margin-top: 1.5mm; }} #{name} .caution {{ padding: 0.6mm 3mm; }} "
        for name in sections
    )


def _with_page_numbers(front: str, document: Document | None) -> str:
    """The contents with the numbers of the pages they lead to, or with room for these.

    Numbers that a page asks for itself would have the whole of it laid out twice.
    """
    at: dict[str, int] = {}
    for n, page in enumerate(() if document is None else document.pages, 1):
        for name in page.anchors:
            at.setdefault(name, n)

    def numbered(found: re.Match[str]) -> str:
        return f'<a href="#{found[1]}" data-page="{at.get(found[1], "00")}">'

    front = _CONTENTS.sub(lambda nav: _LINK.sub(numbered, nav[0]), front)
    return (
        front if document is None else front.replace("counter(pages)", f'"{len(document.pages)}"')
    )


_SHORT = 0.36
"""How much of a page, its upper margin with it, is too little for a page of its own."""
_SECTION = re.compile(r"(knot|use)-[0-9]+")
FRONT_ENDS = "<!-- front -->"
_CONTENTS = re.compile(r'<nav class="toc".*?</nav>', re.DOTALL)
_LINK = re.compile(r'<a href="#([^"]*)"(?: data-page="[^"]*")?>')
_SVG = re.compile(r"<svg .*?</svg>", re.DOTALL)
_SCREEN = re.compile(r"@media screen and .*?\n}\n", re.DOTALL)
_TITLE = re.compile(r"<title>(.*?)</title>", re.DOTALL)


def _pictures_apart(html: str) -> str:
    """The page with its drawings as pictures of their own, which are read and styled apart.

    That halves the time: no rule of the page is tried on the thousands of shapes in them. Rules for
    small screens are left out.
    """

    def picture(found: re.Match[str]) -> str:
        title = _TITLE.search(found[0])
        data = base64.b64encode(found[0].encode()).decode("ascii")
        said = escape(unescape(title[1])) if title else ""
        return f'<img alt="{said}" src="data:image/svg+xml;base64,{data}">'

    return _SVG.sub(picture, _SCREEN.sub("", html))


def html_to_pdf_watched(html: str, progress: Progress) -> bytes:
    """The same in a process of its own: it does not slow the interface, and can be stopped.

    `progress` is told the seconds gone of the usual ones; where it raises ``Cancelled`` the
    process is ended.

    Raises
    ------
    DataError
        If the process failed, or found no room for its files.
    """
    try:
        return _printed(html, progress)
    except OSError as error:
        raise DataError(f"The PDF could not be made: {error.strerror}.", "Make room.") from error


def _printed(html: str, progress: Progress) -> bytes:
    with tempfile.TemporaryDirectory(prefix="bruiser-") as folder:
        page, made = Path(folder) / "page.html", Path(folder) / "page.pdf"
        page.write_text(html, encoding="utf-8")
        command = [sys.executable, "-m", "bruiser.formats.pdf", str(page), str(made)]
        with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as process:
            began = time.monotonic()
            try:
                while process.poll() is None:
                    gone = int(time.monotonic() - began)
                    progress(min(gone, _USUAL_S - 1), _USUAL_S)
                    time.sleep(_LOOK_S)
            except BaseException:
                process.kill()
                raise
            said = "" if process.stderr is None else process.stderr.read()
        if process.returncode or not made.exists():
            reason = said.strip().splitlines()[-1:] or ["no reason given"]
            raise DataError("The PDF could not be made.", reason[0])
        return made.read_bytes()


def main(arguments: list[str] | None = None) -> int:
    """Turn a page into a PDF: the names of both files."""
    source, target = sys.argv[1:] if arguments is None else arguments
    Path(target).write_bytes(html_to_pdf(Path(source).read_text(encoding="utf-8")))
    return 0


if __name__ == "__main__":
    sys.exit(main())
