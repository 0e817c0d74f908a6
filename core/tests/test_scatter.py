"""What the numbers of a group and of a car's history come to, against scipy, statsmodels and by hand."""

import math
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from scipy import stats
from statsmodels.stats.multitest import multipletests

from coombe_core.comparing.statistics.checks import outliers, trend
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.statistics.multiple import holm
from coombe_core.comparing.statistics.power import detectable_difference, detectable_ratio, power
from coombe_core.comparing.statistics.samples import Sample, mean_of, sample
from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter, own_scatter


class SampleTest(TestCase):
    def test_a_group_in_four_numbers(self):
        self.assertEqual(sample([2.0, 4.0, 9.0]), Sample(3, 5.0, math.sqrt(13.0), 2.0))
        self.assertEqual(sample([2.0, 4.0], smaller_is_better=False), Sample(2, 3.0, math.sqrt(2.0), 4.0))
        self.assertEqual(sample([2.0]), Sample(1, 2.0, None, 2.0))

    def test_a_mean_has_the_interval_of_scipy(self):
        values = [3.9, 4.1, 4.3, 3.8]
        found = mean_of(values)
        low, high = stats.t.interval(0.95, 3, np.mean(values), stats.sem(values))
        self.assertAlmostEqual(found.value - found.u95, low, 12)
        self.assertAlmostEqual(found.value + found.u95, high, 12)


class OwnScatterTest(TestCase):
    def test_the_default_is_a_share_of_the_value(self):
        self.assertEqual(assumed_scatter(4.0), Scatter(0.04, 0.024, "assumed", True, True, 4.0, 4.0, 0, 0))

    def test_four_degrees_of_freedom_are_the_least_that_count(self):
        few = [[[4.0, 4.2], [4.1, 4.3], [4.0, 4.1]]]
        self.assertEqual(own_scatter(few, 4.0), assumed_scatter(4.0))
        found = own_scatter([[*few[0], [4.2, 4.3]]], 4.0)
        self.assertAlmostEqual(found.run_sd, math.sqrt((0.02 + 0.02 + 0.005 + 0.005) / 4), 12)
        self.assertEqual((found.origin, found.run_dof, found.run_assumed), ("history", 4, False))

    def test_the_days_of_few_are_the_default_s_and_are_not_counted_as_its_own(self):
        found = own_scatter([[[4.0, 4.2, 4.4], [], [4.1, 4.3, 4.2]]], 5.0)
        self.assertEqual((found.day_sd, found.day_assumed, found.day_dof), (0.03, True, 4.0))
        self.assertEqual((found.days, found.runs), (2, 6))

    def test_days_scatter_about_each_setup_s_own_mean(self):
        """Two setups of three days with two runs: the days' means vary by 0.04 and 0.01, the runs by 0.02 on 6."""
        means = (4.0, 4.2, 4.4), (3.0, 3.1, 3.2)
        found = own_scatter([[[mean - 0.1, mean + 0.1] for mean in setup] for setup in means], 4.0)
        self.assertAlmostEqual(found.run_sd, math.sqrt(0.02), 12)
        self.assertAlmostEqual(found.day_sd, math.sqrt((0.04 + 0.01) / 2 - 0.02 / 2), 12)
        self.assertEqual((found.run_dof, found.day_dof, found.day_assumed), (6, 4.0, False))
        self.assertEqual((found.days, found.runs), (6, 12))

    def test_days_that_agree_better_than_their_runs_vary_by_nothing(self):
        day = [3.9, 4.1]
        self.assertEqual(own_scatter([[day] * 5], 4.0).day_sd, 0.0)

    def test_another_measure_of_the_runs_has_the_same_share(self):
        found = Scatter(0.04, 0.02, "history", False, True, 9.0, 5.0, 3, 12).scaled(0.5)
        self.assertEqual(found, Scatter(0.02, 0.01, "history", False, True, 9.0, 5.0, 3, 12))


class PowerTest(TestCase):
    def test_no_difference_is_shown_in_five_of_a_hundred(self):
        self.assertAlmostEqual(power(0.0, 8.0), 0.05, 9)

    def test_a_difference_is_shown_whichever_sign_it_has_and_a_wrong_sign_counts(self):
        limit = stats.t.ppf(0.975, 3)
        expected = stats.nct.sf(limit, 3, 0.4) + stats.nct.cdf(-limit, 3, 0.4)
        self.assertAlmostEqual(power(0.4, 3.0), expected, 12)
        self.assertAlmostEqual(power(-0.4, 3.0), expected, 12)

    def test_far_out_it_is_always_shown(self):
        self.assertEqual(power(1e4, 5.0), 1.0)

    def test_the_least_ratio_is_where_the_power_is_reached(self):
        self.assertAlmostEqual(detectable_ratio(lambda ratio: ratio / 10), 8.0, 9)
        self.assertAlmostEqual(detectable_ratio(lambda ratio: ratio / 10, 0.3), 3.0, 9)
        self.assertAlmostEqual(detectable_ratio(lambda ratio: ratio / 1e5), 8e4, 4)
        self.assertEqual(detectable_ratio(lambda ratio: 0.7), math.inf)

    def test_in_the_error_s_unit(self):
        self.assertAlmostEqual(power(detectable_difference(0.02, 8.0) / 0.02, 8.0), 0.8, 9)
        self.assertEqual(detectable_difference(0.0, 8.0), 0.0)


