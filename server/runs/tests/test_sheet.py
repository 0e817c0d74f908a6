"""What a run sheet asks for: corrected times, wheel power, named intervals, files, and where a flag arose."""

from __future__ import annotations

import csv
import io
import json

import numpy as np
from django.test import TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from coombe_core.formats import read_log, write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs.models import Flag, Run
from runs.services import import_log
from runs.tests.factories import CourseFactory, SetupFactory, UserFactory

TRACE = simulate(SCENARIOS["clean-run"], 33).trace


class SheetTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.person = UserFactory()
        setup = SetupFactory(car__cda_m2=0.56, car__power_kw=300)
        course = CourseFactory(heading_deg=0, slope_percent=-0.6, slope_u95_percent=0.05)
        conditions = {"course": course, "wind_mps": 4.0, "wind_from_deg": 0.0}
        cls.log = import_log("day.nmea", write_log(TRACE, "nmea"), setup, cls.person, conditions).log
        cls.pull = cls.log.runs.get(kind="standing")
        cls.stop = cls.log.runs.get(kind="stop")

    def setUp(self):
        self.client = APIClient()
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")

    def ask(self, view: str, run: Run | None = None, **query):
        return self.client.get(reverse(f"run-{view}", args=[(run or self.pull).pk]), query)

    def quarter(self, **parts) -> float:
        rows = self.ask("corrected", **parts).data["measured"]
        return next(row["time_s"] for row in rows if (row["name"], row["clock"]) == ("1/4 mile", "rollout"))


class WeatherTest(SheetTest):
    LINE = "METAR XXXX 091250Z 24010KT 9999 FEW030 18/12 Q1013"

    def test_a_metar_line_gives_the_conditions_of_the_air(self):
        found = self.ask("weather", report=self.LINE).data
        self.assertEqual((found["outside_temp_c"], found["wind_from_deg"]), (18.0, 240.0))
        self.assertAlmostEqual(found["wind_mps"], 5.1, 1)
        self.assertAlmostEqual(found["humidity_percent"], 68.0, delta=1.5)

    def test_the_pressure_is_that_at_the_height_of_the_run(self):
        # ISO 2533: 120 m up, where the simulated strip is, pressure is 14.3 hPa under that at sea level.
        self.assertAlmostEqual(self.ask("weather", report=self.LINE).data["pressure_hpa"], 1013 - 14.3, delta=0.5)

    def test_what_is_no_such_line_is_told(self):
        answer = self.ask("weather", report="fine, a little windy")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("METAR line", answer.json()["errors"]["report"][0])


class CorrectedTest(SheetTest):
    def test_each_part_moves_the_time_its_own_way(self):
        raw = self.pull.measured.get(name="1/4 mile", clock="rollout").time_s
        self.assertGreater(self.quarter(slope=True), raw)  # it ran downhill
        self.assertLess(self.quarter(wind=True), raw)  # and against the wind
        self.assertEqual(self.ask("corrected", slope=True, wind=True).data["reference"], "a level course, calm")

    def test_what_is_missing_is_said(self):
        answer = self.ask("corrected", density=True).data
        self.assertEqual(answer["parts"], [])
        self.assertIn("temperature and pressure", answer["missing"][0])
        Run.objects.filter(pk=self.pull.pk).update(outside_temp_c=30, pressure_hpa=960, humidity_percent=50)
        self.assertEqual(self.ask("corrected", density=True).data["parts"], ["air density"])

    def test_nothing_asked_gives_nothing(self):
        self.assertEqual(self.ask("corrected").data["measured"], [])


class PowerTest(SheetTest):
    def test_power_states_its_units_and_what_it_rests_on(self):
        power = self.ask("power").data["power"]
        self.assertAlmostEqual(power["peak_metric_hp"] * 0.735499, power["peak_kw"], delta=0.1)
        self.assertAlmostEqual(power["peak_mechanical_hp"] * 0.745700, power["peak_kw"], delta=0.1)
        self.assertEqual(power["assumed"], ["rolling_coefficient", "rotating_mass_factor"])
        self.assertEqual(len(power["speed_mps"]), len(power["power_kw"]))

    def test_without_a_mass_it_says_where_to_write_it_down(self):
        car = self.pull.setup.car
        car.test_mass_kg = None
        car.save()
        answer = self.ask("power").data
        self.assertIsNone(answer["power"])
        self.assertIn("test mass", answer["missing"])

    def test_a_stop_has_none_and_misses_none(self):
        self.assertEqual(self.ask("power", self.stop).data, {"power": None, "battery": None, "missing": ""})


class NamedTest(SheetTest):
    def test_any_interval_is_timed_from_the_stored_fixes(self):
        row = self.ask("measure", name="50-80 mph").data[0]
        splits = {split.speed: split for split in self.pull.split_rows.filter(unit="mph")}
        self.assertAlmostEqual(row["time_s"], splits[80].rollout_s - splits[50].rollout_s, delta=0.002)

    def test_an_unknown_one_is_refused_and_an_unreached_one_is_empty(self):
        self.assertEqual(self.ask("measure", name="fast").status_code, 400)
        self.assertEqual(self.ask("measure", name="200-250 mph").data, [])


class FilesTest(SheetTest):
    def file(self, what: str, file_format: str):
        return self.client.get(f"/api/v1/runs/{self.pull.pk}/{what}/{file_format}/")

    def test_fixes_come_out_in_three_formats_and_back_in_unchanged(self):
        logs = [read_log(self.file("trace", name).content).trace for name in ("csv", "gpx", "parquet")]
        for trace in logs:
            np.testing.assert_array_equal(trace.speed_mps, logs[0].speed_mps)
            self.assertEqual(trace.start_utc, logs[0].start_utc)
        begun_s = (logs[0].start_utc - TRACE.start_utc).total_seconds()
        near = TRACE.between(begun_s - 0.01, begun_s + logs[0].duration_s + 0.01)
        np.testing.assert_allclose(logs[0].speed_mps, near.speed_mps, atol=0.001)

    def test_measures_come_out_as_csv_and_json(self):
        answer = self.file("measures", "csv")
        self.assertIn(".csv", answer["Content-Disposition"])
        rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
        self.assertEqual(len(rows), self.pull.measured.count())
        details = json.loads(self.file("measures", "json").content)
        self.assertEqual(details["measures"][0]["name"], rows[0]["name"])
        self.assertEqual(float(rows[0]["time_s"]), details["measures"][0]["time_s"])

    def test_other_formats_and_strangers_are_refused(self):
        self.assertEqual(self.file("trace", "exe").status_code, 404)
        self.client.logout()
        self.assertEqual(self.file("trace", "csv").status_code, 401)


class FlagsTest(SheetTest):
    def test_a_flag_says_where_in_the_run_it_arose(self):
        lost = TRACE.between(0.0, 8.0), TRACE.between(8.9, 99.0)
        data = b"".join(write_log(part, "nmea") for part in lost)
        log = import_log("gap.nmea", data, self.pull.setup, self.person, {}).log
        flag = Flag.objects.get(run__log=log, run__kind="standing", code="gap")
        self.assertAlmostEqual(flag.since_s, 8.0 - flag.run.start_s, delta=0.1)
