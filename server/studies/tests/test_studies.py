"""Studies over the API: the same numbers as the core gives, rules that pick, clear refusals."""

from __future__ import annotations

import csv
import io
import json
from datetime import UTC, datetime, timedelta

import numpy as np
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from coombe_core.formats import write_log
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, simulate
from coombe_core.studies.braking import braking_series
from coombe_core.studies.history import history
from coombe_core.studies.receivers import agreement
from coombe_core.studies.sweep import sweep
from runs.can_logs import CanUpload
from runs.models import Measured, Run
from runs.services import import_log
from runs.tests.factories import CarFactory, LogFactory, RunFactory, SetupFactory, UserFactory
from runs.tests.test_can_logs import drive
from runs.tests.test_import import log_bytes
from studies.models import Study

CHARGES = (90, 80, 70, 60, 50, 40, 30, 20, 10)
HELD = (4.02, 4.05, 4.06, 4.26, 4.28, 4.30, 4.34, 4.37, 4.41)  # steps between 70 and 60 %
FADING_M = (34.1, 34.5, 34.8, 35.3, 35.5, 36.0)
STEADY_M = (33.9, 33.6, 34.0, 33.7, 34.1, 33.8)


class StudyCase(TestCase):
    def setUp(self):
        self.person = UserFactory(role=Role.TESTER)
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        self.setup_ = SetupFactory(car=CarFactory(power_kw=250, battery_kwh=80))
        self.car = self.setup_.car

    def launches(self, values, setup=None, **noted):
        """A launch a value, ten minutes apart, with what was noted of each: a list, or the same of all."""
        runs = []
        for place, value in enumerate(values):
            of_run = {name: each[place] if isinstance(each, list | tuple) else each for name, each in noted.items()}
            of_run.setdefault("start_utc", datetime(2026, 5, 9, 9, tzinfo=UTC) + timedelta(minutes=10 * place))
            runs.append(RunFactory(setup=setup or self.setup_, sixty_s=value, **of_run))
        return runs

    def stops(self, values, setup=None, hour=12, **noted):
        runs = []
        for place, value in enumerate(values):
            start = datetime(2026, 5, 9, hour, tzinfo=UTC) + timedelta(minutes=3 * place)
            run = RunFactory(setup=setup or self.setup_, kind="stop", start_utc=start, **noted)
            numbers = {"time_s": 2.6, "time_u95_s": 0.02, "distance_m": value, "distance_u95_m": 0.1}
            Measured.objects.create(run=run, name="60-0 mph", clock="speed", **numbers)
            runs.append(run)
        return runs

    def series(self, name="car", **rule):
        return {"name": name, "car": self.car.pk, **rule}

    def preview(self, kind, *series, **asked):
        body = {"kind": kind, "series": list(series) or [self.series()], **asked}
        return self.client.post(reverse("study-preview"), body, "json")

    def answer(self, kind, *series, **asked):
        response = self.preview(kind, *series, **asked)
        self.assertEqual(response.status_code, 200, response.content)
        return response.json()

    def cell(self, table, row, column):
        return table["rows"][row][[axis["label"] for axis in table["columns"]].index(column)]


