"""Cars and their set-ups."""

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from runs.tests.factories import RunFactory, SetUpFactory, UserFactory


class SetUpTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")

    def test_a_car_lists_its_set_ups_with_their_runs(self):
        set_up = SetUpFactory()
        RunFactory.create_batch(3, set_up=set_up)
        car = self.client.get(reverse("car-detail", args=[set_up.car_id])).data
        self.assertEqual([(each["name"], each["run_count"]) for each in car["set_ups"]], [(set_up.name, 3)])

    def test_a_set_up_with_runs_is_frozen(self):
        run = RunFactory()
        address = reverse("set-up-detail", args=[run.set_up_id])
        refused = self.client.patch(address, {"tire_pressure_kpa": 300})
        self.assertEqual(refused.status_code, 400)
        self.assertIn("tire_pressure_kpa can't change", refused.json()["detail"])
        self.assertEqual(self.client.patch(address, {"confirmed_by": "version screen", "revision": 1}).status_code, 200)

    def test_an_unused_set_up_can_be_mended(self):
        address = reverse("set-up-detail", args=[SetUpFactory().pk])
        self.assertEqual(self.client.patch(address, {"tire_pressure_kpa": 300, "revision": 1}).status_code, 200)

    def test_pressure_typed_in_psi_is_out_of_range(self):
        address = reverse("set-up-detail", args=[SetUpFactory().pk])
        refused = self.client.patch(address, {"tire_pressure_kpa": 42}).json()
        self.assertEqual(list(refused["errors"]), ["tire_pressure_kpa"])
