"""Studies: against published tables, libraries, enumeration and simulated truth."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace
from datetime import UTC, datetime
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from geographiclib.geodesic import Geodesic
from scipy import stats

from coombe_core.analysis import Request, time_runs
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.state import State
from coombe_core.curve import Curve
from coombe_core.simulating.circuit import figure_eight
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, simulate
from coombe_core.studies.braking import braking_series, power_to_find_fade
from coombe_core.studies.dashboard import dashboard
from coombe_core.studies.energy import energy
from coombe_core.studies.history import history
from coombe_core.studies.laps import StartLine, find_start_line, laps, lateral_g, speed_along
from coombe_core.studies.levels import levels
from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import agreement
from coombe_core.studies.repeatability import repeatability
from coombe_core.studies.roll_ons import from_full_power, gap_m, response_delay_s
from coombe_core.studies.step import find_step
from coombe_core.studies.sweep import apart, equal_at, sweep
from coombe_core.studies.trend import trend
from coombe_core.timing.measures import parse_measure
from coombe_core.trace import COLUMNS, Trace
from coombe_core.units import FOOT_M, KMH_MPS, MILE_M
from coombe_core.wording.studies import (
    braking_sentence,
    dashboard_sentence,
    energy_sentence,
    gap_sentence,
    history_sentence,
    laps_sentence,
    levels_sentence,
    problem,
    receivers_sentence,
    repeatability_sentence,
    sweep_sentence,
    two_sweeps_sentence,
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

    def test_without_degrees_of_freedom_there_is_none(self):
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
        four = stats.nct.sf(stats.t.ppf(0.975, 2), 2, math.sqrt(1.5**2 + 0.5**2 + 0.5**2 + 1.5**2))
        self.assertAlmostEqual(power_to_find_fade(4, 1.0, 1.0), four, 12)


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


class GapTest(TestCase):
    @staticmethod
    def pull(pace_mps2: float, from_mps: float = 13.0) -> Curve:
        """At steady acceleration from a speed, from a second before full power on."""
        since_s = np.arange(-1.0, 6.0, 0.05)
        driven_s = np.maximum(since_s, 0.0)
        distance_m = from_mps * (since_s + 1.0) + pace_mps2 * driven_s**2 / 2
        return Curve(since_s, from_mps + pace_mps2 * driven_s, distance_m, np.where(since_s > 0, pace_mps2, 0.0))

    def test_the_gap_is_half_the_difference_of_paces_times_the_square_of_time(self):
        at_s, ahead_m = gap_m([self.pull(4.0)] * 2, [self.pull(3.0)], 25.0)
        self.assertAlmostEqual(at_s[-1], 3.0, delta=0.06)  # the first is at 25 m/s after 3 s
        np.testing.assert_allclose(ahead_m, at_s**2 / 2, atol=0.01)
        np.testing.assert_allclose(gap_m([self.pull(3.0)], [self.pull(4.0)], 25.0)[1], -ahead_m, atol=1e-9)
        sentence = gap_sentence("Ash", "Oak", 3.0, -4.7, 4.7)
        self.assertEqual(sentence, "3.0 s after full power Oak is 4.7 m (15.4 ft) ahead of Ash, 1.0 car lengths.")

    def test_the_delay_is_from_the_pedal_at_half_to_full_power(self):
        since_s = np.arange(-2.0, 2.0, 0.1)
        pressed = np.clip((since_s + 0.4) / 0.2, 0.0, 1.0) * 100.0
        self.assertAlmostEqual(response_delay_s(since_s, pressed), 0.3, 6)
        self.assertIsNone(response_delay_s(since_s, np.zeros(since_s.size)))

    def test_a_roll_on_is_timed_over_whatever_it_passed(self):
        made = simulate(Scenario("", [Act("rest", 2), Act("gentle", to_mps=14.0), Act("hold", 3), *PULL_ON]), 5)
        (run,) = [run for run in time_runs(made.trace, Request()) if run.kind == "rolling"]
        names = {row.name for row in run.measures}
        self.assertTrue({"35-65 mph", "60-100 km/h"} <= names, names)  # 14 m/s is 31 mph, 29.5 is 66
        self.assertNotIn("30-70 mph", names)


PULL_ON = [Act("launch", to_mps=29.5), Act("coast", 0.8), Act("gentle", to_mps=0.0, pace_mps2=1.8)]


class TwoSweepsTest(TestCase):
    def test_sweeps_of_other_days_carry_what_days_differ_by(self):
        """0.6 % from day to day on both sides: 0.3 % less does not show where 1 % does."""
        values = 4.0 + 0.004 * (90.0 - NINE)
        for share, other_days, differs in ((0.003, False, True), (0.003, True, False), (0.03, True, True)):
            both = sweep(NINE, values), sweep(NINE, values * (1.0 - share))
            self.assertEqual(bool(apart(*both, other_days).clear_at.size), differs, (share, other_days))
        found = two_sweeps_sentence("old", "new", apart(*both, True))
        self.assertIn("new and old clearly differ at every charge that both have, from 90 to 10 %", found)


class SweepTest(TestCase):
    def made(self, step: float, scatter: float, count: int = 90) -> list[tuple[np.ndarray, object]]:
        draw = np.random.default_rng([21, int(1000 * step), int(10_000 * scatter)])
        seasons = [held_up(NINE, draw, step, scatter) for _ in range(count)]
        return [(truth, sweep(NINE.tolist(), values)) for truth, values in seasons]

    def test_the_band_holds_the_truth(self):
        inside = [
            np.abs(found.curve.values - truth)[[0, 20, 40, 60, 80]] <= found.curve.u95()[[0, 20, 40, 60, 80]]
            for step, scatter in ((0.0, 0.01), (0.0, 0.004), (0.03, 0.004))
            for truth, found in self.made(step, scatter, 50)
        ]
        self.assertTrue(0.92 <= np.mean(inside) <= 0.985, np.mean(inside))

    def test_a_step_is_seldom_invented_and_found_where_runs_agree(self):
        invented = np.mean([found.step is not None for _, found in self.made(0.0, 0.01)])
        self.assertLessEqual(invented, 0.08)
        steps = [found.step for _, found in self.made(0.03, 0.004)]
        self.assertGreater(np.mean([step is not None for step in steps]), 0.8)
        placed = [step.low <= 70.0 <= step.high for step in steps if step]
        self.assertGreater(np.mean(placed), 0.9)
        sizes = [abs(step.size.value - 0.12) <= step.size.u95 for step in steps if step]
        self.assertGreater(np.mean(sizes), 0.85)

    def test_the_step_is_fitted_as_statsmodels_does(self):
        """A line that may bend beforehand by three times what a run scatters: one more row of the design holds it."""
        draw = np.random.default_rng(4)
        values = 4.0 + 0.005 * np.arange(9) + 0.15 * (np.arange(9) >= 3) + 0.01 * draw.normal(size=9)
        found = find_step(-NINE, values)
        self.assertEqual((found.at, found.low, found.high), (65.0, 60.0, 70.0))
        share = np.linspace(-1, 1, 9)
        design = np.column_stack([np.ones(9), share, np.arange(9) >= 3, 1 - share**2])
        theirs = sm.OLS(np.append(values, 0.0), np.vstack([design, [0.0, 0.0, 0.0, 1 / 3]])).fit()
        self.assertAlmostEqual(found.size.value, theirs.params[2], 9)
        self.assertAlmostEqual(found.size.u95, stats.t.ppf(0.975, 6) * theirs.bse[2], 9)
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

    def test_where_two_cars_differ_and_where_they_are_equal(self):
        """One loses 0.04 s for ten points, the other twice that: it is at 50 % as slow as the first at 10 %."""
        noise = 1e-4 * np.cos(np.arange(9) * 2.1)
        first, second = (sweep(NINE.tolist(), (4.0 + loss * np.arange(9) + noise).tolist()) for loss in (0.04, 0.08))
        self.assertAlmostEqual(equal_at(first, 10.0, second), 50.0, delta=0.5)
        self.assertIsNone(equal_at(second, 10.0, first))
        found = apart(first, second)
        self.assertAlmostEqual(found.difference[0], 0.32, delta=0.002)
        self.assertGreater(found.clear_at.size, 70)
        self.assertLess(found.clear_at.max(), 90.0)
        high = sweep((NINE + 100).tolist(), (4.0 + noise).tolist())
        with self.assertRaises(StudyError) as refused:
            apart(first, high)
        self.assertIn("ends at 90 % and the other begins at 110 %", problem(refused.exception, "comparison of sweeps"))

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


class EnergyTest(TestCase):
    TIMES_S = np.arange(0.0, 12.001, 0.1)

    def test_a_power_that_rises_evenly_is_its_mean_times_the_time(self):
        """From nothing to 300 kW in 12 s: 150 kW for 12 s are 500 Wh. Common practice: 0.65 kWh over a quarter mile
        are 2,605 Wh a mile."""
        found = energy(self.TIMES_S, 25_000.0 * self.TIMES_S, MILE_M / 4, pulls=True)
        self.assertAlmostEqual(found.energy_wh.value, 500.0, 6)
        self.assertAlmostEqual(found.energy_wh.u95, 10.0, 6)
        self.assertAlmostEqual(found.wh_per_mile.value, 2000.0, 6)
        self.assertEqual(energy_sentence(found), "500 Wh ± 10 Wh taken, 2000 Wh a mile.")
        quarter = energy(self.TIMES_S, np.full(self.TIMES_S.size, 651.25 * 300.0), MILE_M / 4, pulls=True)
        self.assertAlmostEqual(quarter.wh_per_mile.value, 2605.0, 6)

    def test_a_stop_recovers_and_charge_stands_beside_it(self):
        found = energy(self.TIMES_S, np.full(self.TIMES_S.size, -30_000.0), 60.0, False, (80.0, 80.0), 80_000.0)
        self.assertAlmostEqual(found.energy_wh.value, -100.0, 6)
        self.assertTrue(found.agree)
        self.assertIn("100 Wh ± 2 Wh recovered", energy_sentence(found))
        far = energy(self.TIMES_S, np.full(self.TIMES_S.size, 30_000.0), 400.0, True, (80.0, 75.0), 80_000.0)
        self.assertFalse(far.agree)
        self.assertIn("does not agree", energy_sentence(far))

    def test_a_current_whose_sign_is_turned_round_is_refused(self):
        with self.assertRaises(StudyError) as refused:
            energy(self.TIMES_S, -25_000.0 * self.TIMES_S, 400.0, pulls=True)
        self.assertIn("the CAN current has the wrong sign", problem(refused.exception, "energy"))
        with self.assertRaises(StudyError):
            energy(self.TIMES_S[:3], self.TIMES_S[:3], 400.0, pulls=True)


class DashboardTest(TestCase):
    def test_ratio_offset_and_prediction_are_those_of_statsmodels(self):
        draw = np.random.default_rng(2)
        indicated = np.linspace(10.0, 40.0, 12)
        true = 0.97 * indicated - 0.1 + 0.05 * draw.normal(size=12)
        found, theirs = dashboard(indicated, true), sm.OLS(true, sm.add_constant(indicated)).fit()
        self.assertAlmostEqual(found.ratio.value, theirs.params[1], 10)
        self.assertAlmostEqual(found.ratio.u95, theirs.params[1] - theirs.conf_int()[1][0], 10)
        self.assertAlmostEqual(found.offset_mps.u95, theirs.params[0] - theirs.conf_int()[0][0], 9)
        at = 100 * KMH_MPS
        low, high = theirs.get_prediction([[1.0, at]]).conf_int()[0]
        self.assertAlmostEqual(found.true_mps(at).value, (low + high) / 2, 9)
        self.assertAlmostEqual(found.true_mps(at).u95, (high - low) / 2, 9)
        self.assertIn("An indicated 62 mph (100 km/h) is a true 60 mph (97 km/h)", dashboard_sentence(found, at))

    def test_readings_at_one_speed_say_nothing(self):
        for speeds, words in (([27.0, 27.1, 27.0, 26.9], "at other speeds too"), ([10.0, 20.0], "of 2 runs")):
            with self.assertRaises(StudyError) as refused:
                dashboard(speeds, speeds)
            self.assertIn(words, problem(refused.exception, "dashboard speed"))


def circle(radius_m: float, speed_mps: float, lap_count: float, rate_hz: float = 10.0) -> Trace:
    """A drive round a circle on WGS 84, clockwise from its north, as geographiclib places it."""
    times_s = np.arange(0.0, lap_count * 2 * math.pi * radius_m / speed_mps, 1.0 / rate_hz)
    bearings = np.degrees(speed_mps * times_s / radius_m)
    places = [Geodesic.WGS84.Direct(51.0, -2.0, bearing, radius_m) for bearing in bearings]
    nothing = np.full(times_s.size, np.nan)
    columns = dict.fromkeys(COLUMNS, nothing) | {
        "elapsed_s": times_s,
        "speed_mps": np.full(times_s.size, speed_mps),
        "latitude_deg": np.array([place["lat2"] for place in places]),
        "longitude_deg": np.array([place["lon2"] for place in places]),
        "course_deg": (bearings + 90.0) % 360.0,
    }
    return Trace(start_utc=datetime(2026, 5, 9, 9, 0, tzinfo=UTC), **columns)


class LapsTest(TestCase):
    RADIUS_M, SPEED_MPS = 60.0, 21.0

    def line(self, bearing_deg: float = 90.0) -> StartLine:
        """Across the circle at a bearing from its center."""
        place = Geodesic.WGS84.Direct(51.0, -2.0, bearing_deg, self.RADIUS_M)
        return StartLine(place["lat2"], place["lon2"], bearing_deg + 90.0)

    def test_lap_time_distance_and_lateral_g_of_a_circle(self):
        """Lateral g is v^2 / (r g)."""
        found = laps(circle(self.RADIUS_M, self.SPEED_MPS, 4.6), self.line())
        true_s = 2 * math.pi * self.RADIUS_M / self.SPEED_MPS
        self.assertEqual(len(found.laps), 4)
        for lap in found.laps:
            self.assertAlmostEqual(lap.time_s.value, true_s, delta=0.005)
            self.assertAlmostEqual(lap.distance_m, 2 * math.pi * self.RADIUS_M, delta=0.2)
            self.assertAlmostEqual(lap.peak_lateral_g, self.SPEED_MPS**2 / self.RADIUS_M / 9.80665, delta=0.002)
            self.assertLess(lap.time_s.u95, 0.02)
        self.assertAlmostEqual(found.mean_s, true_s, delta=0.005)
        self.assertRegex(laps_sentence(found), r"^Best of 4 laps: 17\.9\d s ± 0\.01 s")

    def test_a_left_turn_has_the_other_sign(self):
        drive = circle(self.RADIUS_M, self.SPEED_MPS, 1.0)
        self.assertGreater(lateral_g(drive)[50], 0.0)
        turned = replace(drive, course_deg=(-drive.course_deg) % 360.0)
        self.assertLess(lateral_g(turned)[50], 0.0)

    def test_a_line_that_no_lap_crosses_is_told(self):
        drive = circle(self.RADIUS_M, self.SPEED_MPS, 3.0)
        beside = replace(self.line(), latitude_deg=51.01)
        against = replace(self.line(), heading_deg=0.0)
        for line in (beside, against):
            with self.assertRaises(StudyError) as refused:
                laps(drive, line)
            self.assertIn("No lap: the start line has 0 crossings", problem(refused.exception, "study of laps"))


class FigureEightTest(TestCase):
    SPEEDS = (13.0, 14.5, 14.0, 15.0)

    def test_a_start_line_is_found_beside_the_crossing_and_laps_are_two_circles(self):
        trace = figure_eight(self.SPEEDS, 30.0, datetime(2026, 9, 26, 14, tzinfo=UTC))
        found = laps(trace, find_start_line(trace))
        self.assertGreaterEqual(len(found.laps), 3)
        for lap in found.laps:
            self.assertAlmostEqual(lap.distance_m, 4 * math.pi * 30.0, delta=3.0)
            self.assertAlmostEqual(lap.peak_lateral_g, 0.7, delta=0.12)  # v^2 / r / g of 13 to 15 m/s: 0.57 to 0.76
        distance_m, speed_mps = speed_along(trace, found.laps[0])
        self.assertAlmostEqual(distance_m[-1], found.laps[0].distance_m, delta=2.5)
        self.assertEqual(distance_m.size, speed_mps.size)

    def test_a_drive_without_laps_has_no_line(self):
        made = simulate(Scenario("", [Act("rest", 2), Act("launch", to_m=402.0), Act("brake"), Act("rest", 2)]), 3)
        with self.assertRaises(StudyError) as caught:
            find_start_line(made.trace)
        self.assertIn("start line", problem(caught.exception, "study of laps"))


class HistoryTest(TestCase):
    DAYS = np.arange(0.0, 240.0, 15.0)

    def values(self, seed: int, jump: float = 0.0) -> np.ndarray:
        return 4.0 + 0.01 * np.random.default_rng(seed).normal(size=16) + jump * (self.DAYS > 120.0)

    def test_the_trend_is_that_of_scipy_and_bests_are_marked(self):
        values = 4.0 - 0.001 * self.DAYS + 0.003 * np.cos(self.DAYS)
        found, (slope, _, low, high) = history(self.DAYS, values), stats.theilslopes(values, self.DAYS, 0.95)
        self.assertAlmostEqual(found.per_month.value, 30 * slope, 12)
        self.assertAlmostEqual(found.per_month.u95, 15 * (high - low), 12)
        self.assertEqual(found.bests[0], 0)
        self.assertTrue(all(values[n] < values[:n].min() for n in found.bests[1:]))

    def test_a_jump_that_nobody_logged_is_found_either_way(self):
        for jump in (0.08, -0.08):
            found = history(self.DAYS, self.values(3, jump)).jump
            self.assertAlmostEqual(found.size.value, jump, delta=0.03)
            self.assertTrue(found.low <= 127.5 <= found.high, found)
        sentence = history_sentence(history(self.DAYS, self.values(3, -0.08)), "s")
        self.assertRegex(sentence, r"^A jump of −0\.0\d ± 0\.0\d s about day 1\d\d: was something changed")

    def test_none_is_invented_more_often_than_stated(self):
        invented = np.mean([history(self.DAYS, self.values(seed)).jump is not None for seed in range(200)])
        self.assertLess(invented, 0.08)

    def test_four_days_are_too_few(self):
        with self.assertRaises(StudyError) as refused:
            history([0, 10, 20, 30], [4.0, 4.0, 4.1, 4.0])
        self.assertEqual(problem(refused.exception, "history"), "History of 4 days: it takes at least 5.")


class LevelsTest(TestCase):
    def test_three_tires_against_the_first(self):
        stop = parse_measure("100-0 km/h")
        draw = np.random.default_rng(8)
        groups = [
            Group((level + 0.3 * draw.normal(size=6)).tolist(), name=name)
            for name, level in (("summer", 35.0), ("touring", 36.5), ("winter", 44.0))
        ]
        days = [State(day="one", hour=float(n)) for n in range(18)]
        groups = [replace(group, states=days[place::3]) for place, group in enumerate(groups)]
        found = levels(stop, "speed", groups, quantity="distance")
        self.assertEqual([level.rank for level in found], [1, 2, 3])
        self.assertIsNone(found[0].difference)
        self.assertAlmostEqual(found[2].difference.value, np.mean(groups[2].values) - np.mean(groups[0].values), 1)
        self.assertEqual([level.against.verdict for level in found[1:]], ["longer", "longer"])
        low, high = stats.t.interval(0.95, 5, np.mean(groups[1].values), stats.sem(groups[1].values))
        self.assertAlmostEqual(found[1].u95, (high - low) / 2, 9)
        self.assertTrue(levels_sentence(found).startswith("Summer has the best mean. Beside summer: "))

    def test_several_looks_are_corrected_for_their_number(self):
        """A level that is 2 % away is clear beside one other, and not among eight."""
        base = np.array([3.97, 4.03, 4.01, 3.99])
        days = [State(day="one", hour=float(n)) for n in range(4)]

        def verdict_among(others: int) -> str:
            away = [0.08, *[0.0] * (others - 1)]
            groups = [Group((base + by).tolist(), states=days, name=str(n)) for n, by in enumerate([0.0, *away])]
            return levels(parse_measure("0-60 mph"), "rollout", groups)[1].against.verdict

        self.assertEqual((verdict_among(1), verdict_among(8)), ("slower", "no clear difference"))

    def test_one_level_is_none(self):
        with self.assertRaises(StudyError) as refused:
            levels(parse_measure("0-60 mph"), "rollout", [Group([4.0, 4.1])])
        self.assertEqual(
            problem(refused.exception, "study of modes"),
            "Study of modes of 1 level: it takes at least two. Note on every run which one it was.",
        )