class SweepTest(StudyCase):
    def test_it_says_what_the_core_says_and_draws_no_further_than_its_runs(self):
        self.launches(HELD, charge_before_percent=list(CHARGES))
        found = self.answer("charge sweep", measure="0-60 mph", clock="rollout")
        core = sweep(CHARGES, HELD)
        self.assertEqual(found["trouble"], "")
        self.assertIn(f"with a step of +{core.step.size.value:.2f}", found["sentences"][0])
        (series,) = found["charts"][0]["series"]
        self.assertEqual((min(series["band"]["x"]), max(series["band"]["x"])), (10.0, 90.0))
        self.assertEqual([point["x"] for point in series["points"]], list(map(float, CHARGES)))
        self.assertAlmostEqual(series["marks"][0]["x"], core.step.at)
        self.assertAlmostEqual(self.cell(found["tables"][0], 0, "over that at 90 %")["value"], 1.0, 6)
        self.assertEqual(len(found["runs"]), 9)

    def test_two_cars_lie_over_one_another(self):
        self.launches(HELD, charge_before_percent=list(CHARGES))
        other = SetupFactory()
        self.launches([value - 0.2 for value in HELD], other, charge_before_percent=list(CHARGES))
        found = self.answer("charge sweep", self.series(), {"name": "newer", "car": other.car_id})
        self.assertEqual(len(found["charts"][0]["series"]), 2)
        self.assertTrue(
            any("clearly differ at every charge" in each for each in found["sentences"]), found["sentences"]
        )
        self.assertTrue(
            any(each.startswith("newer at ") and "equals car at 90 %" in each for each in found["sentences"])
        )

    def test_what_it_cannot_be_made_of_is_said_and_nothing_is_drawn(self):
        for charges, sentence in (
            ((90, 80), "Sweep of 2 runs"),
            ((81, 80, 80, 79, 79, 78), "between 78 and 81 %"),
            ((90, 80, None, 60, 50, 40), "Charge is missing for 1 of 6 runs"),
        ):
            Run.objects.all().delete()
            self.launches(HELD[: len(charges)], charge_before_percent=list(charges))
            found = self.answer("charge sweep")
            self.assertIn(sentence, found["trouble"])
            self.assertEqual((found["charts"], found["tables"], found["sentences"]), ([], [], []))
            self.assertEqual(len(found["runs"]), len(charges))

    def test_warm_up_says_what_a_kelvin_is_worth(self):
        temps = [10.0, 16.0, 22.0, 28.0, 34.0, 40.0]
        self.launches([4.6 - 0.01 * temp for temp in temps], battery_temp_before_c=temps)
        found = self.answer("warm-up")
        self.assertIn("−0.010 s", found["sentences"][0])


class OrderTest(StudyCase):
    def test_a_series_that_fades_and_one_that_does_not(self):
        self.stops(FADING_M)
        other = SetupFactory()
        self.stops(STEADY_M, other)
        found = self.answer("braking series", self.series("old"), {"name": "new", "car": other.car_id})
        core = braking_series([FADING_M])
        fade = self.cell(found["tables"][0], 0, "fade a stop")
        self.assertAlmostEqual(fade["value"], core.fade_per_stop_m.value)
        self.assertAlmostEqual(fade["u95"], core.fade_per_stop_m.u95)
        self.assertRegex(found["sentences"][0], "^old: Fades")
        self.assertRegex(found["sentences"][1], "^new: No clear fade")

    def test_common_practice_s_four_stops_show_no_fade(self):
        """110, 109, 111, 114 ft: common practice."""
        self.stops([feet * 0.3048 for feet in (110, 109, 111, 114)])
        self.assertRegex(self.answer("braking series")["sentences"][0], "No clear fade")

    def test_brakes_that_cooled_begin_another_series(self):
        self.stops(STEADY_M[:3])
        self.stops(STEADY_M[3:], hour=16)
        points = self.answer("braking series")["charts"][0]["series"][0]["points"]
        self.assertEqual(sorted(point["x"] for point in points), [1, 1, 2, 2, 3, 3])

    def test_passes_say_their_change_and_whether_the_first_was_best(self):
        self.launches([3.90, 3.95, 3.93, 3.97, 3.96], battery_temp_before_c=40)
        sentence = self.answer("repeatability")["sentences"][0]
        self.assertIn("The first was the best", sentence)
        self.assertIn("20%", sentence)  # exactly one in five, if order means nothing


class LevelsTest(StudyCase):
    def test_modes_are_compared_with_the_first(self):
        self.launches([4.4, 4.42, 4.38, 4.41], drive_mode="Track")
        self.launches(
            [4.1, 4.12, 4.08, 4.11],
            drive_mode="Sport",
            start_utc=datetime(2026, 5, 9, 11, tzinfo=UTC),
            setup=self.setup_,
        )
        self.launches([4.2], start_utc=datetime(2026, 5, 9, 12, tzinfo=UTC))
        found = self.answer("modes")
        self.assertRegex(found["sentences"][0], "^Sport has the best mean")
        self.assertEqual([row[0]["text"] for row in found["tables"][0]["rows"]], ["Sport", "Track"])
        self.assertIn("Drive mode not noted, left out: 1 run.", found["cautions"][0])

    def test_winter_tires_in_warm_air_say_so(self):
        winter = SetupFactory(car=self.car, tire_season="winter")
        self.stops(STEADY_M, outside_temp_c=22)
        self.stops([value + 6 for value in STEADY_M], winter, 14, outside_temp_c=22)
        found = self.answer("tires")
        self.assertRegex(found["sentences"][0], "^Summer has the best mean")
        self.assertTrue(any(each.startswith("Winter were driven in mild") for each in found["sentences"]))

    def test_one_level_is_too_few(self):
        self.launches([4.1, 4.2], drive_mode="Sport")
        self.assertIn("1 level: it takes at least two", self.answer("modes")["trouble"])


