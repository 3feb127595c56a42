"""The printed guide: valid HTML that needs nothing from outside, harmless names, searchable PDF."""

import logging
import re
from dataclasses import replace
from itertools import pairwise

import html5lib
import numpy as np
import pypdfium2
import pytest

from bruiser.core.choice.answers import AnswerKind, answer_school, answers_of
from bruiser.core.choice.rating import SCALES, Rating
from bruiser.core.errors import DataError
from bruiser.core.progress import Cancelled, no_progress
from bruiser.figures.typefaces import elide, text_width
from bruiser.formats import pdf as pdf_module
from bruiser.formats.guide_figures import PrintStyle, best_result, knot_results
from bruiser.formats.guide_pages import (
    cards_html,
    css_string,
    guide_html,
    title_of,
    wall_html,
)
from bruiser.formats.pdf import html_to_pdf, html_to_pdf_watched
from bruiser.ui.theme.tokens import CHALK, TEXT_MM

STYLE = PrintStyle(CHALK, TEXT_MM)
HTML, SVG = "{http://www.w3.org/1999/xhtml}", "{http://www.w3.org/2000/svg}"
HOSTILE = (
    "<script>alert('x')</script>",
    '"><img src=https://example.invalid/x onerror=alert(1)>',
    "</style><script>alert(2)</script>",
    "</title><b>bold",
    "عقدة الصياد \u202e reversed",
    "loop" * 120,
    "{{ 7 * 7 }}{% raw %}",
    "}; body { display: none } @import url(https://example.invalid/a.css);",
)
PAGES = {"guide": guide_html, "cards": cards_html, "wall": wall_html}


def parsed(html):
    """The page by a strict parser: any error of syntax fails."""
    return html5lib.HTMLParser(strict=True).parse(html)


def named(guide, text):
    """The guide with a text in every place a person can fill."""
    knots = tuple(
        replace(k, name=text, names=(replace(k.names[0], name=text),)) for k in guide.knots
    )
    lots = tuple(replace(lot, name=text, condition=text) for lot in guide.lots)
    uses = tuple(
        replace(
            use,
            name=text,
            caution=text,
            lists=tuple(
                replace(f, rows=tuple(replace(r, name=text, why=text) for r in f.rows))
                for f in use.lists
            ),
        )
        for use in guide.uses
    )
    pulls = tuple(replace(p, knot=text, technician=text, note=text) for p in guide.pulls[:3])
    return replace(
        guide, title=text, station=text, question=text, scope=text, checked_by=text,
        factor_text=text, knots=knots, lots=lots, uses=uses, pulls=pulls,
    )  # fmt: skip


@pytest.mark.parametrize("page", PAGES)
def test_every_page_is_valid_and_refers_to_nothing_outside(demo_guide, page):
    html = PAGES[page](demo_guide, STYLE)
    tree = parsed(html)
    assert tree.get("lang") == "en"
    assert tree.find(f"{HTML}head/{HTML}title").text.startswith("Fennock Ridge tethers")
    assert not list(tree.iter(f"{HTML}script"))
    for element in tree.iter():
        for name, value in element.attrib.items():
            if name.rpartition("}")[2] in ("src", "href", "data", "srcset", "action"):
                assert value.startswith(("#", "data:")), value
            assert not name.lower().startswith("on")
    for url in re.findall(r"url\(([^)]*)\)", html):
        assert url.strip("\"'").startswith("data:"), url[:60]
    assert "@import" not in html


def test_a_screen_reader_finds_headings_in_order_and_a_name_for_every_picture(demo_guide):
    tree = parsed(guide_html(demo_guide, STYLE))
    levels = [int(e.tag[-1]) for e in tree.iter() if re.fullmatch(r"\{.*xhtml\}h[1-6]", str(e.tag))]
    assert levels.count(1) == 1
    assert levels[0] == 1
    assert all(b <= a + 1 for a, b in pairwise(levels))
    pictures = list(tree.iter(f"{SVG}svg"))
    assert len(pictures) >= len(demo_guide.uses) + len(demo_guide.knots) // 2
    for picture in pictures:
        assert picture.get("role") == "img"
        assert picture.find(f"{SVG}title").text
    for table in tree.iter(f"{HTML}table"):
        heads = list(table.iter(f"{HTML}th"))
        assert heads
        assert all(h.get("scope") in ("col", "row") for h in heads)
    ids = [e.get("id") for e in tree.iter() if e.get("id")]
    assert len(ids) == len(set(ids))
    for e in tree.iter(f"{HTML}a"):
        assert e.get("href")[1:] in ids
    for e in tree.iter():
        if e.get("aria-labelledby"):
            assert e.get("aria-labelledby") in ids


