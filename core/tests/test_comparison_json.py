"""What `coombe compare --json` says beyond its first contract, and that logs tell days and directions."""

import io
import json
import tempfile
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from unittest import TestCase

from groups import compared, driven

from coombe_core.cli.command import main
from coombe_core.cli.comparison_output import comparison_json
from coombe_core.comparing.comparison import Group
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate

SLOW, FAST = [3.91, 3.94, 3.89, 3.97, 3.92], [3.70, 3.75, 3.66, 3.71, 3.72]


class JsonTest(TestCase):
    def test_condition_differences_and_unadjusted_difference_stand_beside_the_verdict(self):
        report = comparison_json(compared(driven(SLOW, charge_percent=90.0), driven(FAST, charge_percent=95.0)))
        (row,) = report["condition_differences"]
        self.assertEqual((row["factor"], row["before"], row["after"], row["differs"]), ("charge", 90.0, 95.0, True))
        self.assertEqual(report["unadjusted"], report["difference"])
        self.assertEqual((report["test"], report["adjustments"], report["refused"]), ("days", [], {}))

    def test_it_is_json_all_through(self):
        for found in (compared(Group(SLOW), Group(FAST)), compared(Group([3.9]), Group([]))):
            json.dumps(comparison_json(found))


class LogsTest(TestCase):
    def compare(self, days_apart: int) -> dict:
        """Five pulls and five of more power, a number of days later."""
        out = io.StringIO()
        with tempfile.TemporaryDirectory() as folder:
            for name, scenario, days in (("a", "five-runs", 0), ("b", "after-update", days_apart)):
                trace = simulate(SCENARIOS[scenario], 5).trace
                trace = replace(trace, start_utc=trace.start_utc + timedelta(days=days))
                Path(folder, name).write_bytes(write_log(trace, "nmea"))
            logs = ("--before", f"{folder}/a", "--after", f"{folder}/b")
            main(["compare", "--json", "--measure", "0-60 mph", "--clock", "rollout", *logs], out)
        return json.loads(out.getvalue())

    def test_logs_of_one_day_are_compared_within_it_and_both_ways(self):
        report = self.compare(0)
        self.assertEqual((report["test"], report["verdict"]), ("least squares", "faster"))
        self.assertIsNotNone(report["permutation_p"])

    def test_logs_of_two_days_carry_the_scatter_from_day_to_day(self):
        one, two = self.compare(0), self.compare(3)
        self.assertEqual(two["test"], "days")
        widths = [report["difference"]["high95"] - report["difference"]["low95"] for report in (one, two)]
        self.assertGreater(widths[1], 2 * widths[0])
        self.assertIsNone(two["permutation_p"])
