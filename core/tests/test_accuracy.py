"""The accuracy page and the benchmark's table: what they count, and what they call a miss."""

from dataclasses import replace
from functools import cache
from unittest import TestCase

import numpy as np

from coombe_core.fitting.torque_ramp import SHAPES
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.receiver import Receiver
from coombe_core.validation.accuracy.finding import USUAL, Finding, Found, Traffic, find_all
from coombe_core.validation.accuracy.report import FIRST_MOVEMENT, TARGETS, Beyond, Run, chart_svg, misses, page
from coombe_core.validation.accuracy.trials import (
    QUANTITIES,
    RAMPS_S,
    Quantity,
    Setting,
    Trial,
    by_ramp,
    summed_up,
    trials,
    variant_trials,
)
from coombe_core.validation.accuracy.variants import VARIANTS, World
from coombe_core.validation.bench import an_hour, table

ROLL_ON = Quantity("30-70 mph", "speed")
ROLLOUT = ("0-60 mph", "rollout", "time_s")


@cache
def few() -> list[Trial]:
    """A dozen real trials, one of every shape and range of the ramp."""
    return trials(12, Setting(), 99)


def made_up(error: float, half: float, count: int = 200) -> Run:
    """Trials whose errors are all the same."""
    made = [Trial("linear", 0.12, {ROLLOUT: (error, half, 0.013)}) for _ in range(count)]
    return Run(Setting(), made, 1.0)


FINDING = Finding([Found("ABS ripple", 25.0, 90, 89, 2)], [Traffic(10.0, 60.0, 2000, 3)])
BEYOND = Beyond("ABS ripple", Setting(), made_up(0.004, 0.009, count=40).trials)


class VariantsTest(TestCase):
    def test_every_variant_changes_what_it_is_named_for_and_draws_it_anew(self):
        plain = World(SimulatedCar(), Conditions(), Receiver(), 30.0)
        for name, variant in VARIANTS.items():
            drawn = [variant(plain, np.random.default_rng(seed)) for seed in (1, 1, 2)]
            self.assertNotEqual(drawn[0], plain, name)
            self.assertEqual(drawn[0], drawn[1], name)

    def test_several_receivers_see_one_drive(self):
        quick, slow = variant_trials(2, [Setting(), Setting(10.0)], 99, "ABS ripple")
        for made in (quick, slow):
            self.assertEqual(summed_up(made, ROLL_ON).count, 2)
        self.assertNotEqual(quick[0].errors[ROLLOUT], slow[0].errors[ROLLOUT])
        self.assertEqual(quick[0].ramp_s, slow[0].ramp_s)

    def test_a_cell_is_loose_where_its_share_is_under_what_chance_leaves(self):
        half = [Trial("linear", 0.1, {ROLLOUT: (error, 0.01, 0.02)}) for error in [0.005] * 32 + [0.02] * 8]
        few_under = [Trial("linear", 0.1, {ROLLOUT: (error, 0.01, 0.02)}) for error in [0.005] * 36 + [0.02] * 4]
        self.assertEqual([found.covered for _, found in Beyond("x", Setting(), half).loose], [0.8])
        self.assertEqual(Beyond("x", Setting(), few_under).loose, [])
        self.assertAlmostEqual(Beyond("x", Setting(), few_under).held, 0.9)
        self.assertEqual(Beyond("x", Setting(), half[:20]).cells, [])
        flagged = [replace(trial, flagged=frozenset([ROLLOUT])) for trial in half[32:]] + half[:32]
        self.assertEqual([found.covered for _, found in Beyond("x", Setting(), flagged).cells], [1.0])
        self.assertEqual(Beyond("x", Setting(), flagged).flagged, 0.2)

    def test_a_cell_is_wide_where_hardly_any_of_enough_intervals_missed(self):
        held = [Trial("linear", 0.1, {ROLLOUT: (error, 0.01, 0.02)}) for error in [0.005] * 199 + [0.02]]
        self.assertEqual([each.key for each in Beyond("x", Setting(), held).wide], [ROLLOUT])
        self.assertEqual(Beyond("x", Setting(), [*held[100:], *held[198:]]).wide, [])
        self.assertEqual(Beyond("x", Setting(), held[:60]).wide, [])

    def test_what_all_intervals_together_hold_is_told_where_it_is_outside_its_band(self):
        errors = {"usual": [0.005] * 97 + [0.02] * 3, "others": [0.005] * 91 + [0.02] * 9}
        usual, others = (
            [Trial("linear", 0.1, {ROLLOUT: (error, 0.01, 0.02)}) for error in each] for each in errors.values()
        )
        runs = [Run(Setting(), few(), 1.0), Run(Setting(1.0), usual * 20, None)]
        text = page(runs, [Beyond("x", Setting(), others)], FINDING, 1, "")
        self.assertIn("Of all others 91.0% of all", text)
        self.assertNotIn("Of the usual cars", text)

    def test_a_row_of_the_page_names_the_worst_of_a_variant(self):
        text = page([Run(Setting(), few(), 1.0)], [BEYOND], FINDING, 1, "")
        self.assertIn("| ABS ripple | 25 Hz | 40 | 0% | 100.0% | 0-60 mph, rollout | 100% |", text)


