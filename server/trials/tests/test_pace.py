"""The pace of the server is taken on what it says it is taken on."""

from __future__ import annotations

from unittest.mock import patch

from django.test import TransactionTestCase

from runs.models import Measured, Run
from trials import pace


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
