"""Runs as a spreadsheet, read back with the library that other programs read such files with."""

from __future__ import annotations

import io
from unittest.mock import patch

from django.test import TestCase
from django.urls import reverse
from openpyxl import load_workbook
from rest_framework.test import APIClient

from runs.models import Measured
from runs.tests.factories import CarFactory, RunFactory, SetupFactory, UserFactory


class SpreadsheetTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.setup = SetupFactory(car=CarFactory(name="=HYPERLINK(A1)"))
        self.runs = [RunFactory(setup=self.setup, charge_before_percent=90 - place) for place in range(3)]

    def book(self, **asked):
        answer = self.client.get(reverse("run-spreadsheet"), asked)
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return load_workbook(io.BytesIO(answer.content))

    def test_every_run_and_measure_is_in_it_with_its_unit_in_the_heading(self):
        book = self.book()
        heads, *rows = book["Runs"].iter_rows(values_only=True)
        found = {row[0]: dict(zip(heads, row, strict=True)) for row in rows}
        self.assertEqual(set(found), {run.pk for run in self.runs})
        self.assertEqual(found[self.runs[0].pk]["charge_before_percent"], 90)
        heads, *rows = book["Measures"].iter_rows(values_only=True)
        self.assertEqual(len(rows), Measured.objects.count())
        self.assertIn("time_u95_s", heads)

    def test_words_that_look_like_a_formula_are_words(self):
        cells = [cell for row in self.book()["Runs"].iter_rows() for cell in row]
        self.assertIn("=HYPERLINK(A1)", [cell.value for cell in cells if cell.data_type == "s"])
        self.assertFalse([cell for cell in cells if cell.data_type == "f"])

    def test_filters_of_the_list_hold_and_too_many_are_refused(self):
        RunFactory()
        self.assertEqual(len(list(self.book(car=self.setup.car_id)["Runs"])), 4)
        with patch("runs.spreadsheet.MOST_RUNS", 2):
            answer = self.client.get(reverse("run-spreadsheet"))
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "too_many_runs"))
        self.assertIn("Filter them first", answer.json()["detail"])
