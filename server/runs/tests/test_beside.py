"""What stands beside a run: the ones before and after, the best of its setup, the density altitude."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from runs.models import Measured
from runs.tests.factories import RunFactory, SetupFactory, UserFactory


class BesideTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.setup_ = SetupFactory()
        self.runs = [RunFactory(setup=self.setup_, sixty_s=time) for time in (4.02, 3.95, 4.10)]

    def beside(self, run) -> dict:
        return self.client.get(reverse("run-beside", args=[run.pk])).json()

    def test_the_runs_of_the_car_before_and_after_it(self):
        RunFactory()  # of another car, later
        first, middle, last = self.runs
        self.assertEqual([self.beside(first)[name] for name in ("previous", "next")], [None, middle.pk])
        self.assertEqual([self.beside(middle)[name] for name in ("previous", "next")], [first.pk, last.pk])
        self.assertIsNone(self.beside(last)["next"])

    def test_the_best_of_its_setup_and_kind_that_counts(self):
        first, best, _ = self.runs
        quicker = RunFactory(setup=SetupFactory(car=self.setup_.car), sixty_s=3.5)
        stop = RunFactory(setup=self.setup_, kind="stop")
        Measured.objects.create(run=stop, name="60-0 mph", clock="speed", distance_m=34.0, distance_u95_m=0.1)
        found = self.beside(first)
        self.assertEqual(found["best"], best.pk)
        self.assertNotIn(quicker.pk, found["of_setup"])
        self.assertEqual(set(found["of_setup"]), {run.pk for run in self.runs[1:]})
        self.assertEqual(self.beside(stop)["best"], stop.pk)
        best.validity, best.void_reason = "void", "traffic"
        best.save()
        self.assertEqual(self.beside(first)["best"], first.pk)

    def test_density_altitude_where_the_air_was_noted(self):
        self.assertIsNone(self.beside(self.runs[0])["density_altitude_m"])
        # ISO 2533: 898.746 hPa and 8.501 degrees Celsius are the standard atmosphere at 1000 m.
        high = RunFactory(setup=self.setup_, pressure_hpa=898.746, outside_temp_c=8.501)
        self.assertAlmostEqual(self.beside(high)["density_altitude_m"], 1000.0, delta=1.5)
