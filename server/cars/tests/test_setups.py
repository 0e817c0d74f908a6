"""Cars and their setups."""

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from history.models import Action
from runs.tests.factories import RunFactory, SetupFactory, UserFactory


class SetupTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")

    def test_a_car_lists_its_setups_with_their_runs(self):
        setup = SetupFactory()
        RunFactory.create_batch(3, setup=setup)
        car = self.client.get(reverse("car-detail", args=[setup.car_id])).data
        self.assertEqual([(each["name"], each["run_count"]) for each in car["setups"]], [(setup.name, 3)])

    def test_what_was_driven_is_corrected_for_a_reason_only(self):
        run = RunFactory()
        address = reverse("setup-detail", args=[run.setup_id])
        refused = self.client.patch(address, {"tire_pressure_kpa": 300, "revision": 1})
        self.assertEqual(refused.status_code, 400)
        self.assertIn("If tire pressure kpa had been typed wrong", refused.json()["errors"]["correction"][0])
        self.assertEqual(self.client.patch(address, {"confirmed_by": "version screen", "revision": 1}).status_code, 200)
        corrected = {"tire_pressure_kpa": 300, "revision": 2, "correction": "read in bar"}
        self.assertEqual(self.client.patch(address, corrected).status_code, 200)
        action = Action.objects.first()
        self.assertEqual(action.title, f"Corrected setup {run.setup}: read in bar")
        self.assertEqual(action.changes.get().values, {"tire_pressure_kpa": [run.setup.tire_pressure_kpa, 300.0]})

    def test_an_unused_setup_can_be_mended(self):
        address = reverse("setup-detail", args=[SetupFactory().pk])
        self.assertEqual(self.client.patch(address, {"tire_pressure_kpa": 300, "revision": 1}).status_code, 200)

    def test_pressure_typed_in_psi_is_out_of_range(self):
        address = reverse("setup-detail", args=[SetupFactory().pk])
        refused = self.client.patch(address, {"tire_pressure_kpa": 42}).json()
        self.assertEqual(list(refused["errors"]), ["tire_pressure_kpa"])
