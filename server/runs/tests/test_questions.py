"""What the API asks about what was entered: it is stored all the same."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
from django.urls import reverse
from rest_framework.test import APITestCase

from coombe_core.formats.parquet import write_columns
from coombe_core.units import celsius
from runs.models import Run, RunTrace
from runs.tests.factories import RunFactory, UserFactory


class QuestionsTest(APITestCase):
    def setUp(self):
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.first = RunFactory(battery_temp_before_c=41.0, outside_temp_c=15.0)
        later = self.first.start_utc + timedelta(minutes=5)
        self.driven = RunFactory(setup=self.first.setup, start_utc=later, charge_before_percent=90.0)

    def ask(self, run: Run | None = None, **values) -> list[dict]:
        asked = {"run": run.pk if run else None, "values": values}
        answer = self.client.post(reverse("questions"), asked, format="json")
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_forty_typed_as_fahrenheit_five_minutes_after_a_warm_run(self):
        (asked,) = self.ask(self.driven, battery_temp_before_c=celsius(40))
        self.assertIn("5 minutes earlier the battery was at 41 °C (106 °F)", asked["sentence"])
        self.assertIn("Did you mean 40 °C (104 °F)?", asked["sentence"])
        self.assertAlmostEqual(asked["suggestion"], 40.0)

    def test_can_data_stands_before_the_run_before(self):
        columns = {"since_s": np.array([-1.0, 0.0, 1.0]), "battery_temp_c": np.array([np.nan, 30.0, 31.0])}
        RunTrace.objects.create(run=self.driven, fixes=b"", curve=b"", can_data=write_columns(columns))
        self.assertIn("CAN data shows 30 °C", self.ask(self.driven, battery_temp_before_c=41.0)[0]["sentence"])
        self.assertEqual(self.ask(self.driven, battery_temp_before_c=31.0), [])

    def test_what_is_recorded_already_counts_along_and_only_what_is_entered_is_asked_about(self):
        (asked,) = self.ask(self.driven, charge_after_percent=95.0)
        self.assertEqual(asked["field"], "charge_after_percent")
        self.assertEqual(self.ask(self.driven, battery_temp_before_c=42.0), [])

    def test_what_can_not_be_stored_is_asked_about_all_the_same(self):
        (asked,) = self.ask(tire_pressure_kpa=2.9)
        self.assertIn("Did you mean 290 kPa (42.1 psi)?", asked["sentence"])
        self.assertEqual(self.ask(since="2999-01-01")[0]["suggestion"], None)

    def test_a_change_is_stored_and_the_answer_asks(self):
        values = {"revision": 1, "battery_temp_before_c": 4.4}
        answer = self.client.patch(reverse("run-detail", args=[self.driven.pk]), values, format="json")
        self.assertEqual([each["field"] for each in answer.json()["questions"]], ["battery_temp_before_c"])
        self.assertEqual(Run.objects.get(pk=self.driven.pk).battery_temp_before_c, 4.4)

    def test_one_change_of_many_asks_once(self):
        runs = [{"id": run.pk} for run in Run.objects.all()]
        asked = {"runs": runs, "changes": {"battery_temp_before_c": 4.4}, "apply": False}
        answer = self.client.post(reverse("run-change-many"), asked, format="json").json()
        self.assertEqual((answer["changed"], len(answer["questions"])), (2, 1))
