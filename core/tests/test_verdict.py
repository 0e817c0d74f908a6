"""The verdict: its word, its sentence, its bands and its character."""

from unittest import TestCase

from drives import analysed
from groups import compared, driven

from coombe_core.comparing.breakdown import Band, EdgeTimes
from coombe_core.comparing.character import character
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.groups import NoSuchQuantityError, group_of_runs, shared_quantity
from coombe_core.comparing.state import State
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure
from coombe_core.units import MPH_MPS
from coombe_core.wording.comparison import reasons_of, sentence_of

SIXTY = parse_measure("0-60 mph")
FAST, SLOW = [3.70, 3.75, 3.66, 3.71], [3.91, 3.94, 3.89, 3.97, 3.92]


class VerdictTest(TestCase):
    def test_a_gain_is_faster_and_a_loss_is_slower(self):
        self.assertEqual(compare(SIXTY, "rollout", Group(SLOW), Group(FAST)).verdict, "faster")
        loss = compare(SIXTY, "rollout", Group(FAST), Group(SLOW))
        self.assertEqual((loss.verdict, loss.better), ("slower", False))
        self.assertIn("Every before run beats the best after run.", reasons_of(loss))

    def test_more_speed_at_the_line_is_faster_and_less_way_is_shorter(self):
        quarter, stop = parse_measure("1/4 mile"), parse_measure("60-0 mph")
        speed = compare(quarter, "rollout", Group([50.0, 50.1, 50.2]), Group([52.0, 52.1, 52.3]), "line_speed")
        self.assertEqual((speed.verdict, speed.better), ("faster", True))
        way = compare(stop, "speed", Group([33.5, 33.2, 33.8]), Group([36.0, 36.4, 36.1]), "distance")
        self.assertEqual((way.verdict, way.better), ("longer", False))

    def test_no_difference_says_what_would_have_shown(self):
        result = compare(SIXTY, "rollout", Group(SLOW), Group([3.90, 3.95, 3.91, 3.93]))
        self.assertEqual(result.verdict, "no difference shown")
        self.assertIn(f"{result.smallest_shown:.2f} s would probably have shown", sentence_of(result))

    def test_one_run_an_arm_is_too_few(self):
        result = compare(SIXTY, "rollout", Group([3.9]), Group([3.7]))
        self.assertEqual((result.verdict, result.difference), ("too few runs", None))

    def test_other_charge_that_may_explain_it_makes_the_arms_not_comparable(self):
        before = driven(SLOW, charge_percent=71.0, pack_temp_c=33.0)
        after = driven(FAST, charge_percent=95.0, pack_temp_c=44.0)
        result = compared(before, after)
        self.assertEqual(result.verdict, "not comparable")
        self.assertIn("Charge differs (71 % before, 95 % after); it could explain -0.09 s", reasons_of(result)[0])
        self.assertIsNone(result.character)

    def test_other_charge_that_is_too_little_to_explain_it_is_told_and_the_verdict_stands(self):
        before, after = driven(SLOW, charge_percent=90.0), driven(FAST, charge_percent=95.0)
        result = compared(before, after)
        self.assertEqual(result.verdict, "faster")
        self.assertIn("could explain -0.02 s ± 0.02 of the -0.22 s (stated default", reasons_of(result)[0])

    def test_charge_within_the_band_is_alike_and_missing_charge_is_told(self):
        before = Group(SLOW[:2], states=[State(charge_percent=95.0), State(charge_percent=94.0)])
        after = Group(FAST[:2], states=[State(charge_percent=93.0), State()])
        result = compared(before, after)
        self.assertFalse(any(row.differs for row in result.like.rows))
        self.assertIn("Charge was not written down for 1 of 4 runs.", reasons_of(result))


