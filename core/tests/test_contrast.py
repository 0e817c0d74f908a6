"""Days, directions and single runs: what an interval carries, against statsmodels and by hand."""

import math
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from groups import compared, difference, driven, textbook
from scipy import stats

from coombe_core.comparing.comparison import Group, Known
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE, ASSUMED_DRIFT_SHARE, DRIFT_DOF, Scatter
from coombe_core.wording.comparison import reasons_of

BEFORE, AFTER = [4.02, 4.11, 3.99, 4.09], [3.95, 4.02, 3.93, 4.04]
OWN = Scatter(0.05, 0.02, "this car's own", False, False, 12, 6)


def on_days(values, days, letters="", hours=()) -> Group:
    """A group whose runs were driven on those days."""
    hours = hours or [None] * len(values)
    directions = [{"o": "out", "b": "back"}[way] for way in letters] or [""] * len(values)
    noted = zip(days, directions, hours, strict=True)
    return Group(values, states=[State(day=day, direction=way, hour=hour) for day, way, hour in noted])


class WithinTest(TestCase):
    def fitted(self, columns):
        """The after group's effect by ordinary least squares of statsmodels."""
        design = np.column_stack([[0] * 4 + [1] * 4, np.ones(8), *columns])
        return sm.OLS([*BEFORE, *AFTER], design).fit()

    def test_both_ways_are_told_apart_as_least_squares_does(self):
        ours = textbook(driven(BEFORE, "Monday", "obob"), driven(AFTER, "Monday", "obob"))
        theirs = self.fitted([[0, 1] * 4])
        self.assertAlmostEqual(ours.value, theirs.params[0], 12)
        self.assertAlmostEqual(ours.p_value, theirs.pvalues[0], 12)
        self.assertAlmostEqual(ours.low95, theirs.conf_int()[0][0], 12)

    def test_days_that_both_groups_share_cancel_as_least_squares_does(self):
        days = ["Monday", "Monday", "Tuesday", "Tuesday"]
        ours = textbook(on_days(BEFORE, days), on_days(AFTER, days))
        theirs = self.fitted([[0, 0, 1, 1] * 2])
        self.assertAlmostEqual(ours.value, theirs.params[0], 12)
        self.assertAlmostEqual(ours.p_value, theirs.pvalues[0], 12)

    def test_a_slope_that_makes_one_way_slower_costs_no_certainty(self):
        steep = [value + 0.3 * (way == "b") for value, way in zip(BEFORE, "obob", strict=True)]
        after = [value + 0.3 * (way == "b") for value, way in zip(AFTER, "obob", strict=True)]
        level = textbook(driven(BEFORE, "Monday", "obob"), driven(AFTER, "Monday", "obob"))
        sloped = textbook(driven(steep, "Monday", "obob"), driven(after, "Monday", "obob"))
        self.assertAlmostEqual(sloped.low95, level.low95, 9)

    def test_one_way_in_one_group_and_both_in_the_other_is_not_fitted(self):
        layout = layout_of(["a"] * 5, ["out"] * 4 + ["back"], [False] * 3 + [True] * 2)
        self.assertEqual(layout.kind, "plain")

    def test_relabeling_stays_within_a_day_and_way(self):
        # Two days of two and two: 6 relabelings each, 36 in all, so that no p is between its multiples.
        days = ["Monday", "Monday", "Tuesday", "Tuesday"]
        found = compared(on_days(BEFORE, days), on_days(AFTER, days)).permutation
        self.assertTrue(found.exact)
        self.assertAlmostEqual(found.lowest, 2 / 36)
        self.assertAlmostEqual(found.p_value * 36, round(found.p_value * 36), 9)


