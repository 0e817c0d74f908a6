"""Studies: against published tables, libraries, enumeration and simulated truth."""

from __future__ import annotations

import itertools
import math
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from scipy import stats

from coombe_core.curve import Curve
from coombe_core.studies.braking import braking_series, power_to_find_fade
from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import agreement
from coombe_core.studies.repeatability import repeatability
from coombe_core.studies.roll_ons import from_full_power
from coombe_core.studies.step import find_step
from coombe_core.studies.sweep import sweep
from coombe_core.studies.trend import trend
from coombe_core.units import FOOT_M
from coombe_core.wording.studies import (
    braking_sentence,
    problem,
    receivers_sentence,
    repeatability_sentence,
    sweep_sentence,
)

NINE = np.arange(90.0, 9.0, -10.0)


class TrendTest(TestCase):
    def test_one_slope_for_series_with_their_own_levels_is_that_of_statsmodels(self):
        draw = np.random.default_rng(1)
        series = [
            (np.arange(size, dtype=float), level + draw.normal(size=size)) for size, level in ((4, 3.0), (6, 9.0))
        ]
        found = trend([(x.tolist(), y.tolist()) for x, y in series])
        x = np.concatenate([x for x, _ in series])
        design = np.column_stack([x, [1.0] * 4 + [0.0] * 6, [0.0] * 4 + [1.0] * 6])
        theirs = sm.OLS(np.concatenate([y for _, y in series]), design).fit()
        self.assertAlmostEqual(found.per_step.value, theirs.params[0], 10)
        self.assertAlmostEqual(found.per_step.u95, theirs.params[0] - theirs.conf_int()[0][0], 10)
        self.assertEqual(found.dof, 7)

    def test_without_a_degree_of_freedom_there_is_none(self):
        for series in ([([0.0, 1.0], [3.0, 4.0])], [([1.0, 1.0, 1.0], [1.0, 2.0, 3.0])], []):
            self.assertIsNone(trend(series))


class BrakingTest(TestCase):
    def test_four_stops_as_testers_have_them_show_no_fade(self):
        """110, 109, 111, 114 ft: common practice, no source."""
        found = braking_series([[feet * FOOT_M for feet in (110, 109, 111, 114)]])
        self.assertEqual(found.verdict, "no clear fade")
        theirs = stats.linregress(range(4), [110, 109, 111, 114])
        self.assertAlmostEqual(found.fade_per_stop_m.value / FOOT_M, theirs.slope, 9)
        self.assertIn("No clear fade: +0.43 m (+1.40 ft)", braking_sentence(found))

    def test_a_clear_fade_and_a_series_too_short(self):
        self.assertEqual(braking_series([[34.0, 34.3, 34.6, 34.9, 35.3]]).verdict, "fades")
        short = braking_series([[34.0, 35.0]])
        self.assertEqual((short.verdict, short.fade_per_stop_m), ("too few stops", None))
        self.assertIn("Too few stops", braking_sentence(short))

    def test_a_fade_is_found_as_often_as_was_worked_out_beforehand(self):
        """A foot a stop at a foot of scatter, in six stops."""
        draw = np.random.default_rng(11)
        stops = 110.0 + np.arange(6) + draw.normal(size=(600, 6))
        shown = np.mean([braking_series([row.tolist()]).verdict == "fades" for row in stops])
        self.assertAlmostEqual(shown, power_to_find_fade(6, 1.0, 1.0), delta=0.05)
        invented = np.mean([braking_series([(row - np.arange(6)).tolist()]).verdict == "fades" for row in stops])
        self.assertLess(invented, 0.05)
        self.assertEqual(power_to_find_fade(2, 1.0, 1.0), 0.0)


class RepeatabilityTest(TestCase):
    def test_the_chance_that_the_first_is_so_quick_is_that_of_enumeration(self):
        values = (4.01, 3.98, 4.05, 4.03)
        found = repeatability(values)
        as_quick = [order[0] <= values[0] for order in itertools.permutations(values)]
        self.assertAlmostEqual(found.first_quickest_p, np.mean(as_quick))
        self.assertEqual(found.first_rank, 2)
        self.assertEqual(repeatability([3.9, 4.0, 4.1]).first_quickest_p, 1 / 3)
        self.assertEqual(repeatability([9.0, 8.0, 7.0], smaller_is_better=False).first_rank, 1)

    def test_the_change_per_pass_is_that_of_scipy(self):
        values = [4.00, 4.02, 4.01, 4.05, 4.06]
        found, theirs = repeatability(values), stats.linregress(range(5), values)
        self.assertAlmostEqual(found.per_pass.value, theirs.slope, 12)
        self.assertAlmostEqual(found.per_pass.u95, stats.t.ppf(0.975, 3) * theirs.stderr, 12)
        self.assertIn("Passes change by +0.015", repeatability_sentence(found, "s"))
        self.assertIn("that happens in 20% of such days", repeatability_sentence(found, "s"))


