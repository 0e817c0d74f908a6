"""The torque ramp pooled over a setup's runs, and what a comparison from first movement carries of it."""

import math
from unittest import TestCase

import numpy as np
from drives import analyzed, one_run, true_measures
from groups import difference, smallest

from coombe_core.analysis import Request, time_runs
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.groups import group_of_runs
from coombe_core.comparing.verdict import compare
from coombe_core.fitting.ramp_pool import LaunchRamps, RampPool
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.measures import parse_measure
from coombe_core.wording.comparison import reasons_of

SIXTY = parse_measure("0-60 mph")


class RampPoolTest(TestCase):
    def test_what_two_runs_say_is_multiplied(self):
        later_s = np.array([-0.02, 0.0, 0.02])
        runs = [LaunchRamps(np.array([0.5, 0.3, 0.2]), later_s), LaunchRamps(np.array([0.2, 0.6, 0.2]), later_s)]
        pool = RampPool.of(runs)
        np.testing.assert_allclose(pool.weights, np.array([0.10, 0.18, 0.04]) / 0.32)
        self.assertAlmostEqual(pool.longer_s(runs[0]), 0.02 * (0.10 - 0.04) / 0.32)

    def test_more_runs_make_the_ramp_surer_but_never_certain(self):
        later_s = np.array([-0.02, 0.0, 0.02])
        run = LaunchRamps(np.array([0.5, 0.3, 0.2]), later_s)
        widths = [RampPool.of([run] * count).u95_s([run] * count) for count in (1, 4, 16, 64)]
        self.assertEqual(widths, sorted(widths, reverse=True))
        self.assertGreater(widths[-1], 0.01)

    def test_times_of_one_car_from_first_movement_hold_the_truth_with_their_common_doubt(self):
        held = 0
        for number, shape in enumerate(("linear", "smooth", "first-order") * 2):
            car = SimulatedCar(ramp_shape=shape, ramp_s=0.08 + 0.03 * number)
            made = [one_run(900 + 10 * number + each, car) for each in range(3)]
            group = group_of_runs(
                [time_runs(each.trace, Request())[0] for each in made], SIXTY, "first_movement", "time_s"
            )
            truth = true_measures(made[0])["0-60 mph", "first_movement"]["time_s"]
            scatter_s = float(np.std(group.values, ddof=1)) / np.sqrt(3)
            held += abs(np.mean(group.values) - truth) <= group.common_u95 + 2 * scatter_s
        self.assertGreaterEqual(held, 5)

    def test_runs_of_one_ramp_scatter_less_than_each_on_its_own(self):
        runs = [time_runs(one_run(950 + each, SimulatedCar()).trace, Request())[0] for each in range(5)]
        alone = [run.measured("0-60 mph", "first_movement").time_s.value for run in runs]
        self.assertLess(np.std(group_of_runs(runs, SIXTY, "first_movement", "time_s").values), np.std(alone))


class CarriedTest(TestCase):
    BEFORE, AFTER = (3.91, 3.94, 3.89, 3.97, 3.92), (3.88, 3.90, 3.84, 3.93, 3.87)

    def test_a_common_doubt_widens_the_interval_as_gum_adds_variances(self):
        plain, carried = difference(self.BEFORE, self.AFTER), difference(self.BEFORE, self.AFTER, 0.05)
        self.assertEqual(carried.value, plain.value)
        # JCGM 100:2008, 5.1.2: variances add up; the quantile is that of each in its share (2.306004 on 8, 1.959964).
        pooled = np.mean([np.var(group, ddof=1) for group in (self.BEFORE, self.AFTER)]) * 2 / 5
        doubt = (0.05 / 1.959964) ** 2
        self.assertAlmostEqual(carried.error**2, pooled + doubt)
        half = (2.306004 * pooled + 1.959964 * doubt) / math.sqrt(pooled + doubt)
        self.assertAlmostEqual(carried.high95 - carried.value, half, 6)
        self.assertGreater(carried.high95 - carried.low95, plain.high95 - plain.low95)
        self.assertGreater(carried.p_value, plain.p_value)
        self.assertGreater(smallest(self.BEFORE, self.AFTER, 0.05), smallest(self.BEFORE, self.AFTER))

    def test_many_runs_do_not_talk_a_doubt_about_the_ramp_away(self):
        before, after = Group([3.90, 3.91] * 50, (), 0.04), Group([3.88, 3.89] * 50, (), 0.04)
        result = compare(SIXTY, "first_movement", before, after)
        self.assertEqual(result.verdict, "no clear difference")
        self.assertIn("torque ramps", " ".join(reasons_of(result)))

    def test_only_times_from_first_movement_carry_it(self):
        runs = analyzed("five-runs").runs
        self.assertGreater(group_of_runs(runs, SIXTY, "first_movement", "time_s").common_u95, 0.0)
        self.assertEqual(group_of_runs(runs, SIXTY, "rollout", "time_s").common_u95, 0.0)

    def test_one_setup_in_both_groups_leaves_no_doubt_about_its_ramp(self):
        runs = analyzed("five-runs").runs
        pool = RampPool.of([run.launch_ramps for run in runs])
        groups = [group_of_runs(part, SIXTY, "first_movement", "time_s", pool) for part in (runs[:3], runs[3:])]
        self.assertEqual([group.common_u95 for group in groups], [0.0, 0.0])

    def test_bands_from_first_movement_still_add_up(self):
        groups = [
            group_of_runs(analyzed(log).runs, SIXTY, "first_movement", "time_s")
            for log in ("five-runs", "after-update")
        ]
        result = compare(SIXTY, "first_movement", *groups)
        self.assertAlmostEqual(sum(band.difference_s for band in result.bands), result.difference.value, 9)