class TrialsTest(TestCase):
    def test_every_quantity_of_a_trial_has_error_interval_and_interpolation(self):
        for quantity in QUANTITIES:
            if quantity.field == "onset_distance_m":  # only where the stop began within 3 % of nominal
                continue
            self.assertEqual(summed_up(few(), quantity).count, 12, quantity)

    def test_the_same_seed_gives_the_same_trials_and_another_gives_others(self):
        again, others = trials(2, Setting(), 99), trials(2, Setting(), 100)
        self.assertEqual(again[0].errors[ROLLOUT], few()[0].errors[ROLLOUT])
        self.assertNotEqual(others[0].errors[ROLLOUT], few()[0].errors[ROLLOUT])

    def test_shapes_and_ranges_of_the_ramp_come_in_turn(self):
        self.assertEqual(set(by_ramp(few(), FIRST_MOVEMENT)), {(s, r) for s in SHAPES for r in RAMPS_S})

    def test_a_threshold_clock_is_late_and_the_fit_is_not(self):
        summary = summed_up(few(), FIRST_MOVEMENT)
        self.assertLess(summary.interpolated_bias, -0.08)
        self.assertLess(abs(summary.bias), 0.03)

    def test_a_summary_counts_what_it_says(self):
        made = [Trial("linear", 0.1, {ROLLOUT: (error, 0.01, 0.02)}) for error in (-0.02, 0.0, 0.005, 0.015)]
        summary = summed_up(made, next(q for q in QUANTITIES if q.key == ROLLOUT))
        self.assertAlmostEqual(summary.rms, np.sqrt((4 + 0 + 0.25 + 2.25) / 4) * 0.01)
        self.assertAlmostEqual(summary.bias, 0.0)
        self.assertEqual((summary.covered, summary.u95, summary.interpolated_rms), (0.5, 0.01, 0.02))


class PageTest(TestCase):
    def test_a_missed_target_and_a_coverage_outside_its_band_are_told(self):
        target = TARGETS[ROLLOUT].rms
        details = misses([made_up(1.2 * target, 2 * target)])
        self.assertEqual(len(details), 2)
        self.assertIn("RMS 6.0 ms is over the target", details[0])
        self.assertIn("100.0%", details[1])

    def test_few_trials_can_t_miss_a_coverage(self):
        self.assertEqual(misses([made_up(0.001, 0.002, count=20)]), [])

    def test_a_slower_receiver_is_allowed_more(self):
        slow = Run(Setting(10.0), made_up(0.008, 0.002, count=20).trials, 2.0)
        self.assertEqual(misses([slow]), [])

    def test_a_coverage_without_a_target_is_told_on_the_page_and_is_no_miss(self):
        untargeted = Run(Setting(1.0), made_up(0.001, 0.002).trials, None)
        self.assertEqual(misses([untargeted]), [])
        self.assertIn(
            "1 Hz, speed noise 0.05 m/s: 0-60 mph, rollout: the 95 %",
            page([Run(Setting(), few(), 1.0), untargeted], [BEYOND], FINDING, 1, ""),
        )

    def test_the_page_has_the_targets_the_ramps_and_where_it_fails(self):
        run = Run(Setting(), few(), 1.0)
        text = page([run], [BEYOND], FINDING, 99, "chart.svg")
        for words in ("seed 99", "| 60-90 mph, time | 12 |", "4.5 ms", "| first-order |", "Where it does not hold"):
            self.assertIn(words, text)
        self.assertTrue(chart_svg(run).lstrip().startswith(b"<?xml"))


class FindingTest(TestCase):
    def test_what_was_not_found_stands_first_and_all_in_a_table(self):
        first, second = page([Run(Setting(), few(), 1.0)], [BEYOND], FINDING, 1, "").split("## The usual cars")
        self.assertIn("- ABS ripple, 25 Hz: 89 of 90 runs found, 2 false.", first)
        self.assertIn("3 of 2000 pulls and stops of ordinary driving at 10 Hz pass for", first)
        self.assertIn("| ABS ripple | 90 | 89 | 2 |", second)
        self.assertIn("2000 pulls and stops are listed, 3 of them as complete runs", second)

    def test_every_drive_of_usual_cars_is_found_at_every_rate(self):
        finding = find_all(1, 3.0, 99, ("", "one fix says zero"))
        of_usual = [each for each in finding.runs if each.variant == USUAL]
        self.assertEqual([(each.driven, each.found, each.false) for each in of_usual], [(3, 3, 0)] * 4)
        self.assertEqual([each.driven for each in finding.runs if each.variant != USUAL], [4] * 4)
        self.assertTrue(all(each.hours == 3.0 and each.listed > 50 for each in finding.traffic))


class BenchTest(TestCase):
    def test_the_table_shows_seconds_and_ratios(self):
        text = table([("read", 0.3, "of the loop", 0.09), ("a fix", 3.2e-6, "", None)])
        self.assertIn("| read | 0.300 | 0.09 of the loop |", text)
        self.assertIn("| a fix | 3.2e-06 |  |", text)

    def test_the_hour_is_an_hour_of_fixes(self):
        trace = an_hour(10)
        self.assertAlmostEqual(trace.duration_s / 3600, 1.0, delta=0.1)
        self.assertAlmostEqual(trace.rate_hz, 25.0, 3)
