"""Setups that are merged, split, or weigh something of their own: their runs go along, and all of it is taken back."""

from __future__ import annotations

from datetime import UTC, datetime

from django.urls import reverse
from rest_framework.test import APITestCase

from cars.models import Setup
from cars.road_load import road_load
from history.models import Action
from plans.models import Group, Plan
from runs import resting
from runs.models import Run
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class SetupsTest(APITestCase):
    def setUp(self):
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.setup = SetupFactory(name="7.1", modifications="tow hook off")
        self.runs = [
            RunFactory(setup=self.setup, start_utc=datetime(2026, 5, day, 9, minute, tzinfo=UTC))
            for day in (9, 10)
            for minute in (0, 10)
        ]

    def ask(self, what: str, setup: Setup | None = None, **asked):
        return self.client.post(reverse(f"setup-{what}", args=[(setup or self.setup).pk]), asked, format="json")

    def undo(self):
        newest = Action.objects.first()
        return self.client.post(reverse("action-undo", args=[newest.pk]))


class MergeTest(SetupsTest):
    def test_everything_goes_to_the_other_one_and_comes_back(self):
        other = SetupFactory(name="7.1 again", car=self.setup.car)
        plan = Plan.objects.create(
            question="?", car=self.setup.car, course=CourseFactory(), created_by=UserFactory(username="maker")
        )
        group = Group.objects.create(plan=plan, name="before", position=0, setup=self.setup)
        answer = self.ask("merge", into=other.pk)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual((other.runs.count(), other.groups.get()), (4, group))
        self.assertFalse(Setup.objects.filter(pk=self.setup.pk).exists())
        self.assertEqual(self.undo().status_code, 201)
        back = Setup.objects.get(pk=self.setup.pk)
        self.assertEqual((back.runs.count(), back.modifications), (4, "tow hook off"))
        self.assertEqual(back.groups.get(), group)

    def test_with_itself_or_with_another_car_s(self):
        for other, reason in ((self.setup, "can't be merged with itself"), (SetupFactory(), "of another car")):
            refused = self.ask("merge", into=other.pk)
            self.assertEqual(refused.status_code, 400)
            self.assertIn(reason, refused.json()["errors"]["into"][0])
        self.assertEqual(self.setup.runs.count(), 4)


class SplitTest(SetupsTest):
    later = {"since": "2026-05-10", "name": "7.2", "change": "software update"}

    def test_the_runs_from_a_day_on_get_a_setup_of_their_own(self):
        answer = self.ask("split", **self.later)
        self.assertEqual(answer.status_code, 201, answer.content)
        made = Setup.objects.get(name="7.2")
        self.assertEqual((made.change, made.modifications), ("software update", "tow hook off"))
        self.assertEqual((set(made.runs.all()), set(self.setup.runs.all())), (set(self.runs[2:]), set(self.runs[:2])))
        self.assertEqual(self.undo().status_code, 201)
        self.assertEqual(self.setup.runs.count(), 4)
        self.assertFalse(Setup.objects.filter(name="7.2").exists())

    def test_a_day_before_all_runs_and_a_name_that_is_taken(self):
        refused = self.ask("split", **self.later | {"since": "2026-05-01"})
        self.assertIn("Choose a day between them", refused.json()["errors"]["since"][0])
        refused = self.ask("split", **self.later | {"name": "7.1"})
        self.assertIn("a setup of that name", refused.json()["errors"]["name"][0])
        self.assertEqual(self.setup.runs.count(), 4)
        self.assertFalse(Action.objects.exists())


class MassTest(SetupsTest):
    def test_a_setup_s_own_mass_and_drag_stand_before_the_car_s_and_its_runs_are_timed_again(self):
        for run in self.runs:
            resting.settle(run)
        car = self.setup.car
        car.test_mass_kg, car.cda_m2 = 1900, 0.6
        self.assertEqual((road_load(self.setup).mass_kg, road_load(self.setup).cda_m2), (1900, 0.6))
        values = {"test_mass_kg": 1850, "cda_m2": 0.55, "revision": 1, "correction": "seats out"}
        answer = self.client.patch(reverse("setup-detail", args=[self.setup.pk]), values)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.setup.refresh_from_db()
        load = road_load(self.setup, load_kg=75)
        self.assertEqual((load.mass_kg, load.cda_m2), (1925, 0.55))
        self.assertEqual(Run.objects.filter(stale=True).count(), 4)