class DaysTest(TestCase):
    def apart(self, scatter=None):
        return compared(driven(BEFORE, "Monday"), driven(AFTER, "Tuesday"), Known(scatter))

    def test_one_day_each_carries_the_day_twice(self):
        found = self.apart(OWN).difference
        mean = np.mean([*BEFORE, *AFTER])
        default = (ASSUMED_DAY_SHARE * mean) ** 2
        day = (0.5 * default + 6 * 0.02**2) / 6.5
        run = np.mean([np.var(BEFORE, ddof=1), np.var(AFTER, ddof=1)])
        run = (6 * run + 6 * 0.05**2) / 12  # weighed with the car's own
        parts = {"run": (2 * run / 4, 12), "day": (2 * day, 6.5)}
        variance = sum(part for part, _ in parts.values())
        quantile = sum(part * stats.t.ppf(0.975, known) for part, known in parts.values()) / variance
        half = quantile * math.sqrt(variance)
        self.assertAlmostEqual(found.high95 - found.value, half, 9)

    def test_days_apart_are_never_surer_than_one_day(self):
        plain = difference(BEFORE, AFTER)
        found = self.apart().difference
        self.assertGreater(found.high95 - found.low95, plain.high95 - plain.low95)
        self.assertIn("different days (1 and 1)", " ".join(reasons_of(self.apart())))

    def test_more_days_per_group_are_surer_than_more_runs_a_day(self):
        values = [*BEFORE, *BEFORE], [*AFTER, *AFTER]
        one = compared(driven(values[0], "a"), driven(values[1], "b"), Known(OWN)).difference
        four = compared(
            on_days(values[0], ["a", "a", "b", "b", "c", "c", "d", "d"]),
            on_days(values[1], ["e", "e", "f", "f", "g", "g", "h", "h"]),
            Known(OWN),
        ).difference
        self.assertLess(four.error, one.error)

    def test_one_more_day_of_each_brings_what_was_forecast(self):
        # Seasons made here: days differ by the stated default, as the forecast expects; in the mean of many the
        # intervals of two days each are as wide as those of one day each said they would be.
        random = np.random.default_rng(20261201)
        forecast, brought, now = [], [], []
        for _ in range(150):
            level = 4.0 + ASSUMED_DAY_SHARE * 4.0 * random.standard_normal(4)
            days = [(day + 0.02 * random.standard_normal(5)).tolist() for day in level]
            one = compared(driven(days[0], "Monday"), driven(days[2], "Tuesday")).weighed
            before = on_days(days[0] + days[1], ["Monday"] * 5 + ["Wednesday"] * 5)
            after = on_days(days[2] + days[3], ["Tuesday"] * 5 + ["Friday"] * 5)
            two = compared(before, after).weighed
            for widths, found in ((now, one.difference), (forecast, one.one_more_day), (brought, two.difference)):
                widths.append((found.high95 - found.low95) / 2)
        self.assertLess(np.mean(forecast), 0.75 * np.mean(now))
        self.assertLess(abs(np.mean(forecast) / np.mean(brought) - 1), 0.12)

    def test_a_day_of_both_groups_asks_for_no_other(self):
        found = compared(driven(BEFORE, "Monday"), driven(AFTER, "Monday"))
        self.assertIsNone(found.weighed.one_more_day)
        self.assertNotIn("One more day", " ".join(reasons_of(found)))
        self.assertIn("would probably bring ±", " ".join(reasons_of(self.apart())))

    def test_a_day_that_both_groups_share_counts_for_more_than_days_apart(self):
        before = on_days(BEFORE, "aabb", hours=[9.0, 9.2, 9.0, 9.2])
        shared = compared(before, on_days(AFTER, "bbcc", hours=[9.1, 9.3, 9.1, 9.3]), Known(OWN))
        apart = compared(before, on_days(AFTER, "ccdd", hours=[9.1, 9.3, 9.1, 9.3]), Known(OWN))
        self.assertLess(shared.difference.error, apart.difference.error)

    def test_weights_are_those_of_generalized_least_squares(self):
        found = compared(on_days(BEFORE, "aabb", "obob"), on_days(AFTER, "bbcc", "obob"), Known(OWN)).unadjusted
        days = np.eye(3)[[0, 0, 1, 1, 1, 1, 2, 2]]
        run, day, *_ = found.contrast.parts
        ratio = found.contrast.day_sd**2 / (run.variance / float(found.contrast.weights @ found.contrast.weights))
        design = np.column_stack([[0] * 4 + [1] * 4, np.ones(8), [0, 1] * 4])
        theirs = sm.GLS([*BEFORE, *AFTER], design, sigma=np.eye(8) + ratio * days @ days.T).fit()
        self.assertAlmostEqual(found.difference.value, theirs.params[0], 9)
        self.assertGreater(day.variance, 0)

    def test_whole_days_are_too_few_to_relabel(self):
        self.assertIsNone(self.apart().permutation)


class SingleTest(TestCase):
    def test_a_single_run_per_group_takes_the_car_s_own_scatter(self):
        found = compared(driven([4.0], "a"), driven([3.9], "a"), Known(OWN))
        run, drift = 2 * 0.05**2, (ASSUMED_DRIFT_SHARE * 3.95) ** 2
        of_run, of_drift = stats.t.ppf(0.975, [12, DRIFT_DOF])
        half = (run * of_run + drift * of_drift) / (run + drift) * math.sqrt(run + drift)
        self.assertAlmostEqual(found.difference.high95 - found.difference.value, half, 9)
        self.assertIn("the scatter of a run is this car's own", reasons_of(found)[0])
        self.assertIsNone(found.before.sd)

    def test_a_single_value_from_elsewhere_is_no_surer_than_two(self):
        """Nobody knows how a car scatters that was only read about: one value of it gives no interval at all."""
        ours = driven([3.60, 3.62, 3.58, 3.61])
        self.assertEqual(compared(ours, Group([3.61]), Known(OWN)).verdict, "too few runs")
        self.assertIsNone(compared(ours, Group([3.61]), Known(OWN)).difference)
        self.assertIsNotNone(compared(ours, Group([3.61, 3.64]), Known(OWN)).difference)

    def test_a_default_scatter_is_not_enough_for_a_single_run(self):
        default = Scatter(0.03, 0.02, "assumed", True, True)
        self.assertEqual(compared(Group([4.0]), Group([3.9]), Known(default)).verdict, "too few runs")
        self.assertEqual(compared(Group([4.0]), Group([3.9])).verdict, "too few runs")


class SharedTest(TestCase):
    def test_different_receivers_widen_the_interval(self):
        same = compared(driven(BEFORE, receiver="one"), driven(AFTER, receiver="one")).difference
        other = compared(driven(BEFORE, receiver="one"), driven(AFTER, receiver="two"))
        mean = (sum(BEFORE) + sum(AFTER)) / (len(BEFORE) + len(AFTER))
        self.assertAlmostEqual(other.difference.error**2 - same.error**2, (0.002 * mean) ** 2, 9)
        self.assertIn("different GPS receivers", " ".join(reasons_of(other)))