class UnlikeTest(StudyCase):
    """What differs beside what a study asks about is listed, as in a comparison."""

    def test_a_warmer_battery_of_the_second_sweep_is_said_and_the_falling_charge_is_not(self):
        other = SetupFactory(car=CarFactory(name="Wren", power_kw=250, battery_kwh=80))
        self.launches(HELD, charge_before_percent=CHARGES, battery_temp_before_c=30)
        self.launches(HELD, other, charge_before_percent=[each - 8 for each in CHARGES], battery_temp_before_c=44)
        series = [{"name": "First", "car": self.car.pk}, {"name": "Wren", "car": other.car.pk}]
        found = self.answer("charge sweep", *series)
        self.assertRegex(found["cautions"][-1], "^Not driven as First was: Wren in battery temperature")
        self.assertNotIn("charge", found["cautions"][-1])
        table = found["tables"][-1]
        self.assertEqual([row[1]["value"] for row in table["rows"]], [30, 44])
        self.assertEqual(table["columns"][1]["kind"], "temperature")

    def test_levels_are_told_apart_by_more_than_their_mode(self):
        self.launches([4.4, 4.42, 4.38, 4.41], drive_mode="Track", charge_before_percent=90)
        later = datetime(2026, 5, 9, 11, tzinfo=UTC)
        self.launches([4.1, 4.12, 4.08, 4.11], drive_mode="Sport", charge_before_percent=60, start_utc=later)
        caution = self.answer("modes")["cautions"][-1]
        self.assertRegex(caution, "^Not driven as Track was: Sport in charge .could account for")
        self.assertNotIn("drive mode", caution)

    def test_what_is_alike_says_nothing(self):
        other = SetupFactory(car=CarFactory(name="Wren", power_kw=250, battery_kwh=80))
        for setup in (self.setup_, other):
            self.launches(HELD, setup, charge_before_percent=CHARGES, battery_temp_before_c=30)
        series = [{"name": "First", "car": self.car.pk}, {"name": "Wren", "car": other.car.pk}]
        self.assertEqual(self.answer("charge sweep", *series)["cautions"], [])


class ReceiversTest(StudyCase):
    FIRST = (3.912, 3.950, 3.931, 3.964, 3.940)
    APART = (0.010, 0.014, 0.012, 0.009, 0.015)

    def passes(self):
        """Five passes that two receivers saw, each with its own log."""
        logs = LogFactory(rate_hz=25), LogFactory(rate_hz=10)
        for place, (one, apart) in enumerate(zip(self.FIRST, self.APART, strict=True)):
            start = datetime(2026, 5, 9, 9, tzinfo=UTC) + timedelta(minutes=8 * place)
            for log, name, value in ((logs[0], "Oak 1", one), (logs[1], "Nail 3", one + apart)):
                RunFactory(
                    setup=self.setup_, log=log, sixty_s=value, receiver=name, start_utc=start, start_s=60.0 * place
                )

    def test_agreement_is_bland_and_altman_s_and_passes_count_once(self):
        self.passes()
        both = self.series("Oak 1", receiver="Oak 1"), self.series("Nail 3", receiver="Nail 3")
        found = self.answer("receivers", *both, measure="0-60 mph", clock="rollout")
        core = agreement(self.FIRST, np.add(self.FIRST, self.APART))
        bias = self.cell(found["tables"][0], 0, "bias")
        self.assertAlmostEqual(bias["value"], core.bias.value, 9)
        self.assertAlmostEqual(bias["u95"], core.bias.u95, 9)
        self.assertEqual(self.cell(found["tables"][0], 0, "passes")["value"], 5)
        self.assertEqual(len(self.answer("repeatability")["charts"][0]["series"][0]["points"]), 5)

    def test_what_is_learned_of_two_receivers_is_taken_out_of_a_comparison_of_theirs(self):
        self.passes()
        start = datetime(2026, 6, 1, 9, tzinfo=UTC)
        groups = []
        for name, shift in (("Oak 1", 0.0), ("Nail 3", 0.012)):
            times = [4.00, 4.02, 3.98, 4.01]
            starts = [start + timedelta(minutes=20 * place + (10 if shift else 0)) for place in range(4)]
            runs = self.launches([value + shift for value in times], receiver=name, start_utc=starts)
            groups.append({"name": name, "runs": [run.pk for run in runs]})
        asked = {"measure": "0-60 mph", "clock": "rollout", "quantity": "time", "groups": groups}
        (pair,) = self.client.post(reverse("comparison-preview"), asked, "json").json()["pairs"]
        self.assertAlmostEqual(pair["difference"]["value"], 0.0, delta=0.002)
        self.assertTrue(any("On passes that both saw, Nail 3 shows +0.012" in each for each in pair["reasons"]), pair)

    def test_a_pair_of_different_days_is_no_pair(self):
        self.passes()
        Run.objects.filter(receiver="Nail 3").update(start_utc=datetime(2026, 5, 12, 9, tzinfo=UTC))
        both = self.series("a", receiver="Oak 1"), self.series("b", receiver="Nail 3")
        self.assertIn("Import both logs of one drive", self.answer("receivers", *both)["trouble"])
        self.assertIn("add the second", self.answer("receivers", self.series())["trouble"])