class ReceiversTest(TestCase):
    """Bland and Altman 1986, The Lancet: peak flow by two meters, in l/min; the data from memory."""

    LARGE = (494, 395, 516, 434, 476, 557, 413, 442, 650, 433, 417, 656, 267, 478, 178, 423, 427)
    MINI = (512, 430, 520, 428, 500, 600, 364, 380, 658, 445, 432, 626, 260, 477, 259, 350, 451)

    def test_the_table_of_the_paper(self):
        found = agreement(self.MINI, self.LARGE)
        self.assertAlmostEqual(found.bias.value, -2.1, 1)
        self.assertAlmostEqual(found.sd, 38.8, 1)
        self.assertAlmostEqual(found.bias.value - found.bias.u95, -22.0, delta=0.1)
        self.assertAlmostEqual(found.bias.value + found.bias.u95, 17.8, delta=0.1)
        # The paper takes twice the standard deviation, and 2.12 for t: -79.7 (-114.3 to -45.1), 75.5 (40.9 to 110.1).
        self.assertAlmostEqual(found.lower.value, -2.1 - 1.96 * 38.8, delta=0.1)
        self.assertAlmostEqual(found.lower.u95, 34.6, delta=0.1)
        self.assertFalse(found.biased)
        self.assertIn("No bias between them is shown (−2.118", receivers_sentence(found, "l/min"))

    def test_two_passes_are_too_few(self):
        with self.assertRaises(StudyError) as refused:
            agreement([4.0, 4.1], [4.0, 4.1])
        self.assertIn(
            "Study of receivers of 2 runs: record at least 3", problem(refused.exception, "study of receivers")
        )


class RollOnTest(TestCase):
    def test_the_time_from_full_power_and_from_a_speed(self):
        since_s = np.arange(0.0, 8.0, 0.05)
        curves = [
            Curve(since_s, 13.0 + pull * since_s, since_s, np.full(since_s.size, pull)) for pull in (4.0, 4.2, 3.9)
        ]
        times = np.array([(31.0 - 13.0) / pull for pull in (4.0, 4.2, 3.9)])
        found = from_full_power(curves, 31.0)
        self.assertAlmostEqual(found.value, times.mean(), 6)
        low, high = stats.t.interval(0.95, 2, times.mean(), stats.sem(times))
        self.assertAlmostEqual(found.u95, (high - low) / 2, 6)
        self.assertAlmostEqual(from_full_power(curves, 31.0, 22.0).value, times.mean() / 2, 6)
        with self.assertRaises(StudyError):
            from_full_power(curves, 80.0)


def held_up(
    charges: np.ndarray, draw: np.random.Generator, step: float, scatter: float
) -> tuple[np.ndarray, list[float]]:
    """Times of a car whose power falls with charge, some more and some less, and by a step under 70 %; truth first."""
    lost = draw.uniform(0.0005, 0.002)

    def times(at: np.ndarray) -> np.ndarray:
        return 1.4 + 2.6 / (1.0 - lost * np.maximum(95.0 - at, 0.0)) + 4.0 * step * (at < 70.0)

    grid = np.linspace(charges[-1], charges[0], 81)
    return times(grid), (times(charges) * (1.0 + scatter * draw.normal(size=charges.size))).tolist()


