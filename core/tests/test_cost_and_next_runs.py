"""Holm, claims, prices, what to run next, curves, gaps and projections."""

from unittest import TestCase

import numpy as np
from groups import SIXTY, compared, driven
from statsmodels.stats.multitest import multipletests

from coombe_core.comparing.comparison import Asked, Group
from coombe_core.comparing.curves import gap, leads, mean_curve, on_clock
from coombe_core.comparing.factors import CHARGE
from coombe_core.comparing.projections import TooFarError, at_condition, to_target
from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.comparing.statistics.multiple import holm
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.comparing.value import against_claim, against_claimed_gain, price_per_tenth
from coombe_core.curve import Curve
from coombe_core.physics.road_load import RoadLoad
from coombe_core.planning.next_runs import next_runs
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act, drive
from coombe_core.timing.measures import parse_measure
from coombe_core.uncertainty import Value
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.wording.comparison import reasons_of
from coombe_core.wording.next_runs import next_runs_sentence
from coombe_core.wording.value import claim_sentence, claimed_gain_sentence

SLOW, FAST = [3.91, 3.94, 3.89, 3.97, 3.92], [3.70, 3.75, 3.66, 3.71, 3.72]


class HolmTest(TestCase):
    def test_it_agrees_with_statsmodels(self):
        draw = np.random.default_rng(4)
        for count in (1, 2, 7):
            chances = list(draw.uniform(0, 0.2, count))
            np.testing.assert_allclose(holm(chances), multipletests(chances, method="holm")[1])


class CostTest(TestCase):
    def test_a_price_per_tenth_has_an_interval_and_no_upper_end_where_the_gain_may_be_none(self):
        found = compared(Group(SLOW), Group(FAST)).difference
        price = price_per_tenth(890.0, found)
        self.assertAlmostEqual(price.value, 890 * 0.1 / -found.value, 9)
        self.assertTrue(price.least < price.value < price.most)
        unsure = compared(Group(SLOW), Group([3.90, 3.93, 3.88, 3.97, 3.90])).difference
        self.assertIsNone(price_per_tenth(890.0, unsure).most)
        self.assertIsNone(price_per_tenth(890.0, compared(Group(FAST), Group(SLOW)).difference))

    def test_a_claimed_gain_is_met_missed_or_exceeded(self):
        found = compared(Group(SLOW), Group(FAST)).difference
        self.assertIn("agrees with the claimed", claimed_gain_sentence(against_claimed_gain(found, 0.22)))
        self.assertIn("less than the claimed 0.60 s", claimed_gain_sentence(against_claimed_gain(found, 0.6)))
        self.assertIn("more than the claimed 0.05 s", claimed_gain_sentence(against_claimed_gain(found, 0.05)))

    def test_a_claim_is_for_any_day_so_its_interval_carries_the_day(self):
        steady = Scatter(0.03, 0.0, "", False, False, 20, 10)
        varying = Scatter(0.03, 0.05, "", False, False, 20, 10)
        self.assertIn(
            "After is slower than the claimed 3.80 s by ", claim_sentence("after", against_claim(SLOW, 3.8, steady))
        )
        self.assertIn("agrees with", claim_sentence("after", against_claim(SLOW, 3.8, varying)))
        self.assertIsNone(against_claim([], 3.8, steady))


class NextTest(TestCase):
    def test_what_is_settled_needs_nothing(self):
        self.assertIsNone(next_runs(compared(Group(SLOW), Group(FAST))))

    def test_so_many_runs_would_show_what_matters(self):
        found = compared(Group(SLOW), Group([3.90, 3.95, 3.91, 3.93, 3.92]), asked=Asked(difference_that_matters=0.03))
        proposed = next_runs(found)
        self.assertGreater(proposed.runs, 5)
        self.assertIn("0.03 s", next_runs_sentence(proposed))

    def test_unlike_groups_are_to_be_run_again_alike(self):
        found = compared(driven(SLOW, charge_percent=40.0), driven(FAST, charge_percent=95.0))
        self.assertIn("at the same charge", next_runs_sentence(next_runs(found)))

    def test_too_few_are_five_per_group(self):
        self.assertEqual(next_runs(compared(Group([3.9]), Group([3.8]))).runs, 5)

    def test_what_matters_is_apart_from_what_is_statistically_clear(self):
        report = {
            least: " ".join(reasons_of(compared(Group(SLOW), Group(FAST), asked=Asked(difference_that_matters=least))))
            for least in (0.05, 0.2, 0.5)
        }
        self.assertIn("The whole interval is above the 0.05 s that would matter", report[0.05])
        self.assertIn("The interval includes the 0.20 s that would matter", report[0.2])
        self.assertIn("The whole interval is below the 0.50 s that would matter", report[0.5])


