"""Comparisons over the API: the same numbers as the command, clear refusals."""

from __future__ import annotations

import csv
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
from coombe_core.cli.command import main
from coombe_core.formats.parquet import read_columns, write_columns
from learning.services import groups_of
from runs.models import Run, RunTrace
from runs.services import import_log, void_run
from runs.tests.factories import RunFactory, SetUpFactory, UserFactory
from runs.tests.test_import import log_bytes

ASKED = {"measure": "0-60 mph", "clock": "rollout", "quantity": "time"}
TYPED = {"name": "a magazine", "typed": [3.7, 3.8, 3.75], "source": "a test in print", "clock": "rollout"}


def arms_of(before, after):
    """Two groups of runs as the API takes them."""
    return {"arms": [{"name": "before", "runs": before}, {"name": "after", "runs": after}]}


class Arms:
    """Five runs of one power and five of six percent more."""

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
        groups_of.cache_clear()  # tests change runs behind the application's back
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")


class ComparisonTest(Arms, TestCase):
    def preview(self, before=None, after=None, **changes):
        arms = arms_of(before or self.arms["before"], after or self.arms["after"])
        return self.client.post(reverse("comparison-preview"), ASKED | arms | changes)

    def pair(self, *args, **changes) -> dict:
        """The only pair of what is found."""
        answer = self.preview(*args, **changes)
        self.assertEqual(answer.status_code, 200, answer.json())
        return answer.json()["pairs"][0]

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
        ours, theirs = self.pair(), self.by_command()
        self.assertEqual(ours["verdict"], "faster")
        for name in ("verdict", "character", "sentence"):
            self.assertEqual(ours[name], theirs[name], name)
        for name in ("value", "low95", "high95"):
            self.assertAlmostEqual(ours["difference"][name], theirs["difference"][name], 9)
        for ours_band, their_band in zip(ours["bands"], theirs["bands"], strict=True):
            self.assertAlmostEqual(ours_band["difference_s"], their_band["difference_s"], 9)

    def test_a_time_from_first_movement_carries_the_doubt_about_the_ramps(self):
        result = self.preview(clock="first_movement").json()
        self.assertIn("torque ramps", " ".join(result["pairs"][0]["reasons"]))
        values = [row["value"] for row in result["runs"] if row["arm"] == 0]
        self.assertAlmostEqual(sum(values) / len(values), result["arms"][0]["mean"], 9)

    def test_one_set_up_against_itself_carries_none(self):
        before = self.arms["before"]
        result = self.pair(before[:3], before[3:], clock="first_movement")
        self.assertNotIn("torque ramps", " ".join(result["reasons"]))

    def test_a_void_run_drops_out_visibly(self):
        run = Run.objects.get(pk=self.arms["before"][0])
        void_run(run, "traffic", "", run.revision, self.person)
        result = self.preview().json()
        self.assertEqual((result["arms"][0]["n"], result["arms"][0]["attempts"]), (4, 5))
        dropped = {row["id"]: row["dropped"] for row in result["runs"] if row["dropped"]}
        self.assertEqual(dropped, {run.pk: "void: traffic"})

    def test_other_charge_that_might_explain_it_is_not_comparable(self):
        Run.objects.filter(pk__in=self.arms["before"]).update(charge_before_percent=50)
        result = self.pair()
        self.assertEqual(result["verdict"], "not comparable")
        self.assertIn("Charge differs (50 % before, 95 % after); it could explain", result["reasons"][0])
        self.assertIn("at the same charge", result["next"]["sentence"])

    def test_adjusting_for_charge_is_refused_without_runs_that_tell(self):
        Run.objects.filter(pk__in=self.arms["before"]).update(charge_before_percent=50)
        result = self.pair(adjust=["charge"])
        self.assertIn("such as a sweep", result["refused"]["charge"])
        self.assertEqual(result["adjustments"], [])

    def test_a_slope_is_taken_out_by_physics(self):
        runs = Run.objects.filter(pk__in=self.arms["before"])
        runs.update(slope_percent=1.0, slope_u95_percent=0.05)
        Run.objects.filter(pk__in=self.arms["after"]).update(slope_percent=0.0, slope_u95_percent=0.05)
        raw, level = self.pair(), self.pair(adjust=["slope"])
        (taken,) = level["adjustments"]
        # Common practice: 1.2 % of slope makes 0.22 to 0.30 s of 6.4 to 7.4 s; here 1 % of a quicker car.
        self.assertAlmostEqual(taken["per_unit"], 0.055, delta=0.02)
        self.assertAlmostEqual(level["difference"]["value"], raw["difference"]["value"] - taken["removed"], 9)

    def test_a_run_stands_in_one_arm_only(self):
        self.assertIn("two groups", str(self.preview(after=self.arms["before"]).json()["errors"]["arms"]))

    def test_runs_deleted_meanwhile_are_named(self):
        self.assertIn("999999", str(self.preview([*self.arms["before"], 999_999]).json()["errors"]["arms"]))

    def test_one_arm_and_seven_are_refused(self):
        for count in (1, 7):
            arms = [{"name": str(number), "runs": []} for number in range(count)]
            answer = self.client.post(reverse("comparison-preview"), ASKED | {"arms": arms})
            self.assertIn("Two to six", str(answer.json()["errors"]["arms"]))

    def test_a_clock_that_does_not_fit_is_refused(self):
        answer = self.preview(clock="speed")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("runs on first_movement or rollout", str(answer.json()["errors"]["measure"]))

    def test_typed_values_stand_as_an_arm_with_their_source(self):
        arms = [{"name": "ours", "runs": self.arms["before"]}, TYPED]
        result = self.client.post(reverse("comparison-preview"), ASKED | {"arms": arms}).json()
        self.assertEqual((result["arms"][1]["n"], result["arms"][1]["typed"]), (3, True))
        self.assertEqual(result["arms"][1]["source"], "a test in print")

    def test_typed_values_on_another_clock_are_refused(self):
        arms = [{"name": "ours", "runs": self.arms["before"]}, TYPED | {"clock": "first_movement"}]
        answer = self.client.post(reverse("comparison-preview"), ASKED | {"arms": arms})
        self.assertIn("never mixed", str(answer.json()["errors"]["clock"]))

    def test_typed_values_need_their_source(self):
        arms = [{"name": "ours", "runs": self.arms["before"]}, TYPED | {"source": ""}]
        answer = self.client.post(reverse("comparison-preview"), ASKED | {"arms": arms})
        self.assertEqual(answer.status_code, 400)

    def test_three_arms_are_each_compared_with_the_first_and_corrected(self):
        before, after = self.arms["before"], self.arms["after"]
        arms = [{"name": n, "runs": r} for n, r in (("old", before[:3]), ("old again", before[3:]), ("new", after))]
        result = self.client.post(reverse("comparison-preview"), ASKED | {"arms": arms}).json()
        again, new = result["pairs"]
        self.assertEqual((again["verdict"], new["verdict"]), ("no difference shown", "faster"))
        self.assertAlmostEqual(new["p_adjusted"], min(2 * new["p_value"], 1), 9)
        self.assertIn("Every new run beats the best old run.", new["reasons"])

    def test_an_unknown_measure_is_refused_and_not_saved(self):
        answer = self.client.post(
            reverse("comparison-list"), ASKED | arms_of(**self.arms) | {"measure": "0-61", "title": "x"}
        )
        self.assertEqual(answer.status_code, 400)
        self.assertFalse(Comparison.objects.exists())

    def saved(self) -> int:
        asked = ASKED | arms_of(**self.arms) | {"title": "Did it change?", "matters": 0.05}
        answer = self.client.post(reverse("comparison-list"), asked)
        self.assertEqual(answer.status_code, 201, answer.json())
        return int(answer.json()["id"])

    def test_a_saved_comparison_comes_back_with_its_arms_and_result(self):
        back = self.client.get(reverse("comparison-detail", args=[self.saved()])).json()
        self.assertEqual([arm["runs"] for arm in back["arms"]], [self.arms["before"], self.arms["after"]])
        found = back["result"]["pairs"][0]["verdict"], back["changes"], back["matters"]
        self.assertEqual(found, ("faster", [], 0.05))

    def test_a_saved_comparison_tells_what_has_changed_and_keeps_it_when_asked(self):
        number = self.saved()
        run = Run.objects.get(pk=self.arms["after"][0])
        void_run(run, "wheel spin", "", run.revision, self.person)
        back = self.client.get(reverse("comparison-detail", args=[number])).json()
        self.assertIn("1 of its runs no longer count.", back["changes"])
        kept = self.client.post(reverse("comparison-keep", args=[number])).json()
        self.assertEqual(kept["changes"], [])

    def test_it_is_exported_as_csv_and_json_with_the_same_numbers(self):
        number = self.saved()
        rows = list(csv.DictReader(io.StringIO(self.export(number, "csv"))))
        told = json.loads(self.export(number, "json"))
        self.assertEqual((len(rows), rows[0]["arm"], rows[0]["unit"]), (10, "before", "s"))
        mean = sum(float(row["value"]) for row in rows if row["arm"] == "after") / 5
        self.assertAlmostEqual(told["arms"][1]["mean"], mean, 9)
        self.assertEqual(self.client.get(f"/api/comparisons/{number}/as/xls/").status_code, 404)

    def export(self, number: int, file_format: str) -> str:
        return self.client.get(f"/api/comparisons/{number}/as/{file_format}/").content.decode()

    def test_an_incomplete_run_says_that_it_is(self):
        lifted = RunFactory(complete=False)
        result = self.preview([*self.arms["before"], lifted.pk]).json()
        dropped = [row["dropped"] for row in result["runs"] if row["id"] == lifted.pk]
        self.assertEqual(dropped, ["did not reach 0-60 mph at full power"])

    def test_what_a_lifted_pull_reached_before_the_lift_still_counts(self):
        run = Run.objects.get(pk=self.arms["before"][0])
        Run.objects.filter(pk=run.pk).update(complete=False)
        thirty = run.measured.get(name="0-30 mph", clock="rollout")
        lift_s = thirty.time_s + run.rollout_s + 0.2
        run.flags.create(code="lifted_early", severity="caution", message="eased off", since_s=lift_s)
        dropped = {
            measure: next(row["dropped"] for row in self.preview(measure=measure).json()["runs"] if row["id"] == run.pk)
            for measure in ("0-30 mph", "0-60 mph")
        }
        self.assertEqual(dropped, {"0-30 mph": "", "0-60 mph": "did not reach 0-60 mph at full power"})


