"""Sensitivities learned and worked out, and values brought to like conditions."""

import math
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from groups import SIXTY, compared

from coombe_core.comparing.comparison import Asked, Group, Known
from coombe_core.comparing.factors import CHARGE
from coombe_core.comparing.sensitivity import (
    Sensitivities,
    Sensitivity,
    SetupDay,
    assumed,
    by_physics,
    learned,
    scatter_of,
)
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.interval import difference, shared_part
from coombe_core.curve import Curve
from coombe_core.physics.road_load import RoadLoad
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act, drive
from coombe_core.timing.measures import parse_measure
from coombe_core.wording.adjustment import refusal
from coombe_core.wording.comparison import reasons_of
from coombe_core.wording.sources import sensitivity_source

CHARGES, BATTERIES = [95.0, 85.0, 75.0, 65.0, 55.0], [44.0, 35.0, 42.0, 33.0, 39.0]
CAR = SimulatedCar()


def true_s(conditions: Conditions, measure=SIXTY) -> float:
    """The simulated car's time on the rollout clock."""
    motion = drive(CAR, conditions, [Act("launch", to_mps=measure.to_mps + 1)])
    ends = np.interp(measure.to_mps, motion.speed_mps, motion.elapsed_s)
    return float(ends - np.interp(0.3048, motion.distance_m, motion.elapsed_s))


def curve_of(conditions: Conditions) -> Curve:
    """Its motion to 60 mph and a little more."""
    motion = drive(CAR, conditions, [Act("launch", to_mps=SIXTY.to_mps + 1)])
    pull = np.gradient(motion.speed_mps, motion.elapsed_s)
    return Curve(motion.elapsed_s, motion.speed_mps, motion.distance_m, pull)


def sweep(noise_s: float = 0.0, seed: int = 0, setup_day: float = 0.0) -> SetupDay:
    """Five runs of falling charge and changing heat."""
    draw = np.random.default_rng(seed)
    states = [State(charge_percent=c, battery_temp_c=p, day="sweep") for c, p in zip(CHARGES, BATTERIES, strict=True)]
    values = [
        setup_day + true_s(Conditions(s.charge_percent, s.battery_temp_c)) + draw.normal(0, noise_s) for s in states
    ]
    return SetupDay(values, states)


class LearnedTest(TestCase):
    def test_it_is_least_squares_within_groups(self):
        setup_days = [sweep(0.02, 1), sweep(0.02, 2, 0.3)]
        values = np.concatenate([np.array(setup_day.values) for setup_day in setup_days])
        design = np.column_stack([CHARGES * 2, BATTERIES * 2, [1] * 5 + [0] * 5, [0] * 5 + [1] * 5])
        theirs, in_order = sm.OLS(values, design).fit(), sm.OLS([0, 1, 2, 3, 4] * 2, design).fit().params[:2]
        drift = (0.0015 * values.mean()) ** 2 * np.outer(in_order, in_order)
        ours = learned(setup_days)
        for place, name in enumerate(("charge", "battery temperature")):
            self.assertAlmostEqual(ours.of(name).per_unit, theirs.params[place], 9)
            self.assertAlmostEqual(ours.of(name).error ** 2, theirs.bse[place] ** 2 + drift[place, place], 9)
        np.testing.assert_allclose(ours.covariance, theirs.cov_params()[:2, :2] + drift, rtol=1e-6)

    def test_a_charge_that_falls_with_the_order_may_be_a_driver_who_settles(self):
        """Ten runs lose one point each, and the driver 0.25 % a run: the effect seen is his, and not sure."""
        draw = np.random.default_rng(7)
        values = [4.0 * (1 - 0.0025 * run) + draw.normal(0, 0.005) for run in range(10)]
        charges = [90.0 - run for run in range(10)]
        falling = [State(charge_percent=charge, hour=9.0 + run / 10) for run, charge in enumerate(charges)]
        row = learned([SetupDay(values, falling)]).of("charge")
        self.assertAlmostEqual(row.per_unit, 0.01, delta=0.002)
        self.assertGreater(row.error, 0.0015 * 3.9)
        shuffled = [falling[place] for place in draw.permutation(10)]
        by_charge = dict(zip(charges, values, strict=True))
        by_hour = learned([SetupDay([by_charge[s.charge_percent] for s in shuffled], shuffled)]).of("charge")
        self.assertAlmostEqual(by_hour.error, row.error, 9)  # it is the hour that counts, not the list
        charged_between = [State(charge_percent=90.0 - 9 * (run % 2), hour=9.0 + run / 10) for run in range(10)]
        self.assertLess(learned([SetupDay(values, charged_between)]).of("charge").error, row.error / 2)

    def test_a_sweep_finds_what_charge_does_to_the_simulated_car(self):
        truth = (true_s(Conditions(60, 45)) - true_s(Conditions(90, 45))) / -30
        found = learned([sweep(0.005, 3), sweep(0.005, 4)]).of("charge")
        self.assertAlmostEqual(found.per_unit, truth, delta=0.15 * abs(truth))
        self.assertIn("10 runs, 55 to 95 %", sensitivity_source(found))

    def test_a_sweep_does_not_pass_for_scatter(self):
        draw = np.random.default_rng(6)
        days = [sweep(0.02, 10 + day) for day in range(3)]
        steady = State(charge_percent=94.0, battery_temp_c=44.0, day="steady")
        level = true_s(Conditions(94, 44))
        days.append(SetupDay(list(level + draw.normal(0, 0.02, 6)), [steady] * 6))
        found = scatter_of(days, learned(days), 4.0)
        self.assertAlmostEqual(found.run_sd, 0.02, delta=0.008)
        self.assertGreater(scatter_of(days, Sensitivities(), 4.0).run_sd, 3 * found.run_sd)

    def test_runs_of_one_charge_tell_nothing(self):
        states = [State(charge_percent=94.0 - place, battery_temp_c=44.0) for place in range(6)]
        self.assertEqual(learned([SetupDay([4.0, 4.1, 4.0, 3.9, 4.0, 4.1], states)]).rows, ())

    def test_a_sweep_of_three_is_too_short(self):
        whole = sweep()
        self.assertEqual(learned([SetupDay(whole.values[:3], whole.states[:3])]).rows, ())

    def test_a_default_reaches_from_nothing_to_twice_itself(self):
        row = assumed(CHARGE, 5.0, SIXTY, "time")
        self.assertAlmostEqual(row.per_unit, -0.005)
        self.assertAlmostEqual(1.959964 * row.error, 0.005)
        self.assertIsNone(assumed(CHARGE, 35.0, parse_measure("100-0 km/h"), "distance"))


