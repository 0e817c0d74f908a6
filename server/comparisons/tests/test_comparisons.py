"""Comparisons over the API: the same numbers as the command, clear refusals."""

from __future__ import annotations

import csv
import io
import json
import re
import tempfile
from pathlib import Path

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from rest_framework.test import APIClient

from accounts.models import Role
from cars.models import Setup
from comparisons.models import Comparison
from coombe_core.cli.command import main
from coombe_core.formats.parquet import read_columns, write_columns
from learning.services import groups_of
from runs.models import Run, RunTrace
from runs.services import import_log, void_run
from runs.tests.factories import RunFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes

ASKED = {"measure": "0-60 mph", "clock": "rollout", "quantity": "time"}
TYPED = {"name": "a magazine", "typed_values": [3.7, 3.8, 3.75], "source": "a test in print", "clock": "rollout"}


def asked_groups(before, after):
    """Two groups of runs as the API takes them."""
    return {"groups": [{"name": "before", "runs": before}, {"name": "after", "runs": after}]}


class Groups:
    """Five runs of one power and five of six percent more."""

    @classmethod
    def setUpTestData(cls):
        cls.person = UserFactory(role=Role.ADMINISTRATOR)
        cls.groups = {}
        for group, name in (("before", "five-runs"), ("after", "after-update")):
            setup: Setup = SetupFactory()
            conditions = {"charge_before_percent": 95, "battery_temp_before_c": 44}
            log = import_log(f"{group}.nmea", log_bytes(name), setup, cls.person, conditions).log
            cls.groups[group] = list(log.runs.order_by("start_s").values_list("pk", flat=True))

    def setUp(self):
        groups_of.cache_clear()  # tests change runs behind the application's back
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")