class ManyTest(TestCase):
    def test_adjusted_as_statsmodels_does(self):
        values = [0.03, 0.001, 0.2, 0.012, 0.9, 0.6]
        np.testing.assert_allclose(holm(values), multipletests(values, method="holm")[1])
        self.assertEqual(holm([]), [])
        self.assertEqual(holm([0.7, 0.8]), [1.0, 1.0])


class TrendTest(TestCase):
    HOURS = np.array([0.0, 0.5, 1.0, 1.5, 2.0, 2.5])
    VALUES = np.array([4.0, 4.1, 4.05, 4.2, 4.15, 4.3])

    def test_beside_the_group_it_is_what_least_squares_finds(self):
        after = [False, True] * 3
        ours = trend(self.VALUES, self.HOURS, layout_of([""] * 6, [""] * 6, after))
        theirs = sm.OLS(self.VALUES, np.column_stack([self.HOURS, after, np.ones(6)])).fit()
        self.assertAlmostEqual(ours.per_hour, theirs.params[0], 12)
        self.assertAlmostEqual(ours.p_value, theirs.pvalues[0], 12)

    def test_days_are_told_apart_even_where_the_groups_do_not_share_them(self):
        days, after = list("MMMTTT"), [False] * 3 + [True] * 3
        ours = trend(self.VALUES, self.HOURS, layout_of(days, [""] * 6, after))
        theirs = sm.OLS(self.VALUES, np.column_stack([self.HOURS, after, np.array(days) == "M"])).fit()
        self.assertAlmostEqual(ours.per_hour, theirs.params[0], 12)
        self.assertAlmostEqual(ours.p_value, theirs.pvalues[0], 12)

    def test_it_needs_two_runs_more_than_it_fits(self):
        for runs, known in ((5, True), (4, False)):
            layout = layout_of([""] * runs, [""] * runs, [place % 2 == 1 for place in range(runs)])
            self.assertEqual(trend(self.VALUES[:runs], self.HOURS[:runs], layout) is not None, known, runs)

    def test_hours_that_do_not_vary_within_a_day_show_none(self):
        layout = layout_of(list("MMMTTT"), [""] * 6, [False] * 3 + [True] * 3)
        self.assertIsNone(trend(self.VALUES, np.array([1.0] * 3 + [2.0] * 3), layout))

    def test_a_trend_shows_where_its_interval_excludes_none(self):
        layout = layout_of([""] * 6, [""] * 6, [False, True] * 3)
        self.assertTrue(trend(np.array([0.0, 0.5, 1.01, 1.5, 2.0, 2.5]), self.HOURS, layout).shown)
        self.assertFalse(trend(np.array([4.0, 4.1, 4.05, 4.0, 4.1, 4.05]), self.HOURS, layout).shown)


class OutliersTest(TestCase):
    def laid(self, runs: int):
        return layout_of([""] * runs, [""] * runs, [place >= runs // 2 for place in range(runs)])

    def test_each_is_held_against_its_own_group(self):
        values = np.array([4.0, 4.1, 3.9, 4.0, 5.0, 5.1, 4.9, 6.5])
        self.assertEqual(outliers(values, self.laid(8)), [7])
        self.assertEqual(outliers(-values, self.laid(8)), [7])

    def test_the_limit_is_three_and_a_half_of_the_modified_z(self):
        """The median distance is 0.1, so that the limit is 3.5 x 1.4826 x 0.1 = 0.519."""
        for value, expected in ((4.518, []), (4.520, [4])):
            values = np.array([3.9, 3.9, 4.0, 4.1, value, 4.9, 4.9, 5.0, 5.1, 5.1])
            with self.subTest(value):
                self.assertEqual(outliers(values, self.laid(10)), expected)

    def test_under_six_runs_say_nothing(self):
        self.assertEqual(outliers(np.array([4.0, 4.1, 3.9, 4.0, 9.0]), self.laid(5)), [])
        self.assertEqual(outliers(np.array([4.0, 4.1, 9.0, 4.0, 4.1, 4.2]), self.laid(6)), [2])

    def test_runs_that_agree_to_the_last_digit_have_none(self):
        self.assertEqual(outliers(np.array([4.0] * 7 + [4.1]), self.laid(8)), [])