class BandsTest(TestCase):
    def comparison(self, name: str, clock: str = "rollout"):
        measure = parse_measure(name)
        groups = [group_of_runs(analysed(log).runs, measure, clock, "time_s") for log in ("five-runs", "after-update")]
        return compare(measure, clock, *groups)

    def test_speed_bands_add_up_to_the_difference(self):
        for clock in ("rollout", "first_movement"):
            result = self.comparison("0-60 mph", clock)
            self.assertEqual(len(result.bands), 6)
            self.assertAlmostEqual(sum(band.difference_s for band in result.bands), result.difference.value, 9)

    def test_distance_bands_add_up_to_the_difference(self):
        quarter = parse_measure("1/4 mile")
        runs = [
            [run for run in analysed("clean-run", seed).runs if run.kind == "standing"] for seed in (11, 12, 13, 14)
        ]
        before, after = runs[0] + runs[1], runs[2] + runs[3]
        groups = [group_of_runs(group, quarter, "rollout", "time_s") for group in (before, after)]
        result = compare(quarter, "rollout", *groups)
        self.assertEqual([band.basis for band in result.bands], ["distance"] * 5)
        self.assertAlmostEqual(sum(band.difference_s for band in result.bands), result.difference.value, 9)

    def test_six_percent_more_power_is_a_power_gain(self):
        result = self.comparison("0-60 mph")
        self.assertEqual((result.verdict, result.character), ("faster", "power"))

    def test_a_gain_that_is_complete_by_30_mph_is_a_launch_gain(self):
        parts = [Band("speed", 0, 30 * MPH_MPS, -0.31), Band("speed", 30 * MPH_MPS, 60 * MPH_MPS, 0.0)]
        self.assertEqual(character(parts).name, "launch")

    def by_distance(self, at_sixty_s: float, at_line_s: float) -> list[Band]:
        """Gains in seconds at 60 mph, which a quick car passes by 330 ft, and at the line."""
        return [
            Band("distance", 0.3048, 100.584, at_sixty_s),
            Band("distance", 100.584, 402.336, at_line_s - at_sixty_s),
        ]

    def test_a_gain_that_stays_from_60_mph_to_the_line_is_a_launch_gain(self):
        # Common practice: -0.42 s at 60 mph and at the line.
        self.assertEqual(character(self.by_distance(-0.42, -0.42)).name, "launch")
        self.assertEqual(character(self.by_distance(-0.42, -0.39)).name, "launch")

    def test_a_gain_that_grows_from_60_mph_to_the_line_is_a_power_gain(self):
        # Common practice: -0.07 s at 60 mph and -0.18 s at the line.
        self.assertEqual(character(self.by_distance(-0.07, -0.18)).name, "power")

    def test_the_reason_speaks_of_the_way_where_the_measure_is_one(self):
        quarter = parse_measure("1/4 mile")
        runs = [
            EdgeTimes((0.0, 100.584, 402.336), (0.0, first_s, whole_s))
            for first_s, whole_s in ((4.98, 12.06), (5.00, 12.08), (4.97, 12.05))
        ]
        quick = [EdgeTimes(run.edges, (0.0, run.times_s[1] - 0.4, run.times_s[2] - 0.42)) for run in runs]
        groups = [Group([run.times_s[-1] for run in group], group) for group in (runs, quick)]
        result = compare(quarter, "rollout", *groups)
        self.assertEqual(result.character, "launch")
        self.assertIn("-0.40 s by 330 ft (101 m) and -0.02 s after it", " ".join(reasons_of(result)))

    def test_a_gain_without_one_place_is_mixed(self):
        self.assertEqual(character(self.by_distance(-0.10, -0.20)).name, "mixed")
        self.assertIsNone(character([]))

    def test_a_quantity_that_the_measure_lacks_is_refused(self):
        with self.assertRaises(NoSuchQuantityError):
            shared_quantity("line_speed", [], SIXTY, "rollout")
        with self.assertRaises(NoSuchQuantityError):
            shared_quantity("distance", [], parse_measure("1/4 mile"), "rollout")