class HistoryTest(StudyCase):
    def test_a_jump_that_nobody_logged_has_its_day(self):
        days = [datetime(2026, 3, 1, 9, tzinfo=UTC) + timedelta(days=9 * n) for n in range(12)]
        means = [4.00, 4.01, 3.99, 4.00, 4.01, 4.00, 3.80, 3.81, 3.79, 3.80, 3.81, 3.80]
        self.launches(means, start_utc=days)
        found = self.answer("history")
        jump = history([(day - days[0]).days for day in days], means).jump
        at = (days[0] + timedelta(days=round(jump.at))).date()
        self.assertIn(f"about {at}", found["sentences"][0].replace(f"{at - timedelta(days=1)}", f"{at}"))
        self.assertEqual(len(found["charts"][0]["series"][0]["marks"]), 1)


class CanTest(StudyCase):
    """A simulated drive with its CAN log: energy and the dashboard's speed."""

    def setUp(self):
        super().setUp()
        log, can_log = drive()
        import_log("drive.nmea", log, self.setup_, self.person, {}, can_log=CanUpload("drive.log", can_log))

    def test_energy_of_a_run_and_its_charge(self):
        found = self.answer("energy", measure="0-60 mph", clock="rollout")
        self.assertRegex(found["sentences"][0], r"\d+ Wh ± \d+ Wh taken, \d+ Wh a mile")
        energy = self.cell(found["tables"][0], 0, "energy")["value"]
        kinetic_wh = 0.5 * 1900 * 26.8224**2 / 3600
        self.assertGreater(energy, kinetic_wh)
        self.assertLess(energy, 2 * kinetic_wh)

    def test_an_indicated_speed_is_a_true_one(self):
        found = self.answer("dashboard speed", measure="0-60 mph", clock="rollout")
        self.assertRegex(found["sentences"][0], r"^An indicated 62 mph \(100 km/h\) is a true \d+ mph")