class DetailsTest(Arms, TestCase):
    def details(self, **changes) -> dict:
        answer = self.client.post(reverse("comparison-details"), ASKED | arms_of(**self.arms) | changes)
        self.assertEqual(answer.status_code, 200, answer.json())
        return answer.json()

    def test_mean_curves_start_at_the_clock_s_zero(self):
        before, after = self.details()["overlays"]["speed_time"]
        self.assertEqual(before["x"][0], 0)
        self.assertGreater(before["mean"][0], 1.0)
        self.assertTrue(all(low <= mean for low, mean in zip(after["low95"], after["mean"], strict=True)))

    def test_the_stronger_car_is_ahead_by_ever_more(self):
        (gap,) = self.details()["gaps"]
        self.assertGreater(gap["ahead_m"][-1], 0.3)
        leads = {round(lead["speed_mps"], 3): lead["ahead_m"] for lead in gap["leads"]}
        self.assertGreater(leads[26.822], leads[13.411])

    def test_other_measures_are_corrected_for_their_number(self):
        rows = {row["measure"]: row for row in self.details()["others"]}
        self.assertTrue(rows["0-60 mph"]["shown"])
        self.assertGreater(rows["60 ft"]["p_adjusted"], rows["60 ft"]["p_value"] - 1e-12)

    def test_a_charge_that_no_sweep_covers_is_not_projected(self):
        rows = self.details()["projections"]
        self.assertTrue(rows)
        self.assertTrue(all(row["value"] is None and "sweep" in row["said"] for row in rows))

    def test_a_pull_that_was_lifted_is_projected_to_the_end_and_marked_so(self):
        run = Run.objects.get(pk=self.arms["before"][0])
        truth = run.measured.get(name="0-60 mph", clock="rollout").time_s
        curve = read_columns(bytes(run.trace.curve))
        short = {name: column[curve["speed_mps"] < 24.0] for name, column in curve.items()}
        RunTrace.objects.filter(run=run).update(curve=write_columns(short))
        Run.objects.filter(pk=run.pk).update(complete=False)
        (row,) = self.details()["unreached"]
        self.assertAlmostEqual(row["value"], truth, delta=row["u95"])
        self.assertIn("carried on from", row["said"])
        (far,) = self.details(measure="0-100 mph")["unreached"]
        self.assertIsNone(far["value"])
        self.assertIn("too far from 0-100 mph", far["said"])