class PhysicsTest(TestCase):
    def test_slope_wind_and_mass_are_what_the_simulated_car_does(self):
        load = RoadLoad.of(CAR.mass_kg, CAR.cda_m2, CAR.rolling_coefficient)
        physics = by_physics(curve_of(Conditions()), SIXTY, "rollout", load, 1.225, 0.0)
        level = true_s(Conditions())
        uphill, against = true_s(Conditions(slope_percent=0.5)), true_s(Conditions(head_wind_mps=2.0))
        self.assertAlmostEqual(physics.of("slope").per_unit, (uphill - level) / 0.5, delta=0.002)
        self.assertAlmostEqual(physics.of("head wind").per_unit, (against - level) / 2, delta=0.0006)
        self.assertGreater(physics.of("load").per_unit, 0.0005)
        self.assertGreater(physics.of("air density").per_unit, 0)

    def test_without_a_mass_only_the_slope_is_known(self):
        physics = by_physics(curve_of(Conditions()), SIXTY, "rollout", None, 1.225, 0.0)
        self.assertEqual([row.factor.name for row in physics.rows], ["slope"])

    def test_of_a_stop_nothing_is(self):
        stop = parse_measure("100-0 km/h")
        self.assertEqual(by_physics(curve_of(Conditions()), stop, "speed", None, 1.2, 0.0).rows, ())


def group_at(charge: float, values: list[float]) -> Group:
    """Runs that began at one charge."""
    return Group(values, states=[State(charge_percent=charge, battery_temp_c=44.0, day="d")] * len(values))


class AdjustTest(TestCase):
    BEFORE, AFTER = [4.20, 4.22, 4.18, 4.21], [4.05, 4.07, 4.03, 4.06]

    def known(self, low=55.0, high=95.0):
        row = Sensitivity(CHARGE, -0.006, 0.001, 8, "learned", {"runs": 9}, low, high)
        return Known(sensitivities=Sensitivities((row,), np.array([[0.001**2]])))

    def adjusted(self, low=55.0, high=95.0, charges=(70.0, 95.0)):
        groups = group_at(charges[0], self.BEFORE), group_at(charges[1], self.AFTER)
        return compared(*groups, self.known(low, high), Asked(frozenset({"charge"})))

    def test_what_charge_made_is_taken_out_and_its_doubt_is_carried(self):
        found = self.adjusted()
        unadjusted, result = found.unadjusted.difference, found.difference
        self.assertAlmostEqual(result.value, unadjusted.value + 0.006 * 25, 9)
        own = math.sqrt(sum(part.variance for part in found.adjusted.contrast.parts))
        self.assertAlmostEqual(result.error, math.hypot(own, 0.001 * 25), 9)
        self.assertEqual(found.verdict, "no clear difference")
        self.assertIn("Adjusted for charge: +0.150 s (this car's own: 9 runs, 55 to 95 %).", reasons_of(found))

    def test_outside_of_what_the_sweep_covers_it_is_refused(self):
        found = self.adjusted(low=80.0)
        self.assertIsNone(found.adjusted)
        self.assertIn("outside the 80 to 95 %", refusal(found.adjustment.refused[0]))
        self.assertEqual(found.verdict, "not comparable")

    def test_without_the_charge_of_every_run_it_is_refused(self):
        groups = group_at(70.0, self.BEFORE), Group(self.AFTER, states=[State()] * 4)
        found = compared(*groups, self.known(), Asked(frozenset({"charge"})))
        self.assertIn("not recorded for 4 of 8 runs", refusal(found.adjustment.refused[0]))

    def test_the_error_of_a_survey_counts_only_where_the_ways_are_uneven(self):
        def group(values, letters):
            states = [
                State(day="d", direction=way, slope_percent=0.2, slope_u95_percent=0.1, slope_survey="strip")
                for way in letters
            ]
            return Group(values, states=states)

        physics = by_physics(curve_of(Conditions()), SIXTY, "rollout", None, 1.225, 0.0)
        asked, known = Asked(frozenset({"slope"})), Known(sensitivities=physics)
        even = compared(group(self.BEFORE, ["out", "back"] * 2), group(self.AFTER, ["out", "back"] * 2), known, asked)
        uneven = compared(group(self.BEFORE, ["out"] * 4), group(self.AFTER, ["back"] * 4), known, asked)
        shared = [
            sum(part.variance for part in found.adjustment.parts(found.adjusted.contrast)) for found in (even, uneven)
        ]
        self.assertAlmostEqual(shared[0], 0.0, 9)
        per_percent = physics.of("slope").per_unit
        self.assertAlmostEqual(math.sqrt(shared[1]), 2 * per_percent * 0.1 / 1.959964, 6)

    def test_a_difference_without_any_variance_is_what_it_is(self):
        self.assertEqual(difference(0.0, [shared_part(0.0)]).p_value, 1.0)
        self.assertTrue(difference(0.1, []).shown)
