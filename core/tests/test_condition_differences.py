"""Differences in conditions, what a skeptic looks for, where the time went, and the sentences."""

from unittest import TestCase

import numpy as np
from groups import compared, driven

from coombe_core.comparing.breakdown import Band, EdgeTimes
from coombe_core.comparing.character import character, launch_until_mps
from coombe_core.comparing.comparison import Asked, Group
from coombe_core.comparing.differences import condition_differences, explained, separating
from coombe_core.comparing.factors import CHARGE
from coombe_core.comparing.matching import matched
from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.checks import outliers, trend
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure
from coombe_core.units import KMH_MPS
from coombe_core.wording.comparison import reasons_of, sentence_of

BEFORE, AFTER = [4.02, 4.11, 3.99, 4.09], [3.95, 4.02, 3.93, 4.04]
PER_POINT = Sensitivity(CHARGE, -0.006, 0.001, 8, "learned", {"runs": 9}, 50.0, 95.0)


def rows(before, after, about=lambda factor: None):
    """How two groups differ by factor."""
    return {row.name: row for row in condition_differences(before, after, about)}


class ConditionDifferencesTest(TestCase):
    def test_what_nobody_noted_has_no_row(self):
        self.assertEqual(rows([State()], [State()]), {})

    def test_charge_beyond_its_band_differs_and_could_explain_so_much(self):
        about = {CHARGE: PER_POINT}.get
        found = rows([State(charge_percent=80.0)] * 2, [State(charge_percent=90.0)] * 2, about)["charge"]
        self.assertTrue(found.differs)
        self.assertAlmostEqual(found.effect.value, -0.06)
        self.assertAlmostEqual(found.effect.u95, 1.959964 * 0.001 * 10)
        near = rows([State(charge_percent=88.0)], [State(charge_percent=90.0)], about)["charge"]
        self.assertFalse(near.differs)

    def test_a_slope_that_heights_can_t_settle_does_not_differ(self):
        def slopes(survey):
            sides = [State(slope_percent=p, slope_u95_percent=0.8, slope_survey=survey) for p in (0.0, 0.5)]
            return rows([sides[0]] * 2, [sides[1]] * 2)["slope"].differs

        self.assertFalse(slopes(""))
        self.assertTrue(slopes("strip"))

    def test_only_one_way_in_each_group_differs_and_half_and_half_does_not(self):
        out, back = State(direction="out"), State(direction="back")
        self.assertTrue(rows([out, out], [back, back])["direction"].differs)
        self.assertFalse(rows([out, back], [back, out, out])["direction"].differs)

    def test_words_are_counted_as_they_were_noted(self):
        found = rows([State(surface="dry"), State(surface="damp")], [State(surface="dry"), State()])["surface"]
        self.assertEqual(found.words, ({"dry": 1, "damp": 1}, {"dry": 1}))
        self.assertEqual(found.noted, (2, 1))
        self.assertTrue(found.differs)

    def test_what_goes_with_the_groups_throughout_is_named(self):
        before = [State(software="7.1", tires="summer", wheel_mass_kg=24.5)] * 2
        after = [State(software="7.2", tires="summer", wheel_mass_kg=28.0)] * 2
        self.assertEqual(separating(before, after), ["software", "wheel mass"])
        found = compared(driven(BEFORE, software="7.1", tires="a"), driven(AFTER, software="7.2", tires="b"))
        self.assertIn(
            "tires and software throughout; which of them made the difference can't be separated",
            " ".join(reasons_of(found)),
        )

    def test_effects_of_several_factors_add_up(self):
        sides = [State(charge_percent=c, battery_temp_c=p) for c, p in ((70.0, 30.0), (90.0, 45.0))]
        report = explained(condition_differences([sides[0]], [sides[1]], {CHARGE: PER_POINT}.get))
        self.assertEqual(report.names, ("charge",))
        self.assertAlmostEqual((report.low + report.high) / 2, -0.12)

    def test_a_wetter_surface_alone_is_what_is_compared(self):
        found = compared(driven(BEFORE, surface="dry"), driven(AFTER, surface="wet"))
        self.assertEqual(found.like.separating, ["surface"])
        self.assertNotEqual(found.verdict, "not comparable")

    def test_sentences_carry_both_units(self):
        before, after = driven(BEFORE, battery_temp_c=30.0), driven(AFTER, battery_temp_c=45.0)
        self.assertIn("30 °C (86 °F) before, 45 °C (113 °F) after", " ".join(reasons_of(compared(before, after))))
        quarter = parse_measure("1/4 mile")
        speed = compare(quarter, "rollout", Group([50.0, 50.1, 50.2]), Group([52.0, 52.1, 52.3]), "line_speed")
        self.assertIn("m/s (4.5", sentence_of(speed))

    def test_a_difference_hidden_by_unlike_charge_is_not_called_none(self):
        # The after group was driven at much less charge and is no slower: it may well have become quicker.
        before, after = driven(BEFORE, charge_percent=95.0), driven(BEFORE[::-1], charge_percent=20.0)
        self.assertEqual(compared(before, after).verdict, "not comparable")