@pytest.mark.parametrize(
    ("page", "text"),
    [
        pytest.param(
            page, text, id=f"{n}-{page}", marks=() if (n + m) % 3 == 0 else pytest.mark.slow
        )
        for n, text in enumerate(HOSTILE)
        for m, page in enumerate(PAGES)
    ],
)
def test_hostile_names_are_shown_and_do_nothing(demo_guide, page, text):
    html = PAGES[page](named(demo_guide, text), STYLE)
    tree = parsed(html)
    assert not list(tree.iter(f"{HTML}script"))
    assert not list(tree.iter(f"{HTML}img"))
    (heading,) = tree.iter(f"{HTML}h1") if page != "cards" else [next(tree.iter(f"{HTML}h1"))]
    assert text in "".join(heading.itertext())
    style = "".join("".join(s.itertext()) for s in tree.iter(f"{HTML}style"))
    assert "example.invalid" not in style.replace("\\", "") or "import url(https" not in style
    assert "@import" not in style
    assert "49" not in "".join(heading.itertext())


def test_the_pdf_holds_the_text_and_a_hostile_name_prints_as_it_is(demo_guide, caplog):
    guide = replace(demo_guide, title=HOSTILE[0], pulls=demo_guide.pulls[:20])
    made = html_to_pdf(guide_html(guide, STYLE))
    complaints = [r for r in caplog.records if r.levelno >= logging.WARNING]
    assert [r.getMessage() for r in complaints if r.name.startswith("weasyprint")] == []
    document = pypdfium2.PdfDocument(made)
    texts = [document[n].get_textpage().get_text_range() for n in range(len(document))]
    whole = re.sub(r"\s+", " ", " ".join(texts))
    assert HOSTILE[0] in whole
    assert "Tether loop, opened daily" in whole
    assert "came out 4 of 4" in whole
    assert "no approval for lifting, rescue" in whole
    assert all(SCALES[r].name in whole for r in Rating)
    for use in guide.uses:
        for found in use.lists:
            for row in found.rows:
                assert row.name in whole
                assert f"score, {row.low:.0f} to {row.high:.0f}" in whole
    for n, text in enumerate(texts[1:], start=2):
        assert f"{n} of {len(document)}" in text
    first = document[0].render(scale=0.5).to_pil().convert("L")
    assert 5 < 255 - np.asarray(first).mean() < 120
    fonts = {f.split("+")[-1] for f in re.findall(r"/FontName /([^ /]+)", made.decode("latin-1"))}
    assert not fonts or any("Karla" in f for f in fonts)


def test_a_bench_card_is_one_page_of_a6_and_a_wall_chart_one_of_a3(demo_guide):
    cards = pypdfium2.PdfDocument(html_to_pdf(cards_html(demo_guide, STYLE)))
    assert len(cards) == len(demo_guide.knots)
    width, height = cards[0].get_size()
    assert (width / 72 * 25.4, height / 72 * 25.4) == pytest.approx((105, 148), abs=0.5)
    for sheet, size in (("A3", (420, 297)), ("A2", (594, 420))):
        wall = pypdfium2.PdfDocument(html_to_pdf(wall_html(demo_guide, STYLE, sheet)))
        assert len(wall) == 1
        width, height = wall[0].get_size()
        assert (width / 72 * 25.4, height / 72 * 25.4) == pytest.approx(size, abs=0.5)
    one = cards_html(demo_guide, STYLE, (demo_guide.knots[0].key,))
    assert one.count('class="card"') == 1


