"""The pace of the server is taken on what it says it is taken on."""

from __future__ import annotations

from dataclasses import replace
from unittest.mock import patch

from django.db import connection
from django.test import TransactionTestCase

from runs.models import Measured, Run
from trials import altering, pace


class PaceTest(TransactionTestCase):  # ANALYZE TABLE commits, so rolling back would not undo it
    def test_it_fills_a_database_and_times_what_answers(self):
        with patch.multiple(pace, REPEATS=1, UNSEEN=0, FEW=1, OTHER_CARS=9, CHANGED=50, PER_GROUP=5):
            found = list(pace.pace(120))
        copies = Run.objects.filter(notes__startswith=pace.NOTE)
        self.assertEqual(copies.count(), 120)
        self.assertEqual({run.setup.name for run in copies.select_related("setup")}, {f"setup {n}" for n in range(6)})
        copy = copies.filter(kind="standing").first()
        template = Run.objects.get(pk=int(copy.notes.removeprefix(pace.NOTE)))
        counts = [Measured.objects.filter(run=run).count() for run in (copy, template)]
        self.assertEqual(counts[0], counts[1])
        self.assertEqual(found[0].limit_s, 0.3)
        self.assertIn("compare 2 x 5 runs |", str(found[0]))

    def test_an_answer_that_is_none_is_told(self):
        with self.assertRaises(RuntimeError):
            pace._timed("nothing", lambda: type("Answer", (), {"status_code": 404, "content": b"gone"})(), None)


class ChangesTest(TransactionTestCase):
    def test_the_table_is_changed_in_each_way_while_others_use_it_and_is_as_it_was(self):
        before = self.columns()
        with patch.object(pace, "OTHER_CARS", 1):
            found = list(altering.changes(60))
        self.assertEqual(self.columns(), before)
        self.assertTrue(all(each.took_s > 0 for each in found))
        self.assertIn("| a column with a default |", str(found[1]))
        self.assertFalse(replace(found[0], write_s=60.0).held)

    def columns(self) -> set[str]:
        with connection.cursor() as cursor:
            return {column.name for column in connection.introspection.get_table_description(cursor, "runs_run")}
