"""Comparing two groups against scipy, statsmodels and a worked example of NIST."""

import math
from unittest import TestCase

import numpy as np
from groups import difference, relabeled, smallest
from scipy import stats
from statsmodels.stats.power import TTestIndPower

from coombe_core.comparing.statistics.samples import sample

BEFORE = [3.91, 3.94, 3.89, 3.97, 3.92]
AFTER = [3.70, 3.75, 3.66, 3.71]


def with_moments(n: int, mean: float, sd: float) -> list[float]:
    """n numbers of exactly that mean and standard deviation."""
    raw = np.arange(n, dtype=float)
    return list(mean + sd * (raw - raw.mean()) / raw.std(ddof=1))


class StudentTest(TestCase):
    def test_interval_and_p_agree_with_scipy(self):
        result = stats.ttest_ind(AFTER, BEFORE)
        interval = result.confidence_interval(0.95)
        ours = difference(BEFORE, AFTER)
        self.assertAlmostEqual(ours.p_value, result.pvalue, 12)
        self.assertAlmostEqual(ours.low95, interval.low, 12)
        self.assertAlmostEqual(ours.high95, interval.high, 12)

    def test_worked_example_of_the_nist_handbook(self):
        # NIST/SEMATECH e-Handbook, 1.3.5.3, AUTO83B: equal variances, t = -12.62059, pooled sd 6.34260, 326 dof.
        first, second = with_moments(249, 20.14458, 6.41470), with_moments(79, 30.48101, 6.10771)
        ours = difference(second, first)
        self.assertAlmostEqual(ours.value / ours.error, -12.62059, 4)
        self.assertAlmostEqual(ours.error / math.sqrt(1 / 249 + 1 / 79), 6.34260, 4)
        self.assertEqual(ours.dof, 326)


class PermutationTest(TestCase):
    def test_exact_p_agrees_with_scipy(self):
        def distance(x, y):
            return abs(np.mean(x) - np.mean(y))

        after = [3.90, 3.75, 3.86, 3.71]
        result = stats.permutation_test((BEFORE, after), distance, n_resamples=np.inf, alternative="greater")
        expected = result.pvalue
        ours = relabeled(BEFORE, after)
        self.assertTrue(ours.exact)
        self.assertAlmostEqual(ours.p_value, expected, 9)

    def test_three_and_three_cannot_reach_five_percent(self):
        ours = relabeled([1.0, 2.0, 3.0], [4.0, 5.0, 6.0])
        self.assertEqual(ours.lowest, 0.1)
        self.assertEqual(ours.p_value, 0.1)

    def test_many_runs_are_drawn_with_a_seed(self):
        draw = np.random.default_rng(1)
        groups = draw.normal(4, 0.05, 12), draw.normal(3.97, 0.05, 12)
        ours = relabeled(*groups)
        self.assertFalse(ours.exact)
        self.assertEqual(ours, relabeled(*groups))
        self.assertAlmostEqual(ours.p_value, stats.ttest_ind(*groups).pvalue, delta=0.02)


class SmallestShownTest(TestCase):
    def test_it_is_the_difference_that_statsmodels_finds_with_80_percent(self):
        groups = with_moments(8, 4.0, 0.05), with_moments(8, 4.1, 0.05)
        ratio = TTestIndPower().solve_power(nobs1=8, alpha=0.05, power=0.8)
        self.assertAlmostEqual(smallest(*groups), ratio * 0.05, 4)

    def test_three_runs_that_scatter_far_still_have_an_answer(self):
        self.assertGreater(smallest([3.91, 3.94, 3.92], [3.9, 3.8, 3.7]), 0.15)


class SampleTest(TestCase):
    def test_best_depends_on_what_is_a_gain(self):
        self.assertEqual(sample(BEFORE).best, 3.89)
        self.assertEqual(sample(BEFORE, smaller_is_better=False).best, 3.97)

    def test_four_stops_from_sixty(self):
        # Common practice: four stops from 60 mph, 110, 109, 111 and 114 ft.
        self.assertEqual(sample([110, 109, 111, 114]).mean, 111)