class SweepTest(TestCase):
    def made(self, step: float, scatter: float, count: int = 150) -> list[tuple[np.ndarray, object]]:
        draw = np.random.default_rng([21, int(1000 * step), int(10_000 * scatter)])
        seasons = [held_up(NINE, draw, step, scatter) for _ in range(count)]
        return [(truth, sweep(NINE.tolist(), values)) for truth, values in seasons]

    def test_the_band_holds_the_truth(self):
        inside = [
            np.abs(found.curve.values - truth)[[0, 20, 40, 60, 80]] <= found.curve.u95()[[0, 20, 40, 60, 80]]
            for step, scatter in ((0.0, 0.01), (0.0, 0.004), (0.03, 0.004))
            for truth, found in self.made(step, scatter, 80)
        ]
        self.assertTrue(0.92 <= np.mean(inside) <= 0.985, np.mean(inside))

    def test_a_step_is_seldom_invented_and_found_where_runs_agree(self):
        invented = np.mean([found.step is not None for _, found in self.made(0.0, 0.01)])
        self.assertLessEqual(invented, 0.06)
        steps = [found.step for _, found in self.made(0.03, 0.004)]
        self.assertGreater(np.mean([step is not None for step in steps]), 0.8)
        placed = [step.low <= 70.0 <= step.high for step in steps if step]
        self.assertGreater(np.mean(placed), 0.9)
        sizes = [abs(step.size.value - 0.12) <= step.size.u95 for step in steps if step]
        self.assertGreater(np.mean(sizes), 0.85)

    def test_the_step_is_fitted_as_statsmodels_does(self):
        """A line that may bend beforehand by as much as a run scatters: one more row of the design holds it."""
        draw = np.random.default_rng(4)
        values = 4.0 + 0.005 * np.arange(9) + 0.15 * (np.arange(9) >= 3) + 0.01 * draw.normal(size=9)
        found = find_step(-NINE, values)
        self.assertEqual((found.at, found.low, found.high), (65.0, 60.0, 70.0))
        share = np.linspace(-1, 1, 9)
        design = np.column_stack([np.ones(9), share, np.arange(9) >= 3, 1 - share**2])
        theirs = sm.OLS(np.append(values, 0.0), np.vstack([design, [0.0, 0.0, 0.0, 1.0]])).fit()
        self.assertAlmostEqual(found.size.value, theirs.params[2], 9)
        self.assertAlmostEqual(found.size.u95, stats.t.ppf(0.975, 6) * theirs.bse[2] * math.sqrt(6 / 6), 9)
        self.assertLess(found.p_value, 0.01)

    def test_a_car_that_does_not_change_is_flat_and_has_lost_nothing(self):
        found = sweep(NINE.tolist(), (4.0 + 0.004 * np.cos(np.arange(9) * 2.1)).tolist())
        self.assertAlmostEqual(found.lowest_to_highest.value, 1.0, delta=0.003)
        self.assertIsNone(found.lost[0.02])
        self.assertIn("no step is shown", sweep_sentence(found))

    def test_what_is_lost_and_the_slope_of_a_straight_car(self):
        """Four hundredths of a second for ten points: 2 % of 4 s are lost at 70 %."""
        found = sweep(NINE.tolist(), (4.0 + 0.04 * np.arange(9) + 1e-5 * np.cos(np.arange(9) * 2.1)).tolist())
        self.assertAlmostEqual(found.slope_per_10.value, 0.04, 4)
        self.assertAlmostEqual(found.lost[0.02], 70.0, delta=0.3)
        self.assertAlmostEqual(found.lowest_to_highest.value, 4.32 / 4.0, 3)
        self.assertAlmostEqual(found.normalized[0], 1.0, 3)
        power = sweep(NINE.tolist(), (200.0 - 2 * np.arange(9) + 1e-3 * np.cos(np.arange(9) * 2.1)).tolist(), False)
        self.assertAlmostEqual(power.lost[0.05], 40.0, delta=0.5)

    def test_what_no_sweep_can_be_made_of(self):
        for charges, words in (
            ([90.0, 80.0], "Sweep of 2 runs: record at least 5"),
            ([90.0, 89.0, 88.0, 87.0, 86.0], "at least 8 points"),
        ):
            with self.assertRaises(StudyError) as refused:
                sweep(charges, [4.0 + 0.01 * n for n in range(len(charges))])
            self.assertIn(words, problem(refused.exception, "sweep"))

    def test_runs_at_one_charge_are_taken_together(self):
        found = sweep([90, 90, 70, 70, 50, 50, 30, 30], [4.0, 4.02, 4.05, 4.07, 4.11, 4.1, 4.16, 4.15])
        self.assertTrue(np.isfinite(found.curve.values).all())
        self.assertTrue((np.diff(found.curve.values) <= 1e-12).all())