class SavedTest(StudyCase):
    def save(self, **changes):
        body = {"title": "How it holds up", "kind": "charge sweep", "measure": "0-60 mph", "clock": "rollout"}
        return self.client.post(reverse("study-list"), body | {"series": [self.series()]} | changes, "json")

    def test_new_runs_join_by_the_rule_and_a_run_is_left_out_with_its_reason(self):
        runs = self.launches(HELD, charge_before_percent=list(CHARGES))
        saved = self.save()
        self.assertEqual(saved.status_code, 201, saved.content)
        at = reverse("study-detail", args=[saved.json()["id"]])
        self.assertEqual(self.client.get(at).json()["changes"], [])
        later = datetime(2026, 5, 10, 9, tzinfo=UTC)
        self.launches([4.40], charge_before_percent=[12], start_utc=[later])
        changed = self.client.get(at).json()
        self.assertIn("1 of its runs count that did not.", changed["changes"])
        body = {"left_out": [{"run": runs[0].pk, "reason": "wheel spin"}], "revision": changed["revision"]}
        without = self.client.patch(at, body, "json").json()
        dropped = {row["id"]: row["dropped"] for row in without["result"]["runs"]}
        self.assertEqual(dropped[runs[0].pk], "left out: wheel spin")
        self.assertEqual(self.client.patch(at, body, "json").status_code, 409)  # a stale revision
        self.client.post(reverse("study-refresh", args=[saved.json()["id"]]))
        self.assertEqual(self.client.get(at).json()["changes"], [])

    def test_it_leaves_as_csv_and_json(self):
        self.launches(HELD, charge_before_percent=list(CHARGES))
        pk = self.save().json()["id"]
        rows = list(
            csv.DictReader(io.StringIO(self.client.get(reverse("study-export", args=[pk, "csv"])).content.decode()))
        )
        self.assertEqual([float(row["value"]) for row in rows], list(HELD))
        whole = json.loads(self.client.get(reverse("study-export", args=[pk, "json"])).content)
        self.assertEqual((whole["schema"], whole["kind"]), ("coombe.study/1", "charge sweep"))

    def test_what_is_wrong_is_named_by_its_field(self):
        other = SetupFactory()
        for wrong, field in (
            ({"series": []}, "series"),
            ({"measure": "0-sixty"}, "measure"),
            ({"series": [self.series("a"), self.series("a")]}, "series"),
            ({"series": [self.series(setup=other.pk)]}, "series"),
            ({"series": [self.series(from_day="2026-05-09", to_day="2026-05-01")]}, "series"),
            ({"kind": "horoscope"}, "kind"),
        ):
            refused = self.save(**wrong)
            self.assertEqual(refused.status_code, 400, wrong)
            self.assertIn(field, json.dumps(refused.json()), wrong)
        self.assertEqual(Study.objects.count(), 0)

    def test_a_rule_picks_by_days_setup_mode_and_receiver(self):
        self.launches([4.0, 4.1], drive_mode="Sport", receiver="Oak 1")
        later = [datetime(2026, 5, 20, 9, tzinfo=UTC), datetime(2026, 5, 20, 10, tzinfo=UTC)]
        self.launches([4.2, 4.3], SetupFactory(car=self.car), drive_mode="Track", start_utc=later)
        for rule, values in (
            ({}, [4.0, 4.1, 4.2, 4.3]),
            ({"from_day": "2026-05-10"}, [4.2, 4.3]),
            ({"to_day": "2026-05-10"}, [4.0, 4.1]),
            ({"setup": self.setup_.pk}, [4.0, 4.1]),
            ({"drive_mode": "Track"}, [4.2, 4.3]),
            ({"receiver": "Oak 1"}, [4.0, 4.1]),
        ):
            runs = self.answer("history", self.series(**rule))["runs"]
            self.assertEqual([row["value"] for row in runs], values, rule)


class RollOnTest(StudyCase):
    def test_pulls_are_timed_from_full_power_and_over_any_interval(self):
        acts = [
            Act("rest", 2),
            Act("gentle", to_mps=12.0),
            Act("hold", 3),
            Act("launch", to_mps=30.0),
            Act("coast", 0.8),
        ]
        made = simulate(Scenario("", [*acts, Act("gentle", pace_mps2=1.8)]), 5)
        import_log("roll-ons.nmea", write_log(made.trace, "nmea"), self.setup_, self.person, {})
        self.assertGreaterEqual(Run.objects.filter(kind="rolling").count(), 1)
        run = Run.objects.filter(kind="rolling").first()
        names = set(run.measured.values_list("name", flat=True))
        self.assertTrue(any(name.endswith("mph") for name in names), names)
        self.assertFalse(run.measured.filter(name="45-60 mph").exists())
        found = self.answer("roll-ons", measure="45-60 mph")
        self.assertTrue(run.measured.filter(name="45-60 mph").exists())
        self.assertIn("Roll-on set of 1 run: record at least 2", found["trouble"])
        self.assertIsNotNone(found["runs"][0]["value"])


