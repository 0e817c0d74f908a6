"""The command's contract: schemas, names, exit codes, never a traceback."""

import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

from drives import nmea, simulated

from coombe_core.cli.command import main
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.measures import parse_measure

RUN_KEYS = {
    "kind",
    "start_utc",
    "start_s",
    "complete",
    "flags",
    "slope_percent",
    "peak_acceleration_g",
    "rollout_s",
    "measures",
}


class CommandTest(TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_command(self, *arguments: str) -> tuple[int, list[str], str]:
        out, err = io.StringIO(), io.StringIO()
        code = main(arguments, out, err)
        return code, out.getvalue().splitlines(), err.getvalue()

    def log(self, name: str, data: bytes) -> str:
        path = self.folder / name
        path.write_bytes(data)
        return str(path)

    def test_analyse_prints_one_line_a_log_in_order(self):
        good, bad = self.log("a.nmea", nmea("clean-run")), self.log("b.nmea", b"nothing here")
        code, lines, err = self.run_command("analyse", "--json", bad, good, str(self.folder / "absent"))
        self.assertEqual(code, 2)
        message = [json.loads(line) for line in lines]
        self.assertEqual(
            [each["schema"] for each in message], ["coombe.error/1", "coombe.analysis/1", "coombe.error/1"]
        )
        self.assertEqual([each["path"] for each in message], [bad, good, str(self.folder / "absent")])
        self.assertEqual(len(err.splitlines()), 2)

    def test_analysis_has_the_contract_s_fields(self):
        log = self.log("a.nmea", nmea("clean-run"))
        code, lines, _ = self.run_command("analyse", "--json", "--measure", "60-90 mph", "--correct-to", "level", log)
        message = json.loads(lines[0])
        self.assertEqual(code, 0)
        self.assertEqual(
            set(message["source"]), {"format", "sha256", "fixes", "rejected", "rate_hz", "start_utc", "duration_s"}
        )
        self.assertEqual(message["source"]["rate_hz"], 25.0)
        self.assertTrue(message["source"]["start_utc"].endswith("Z"))
        standing, stop = message["runs"]
        self.assertLessEqual(RUN_KEYS, set(standing))
        rows = {(row["name"], row["clock"]): row for row in standing["measures"]}
        self.assertEqual(set(rows[("0-60 mph", "rollout")]["time_s"]), {"value", "u95"})
        self.assertIn("trap_speed_mps", rows[("1/4 mile", "rollout")])
        self.assertIn(("60-90 mph", "speed"), rows)
        self.assertIsNotNone(rows[("1/4 mile", "first_movement")]["corrected_time_s"])
        braking = {row["name"]: row for row in stop["measures"]}
        self.assertLessEqual({"time_s", "distance_m", "initial_speed_mps", "mfdd_mps2"}, set(braking["100-0 km/h"]))
        for name, _ in rows:
            parse_measure(name)

    def test_without_correction_the_corrected_time_is_null(self):
        _, lines, _ = self.run_command("analyse", "--json", self.log("a.nmea", nmea("clean-run")))
        self.assertTrue(all(row["corrected_time_s"] is None for row in json.loads(lines[0])["runs"][0]["measures"]))

    def test_a_weather_report_corrects_density_and_wind(self):
        report = "METAR XXXX 091250Z 36010KT 9999 18/12 Q0990"
        asked = ("--correct-to", "standard-air", "--correct-to", "calm", "--mass", "1900", "--cda", "0.56")
        log = self.log("a.nmea", nmea("clean-run"))
        code, lines, _ = self.run_command("analyse", "--json", *asked, "--metar", report, log)
        self.assertEqual(code, 0)
        rows = {(row["name"], row["clock"]): row for row in json.loads(lines[0])["runs"][0]["measures"]}
        row = rows[("1/4 mile", "rollout")]
        self.assertNotAlmostEqual(row["corrected_time_s"]["value"], row["time_s"]["value"], 3)

    def test_a_bad_weather_report_and_a_bad_profile_are_told_without_a_traceback(self):
        log = self.log("a.nmea", nmea("clean-run"))
        bad = self.log("profile.csv", b"distance_m,elevation_m\n0,0\nx,1\n")
        whole, calm = "METAR XXXX 091250Z 24010KT 9999 18/12 Q1009", "METAR XXXX 091250Z 9999 18/12 Q1009"
        for asked, reason in (
            (("--correct-to", "standard-air", "--metar", whole), "needs the car's mass"),
            (("--correct-to", "calm", "--mass", "1900"), "needs the weather"),
            (("--correct-to", "calm", "--mass", "1900", "--metar", calm), "wind speed and direction"),
            (("--correct-to", "standard-air", "--mass", "1900", "--metar", whole[:-6]), "temperature and pressure"),
        ):
            code, _, message = self.run_command("analyse", *asked, log)
            self.assertEqual(code, 2, asked)
            self.assertIn(reason, message)
        for asked, reason in ((("--metar", "windy"), "METAR"), (("--slope-profile", bad), "line 3")):
            code, lines, err = self.run_command("analyse", "--json", *asked, log)
            self.assertEqual((code, json.loads(lines[0])["schema"]), (2, "coombe.error/1"))
            self.assertIn(reason, err)

    def test_a_slope_profile_takes_the_place_of_the_log_s_altitude(self):
        log = self.log("a.nmea", nmea("clean-run"))
        profile = self.log("profile.csv", b"distance_m,elevation_m\n0,0\n300,3\n900,3\n")
        _, lines, _ = self.run_command("analyse", "--json", "--slope-profile", profile, "--correct-to", "level", log)
        standing = json.loads(lines[0])["runs"][0]
        self.assertAlmostEqual(standing["slope_percent"]["value"], 0.73, delta=0.02)
        rows = {(row["name"], row["clock"]): row for row in standing["measures"]}
        sixty, quarter = rows[("0-60 mph", "rollout")], rows[("1/4 mile", "rollout")]
        for row in (sixty, quarter):
            self.assertLess(row["corrected_time_s"]["value"], row["time_s"]["value"] - 0.02)

    def test_a_can_log_makes_the_onset_of_a_stop_surer(self):
        made = simulated("clean-run")
        log = self.log("a.nmea", nmea("clean-run"))
        can_data = self.log("can.log", write_can_log("candump", frames(made.motion, SimulatedCar(), 77.0, 90.0, 45.0)))
        widths = []
        for asked in ((), ("--can-log", can_data)):
            code, lines, err = self.run_command("analyse", "--json", "--measure", "110-0 mph", *asked, log)
            self.assertEqual((code, err), (0, ""))
            stop = json.loads(lines[0])["runs"][1]
            widths.append(stop["measures"][0]["initial_speed_mps"]["u95"])
        self.assertLess(widths[1], widths[0])

    def test_a_can_log_that_is_none_is_told_by_its_path(self):
        log, can_data = self.log("a.nmea", nmea("clean-run")), self.log("can.log", b"no frames here")
        code, lines, err = self.run_command("analyse", "--json", "--can-log", can_data, log)
        self.assertEqual((code, json.loads(lines[0])["path"]), (2, can_data))
        self.assertIn("no CAN log", err)

    def test_the_table_for_people_names_runs_and_measures(self):
        code, lines, _ = self.run_command("analyse", self.log("a.nmea", nmea("clean-run")))
        self.assertEqual(code, 0)
        self.assertTrue(any("1/4 mile" in line and "±" in line for line in lines))

    def test_compare_logs_and_compare_values(self):
        before, after = self.log("b.nmea", nmea("five-runs")), self.log("a.nmea", nmea("after-update"))
        asked = ("compare", "--json", "--measure", "0-60 mph", "--clock", "rollout")
        code, lines, _ = self.run_command(*asked, "--before", before, "--after", after)
        message = json.loads(lines[0])
        self.assertEqual((code, message["schema"], message["verdict"]), (0, "coombe.comparison/2", "faster"))
        self.assertEqual((message["before"]["n"], message["after"]["n"]), (5, 5))
        self.assertIn("from_mps", message["bands"][0])
        code, lines, _ = self.run_command(
            *asked, "--before-values", "3.91,3.94,3.92", "--after-values", "3.70,3.72,3.69", "--one-day"
        )
        self.assertEqual((code, json.loads(lines[0])["bands"]), (0, []))

    def test_typed_values_are_of_days_that_nobody_knows_unless_they_are_said_to_be_of_one(self):
        asked = ("compare", "--measure", "0-60 mph", "--clock", "rollout")
        typed = ("--before-values", "3.91,3.94,3.92", "--after-values", "3.84,3.86,3.83")
        _, lines, _ = self.run_command(*asked, *typed)
        self.assertIn("After leans faster by 0.08 s", lines[0])
        self.assertTrue(any("The day is not known for all runs of before and after" in line for line in lines))
        _, lines, _ = self.run_command(*asked, *typed, "--one-day", "--json")
        one_day = json.loads(lines[0])["difference"]
        self.assertLess(one_day["high95"] - one_day["low95"], 0.15)

    def test_values_that_no_run_can_have_are_refused(self):
        asked = ("compare", "--measure", "0-60 mph", "--clock", "rollout", "--before-values", "3.9,3.91")
        for typed in ("nan,3.9", "inf,3.9", "-3.9,3.9", "0,3.9"):
            code, _, err = self.run_command(*asked, f"--after-values={typed}")
            self.assertEqual(code, 2)
            self.assertIn("it must be a number above zero", err)

    def test_compare_refuses_a_clock_that_the_measure_lacks(self):
        values = ("--before-values", "1,2", "--after-values", "1,2")
        code, _, err = self.run_command("compare", "--measure", "60-0 mph", "--clock", "rollout", *values)
        self.assertEqual(code, 2)
        self.assertIn("has no clock rollout", err)

    def test_compare_names_the_log_that_it_cannot_read(self):
        bad = self.log("bad.nmea", b"\x00\x01")
        code, _, err = self.run_command(
            "compare", "--measure", "0-60 mph", "--clock", "rollout", "--before", bad, "--after", bad
        )
        self.assertEqual(code, 2)
        self.assertIn("bad.nmea", err)

    def test_simulate_writes_a_log_with_its_truth_beside_it(self):
        log = self.folder / "made.csv"
        code, _, _ = self.run_command("simulate", "--scenario", "clean-run", "--out", str(log), "--rate", "10")
        truth = json.loads((self.folder / "made.csv.truth.json").read_text())
        self.assertEqual((code, [run["kind"] for run in truth["runs"]]), (0, ["standing", "stop"]))
        _, lines, _ = self.run_command("analyse", "--json", str(log))
        self.assertEqual(json.loads(lines[0])["source"]["rate_hz"], 10.0)

    def test_a_log_is_written_only_as_what_its_name_says(self):
        code, _, err = self.run_command("simulate", "--scenario", "clean-run", "--out", str(self.folder / "x.doc"))
        self.assertEqual(code, 2)
        self.assertIn("*.nmea or *.gpx or *.csv", err)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_an_unknown_scenario_names_those_that_exist(self):
        code, _, err = self.run_command("simulate", "--scenario", "moon", "--out", str(self.folder / "x"))
        self.assertEqual(code, 2)
        self.assertIn("clean-run", err)