def at(*charges) -> list[State]:
    """Runs at those charges; None where it was not noted."""
    return [State(charge_percent=charge) for charge in charges]


class MatchingTest(TestCase):
    def test_the_nearest_pair_first_and_each_run_once(self):
        self.assertEqual(matched(at(90.0, 80.0, 70.0), at(91.0, 89.5, 60.0)), ([0], [1]))
        self.assertEqual(matched(at(90.0, 93.0), at(92.0, 91.0)), ([0, 1], [0, 1]))

    def test_without_a_charge_there_is_no_pair(self):
        self.assertEqual(matched(at(None, 90.0), at(90.0, None)), ([1], [0]))
        self.assertEqual(matched(at(95.0), at(60.0)), ([], []))

    def test_only_matched_runs_count_and_it_is_said(self):
        before = Group(BEFORE, states=at(95.0, 94.0, 60.0, 61.0))
        after = Group(AFTER, states=at(94.5, 93.5, 30.0, 94.8))
        found = compared(before, after, asked=Asked(match=True))
        self.assertEqual((found.before.n, found.after.n), (2, 2))
        self.assertEqual(found.before.mean, sum(BEFORE[:2]) / 2)
        self.assertIn("Matched: 2 and 2 runs", reasons_of(found)[0])

    def test_nothing_that_matches_is_too_few(self):
        before, after = (
            Group(BEFORE, states=at(95.0, 95.0, 95.0, 95.0)),
            Group(AFTER, states=at(60.0, 60.0, 60.0, 60.0)),
        )
        self.assertEqual(compared(before, after, asked=Asked(match=True)).verdict, "too few runs")


class ChecksTest(TestCase):
    def layout(self, count):
        return layout_of(["a"] * 2 * count, [""] * 2 * count, [False] * count + [True] * count)

    def test_a_drift_over_the_day_is_told(self):
        hours = np.array([9.0, 9.4, 9.8, 10.2, 9.2, 9.6, 10.0, 10.4])
        noise = np.array([0.002, -0.001, 0.001, -0.002, 0.001, 0.002, -0.002, -0.001])
        found = trend(4.0 + 0.1 * hours + noise, hours, self.layout(4))
        self.assertAlmostEqual(found.per_hour, 0.1, 2)
        self.assertTrue(found.shown)
        self.assertFalse(trend(4.0 + noise, hours, self.layout(4)).shown)

    def test_too_few_runs_tell_no_drift(self):
        self.assertIsNone(trend(np.array([4.0, 4.1]), np.array([9.0, 9.5]), self.layout(1)))

    def test_a_value_far_from_its_group_is_pointed_at_and_stays(self):
        values = np.array([4.0, 4.01, 3.99, 4.5, 3.9, 3.91, 3.89, 3.9])
        self.assertEqual(outliers(values, self.layout(4)), [3])
        found = compared(Group(list(values[:4])), Group(list(values[4:])))
        self.assertEqual(found.before.n, 4)
        self.assertIn("1 run is far from the others", " ".join(reasons_of(found)))

    def test_a_drift_is_said_in_the_reasons(self):
        before = Group([4.00, 4.10, 4.20, 4.30], states=[State(day="a", hour=h) for h in (9.0, 9.5, 10.0, 10.5)])
        after = Group([4.01, 4.11, 4.21, 4.31], states=[State(day="a", hour=h) for h in (9.1, 9.6, 10.1, 10.6)])
        self.assertIn("Within the day the values change by +0.2", " ".join(reasons_of(compared(before, after))))