class LapsTest(StudyCase):
    def test_a_log_without_laps_says_so(self):
        log = import_log("five.nmea", log_bytes("five-runs"), self.setup_, self.person, {}).log
        elsewhere = {"start_latitude_deg": 48.0, "start_longitude_deg": 2.0, "start_heading_deg": 90.0}
        found = self.answer("laps", log=log.pk, series=[], **elsewhere)
        self.assertIn("five.nmea: No lap", found["trouble"])
        self.assertEqual(self.answer("laps", series=[])["trouble"], "Choose the log of a drive with laps.")

    def test_the_start_line_can_be_set_where_the_drive_went(self):
        log = import_log("five.nmea", log_bytes("five-runs"), self.setup_, self.person, {}).log
        drive = self.answer("laps", log=log.pk, series=[])["drive"]
        place = len(drive["east_m"]) // 3
        fields = ("latitude_deg", "longitude_deg", "heading_deg")
        chosen = {f"start_{name}": drive[name][place] for name in fields}
        again = self.answer("laps", log=log.pk, series=[], **chosen)
        self.assertEqual(again["drive"]["start"], place)
        self.assertLessEqual(len(drive["east_m"]), 400)
        self.assertEqual({len(column) for name, column in drive.items() if name != "start"}, {len(drive["east_m"])})


class AllCarsTest(StudyCase):
    def test_every_setup_has_its_numbers_and_copies_are_marked(self):
        self.launches([4.0, 4.1, 4.2])
        other = SetupFactory()
        self.launches([4.0, 4.1, 4.2], other)
        Run.objects.filter(setup=other).update(validity="valid")
        at = reverse("all-cars")
        rows = {row["setup"]: row for row in self.client.get(at).json()}
        value = rows[self.setup_.pk]["values"]["0-60 mph|rollout"]
        self.assertAlmostEqual(value["mean"], 4.1)
        self.assertAlmostEqual(value["u95"], 4.302653 * 0.1 / 3**0.5, 5)  # Student's t on 2, from a handbook
        self.assertEqual((value["best"], value["n"], value["alike"]), (4.0, 3, True))
        self.assertAlmostEqual(rows[self.setup_.pk]["mass_per_power_kg_per_kw"], 1900 / 250)
        Run.objects.filter(setup=other).update(validity="void", void_reason="jumped", revision=2)
        rows = {row["setup"]: row for row in self.client.get(at).json()}
        self.assertEqual(rows[other.pk]["values"], {})
        self.assertFalse(rows[self.setup_.pk]["values"]["0-60 mph|rollout"]["alike"])
        self.assertEqual(self.client.get(at, {"measures": "0-60|x"}).status_code, 400)
        self.assertEqual(self.client.get(at, {"measures": "0-sixty|rollout"}).status_code, 400)

    def test_own_measures_stand_beside_them(self):
        noise = self.client.post(
            reverse("own-measure-list"), {"name": "Noise at 130 km/h", "unit": "dB", "better": "less"}
        ).json()
        at = reverse("own-value-list")
        given = {"measure": noise["id"], "setup": self.setup_.pk, "day": "2026-05-09"}
        for value in (68.1, 68.5):
            self.assertEqual(self.client.post(at, given | {"value": value}, "json").status_code, 201)
        for wrong in ("68,4", "loud", ""):
            refused = self.client.post(at, given | {"value": wrong}, "json")
            self.assertEqual((refused.status_code, list(refused.json()["errors"])), (400, ["value"]), refused.content)
        (row,) = [row for row in self.client.get(reverse("all-cars")).json() if row["setup"] == self.setup_.pk]
        self.assertAlmostEqual(row["values"][f"own|{noise['id']}"]["mean"], 68.3)
        self.assertEqual(row["values"][f"own|{noise['id']}"]["best"], 68.1)

    def test_a_view_is_kept_under_its_name(self):
        view = {
            "name": "Sprints",
            "columns": ["0-60 mph|rollout"],
            "sort": "0-60 mph|rollout",
            "filters": {"body": "SUV"},
        }
        made = self.client.post(reverse("table-view-list"), view, "json")
        self.assertEqual(made.status_code, 201, made.content)
        self.assertEqual(self.client.get(reverse("table-view-list")).json()["results"][0]["filters"], {"body": "SUV"})