def pulled(power_w: float = 260_000.0, to_mps: float = 30.0, to_m: float = 0.0) -> Curve:
    """The simulated car's motion to a speed or a distance."""
    act = Act("launch", to_m=to_m) if to_m else Act("launch", to_mps=to_mps)
    motion = drive(SimulatedCar(power_w=power_w), Conditions(), [act])
    pull = np.gradient(motion.speed_mps, motion.elapsed_s)
    return Curve(motion.elapsed_s, motion.speed_mps, motion.distance_m, pull)


class CurvesTest(TestCase):
    def test_the_gap_is_the_difference_of_the_ways_at_the_same_time(self):
        weak, strong = pulled(), pulled(330_000.0)
        quarter = parse_measure("1/4 mile")
        drawn = [[on_clock(curve, quarter, "first_movement")] for curve in (weak, strong)]
        at_s = 3.0
        truth = np.interp(at_s, strong.since_s, strong.distance_m) - np.interp(at_s, weak.since_s, weak.distance_m)
        found = gap(*drawn)
        self.assertAlmostEqual(float(np.interp(at_s, found.since_s, found.ahead_m)), float(truth), delta=0.03)

    def test_the_lead_at_a_speed_is_when_the_after_car_passes_it(self):
        weak, strong = pulled(), pulled(330_000.0)
        drawn = [[on_clock(curve, SIXTY, "first_movement")] for curve in (weak, strong)]
        at_s = np.interp(50 * MPH_MPS, strong.speed_mps, strong.since_s)
        truth = np.interp(at_s, strong.since_s, strong.distance_m) - np.interp(at_s, weak.since_s, weak.distance_m)
        found = leads(gap(*drawn), drawn[1], [50 * MPH_MPS, 200 * KMH_MPS])
        self.assertEqual(list(found), [50 * MPH_MPS])
        self.assertAlmostEqual(found[50 * MPH_MPS], float(truth), delta=0.03)

    def test_a_mean_of_one_run_has_no_interval_and_of_two_has(self):
        drawn = [on_clock(pulled(power), SIXTY, "rollout") for power in (250_000.0, 270_000.0)]
        self.assertIsNone(mean_curve(drawn[:1], "since_s", "speed_mps").low95)
        both = mean_curve(drawn, "since_s", "speed_mps")
        self.assertTrue(np.all(both.low95 <= both.mean))
        self.assertIsNone(mean_curve([], "since_s", "speed_mps"))


class ProjectingTest(TestCase):
    ROW = Sensitivity(CHARGE, -0.006, 0.001, 8, "learned", {"runs": 9}, 40.0, 95.0)

    def test_another_charge_shifts_the_mean_and_widens_it(self):
        found = at_condition(Value(4.0, 0.02), 90.0, 50.0, self.ROW)
        self.assertAlmostEqual(found.value.value, 4.24, 9)
        self.assertAlmostEqual(found.value.u95, float(np.hypot(0.02, 1.959964 * 0.001 * 40)), 9)

    def test_beyond_the_sweep_it_is_refused(self):
        with self.assertRaises(TooFarError):
            at_condition(Value(4.0, 0.02), 90.0, 20.0, self.ROW)
        with self.assertRaises(TooFarError):
            at_condition(Value(4.0, 0.02), 90.0, 50.0, None)

    def test_a_target_that_was_not_reached_lies_within_its_interval(self):
        load = RoadLoad.of(1900.0, 0.56, 0.010)
        truth = pulled(to_m=402.4)
        partial = pulled(to_m=300.0)
        found = to_target(partial, parse_measure("1/4 mile"), "first_movement", load, 0.0)
        true_s = float(np.interp(402.336, truth.distance_m, truth.since_s))
        self.assertAlmostEqual(found.value.value, true_s, delta=found.value.u95)
        self.assertLess(found.value.u95, 0.15)

    def test_too_far_out_it_is_refused(self):
        load = RoadLoad.of(1900.0)
        for name in ("0-130 mph", "1/4 mile"):
            with self.assertRaises(TooFarError):
                to_target(pulled(to_mps=28.0), parse_measure(name), "rollout", load, 0.0)
