"""Comparisons over the API: the same numbers as the command, clear refusals."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path

from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from cars.models import SetUp
from comparisons.models import Comparison
from coombe_core.command import main
from runs.models import Run
from runs.services import import_log, void_run
from runs.tests.factories import RunFactory, SetUpFactory, UserFactory
from runs.tests.test_import import log_bytes

ASKED = {"measure": "0-60 mph", "clock": "rollout", "quantity": "time"}


class ComparisonTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.person = UserFactory(role=Role.ADMINISTRATOR)
        cls.arms = {}
        for arm, name in (("before", "five-runs"), ("after", "after-update")):
            set_up: SetUp = SetUpFactory()
            conditions = {"charge_before_percent": 95, "pack_temp_before_c": 44}
            log = import_log(f"{arm}.nmea", log_bytes(name), set_up, cls.person, conditions).log
            cls.arms[arm] = list(log.runs.order_by("start_s").values_list("pk", flat=True))

    def setUp(self):
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def preview(self, **changes):
        return self.client.post(reverse("comparison-preview"), ASKED | self.arms | changes)

    def by_command(self) -> dict:
        with tempfile.TemporaryDirectory() as folder:
            paths = {}
            for arm, name in (("before", "five-runs"), ("after", "after-update")):
                paths[arm] = Path(folder) / f"{arm}.nmea"
                paths[arm].write_bytes(log_bytes(name))
            out = io.StringIO()
            logs = ("--before", str(paths["before"]), "--after", str(paths["after"]))
            main(["compare", "--json", "--measure", "0-60 mph", "--clock", "rollout", *logs], out)
        return json.loads(out.getvalue())

    def test_it_gives_the_numbers_of_the_command(self):
        ours, theirs = self.preview().json(), self.by_command()
        self.assertEqual(ours["verdict"], "faster")
        for name in ("verdict", "character", "sentence"):
            self.assertEqual(ours[name], theirs[name], name)
        for name in ("value", "low95", "high95"):
            self.assertAlmostEqual(ours["difference"][name], theirs["difference"][name], 9)
        for ours_band, their_band in zip(ours["bands"], theirs["bands"], strict=True):
            self.assertAlmostEqual(ours_band["difference_s"], their_band["difference_s"], 9)

    def test_a_time_from_first_movement_carries_the_doubt_about_the_ramps(self):
        result = self.preview(clock="first_movement").json()
        self.assertIn("torque ramps", " ".join(result["reasons"]))
        values = [row["value"] for row in result["runs"] if row["arm"] == "before"]
        self.assertAlmostEqual(sum(values) / len(values), result["before"]["mean"], 9)

    def test_one_set_up_against_itself_carries_none(self):
        before = self.arms["before"]
        result = self.preview(clock="first_movement", before=before[:3], after=before[3:]).json()
        self.assertNotIn("torque ramps", " ".join(result["reasons"]))

    def test_a_void_run_drops_out_visibly(self):
        run = Run.objects.get(pk=self.arms["before"][0])
        void_run(run, "traffic", "", run.revision, self.person)
        result = self.preview().json()
        self.assertEqual(result["before"]["n"], 4)
        dropped = {row["id"]: row["dropped"] for row in result["runs"] if row["dropped"]}
        self.assertEqual(dropped, {run.pk: "void: traffic"})

    def test_other_charge_is_not_comparable(self):
        Run.objects.filter(pk__in=self.arms["before"]).update(charge_before_percent=70)
        result = self.preview().json()
        self.assertEqual(result["verdict"], "not comparable")
        self.assertIn("Charge differs by 25 points", result["reasons"][0])

    def test_a_run_stands_in_one_arm_only(self):
        answer = self.preview(after=self.arms["before"])
        self.assertIn("both arms", str(answer.json()["after"]))

    def test_runs_deleted_meanwhile_are_named(self):
        answer = self.preview(before=[*self.arms["before"], 999_999])
        self.assertIn("999999", str(answer.json()["before"]))

    def test_a_clock_that_does_not_fit_is_refused(self):
        answer = self.preview(clock="speed")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("runs on first_movement or rollout", str(answer.json()["measure"]))

    def test_an_unknown_measure_is_refused_and_not_saved(self):
        answer = self.client.post(reverse("comparison-list"), ASKED | self.arms | {"measure": "0-61", "title": "x"})
        self.assertEqual(answer.status_code, 400)
        self.assertFalse(Comparison.objects.exists())

    def test_a_saved_comparison_comes_back_with_its_arms_and_result(self):
        saved = self.client.post(reverse("comparison-list"), ASKED | self.arms | {"title": "Did it change?"})
        self.assertEqual(saved.status_code, 201)
        back = self.client.get(reverse("comparison-detail", args=[saved.data["id"]])).json()
        self.assertEqual((back["before"], back["after"]), (self.arms["before"], self.arms["after"]))
        self.assertEqual(back["result"]["verdict"], "faster")

    def test_overlays_start_at_the_clock_s_zero(self):
        overlay = self.preview().json()["overlays"][0]
        self.assertEqual(overlay["since_s"][0], 0)
        self.assertGreater(overlay["speed_mps"][0], 1.0)

    def test_an_incomplete_run_says_that_it_is(self):
        lifted = RunFactory(complete=False)
        result = self.preview(before=[*self.arms["before"], lifted.pk]).json()
        self.assertEqual([row["dropped"] for row in result["runs"] if row["id"] == lifted.pk], ["not complete"])
