"""The home page over the API: what comes next, what is open, and what lacks."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from accounts.models import Role
from comparisons.models import Comparison
from coombe_launcher import backup_state
from days.models import DayState, TestDay
from plans.models import Plan
from plans.tests.asking import PlanTest
from recording.models import Recording
from runs.models import Import, ImportState
from runs.tests.factories import RunFactory, UserFactory


class HomeTest(PlanTest):
    def home(self) -> dict:
        return self.client.get(reverse("home")).json()

    def test_nothing_is_there_at_first(self):
        self.setup.delete()
        self.car.delete()
        empty = self.home()
        for name in ("days", "tests", "verdicts", "trouble", "reminders"):
            self.assertEqual(empty[name], [], name)
        self.assertEqual((empty["cars"], empty["runs"], empty["without_conditions"]), (0, 0, 0))

    def test_administrators_alone_hear_of_a_backup_that_failed(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        backup_state.note(folder, ok=False, sentence="No space left on device")
        with override_settings(VAR=folder):
            self.assertEqual(self.home()["trouble"], [])
            boss = UserFactory(role=Role.ADMINISTRATOR)
            self.client.force_login(boss, backend="django.contrib.auth.backends.ModelBackend")
            (found,) = self.home()["trouble"]
            self.assertIn("failed: No space left on device", found["sentence"])
            backup_state.note(folder, ok=True)
            self.assertEqual(self.home()["trouble"], [])

    def test_the_next_day_stands_first_in_the_time_of_its_course_and_a_missed_one_is_gone(self):
        plan = self.plan()
        coming = timezone.now() + timedelta(days=3)
        day = self.day(plan, first_run_at=coming.isoformat(), known_at=(coming - timedelta(hours=9)).isoformat())
        TestDay.objects.filter(pk=day["id"]).update(first_run_at=datetime(2030, 7, 1, 23, 30, tzinfo=UTC))
        (found,) = self.home()["days"]
        # Dublin is an hour ahead of UTC in July.
        self.assertEqual((found["local_date"], found["local_time"]), ("2030-07-02", "00:30"))
        self.assertEqual((found["done"], found["runs"]), (0, 8))
        TestDay.objects.filter(pk=day["id"]).update(first_run_at=timezone.now() - timedelta(days=2))
        self.assertEqual(self.home()["days"], [])
        TestDay.objects.filter(pk=day["id"]).update(state=DayState.UNDER_WAY)
        self.assertEqual(len(self.home()["days"]), 1)

    def test_open_tests_say_what_they_need_and_finished_ones_are_not_listed(self):
        plan = self.plan()
        self.assertEqual([each["needs"] for each in self.home()["tests"]], ["Needs a day."])
        day = TestDay.objects.get(pk=self.day(plan)["id"])
        first = day.scheduled_runs.first()
        first.state = "done"
        first.save()
        (found,) = self.home()["tests"]
        self.assertEqual((found["done"], found["open"]), (1, 7))
        self.assertEqual(found["needs"], "7 runs of 8 still to drive.")
        row = self.client.get(reverse("plan-list")).json()["results"][0]
        self.assertEqual((row["done"], row["open"]), (1, 7))
        newer = self.plan(question="And 60 to 0?")
        self.assertEqual([each["id"] for each in self.home()["tests"]], [newer["id"], plan["id"]])
        Plan.objects.filter(pk=newer["id"]).delete()
        day.scheduled_runs.update(state="done")
        self.assertEqual(self.home()["tests"], [])

    def test_verdicts_have_their_number_and_interval(self):
        difference = {"value": -0.12, "low95": -0.15, "high95": -0.09}
        kept = {"pairs": [{"verdict": "faster", "sentence": "", "difference": difference}]}
        asked = {"measure": "0-60 mph", "clock": "rollout", "created_by": self.person}
        Comparison.objects.create(title="7.2", kept=kept, **asked)
        Comparison.objects.create(title="never kept", kept=None, **asked)
        (found,) = self.home()["verdicts"]
        self.assertEqual(found["verdicts"], [{"verdict": "faster", "difference": difference}])

    def test_what_lacks_and_what_went_wrong_is_said(self):
        RunFactory(setup=self.setup, charge_before_percent=None)
        RunFactory(setup=self.setup, charge_before_percent=90, battery_temp_before_c=35)
        self.plan()
        given = {"setup": self.setup, "asked": {}, "created_by": self.person, "state": ImportState.REFUSED}
        refusal = {"status": 400, "detail": "no fix has a time"}
        Import.objects.create(name="evening.nmea", sha256="0" * 64, refusal=refusal, **given)
        old = Import.objects.create(name="old.nmea", sha256="1" * 64, refusal=refusal, **given)
        Import.objects.filter(pk=old.pk).update(created_at=timezone.now() - timedelta(days=30))
        Recording.objects.create(name="Left lane", began_at=timezone.now(), trouble="the disk is full")
        found = self.home()
        self.assertEqual(found["without_conditions"], 1)
        self.assertEqual(
            [each["sentence"] for each in found["trouble"]],
            ["Recording Left lane: the disk is full", "evening.nmea was refused: no fix has a time"],
        )
        self.assertIn("0 valid runs of 0-60 mph on before", found["reminders"][0]["sentence"])

    def test_nobody_without_a_log_in_sees_it(self):
        self.client.logout()
        self.assertEqual(self.client.get(reverse("home")).status_code, 401)