class ComparisonTest(Groups, TestCase):
    def preview(self, before=None, after=None, **changes):
        groups = asked_groups(before or self.groups["before"], after or self.groups["after"])
        return self.client.post(reverse("comparison-preview"), ASKED | groups | changes)

    def dropped(self, **changes):
        return self.preview(**changes).json()["runs"][0]["dropped"]

    def test_a_slow_receiver_s_run_drops_out_from_rest_until_a_person_keeps_it(self):
        slow = Run.objects.get(pk=self.groups["before"][0])
        slow.flags.create(code="rate_low", severity="caution", message="Slow.", excludes="from rest")
        self.assertEqual(self.dropped(), "rate low: keep the run to admit it")
        self.assertEqual(self.dropped(measure="30-70 mph", clock="speed"), "")
        Run.objects.filter(pk=slow.pk).update(decided=True)
        self.assertEqual(self.dropped(), "")

    def pair(self, *args, **changes) -> dict:
        """The only pair of what is found."""
        answer = self.preview(*args, **changes)
        self.assertEqual(answer.status_code, 200, answer.json())
        return answer.json()["pairs"][0]

    def by_command(self) -> dict:
        with tempfile.TemporaryDirectory() as folder:
            paths = {}
            for group, name in (("before", "five-runs"), ("after", "after-update")):
                paths[group] = Path(folder) / f"{group}.nmea"
                paths[group].write_bytes(log_bytes(name))
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
        values = [row["value"] for row in result["runs"] if row["group"] == 0]
        self.assertAlmostEqual(sum(values) / len(values), result["groups"][0]["mean"], 9)

    def test_one_setup_against_itself_carries_none(self):
        before = self.groups["before"]
        result = self.pair(before[:3], before[3:], clock="first_movement")
        self.assertNotIn("torque ramps", " ".join(result["reasons"]))

    def test_a_void_run_drops_out_visibly(self):
        run = Run.objects.get(pk=self.groups["before"][0])
        void_run(run, "traffic", "", run.revision, self.person)
        result = self.preview().json()
        self.assertEqual((result["groups"][0]["n"], result["groups"][0]["attempts"]), (4, 5))
        dropped = {row["id"]: row["dropped"] for row in result["runs"] if row["dropped"]}
        self.assertEqual(dropped, {run.pk: "void: traffic"})

    def test_other_charge_that_might_explain_it_is_not_comparable(self):
        Run.objects.filter(pk__in=self.groups["before"]).update(charge_before_percent=50)
        result = self.pair()
        self.assertEqual(result["verdict"], "not comparable")
        self.assertIn("Charge differs (50 % before, 95 % after); it could account for", result["reasons"][0])
        self.assertIn("at the same charge", result["next"]["sentence"])

    def test_adjusting_for_charge_is_refused_without_runs_that_tell(self):
        Run.objects.filter(pk__in=self.groups["before"]).update(charge_before_percent=50)
        result = self.pair(adjust=["charge"])
        self.assertIn("such as a sweep", result["refused"]["charge"])
        self.assertEqual(result["adjustments"], [])

    def test_a_slope_is_taken_out_by_physics(self):
        runs = Run.objects.filter(pk__in=self.groups["before"])
        runs.update(slope_percent=1.0, slope_u95_percent=0.05)
        Run.objects.filter(pk__in=self.groups["after"]).update(slope_percent=0.0, slope_u95_percent=0.05)
        unadjusted, level = self.pair(), self.pair(adjust=["slope"])
        (taken,) = level["adjustments"]
        # Common practice: 1.2 % of slope makes 0.22 to 0.30 s of 6.4 to 7.4 s; here 1 % of a quicker car.
        self.assertAlmostEqual(taken["per_unit"], 0.055, delta=0.02)
        self.assertAlmostEqual(level["difference"]["value"], unadjusted["difference"]["value"] - taken["removed"], 6)

    def test_a_run_stands_in_one_group_only(self):
        self.assertIn("two groups", str(self.preview(after=self.groups["before"]).json()["errors"]["groups"]))

    def test_runs_deleted_meanwhile_are_named(self):
        self.assertIn("999999", str(self.preview([*self.groups["before"], 999_999]).json()["errors"]["groups"]))

    def test_one_group_and_seven_are_refused(self):
        for count in (1, 7):
            groups = [{"name": str(number), "runs": []} for number in range(count)]
            answer = self.client.post(reverse("comparison-preview"), ASKED | {"groups": groups})
            self.assertIn("Two to six", str(answer.json()["errors"]["groups"]))

    def test_a_clock_that_does_not_fit_is_refused(self):
        answer = self.preview(clock="speed")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("runs on first_movement or rollout", str(answer.json()["errors"]["measure"]))

    def test_typed_values_stand_as_a_group_with_their_source(self):
        groups = [{"name": "ours", "runs": self.groups["before"]}, TYPED]
        result = self.client.post(reverse("comparison-preview"), ASKED | {"groups": groups}).json()
        self.assertEqual((result["groups"][1]["n"], result["groups"][1]["from_elsewhere"]), (3, True))
        self.assertEqual(result["groups"][1]["source"], "a test in print")

    def test_typed_values_on_another_clock_are_refused(self):
        groups = [{"name": "ours", "runs": self.groups["before"]}, TYPED | {"clock": "first_movement"}]
        answer = self.client.post(reverse("comparison-preview"), ASKED | {"groups": groups})
        self.assertIn("never mixed", str(answer.json()["errors"]["clock"]))

    def test_typed_values_need_their_source(self):
        groups = [{"name": "ours", "runs": self.groups["before"]}, TYPED | {"source": ""}]
        answer = self.client.post(reverse("comparison-preview"), ASKED | {"groups": groups})
        self.assertEqual(answer.status_code, 400)

    def test_typed_values_of_one_day_are_surer_than_those_of_days_that_nobody_knows(self):
        def width(**said: str) -> float:
            slower = TYPED | {"name": "a test", "typed_values": [4.1, 4.05, 4.12]} | said
            asked = ASKED | {"groups": [TYPED | said, slower]}
            (pair,) = self.client.post(reverse("comparison-preview"), asked).json()["pairs"]
            return pair["difference"]["high95"] - pair["difference"]["low95"]

        self.assertLess(width(typed_day="2026-05-09"), 0.9 * width())

    def test_the_day_of_typed_values_is_kept(self):
        groups = [{"name": "ours", "runs": self.groups["before"]}, TYPED | {"typed_day": "2026-05-09"}]
        made = self.client.post(reverse("comparison-list"), ASKED | {"title": "a test in print", "groups": groups})
        kept = self.client.get(reverse("comparison-detail", args=[made.json()["id"]])).json()
        self.assertEqual([group["typed_day"] for group in kept["groups"]], [None, "2026-05-09"])

    def test_three_groups_are_each_compared_with_the_first_and_corrected(self):
        before, after = self.groups["before"], self.groups["after"]
        groups = [{"name": n, "runs": r} for n, r in (("old", before[:3]), ("old again", before[3:]), ("new", after))]
        result = self.client.post(reverse("comparison-preview"), ASKED | {"groups": groups}).json()
        again, new = result["pairs"]
        self.assertEqual((again["verdict"], new["verdict"]), ("no clear difference", "faster"))
        self.assertAlmostEqual(new["p_adjusted"], min(2 * new["p_value"], 1), 9)
        self.assertIn("Every new run beats the best old run.", new["reasons"])

    def test_an_unknown_measure_is_refused_and_not_saved(self):
        answer = self.client.post(
            reverse("comparison-list"), ASKED | asked_groups(**self.groups) | {"measure": "0-61", "title": "x"}
        )
        self.assertEqual(answer.status_code, 400)
        self.assertFalse(Comparison.objects.exists())

    def saved(self) -> int:
        asked = ASKED | asked_groups(**self.groups) | {"title": "Did it change?", "difference_that_matters": 0.05}
        answer = self.client.post(reverse("comparison-list"), asked)
        self.assertEqual(answer.status_code, 201, answer.json())
        return int(answer.json()["id"])

    def test_a_saved_comparison_comes_back_with_its_groups_and_result(self):
        back = self.client.get(reverse("comparison-detail", args=[self.saved()])).json()
        self.assertEqual([group["runs"] for group in back["groups"]], [self.groups["before"], self.groups["after"]])
        found = back["result"]["pairs"][0]["verdict"], back["changes"], back["difference_that_matters"]
        self.assertEqual(found, ("faster", [], 0.05))

    def test_a_saved_comparison_tells_what_has_changed_and_keeps_it_when_asked(self):
        number = self.saved()
        run = Run.objects.get(pk=self.groups["after"][0])
        void_run(run, "wheel spin", "", run.revision, self.person)
        back = self.client.get(reverse("comparison-detail", args=[number])).json()
        corrected, gone, moved = back["changes"]
        day = f"{timezone.now():%Y-%m-%d}"
        self.assertEqual(
            corrected,
            f"1 of its runs was corrected since: Voided run {run}, validity and void reason "
            f"({self.person.username}, {day}).",
        )
        self.assertEqual(gone, "1 of its runs no longer count.")
        number_with_u95 = r"(−0\.\d{3} s ± 0\.\d{3} s)"
        was, now = re.fullmatch(rf"The difference was {number_with_u95}, and is {number_with_u95}\.", moved).groups()
        self.assertNotEqual(was, now)
        kept = self.client.post(reverse("comparison-refresh", args=[number])).json()
        self.assertEqual(kept["changes"], [])

    def test_it_is_exported_as_csv_and_json_with_the_same_numbers(self):
        number = self.saved()
        rows = list(csv.DictReader(io.StringIO(self.export(number, "csv"))))
        report = json.loads(self.export(number, "json"))
        self.assertEqual((len(rows), rows[0]["group"], rows[0]["unit"]), (10, "before", "s"))
        mean = sum(float(row["value"]) for row in rows if row["group"] == "after") / 5
        self.assertAlmostEqual(report["groups"][1]["mean"], mean, 9)
        self.assertEqual(self.client.get(f"/api/v1/comparisons/{number}/export/xls/").status_code, 404)

    def export(self, number: int, file_format: str) -> str:
        return self.client.get(f"/api/v1/comparisons/{number}/export/{file_format}/").content.decode()

    def test_an_incomplete_run_says_that_it_is(self):
        lifted = RunFactory(complete=False)
        result = self.preview([*self.groups["before"], lifted.pk]).json()
        dropped = [row["dropped"] for row in result["runs"] if row["id"] == lifted.pk]
        self.assertEqual(dropped, ["did not reach 0-60 mph at full power"])

    def test_what_a_lifted_pull_reached_before_the_lift_still_counts(self):
        run = Run.objects.get(pk=self.groups["before"][0])
        Run.objects.filter(pk=run.pk).update(complete=False)
        thirty = run.measured.get(name="0-30 mph", clock="rollout")
        lift_s = thirty.time_s + run.rollout_s + 0.2
        run.flags.create(code="lifted_early", severity="caution", message="eased off", since_s=lift_s)
        dropped = {
            measure: next(row["dropped"] for row in self.preview(measure=measure).json()["runs"] if row["id"] == run.pk)
            for measure in ("0-30 mph", "0-60 mph")
        }
        self.assertEqual(dropped, {"0-30 mph": "", "0-60 mph": "did not reach 0-60 mph at full power"})


