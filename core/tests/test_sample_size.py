"""How many runs: against statsmodels' power of the two-sample t test, and the scatter against hand-made histories."""

from __future__ import annotations

import unittest

import numpy as np
from statsmodels.stats.power import TTestIndPower

from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter, own_scatter
from coombe_core.planning.sample_size import (
    Design,
    days_needed,
    detectable_difference,
    power_curve,
    power_to_find,
    runs_needed,
)
from coombe_core.wording.sources import scatter_source

SCATTER = Scatter(0.05, 0.03, "", False, False)


class SampleSizeTest(unittest.TestCase):
    def test_power_is_that_of_statsmodels(self):
        for runs in (2, 3, 5, 8, 20):
            for difference in (0.03, 0.08, 0.15):
                theirs = TTestIndPower().power(difference / SCATTER.run_sd, runs, 0.05)
                self.assertAlmostEqual(power_to_find(difference, Design(runs), SCATTER), theirs, places=6)

    def test_runs_needed_are_those_of_statsmodels_rounded_up(self):
        for ratio in (0.8, 1.0, 1.5, 2.0):
            theirs = TTestIndPower().solve_power(ratio, power=0.8, alpha=0.05)
            self.assertEqual(runs_needed(ratio * SCATTER.run_sd, SCATTER), int(np.ceil(theirs)))

    def test_cohens_table_asks_for_17_per_group_at_effect_1(self):
        """Cohen, Statistical Power Analysis (1988), table 2.4.1: d = 1.00, power 0.80, two-sided 0.05."""
        self.assertEqual(runs_needed(1.0, Scatter(1.0, 0.0, "", False, False)), 17)

    def test_detectable_difference_is_found_with_the_power_that_was_asked(self):
        for power in (0.8, 0.9):
            least = detectable_difference(Design(5), SCATTER, power)
            self.assertAlmostEqual(power_to_find(least, Design(5), SCATTER), power, places=6)

    def test_more_runs_never_show_less(self):
        curve = [each["smallest"] for each in power_curve(SCATTER, 1, True)]
        self.assertEqual(curve, sorted(curve, reverse=True))

    def test_separate_days_limit_what_any_number_of_runs_can_show(self):
        self.assertIsNone(runs_needed(0.06, SCATTER, days=2, interleaved=False))
        days, runs = days_needed(0.06, SCATTER)
        self.assertGreater(days, 2)
        self.assertGreaterEqual(power_to_find(0.06, Design(runs, days, False), SCATTER), 0.8)
        self.assertIsNone(days_needed(0.005, SCATTER))

    def test_a_simulated_design_is_found_as_often_as_was_expected(self):
        """2,000 experiments of two days per group, the day's part known, each tested as the power assumes."""
        from scipy import stats

        draw = np.random.default_rng(31)
        design = Design(6, 2, False)
        least = detectable_difference(design, SCATTER)
        found = 0
        for _ in range(2000):
            groups = [
                np.concatenate([draw.normal(shift + draw.normal(0, 0.03), 0.05, 3) for _ in range(2)])
                for shift in (0.0, least)
            ]
            within = sum(float(((day - day.mean()) ** 2).sum()) for group in groups for day in group.reshape(2, 3)) / 8
            error = np.sqrt(2 * within / 6 + 2 * 0.03**2 / 2)
            found += abs(groups[1].mean() - groups[0].mean()) / error > stats.t.ppf(
                0.975, 10 * (error**2 / (within / 3)) ** 2
            )
        self.assertAlmostEqual(found / 2000, 0.8, delta=0.03)

    def test_one_run_per_group_and_fewer_runs_than_days_are_refused(self):
        with self.assertRaisesRegex(ValueError, "two runs"):
            power_to_find(0.1, Design(1), SCATTER)
        with self.assertRaisesRegex(ValueError, "3 days"):
            Design(2, 3, False)


class ScatterTest(unittest.TestCase):
    def test_own_scatter_is_pooled_within_days(self):
        scatter = own_scatter([[[4.0, 4.1, 3.9], [4.3, 4.4, 4.2]]], 4.0)
        self.assertAlmostEqual(scatter.run_sd, 0.1)
        self.assertFalse(scatter.run_assumed)
        self.assertTrue(scatter.day_assumed)

    def test_a_simulated_history_gives_its_scatter_back(self):
        draw = np.random.default_rng(8)
        days = [draw.normal(4.0 + draw.normal(0, 0.04), 0.05, 6).tolist() for _ in range(60)]
        scatter = own_scatter([days[:30], days[30:]], 4.0)
        self.assertAlmostEqual(scatter.run_sd, 0.05, delta=0.005)
        self.assertAlmostEqual(scatter.day_sd, 0.04, delta=0.01)

    def test_a_setups_own_level_is_no_scatter(self):
        level = [[[4.0, 4.02, 3.98]] * 3, [[3.5, 3.52, 3.48]] * 3]
        self.assertEqual(own_scatter(level, 4.0).day_sd, 0.0)

    def test_too_few_runs_fall_back_on_the_stated_default(self):
        self.assertEqual(own_scatter([[[4.0, 4.1]]], 4.0), assumed_scatter(4.0))
        self.assertIn("assumed", scatter_source(assumed_scatter(4.0)))
