"""One change of many runs: previewed, made as one action, all of it or nothing, and taken back."""

from __future__ import annotations

from typing import Any
from unittest import mock

from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APITestCase

from days.models import ScheduledRun, TestDay
from history.models import Action
from plans.models import Group, Plan
from runs.models import Run
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class TogetherTest(APITestCase):
    def setUp(self):
        self.client.force_login(UserFactory(username="rowan"), backend="django.contrib.auth.backends.ModelBackend")
        self.before = SetupFactory(name="7.1")
        self.after = SetupFactory(car=self.before.car, name="7.2")
        self.runs = [RunFactory(setup=self.before, battery_temp_before_c=40.0 + place) for place in range(6)]

    def change(self, apply: bool = True, runs: list[Run] | None = None, **changes: Any):
        rows = [{"id": run.pk, "revision": run.revision} for run in (self.runs if runs is None else runs)]
        return self.client.post(
            reverse("run-change-many"), {"runs": rows, "changes": changes, "apply": apply}, format="json"
        )

    def undo(self):
        return self.client.post(reverse("action-undo", args=[Action.objects.latest("pk").pk]))


class ChangeTest(TogetherTest):
    def test_six_runs_under_the_wrong_setup_are_moved_and_moved_back(self):
        seen = self.change(apply=False, setup=self.after.pk).json()
        self.assertEqual((seen["changed"], seen["unchanged"], seen["retimed"]), (6, 0, 6))
        self.assertEqual(
            seen["effects"][0]["fields_changed"], [{"name": "setup", "old": str(self.before), "new": str(self.after)}]
        )
        self.assertFalse(Run.objects.filter(setup=self.after).exists() or Action.objects.exists())
        made = self.change(setup=self.after.pk)
        self.assertEqual((made.status_code, Action.objects.get().title), (200, "Changed 6 runs"))
        self.assertEqual(Run.objects.filter(setup=self.after, stale=True, revision=2).count(), 6)
        self.undo()
        self.assertEqual(Run.objects.filter(setup=self.before, revision=3).count(), 6)

    def test_only_what_is_sent_changes_and_each_gets_its_own_old_value_back(self):
        self.change(battery_temp_before_c=35.0)
        self.assertEqual(set(Run.objects.values_list("battery_temp_before_c", "setup")), {(35.0, self.before.pk)})
        self.undo()
        found = Run.objects.order_by("pk").values_list("battery_temp_before_c", flat=True)
        self.assertEqual(list(found), [40.0, 41.0, 42.0, 43.0, 44.0, 45.0])

    def test_runs_that_are_so_already_are_left_alone(self):
        answer = self.change(battery_temp_before_c=40.0).json()
        self.assertEqual((answer["changed"], answer["unchanged"]), (5, 1))
        self.assertEqual(Run.objects.get(pk=self.runs[0].pk).revision, 1)

    def test_many_are_voided_with_a_reason_and_kept_again(self):
        self.assertIn("changes.void_reason", self.change(validity="void").json()["errors"])
        self.change(validity="void", void_reason="traffic", void_note="a tractor")
        self.assertEqual(Action.objects.get().title, "Voided 6 runs")
        voided = Run.objects.filter(validity="void", void_reason="traffic", void_note="a tractor", decided=True)
        self.assertEqual(voided.count(), 6)
        self.runs = list(Run.objects.all())
        self.change(validity="valid")
        self.assertEqual(Run.objects.filter(validity="valid", void_reason="", void_note="").count(), 6)

    def test_a_slip_of_unit_is_refused_at_its_field(self):
        self.assertIn("changes.battery_temp_before_c", self.change(battery_temp_before_c=104).json()["errors"])