def test_a_page_that_refers_outside_is_refused():
    with pytest.raises(ValueError, match="refers to something outside"):
        html_to_pdf('<link rel="stylesheet" href="https://example.invalid/a.css"><p>x</p>')


def test_printing_in_a_process_gives_the_same_and_can_be_stopped(demo_guide):
    html = cards_html(demo_guide, STYLE, (demo_guide.knots[0].key,))
    seen = []
    made = html_to_pdf_watched(html, lambda done, whole: seen.append((done, whole)))
    assert pypdfium2.PdfDocument(made)[0].get_size() == pytest.approx((297.6, 419.5), abs=1)
    assert seen
    assert all(done < whole for done, whole in seen)

    def stop(done, whole):
        raise Cancelled

    with pytest.raises(Cancelled):
        html_to_pdf_watched(html, stop)


def test_printing_that_fails_says_so(monkeypatch):
    monkeypatch.setattr(pdf_module.sys, "executable", "/bin/false")
    with pytest.raises(DataError, match="could not be made"):
        html_to_pdf_watched("<p>x</p>", no_progress)


def test_a_css_string_lets_nothing_out():
    assert css_string("Ridge 7, wet") == '"Ridge 7\\00002c  wet"'
    assert "<" not in css_string("</style>")
    assert css_string('a"b\\c').count('"') == 2


def test_texts_are_cut_to_their_room():
    wide = text_width("Bowline on the bight", "Karla", 700, 3.0)
    assert 25 < wide < 40
    assert elide("Bowline", "Karla", 400, 3.0, 100) == "Bowline"
    cut = elide("Bowline on the bight", "Karla", 700, 3.0, 15)
    assert cut.endswith("…")
    assert text_width(cut, "Karla", 700, 3.0) <= 15
    assert text_width("结", "Karla", 400, 2.0) == pytest.approx(1.3)


def test_a_knots_page_shows_every_cordage_and_a_card_its_best_result(demo_guide):
    bowline = next(k for k in demo_guide.knots if k.name == "Bowline" and k.variant == "plain")
    tree = parsed(guide_html(demo_guide, STYLE))
    number = demo_guide.knots.index(bowline) + 1
    page = next(e for e in tree.iter(f"{HTML}section") if e.get("id") == f"knot-{number}")
    text = re.sub(r"\s+", " ", "".join(page.itertext()))
    own = knot_results(demo_guide, bowline)
    assert len(list(page.iter(f"{HTML}h4"))) == len(own)
    for result in own:
        assert demo_guide.lot(result.lot).name in text
        for gauge in result.gauges:
            assert gauge.value is None or gauge.range_text.replace(" to ", "–") in text
    assert text.count("Front") >= 1 < text.count("Back")
    assert best_result(demo_guide, bowline).lot == demo_guide.lots[0].key
    assert best_result(replace(demo_guide, results=()), bowline) is None


def test_the_guide_opens_with_what_it_answers(demo_guide):
    tree = parsed(guide_html(demo_guide, STYLE))
    table = next(e for e in tree.iter(f"{HTML}table") if e.get("class") == "answers")
    cells = ["".join(c.itertext()) for c in table.iter(f"{HTML}td")]
    every = [a for row in answers_of(demo_guide) for a in row]
    assert len(cells) == len(every) == len(demo_guide.uses) * len(demo_guide.lots)
    school = answer_school(demo_guide)
    assert school in "".join(table.find(f"{HTML}caption").itertext())
    kinds = set()
    for cell, answer in zip(cells, every, strict=True):
        kinds.add(answer.kind)
        said = re.sub(r"\s+", " ", cell)
        if not answer.names:
            assert "pulled" in said or "ranked" in said
            continue
        assert all(name in said for name in answer.names)
        assert answer.load_text in said
        if answer.kind is AnswerKind.FIRST:
            assert f"{100 * answer.chance:.0f} %" in said
        else:
            assert "cannot be told apart" in said
    assert AnswerKind.TIED in kinds
    assert AnswerKind.FIRST in kinds


