"""A page of ours as PDF, here or in a process of its own that can be stopped."""

from __future__ import annotations

import logging
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from bruiser.core.choice.guide import FORMAT
from bruiser.core.errors import DataError
from bruiser.core.progress import Progress

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
    try:
        made: bytes = HTML(string=html, url_fetcher=inside_only).write_pdf(
            pdf_identifier=FORMAT.encode(), pdf_tags=True
        )
    except FatalURLFetchingError as error:
        raise ValueError(f"the page refers to something outside: {error}") from error
    return made


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
