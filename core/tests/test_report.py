"""What a person reads, and the JSON that programs read."""

import json
from dataclasses import replace
from unittest import TestCase

from drives import analyzed

from coombe_core import __version__
from coombe_core.analysis import Analysis, analyse_log
from coombe_core.cli.comparison_output import comparison_json
from coombe_core.cli.output import analysis_json, analysis_table
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.verdict import compare
from coombe_core.formats.reading import Rejection, Rejections
from coombe_core.timing.measures import parse_measure

COMPARISON_KEYS = {
    *("schema", "measure", "clock", "before", "after", "difference", "unit", "better", "p_value", "permutation_p"),
    *("detectable", "confidence_better", "adjusted", "dof", "verdict", "sentence", "reasons", "bands", "character"),
}


class TableTest(TestCase):
    def test_flags_and_incomplete_runs_are_said(self):
        text = analysis_table("day.nmea", analyzed("mixed-drive"))
        self.assertIn("not complete", text)
        self.assertIn("note: Lifted before 60 mph", text)

    def test_a_log_without_runs_says_so(self):
        text = analysis_table("still.csv", analyse_log(b"elapsed_s,speed_mps\n0,0\n0.1,0\n"))
        self.assertIn("no standing start and no stop", text)

    def test_rejected_lines_are_counted_and_the_first_is_named(self):
        whole = analyzed("clean-run")
        rejections = Rejections()
        rejections.extend([Rejection(7, "checksum does not match"), Rejection(9, "x")])
        reading = replace(whole.reading, rejections=rejections)
        text = analysis_table("day.nmea", Analysis(whole.sha256, reading, []))
        self.assertIn("2 lines rejected (line 7: checksum does not match)", text)

    def test_a_stop_shows_its_distance_in_meters(self):
        text = analysis_table("stops.nmea", analyzed("stop-series"))
        self.assertRegex(text, r"100-0 km/h +speed +\d+\.\d+ ± \d+\.\d+ s +\d+\.\d+ ± \d+\.\d+ m")


class JsonTest(TestCase):
    def test_every_number_survives_json(self):
        message = analysis_json("day.nmea", analyzed("clean-run"))
        self.assertEqual(json.loads(json.dumps(message, allow_nan=False))["core_version"], __version__)

    def test_times_are_utc_and_in_order(self):
        runs = analysis_json("day.nmea", analyzed("five-runs"))["runs"]
        self.assertEqual(sorted(run["start_utc"] for run in runs), [run["start_utc"] for run in runs])
        self.assertTrue(all(run["start_utc"].endswith("Z") for run in runs))

    def test_splits_stand_every_ten_of_both_units(self):
        splits = analysis_json("day.nmea", analyzed("clean-run"))["runs"][0]["splits"]
        for unit in ("mph", "km/h"):
            speeds = [split["speed"] for split in splits if split["unit"] == unit]
            self.assertEqual(speeds, list(range(10, max(speeds) + 1, 10)))

    def test_a_comparison_has_the_contract_s_fields_whatever_it_found(self):
        measure = parse_measure("0-60 mph")
        for before, after in (([3.9, 3.92, 3.95], [3.7, 3.72, 3.69]), ([3.9], [3.7]), ([], [])):
            message = comparison_json(compare(measure, "rollout", Group(before), Group(after)))
            self.assertLessEqual(COMPARISON_KEYS, set(message))
            self.assertEqual(message["before"]["n"], len(before))
            json.dumps(message, allow_nan=False)

    def test_equal_values_in_both_groups_are_no_difference(self):
        message = comparison_json(compare(parse_measure("0-60 mph"), "rollout", Group([4.0, 4.0]), Group([4.0, 4.0])))
        self.assertEqual(
            (message["verdict"], message["p_value"], message["better"]), ("no clear difference", 1.0, None)
        )