class DetailsTest(Groups, TestCase):
    def details(self, **changes) -> dict:
        answer = self.client.post(reverse("comparison-details"), ASKED | asked_groups(**self.groups) | changes)
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
        self.assertRegex(gap["sentence"], r"^\w+ is \d\.\d m \(\d+\.\d ft\) ahead at \d+ mph .+ if both start together")
        leads = {round(lead["speed_mps"], 3): lead["ahead_m"] for lead in gap["leads"]}
        self.assertGreater(leads[26.822], leads[13.411])

    def test_other_measures_are_corrected_for_their_number(self):
        rows = {row["measure"]: row for row in self.details()["others"]}
        self.assertTrue(rows["0-60 mph"]["shown"])
        self.assertGreater(rows["60 ft"]["p_adjusted"], rows["60 ft"]["p_value"] - 1e-12)

    def test_a_charge_that_no_sweep_covers_is_not_projected(self):
        rows = self.details()["projections"]
        self.assertTrue(rows)
        self.assertTrue(all(row["value"] is None and "sweep" in row["sentence"] for row in rows))

    def test_a_pull_that_was_lifted_is_projected_to_the_end_and_marked_so(self):
        run = Run.objects.get(pk=self.groups["before"][0])
        truth = run.measured.get(name="0-60 mph", clock="rollout").time_s
        curve = read_columns(bytes(run.trace.curve))
        short = {name: column[curve["speed_mps"] < 24.0] for name, column in curve.items()}
        RunTrace.objects.filter(run=run).update(curve=write_columns(short))
        Run.objects.filter(pk=run.pk).update(complete=False)
        (row,) = self.details()["unreached"]
        self.assertAlmostEqual(row["value"], truth, delta=row["u95"])
        self.assertIn("carried on from", row["sentence"])
        (far,) = self.details(measure="0-100 mph")["unreached"]
        self.assertIsNone(far["value"])
        self.assertIn("too far from 0-100 mph", far["sentence"])