class EachTest(TogetherTest):
    def each(self, values: list[dict[str, Any]], **more: Any):
        rows = [
            {"id": run.pk, "revision": run.revision, "changes": changes} | more
            for run, changes in zip(self.runs, values, strict=False)
        ]
        return self.client.post(reverse("run-change-each"), {"runs": rows}, format="json")

    def test_every_run_gets_its_own_and_all_are_taken_back_at_once(self):
        answer = self.each([{"battery_temp_before_c": 50.0 - place} for place in range(6)])
        self.assertEqual(answer.status_code, 200, answer.content)
        found = Run.objects.order_by("pk").values_list("battery_temp_before_c", flat=True)
        self.assertEqual(list(found), [50, 49, 48, 47, 46, 45])
        self.assertEqual(Action.objects.get().title, "Changed 5 runs")  # the last one had its 45 already
        self.undo()
        self.assertEqual(list(found.all()), [40, 41, 42, 43, 44, 45])

    def test_one_wrong_value_and_none_is_changed(self):
        answer = self.each([{"charge_before_percent": 90}, {"charge_before_percent": 900}])
        self.assertEqual(answer.status_code, 400)
        self.assertFalse(Run.objects.filter(charge_before_percent=90).exists())

    def test_a_run_named_twice(self):
        row = {"id": self.runs[0].pk, "changes": {"notes": "x"}}
        answer = self.client.post(reverse("run-change-each"), {"runs": [row, row]}, format="json")
        self.assertIn("named twice", str(answer.json()["errors"]))


class RefusedTest(TogetherTest):
    def unchanged(self) -> bool:
        return not Action.objects.exists() and not Run.objects.filter(notes="x").exists()

    def test_a_setup_of_another_car_while_one_of_them_is_in_a_plan(self):
        plan = Plan.objects.create(
            question="Unlock or not?", car=self.before.car, course=CourseFactory(), created_by=UserFactory()
        )
        group = Group.objects.create(plan=plan, name="before", position=0, setup=self.before)
        now = timezone.now()
        state = {"charge_percent": 90.0, "battery_temp_c": 40.0, "outside_temp_c": 12.0}
        day = TestDay.objects.create(plan=plan, part=0, first_run_at=now, known_at=now, **state)
        ScheduledRun.objects.create(day=day, group=group, position=0, run=self.runs[3])
        other = SetupFactory()
        for apply in (False, True):
            answer = self.change(apply, setup=other.pk)
            self.assertEqual(answer.status_code, 400)
            self.assertIn(f"is in the plan {plan}", answer.json()["errors"]["setup"][0])
        self.assertTrue(self.unchanged())
        rest = [run for run in self.runs if run != self.runs[3]]
        self.assertEqual(self.change(runs=rest, setup=other.pk).json()["changed"], 5)

    def test_a_run_that_somebody_deleted_meanwhile(self):
        Run.objects.filter(pk=self.runs[2].pk).delete()
        answer = self.change(notes="x")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("1 of the 6 runs were deleted in the meantime", answer.json()["detail"])
        self.assertTrue(self.unchanged())

    def test_a_run_that_somebody_changed_meanwhile(self):
        Run.objects.filter(pk=self.runs[2].pk).update(revision=2)
        self.assertEqual(self.change(notes="x").status_code, 409)
        self.assertTrue(self.unchanged())

    def test_ten_thousand_runs(self):
        rows = [{"id": number} for number in range(1, 10_001)]
        answer = self.client.post(reverse("run-change-many"), {"runs": rows, "changes": {"notes": "x"}}, format="json")
        self.assertIn("Select 2000 runs at most; these are 10000.", answer.json()["errors"]["runs"])

    def test_a_failure_in_the_middle_changes_nothing(self):
        with mock.patch("history.services.Change.objects.bulk_create", side_effect=RuntimeError):
            self.assertEqual(self.change(notes="x").status_code, 500)
        self.assertTrue(self.unchanged())

    def test_a_reader(self):
        self.client.force_login(UserFactory(role="reader"), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.change(notes="x").status_code, 403)

    def test_taking_back_what_somebody_changed_again(self):
        course = CourseFactory()
        self.change(course=course.pk)
        Run.objects.filter(pk=self.runs[0].pk).update(course=None)
        self.assertEqual(self.undo().status_code, 409)
        self.assertEqual(Run.objects.filter(course=course).count(), 5)
