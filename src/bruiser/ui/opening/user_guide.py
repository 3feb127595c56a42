"""The user guide that ships with the application: its pages, and what is found in them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from bruiser.catalogue.finding import fold

PAGE_OF = {
    "brief": "begin",
    "cordage": "first-lot",
    "knots": "first-knot",
    "plan": "planning",
    "pull": "at-the-bench",
    "findings": "what-counts",
    "results": "reading-results",
    "guide": "publishing",
    "logbook": "typing-a-series",
    "bring": "out-and-in",
    "start": "begin",
}
"""The page on each part of the window."""


@dataclass(frozen=True, kw_only=True)
class GuidePage:
    """One page, as Markdown.

    Parameters
    ----------
    path : str
        Where it stands, for the pictures beside it.
    words : str
        The whole text without its marks, to be searched.
    """

    key: str
    title: str
    text: str
    path: str
    words: str


@lru_cache(maxsize=1)
def guide_pages() -> tuple[GuidePage, ...]:
    """Every page, in the order of the contents."""
    found = []
    for path in files("bruiser.ui.opening").joinpath("user-guide").iterdir():
        if path.name.endswith(".md"):
            text = path.read_text("utf-8")
            title = text.split("\n", 1)[0].lstrip("# ").strip()
            words = re.sub(r"!\[[^\]]*\]\([^)]*\)|[#*`\[\]()_>|]+", " ", text)
            key = re.sub(r"^\d+-", "", path.name.removesuffix(".md"))
            page = GuidePage(key=key, title=title, text=text, path=str(path), words=words)
            found.append((path.name, page))
    return tuple(page for _, page in sorted(found, key=lambda pair: pair[0]))


WORDS_PAGE = "words"


@lru_cache(maxsize=1)
def glossary_terms() -> dict[str, str]:
    """Every term of the page of words, in small letters, with the heading of its entry."""
    found = {}
    for heading in re.findall(r"^\*\*(.+?)\.\*\*", page_for(WORDS_PAGE).text, re.MULTILINE):
        for term in heading.split(","):
            found[term.strip().lower()] = heading
    return found


def terms_in(text: str) -> list[tuple[int, int, str]]:
    """Where a text first uses each term of the glossary: start, end, heading of the entry."""
    found = []
    for term, heading in glossary_terms().items():
        hit = re.search(rf"\b{re.escape(term)}(?:s|es|ed)?\b", text, re.IGNORECASE)
        if hit is not None:
            found.append((hit.start(), hit.end(), heading))
    return sorted(found)


def page_for(key: str) -> GuidePage:
    """A page by its key, or that of a part of the window; the first for anything else."""
    wanted = PAGE_OF.get(key, key)
    pages = guide_pages()
    return next((p for p in pages if p.key == wanted), pages[0])


def pages_with(words: str) -> list[GuidePage]:
    """The pages that hold every word, those with it in their title first."""
    wanted = fold(words).split()
    hits = [p for p in guide_pages() if all(w in fold(f"{p.title} {p.words}") for w in wanted)]
    return sorted(hits, key=lambda p: not all(w in fold(p.title) for w in wanted))