def edges(*times_s: float) -> EdgeTimes:
    """Times at 20, 40, 60, 80 and 100 km/h."""
    speeds = tuple(20 * place * KMH_MPS for place in range(len(times_s) + 1))
    return EdgeTimes(speeds, (0.0, *times_s))


class BandsTest(TestCase):
    HUNDRED = parse_measure("0-100 km/h")

    def group(self, late_s: float) -> Group:
        """Four runs that lose or gain so much between 60 and 100 km/h."""
        made = []
        for place, noise in enumerate((0.004, -0.004, 0.006, -0.006)):
            base = [0.6, 1.2, 1.9, 2.8 + late_s / 2, 3.9 + late_s]
            made.append(edges(*(at_s + noise * (1 + place % 2) for at_s in base)))
        return Group([each.times_s[-1] for each in made], made)

    def test_bands_have_intervals_and_add_up(self):
        found = compare(self.HUNDRED, "rollout", self.group(0.0), self.group(-0.2))
        self.assertAlmostEqual(sum(band.difference_s for band in found.bands), found.difference.value, 9)
        self.assertTrue(all(band.low95 <= band.difference_s <= band.high95 for band in found.bands))
        self.assertLess(found.bands[-1].high95, 0)
        self.assertGreater(found.bands[0].high95, 0)

    def test_the_groups_part_where_the_difference_begins_to_show(self):
        found = compare(self.HUNDRED, "rollout", self.group(0.0), self.group(-0.2))
        self.assertAlmostEqual(found.went.parted_at, 80 * KMH_MPS, 6)
        self.assertEqual(found.character, "power")
        self.assertIn("it comes mostly from power", " ".join(reasons_of(found)))

    def test_without_a_difference_there_is_no_parting_and_no_character(self):
        found = compare(self.HUNDRED, "rollout", self.group(0.0), self.group(0.0))
        self.assertEqual((found.went.parted_at, found.character), (None, None))
        self.assertEqual(len(found.bands), 5)

    def test_the_launch_ends_where_the_car_no_longer_pulls_its_hardest(self):
        pulls = (2.0, 9.0, 8.8, 5.0, 4.0)  # m/s^2 in each band of 20 km/h
        step = 20 * KMH_MPS
        parts = [Band("speed", i * step, (i + 1) * step, -0.1, before_s=step / pull) for i, pull in enumerate(pulls)]
        self.assertAlmostEqual(launch_until_mps(parts), 60 * KMH_MPS)

    def test_a_roll_on_has_no_launch(self):
        step = 20 * KMH_MPS
        parts = [Band("speed", 60 * KMH_MPS + i * step, 80 * KMH_MPS + i * step, -0.1, before_s=1.0) for i in range(3)]
        self.assertEqual(launch_until_mps(parts), 0.0)
        self.assertEqual(character(parts).name, "power")

    def test_a_gain_far_up_alone_is_of_the_top_end(self):
        step = 20 * KMH_MPS
        gains = [0.0] * 7 + [-0.1, -0.1, -0.1]
        parts = [Band("speed", i * step, (i + 1) * step, gain, before_s=0.5 + 0.2 * i) for i, gain in enumerate(gains)]
        self.assertEqual(character(parts).name, "top end")
