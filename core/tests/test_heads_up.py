"""Two cars side by side, against what the simulated cars truly did."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
from drives import one_run, true_measures

from coombe_core.analysis import Request, time_runs
from coombe_core.comparing.heads_up import CLOCK_U95_S, Lane, left_first_s, reaction_s, standings
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.scenarios import Simulated
from coombe_core.timing.measures import DISTANCES_M
from coombe_core.uncertainty import Value

QUICK, SLOW = SimulatedCar(power_w=300_000), SimulatedCar(power_w=230_000)


def lane(made: Simulated, start_s: float = 1_000.0) -> Lane:
    run = next(run for run in time_runs(made.trace, Request()) if run.kind == "standing")
    return Lane(run.measures, run.curve, Value(start_s, 0.05))


class HeadsUpTest(TestCase):
    def setUp(self):
        self.made = one_run(21, QUICK), one_run(22, SLOW)
        self.first, self.second = (lane(made) for made in self.made)

    def test_the_gap_at_each_distance_is_what_it_truly_was(self):
        true = [true_measures(made) for made in self.made]
        found = standings(self.first, self.second)
        self.assertEqual([each.name for each in found], ["60 ft", "330 ft", "1/8 mile", "1000 ft", "1/4 mile"])
        for each in found:
            ours, theirs = (rows[each.name, "first_movement"]["time_s"] for rows in true)
            self.assertAlmostEqual(each.gap_s.value, theirs - ours, delta=2 * each.gap_s.u95)

    def test_the_lead_in_meters_is_where_the_slower_car_truly_was(self):
        quarter = standings(self.first, self.second)[-1]
        quick, slow = self.made
        begun = slow.motion.runs[0].start_s
        at_s = begun + true_measures(quick)["1/4 mile", "first_movement"]["time_s"]
        distance_m = np.interp([begun, at_s], slow.motion.elapsed_s, slow.motion.distance_m)
        self.assertAlmostEqual(quarter.gap_m, DISTANCES_M["1/4 mile"] - (distance_m[1] - distance_m[0]), delta=2.5)
        self.assertTrue(quarter.shown)

    def test_any_distance_stands_between_those_that_are_measured(self):
        found = standings(self.first, self.second, 250.0)
        asked = next(each for each in found if not each.name)
        place = found.index(asked)
        self.assertEqual([each.name for each in (found[place - 1], found[place + 1])], ["1/8 mile", "1000 ft"])
        self.assertTrue(found[place - 1].gap_s.value < asked.gap_s.value < found[place + 1].gap_s.value)
        true = []
        for made in self.made:
            began = np.searchsorted(made.motion.elapsed_s, made.motion.runs[0].start_s)
            gone_m = made.motion.distance_m - made.motion.distance_m[began]
            true.append(np.interp(250.0, gone_m, made.motion.elapsed_s) - made.motion.elapsed_s[began])
        self.assertAlmostEqual(asked.gap_s.value, true[1] - true[0], delta=2 * asked.gap_s.u95)
        self.assertAlmostEqual(asked.gap_lengths, asked.gap_m / 4.7)
        self.assertEqual(len(standings(self.first, self.second, 4000.0)), 5)

    def test_lanes_swapped_turn_the_sign_and_keep_the_lead(self):
        there, back = standings(self.first, self.second), standings(self.second, self.first)
        for ours, theirs in zip(there, back, strict=True):
            self.assertAlmostEqual(ours.gap_s.value, -theirs.gap_s.value)
            self.assertAlmostEqual(ours.gap_m, theirs.gap_m)

    def test_a_late_start_changes_no_standing_and_shows_as_reaction(self):
        late = Lane(self.second.measures, self.second.curve, Value(1_000.7, 0.05))
        self.assertEqual(standings(self.first, late), standings(self.first, self.second))
        self.assertAlmostEqual(left_first_s(self.first, late).value, 0.7)
        reaction = reaction_s(late, 1_000.1)
        self.assertAlmostEqual(reaction.value, 0.6)
        self.assertGreater(reaction.u95, CLOCK_U95_S)

    def test_the_same_run_twice_is_a_tie_that_nothing_shows(self):
        self.assertFalse(any(each.shown or each.gap_m for each in standings(self.first, self.first)))
