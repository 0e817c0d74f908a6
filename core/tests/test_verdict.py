"""The verdict: its word, its sentence, its bands and its character."""

from dataclasses import replace
from unittest import TestCase

from drives import analyzed
from groups import compared, driven

from coombe_core.comparing.breakdown import Band, EdgeTimes
from coombe_core.comparing.character import character
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.groups import NoSuchQuantityError, group_of_runs, shared_quantity
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE, NOTED_DAY_SHARE
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure
from coombe_core.units import MPH_MPS
from coombe_core.validation.day_scatter import shares
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
        speeds = driven([50.0, 50.1, 50.2], "a"), driven([52.0, 52.1, 52.3], "a")
        speed = compare(quarter, "rollout", *speeds, "line_speed")
        self.assertEqual((speed.verdict, speed.better), ("faster", True))
        way = compare(stop, "speed", Group([33.5, 33.2, 33.8]), Group([36.0, 36.4, 36.1]), "distance")
        self.assertEqual((way.verdict, way.better), ("longer", False))

    def test_what_80_percent_excludes_and_95_do_not_leans(self):
        before = driven([3.91, 3.94, 3.89, 3.97], "a", hour=9.0)
        for gain, verdict in ((0.005, "no clear difference"), (0.05, "leans faster"), (0.12, "faster")):
            found = compared(before, driven([value - gain for value in before.values], "a", hour=9.0))
            self.assertEqual(found.verdict, verdict, gain)
        self.assertIn("leans faster by 0.05 s", sentence_of(compared(before, driven([3.86, 3.89, 3.84, 3.92], "a"))))

    def test_one_day_against_another_is_clear_only_under_twice_the_assumed_scatter(self):
        """0.6 % of 3.9 s from day to day, on both sides: 0.033 s and 0.09 s at 95 %; twice of it 0.18 s."""
        for gain, verdict in ((0.13, "leans faster"), (0.25, "faster")):
            found = compared(driven(SLOW, "a"), driven([value - gain for value in SLOW], "b"))
            self.assertEqual(found.verdict, verdict, gain)
        leaning = compared(driven(SLOW, "a"), driven([value - 0.13 for value in SLOW], "b"))
        self.assertTrue(leaning.difference.shown)
        self.assertIn("Clear only if days differ by no more than is assumed", sentence_of(leaning))
        settles = next(reason for reason in reasons_of(leaning) if "half of that" in reason)
        self.assertRegex(settles, r"half of that: faster, ± 0\.0\d s; by twice as much: leans faster, ± 0\.1\d s")
        on_one_day = compared(driven(SLOW, "a"), driven([value - 0.13 for value in SLOW], "a"))
        self.assertFalse(any("half of that" in reason for reason in reasons_of(on_one_day)))

    def test_stops_are_taken_to_fade_by_more_than_a_driver_settles(self):
        """Half a percent a stop, three stops apart, where nobody noted when: brakes get hot."""
        first, then = driven([34.0, 34.1, 33.9], "a"), driven([34.2, 34.3, 34.1], "a")
        found = compare(parse_measure("60-0 mph"), "speed", first, then, "distance")
        self.assertAlmostEqual(found.unadjusted.contrast.parts[2].variance, (3 * 0.005 * 34.1) ** 2, 9)

    def test_days_are_taken_to_differ_less_where_conditions_were_noted_and_are_alike(self):
        noted = {"charge_percent": 80.0, "battery_temp_c": 32.0, "density_kg_m3": 1.2, "head_wind_mps": 0.5}
        before, after = SLOW, [value - 0.13 for value in SLOW]

        def day_sd(**after_it: float) -> float:
            found = compared(driven(before, "a", **noted), driven(after, "b", **noted | after_it))
            return found.weighed.contrast.day_sd

        mean_s = (sum(before) + sum(after)) / 10
        self.assertAlmostEqual(day_sd(), 0.004 * mean_s, 9)
        self.assertAlmostEqual(day_sd(battery_temp_c=34.0), 0.006 * mean_s, 9)
        unnoted = compared(driven(before, "a"), driven(after, "b"))
        self.assertAlmostEqual(unnoted.weighed.contrast.day_sd, 0.006 * mean_s, 9)
        found = compared(driven(before, "a", **noted), driven(after, "b", **noted))
        self.assertTrue(any("0.4 % assumed, charge, battery" in reason for reason in reasons_of(found)))

    def test_the_assumed_scatter_from_day_to_day_is_what_conditions_make_of_times(self):
        rows = shares()
        for place, assumed in enumerate((ASSUMED_DAY_SHARE, NOTED_DAY_SHARE)):
            quarter, sixty = rows["1/4 mile"][-1][place], rows["0-60 mph"][-1][place]
            self.assertTrue(quarter - 0.001 < assumed < sixty + 0.001, (quarter, sixty))

    def test_values_that_are_the_same_to_the_last_digit_are_not_sure_beyond_it(self):
        found = compared(driven([3.9, 3.9, 3.9], "a"), driven([3.9, 3.9, 3.9], "a"))
        self.assertEqual((found.verdict, found.difference.value), ("no clear difference", 0.0))
        self.assertGreater(found.difference.high95, 0.04)

    def test_no_difference_says_what_would_have_shown(self):
        result = compare(SIXTY, "rollout", Group(SLOW), Group([3.90, 3.95, 3.91, 3.93]))
        self.assertEqual(result.verdict, "no clear difference")
        self.assertIn(f"{result.detectable_difference:.2f} s would probably have shown", sentence_of(result))

    def test_one_run_per_group_is_too_few(self):
        result = compare(SIXTY, "rollout", Group([3.9]), Group([3.7]))
        self.assertEqual((result.verdict, result.difference), ("too few runs", None))

    def test_other_charge_that_may_explain_it_makes_the_groups_not_comparable(self):
        before = driven(SLOW, charge_percent=71.0, battery_temp_c=33.0)
        after = driven(FAST, charge_percent=95.0, battery_temp_c=44.0)
        result = compared(before, after)
        self.assertEqual(result.verdict, "not comparable")
        self.assertIn("Charge differs (71 % before, 95 % after); it could account for −0.09 s", reasons_of(result)[0])
        self.assertIsNone(result.character)

    def test_other_charge_that_is_too_little_to_explain_it_is_told_and_the_verdict_stands(self):
        before, after = driven(SLOW, charge_percent=90.0), driven(FAST, charge_percent=95.0)
        result = compared(before, after)
        self.assertEqual(result.verdict, "faster")
        self.assertIn("could account for −0.02 s ± 0.02 s of the −0.22 s (stated default", reasons_of(result)[0])

    def test_charge_within_the_band_is_alike_and_missing_charge_is_told(self):
        before = Group(SLOW[:2], states=[State(charge_percent=95.0), State(charge_percent=94.0)])
        after = Group(FAST[:2], states=[State(charge_percent=93.0), State()])
        result = compared(before, after)
        self.assertFalse(any(row.differs for row in result.like.rows))
        self.assertIn("Charge was not recorded for 1 of 4 runs.", reasons_of(result))