def test_of_tied_knots_the_lowest_working_load_is_given(demo_guide):
    tied = next(a for row in answers_of(demo_guide) for a in row if a.kind is AnswerKind.TIED)
    use = next(
        u for u, row in zip(demo_guide.uses, answers_of(demo_guide), strict=True) if tied in row
    )
    rows = next(f for f in use.lists if f.lot == tied.lot).rows
    school = answer_school(demo_guide)
    results = {r.key: r for r in demo_guide.results}
    loads = {
        s.text: s.load_n
        for row in rows if row.name in tied.names
        for s in results[row.result].loads if s.school == school
    }  # fmt: skip
    assert loads[tied.load_text] == min(loads.values())


def text_sizes(document):
    """Height of every letter as it is printed, in point."""
    found = []
    for n in range(len(document)):
        page = document[n].get_textpage()
        for k in range(0, page.count_chars(), 3):
            size = pypdfium2.raw.FPDFText_GetFontSize(page, k)
            if size > 0 and page.get_text_range(k, 1).strip():
                matrix = pypdfium2.raw.FS_MATRIX()
                pypdfium2.raw.FPDFText_GetMatrix(page, k, matrix)
                found.append(size * abs(matrix.d))
    return np.array(found)


@pytest.mark.slow
def test_nothing_is_printed_too_small_to_read(demo_guide):
    for html, least in (
        (guide_html(replace(demo_guide, knots=demo_guide.knots[:2]), STYLE), 9.0),
        (cards_html(demo_guide, STYLE, (demo_guide.knots[1].key,)), 8.0),
        (wall_html(demo_guide, STYLE), 14.0),
        (wall_html(demo_guide, STYLE, "A2"), 14.0),
    ):
        sizes = text_sizes(pypdfium2.PdfDocument(html_to_pdf(html)))
        assert len(sizes) > 100
        assert sizes.min() >= least - 0.05, sizes.min()


@pytest.mark.slow
def test_no_page_of_the_guide_is_less_than_a_third_full(demo_guide):
    document = pypdfium2.PdfDocument(html_to_pdf(guide_html(demo_guide, STYLE)))
    assert len(document) > 12
    for n in range(len(document)):
        grey = np.asarray(document[n].render(scale=0.4).to_pil().convert("L"))
        body = grey[: int(0.93 * len(grey))]
        low = np.nonzero((body < 245).any(axis=1))[0].max()
        assert low > len(grey) / 3, f"page {n + 1}"


@pytest.mark.slow
def test_contents_have_page_numbers_on_paper_and_none_on_screen(demo_guide):
    guide = replace(demo_guide, knots=demo_guide.knots[:3], pulls=demo_guide.pulls[:20])
    html = guide_html(guide, STYLE)
    assert "data-page=" not in html
    document = pypdfium2.PdfDocument(html_to_pdf(html))
    texts = [document[n].get_textpage().get_text_range() for n in range(len(document))]
    front = re.sub(r"\s+", " ", texts[1])
    for knot in guide.knots:
        number = int(re.search(rf"Knot: {re.escape(title_of(knot))}\D*(\d+)", front)[1])
        assert title_of(knot) in texts[number - 1].splitlines()[0]
    assert f"2 of {len(document)}" in front


def test_the_reason_for_a_release_and_what_changed_are_printed(demo_guide):
    from bruiser.core.choice.guide import Blocking, ChangesSince, Moved

    moved = Moved(knot="Bowline", lot="P8-B", rating=Rating.STRENGTH, before="69 %", now="51 %")
    guide = replace(
        demo_guide,
        state="released",
        blocking=(Blocking("k", "No baseline.", "It burned."),),
        changes=ChangesSince(
            revision=3, moved=(moved,), new=("Reef knot",), gone=(), lines=("2 more pulls count.",)
        ),
    )
    text = "".join(parsed(guide_html(guide, STYLE)).itertext())
    assert "Released all the same because: It burned." in re.sub(r"\s+", " ", text)
    assert "What changed since revision 3" in text
    assert "51 %" in text
    draft = "".join(parsed(guide_html(demo_guide, STYLE)).itertext())
    assert "not checked, not released" in draft
