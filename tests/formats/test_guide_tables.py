"""The guide as tables and as JSON: read back, complete, and harmless to a spreadsheet."""

import csv
import io
import json
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest
from openpyxl import load_workbook

from bruiser.core.choice.guide import Guide
from bruiser.core.choice.rating import Rating
from bruiser.core.errors import InputError
from bruiser.core.json_records import read_record
from bruiser.formats.guide_tables import (
    guide_csv,
    guide_json,
    guide_schema,
    guide_sheets,
    guide_xlsx,
)

SCHEMA = Path(__file__).parents[2] / "docs" / "guide.schema.json"


def test_the_json_is_the_whole_guide_and_keeps_to_the_published_schema(demo_guide):
    text = guide_json(demo_guide)
    assert read_record(Guide, text) == demo_guide
    published = json.loads(SCHEMA.read_text(encoding="utf-8"))
    assert published == guide_schema()
    jsonschema.Draft202012Validator.check_schema(published)
    jsonschema.validate(json.loads(text), published)


@pytest.mark.parametrize(
    "spoil",
    [
        lambda d: d.pop("lots"),
        lambda d: d.update(revision="one"),
        lambda d: d["results"][0].pop("gauges"),
        lambda d: d["results"][0]["gauges"][0].update(rating="luck"),
    ],
)
def test_a_guide_that_does_not_keep_to_it_is_refused_by_field(demo_guide, spoil):
    data = json.loads(guide_json(demo_guide))
    spoil(data)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, guide_schema())
    with pytest.raises(InputError) as refused:
        read_record(Guide, json.dumps(data))
    assert refused.value.where


def test_the_workbook_holds_every_table_with_numbers_as_numbers(demo_guide):
    book = load_workbook(io.BytesIO(guide_xlsx(demo_guide)))
    assert book.sheetnames == ["about", "short lists", "ratings", "strength", "across", "pulls"]
    ratings = list(book["ratings"].values)
    assert len(ratings) == 1 + len(Rating) * len(demo_guide.results)
    header = ratings[0]
    first = dict(zip(header, ratings[1], strict=True))
    gauge = demo_guide.results[0].gauges[0]
    assert first["value"] == pytest.approx(gauge.value)
    assert first["band"] == gauge.band
    missing = [r for r in ratings[1:] if r[header.index("value")] is None]
    assert missing
    assert all(r[header.index("not measured because")] for r in missing)
    assert len(list(book["pulls"].values)) == 1 + len(demo_guide.pulls)
    lists = list(book["short lists"].values)
    said = [r[-1] for r in lists[1:] if r[3] is None]
    assert any(s.startswith("excluded: ") for s in said)
    assert any(s.startswith("not ranked: ") for s in said)


def test_the_csv_reads_back_and_every_table_can_be_had(demo_guide):
    rows = list(csv.reader(io.StringIO(guide_csv(demo_guide))))
    assert len(rows) == 1 + len(Rating) * len(demo_guide.results)
    for name, (header, content) in guide_sheets(demo_guide).items():
        read = list(csv.reader(io.StringIO(guide_csv(demo_guide, name))))
        assert read[0] == list(header)
        assert len(read) == 1 + len(content)
        assert {len(r) for r in read} == {len(header)}
    with pytest.raises(ValueError, match="no table"):
        guide_csv(demo_guide, "gossip")


@pytest.mark.parametrize("text", ["=1+1", "+cmd", "-2", "@sum"])
def test_a_name_that_looks_like_a_formula_is_none(demo_guide, text):
    spoilt = replace(demo_guide, title=text, factor_text=text)
    sheet = load_workbook(io.BytesIO(guide_xlsx(spoilt)))["about"]
    assert sheet["B2"].value == f"'{text}"
    assert sheet["B2"].data_type == "s"
    assert f"'{text}" in guide_csv(spoilt, "about")
