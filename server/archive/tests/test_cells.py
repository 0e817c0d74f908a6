"""Cells: whatever a row holds is the same after it stood in a table, and a table is read as RFC 4180 has it."""

from __future__ import annotations

import csv
import io
import math
from datetime import UTC, date, datetime

from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from archive.cells import ArchiveError, heading, read, schema_of, written
from archive.contents import MODELS, columns
from cars.models import Car, Setup
from comparisons.models import Comparison, Member
from history.models import Change
from runs.models import Log, Run, RunTrace

WORDS = st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\0"), max_size=40)
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | WORDS,
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(WORDS, inner, max_size=3),
    max_leaves=8,
)
FIELDS = {
    Run._meta.get_field("start_s"): st.floats(allow_nan=False, allow_infinity=False),
    Run._meta.get_field("charge_before_percent"): st.none() | st.floats(0, 100),
    Run._meta.get_field("notes"): WORDS,
    Run._meta.get_field("launch_aid"): st.none() | st.booleans(),
    Run._meta.get_field("complete"): st.booleans(),
    Run._meta.get_field("start_utc"): st.datetimes(datetime(1980, 1, 6), datetime(2200, 1, 1), timezones=st.just(UTC)),
    Setup._meta.get_field("since"): st.dates(),
    Setup._meta.get_field("price"): st.none() | st.decimals(-99_999, 99_999, places=2),
    Comparison._meta.get_field("kept"): JSON,
    Change._meta.get_field("values"): JSON.filter(lambda value: value is not None),
    Member._meta.get_field("run"): st.integers(1, 2**62),
    Log._meta.get_field("imported_by"): WORDS.filter(bool),
}

UNHURRIED = settings(deadline=None, suppress_health_check=[HealthCheck.too_slow])  # a busy machine is no fault


def stood(cell: object) -> str:
    """The cell as another reads it from the table."""
    out = io.StringIO()
    csv.writer(out).writerow(["before", cell, "after"])
    ((_, found, _),) = list(csv.reader(io.StringIO(out.getvalue(), newline="")))
    return found


class CellTest(SimpleTestCase):
    @UNHURRIED
    @given(st.data())
    def test_every_kind_of_value_comes_back(self, data):
        field = data.draw(st.sampled_from(list(FIELDS)))
        value = data.draw(FIELDS[field])
        self.assertEqual(read(field, stood(written(field, value)), "here"), value)

    @UNHURRIED
    @given(WORDS)
    def test_no_word_is_a_formula_to_a_spreadsheet(self, words):
        cell = stood(written(Run._meta.get_field("notes"), words))
        self.assertNotIn(cell[:1], ("=", "+", "-", "@", "\t", "\r"))

    def test_what_is_no_value_of_its_kind_names_where_it_stands(self):
        for name, text in (
            ("start_s", "fast"),
            ("launch_aid", "yes"),
            ("start_utc", "yesterday"),
            ("occupants", "1.5"),
            ("estimated", "{"),
        ):
            with self.assertRaisesRegex(ArchiveError, f"line 7: .{text}. is no {name}".replace("{", r"\{")):
                read(Run._meta.get_field(name), text, "line 7")

    def test_what_is_empty_is_nothing_or_no_words(self):
        self.assertIsNone(read(Run._meta.get_field("charge_before_percent"), "", ""))
        self.assertIsNone(read(Log._meta.get_field("sha256"), "", ""))
        self.assertEqual(read(Run._meta.get_field("notes"), "", ""), "")


class SchemaTest(SimpleTestCase):
    def test_every_column_is_described_with_its_unit_in_its_name(self):
        for model in MODELS:
            described = schema_of(model)["fields"]
            self.assertEqual([each["name"] for each in described], [heading(field) for field in columns(model)])
            self.assertTrue(all(each["description"] for each in described), model)

    def test_what_refers_to_what_is_stated_and_people_are_names(self):
        described = schema_of(Run)
        self.assertIn(
            {"fields": "setup_id", "reference": {"resource": "cars.setup", "fields": "id"}}, described["foreignKeys"]
        )
        names = {each["name"]: each["type"] for each in schema_of(Log)["fields"]}
        self.assertEqual((names["imported_by"], names["start_utc"], names["rate_hz"]), ("string", "datetime", "number"))
        self.assertNotIn("imported_by", [each["fields"] for each in schema_of(Log).get("foreignKeys", [])])
        self.assertIn("fixes_sha256", [each["name"] for each in schema_of(RunTrace)["fields"]])

    def test_a_table_of_numbers_is_not_rounded(self):
        field = Car._meta.get_field("test_mass_kg")
        for value in (0.1, 1 / 3, 1e-300, 1.7976931348623157e308, math.pi):
            self.assertEqual(read(field, stood(written(field, value)), ""), value)
        self.assertEqual(read(Setup._meta.get_field("since"), "2026-05-01", ""), date(2026, 5, 1))