def on_a_day(group: Group) -> list[State]:
    """All runs on one day, each group's every six minutes, in turn with the other's."""
    return [State(day="a", hour=9 + place / 10) for place in range(len(group.values))]


class BandsTest(TestCase):
    def comparison(self, name: str, clock: str = "rollout"):
        measure = parse_measure(name)
        groups = [group_of_runs(analyzed(log).runs, measure, clock, "time_s") for log in ("five-runs", "after-update")]
        return compare(measure, clock, *(replace(group, states=on_a_day(group)) for group in groups))

    def test_speed_bands_add_up_to_the_difference(self):
        for clock in ("rollout", "first_movement"):
            result = self.comparison("0-60 mph", clock)
            self.assertEqual(len(result.bands), 6)
            self.assertAlmostEqual(sum(band.difference_s for band in result.bands), result.difference.value, 9)

    def test_distance_bands_add_up_to_the_difference(self):
        quarter = parse_measure("1/4 mile")
        runs = [
            [run for run in analyzed("clean-run", seed).runs if run.kind == "standing"] for seed in (11, 12, 13, 14)
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
        groups = [
            Group([run.times_s[-1] for run in group], group, states=[State(day="a")] * 3) for group in (runs, quick)
        ]
        result = compare(quarter, "rollout", *groups)
        self.assertEqual(result.character, "launch")
        parted = next(reason for reason in reasons_of(result) if "330 ft" in reason)
        self.assertRegex(parted, r"^−0.40 s ± 0.\d\d s by 330 ft \(101 m\) and −0.02\d s ± 0.00\d s after it: ")

    def test_a_gain_without_one_place_is_mixed(self):
        self.assertEqual(character(self.by_distance(-0.10, -0.20)).name, "mixed")
        self.assertIsNone(character([]))

    def test_a_quantity_that_the_measure_lacks_is_refused(self):
        with self.assertRaises(NoSuchQuantityError):
            shared_quantity("line_speed", [], SIXTY, "rollout")
        with self.assertRaises(NoSuchQuantityError):
            shared_quantity("distance", [], parse_measure("1/4 mile"), "rollout")
