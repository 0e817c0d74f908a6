"""Finding runs: every real one, no invented one."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from drives import analyzed, simulated

from coombe_core.detection.runs import AT_REST_MPS, find_runs
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import CREEP, FALSE_START, TRAFFIC, Scenario, pull, simulate, truth
from coombe_core.units import MPH_MPS


def found(acts: list[Act], seed: int = 5) -> list[tuple[str, bool]]:
    return [(run.kind, run.complete) for run in find_runs(simulate(Scenario("", acts), seed).trace)]


class FindingTest(TestCase):
    def test_every_pull_of_a_session_is_found_where_it_was(self):
        made = simulated("five-runs")
        real = [run["start_s"] for run in truth(made)["runs"]]
        runs = analyzed("five-runs").runs
        self.assertEqual([run.complete for run in runs], [True] * 5)
        for run, start_s in zip(runs, real, strict=True):
            self.assertAlmostEqual(run.start_s, start_s, delta=0.1)

    def test_traffic_creeping_and_a_false_start_give_no_complete_run(self):
        self.assertEqual([run for run in found([*TRAFFIC, *CREEP, *FALSE_START, *TRAFFIC]) if run[1]], [])

    def test_one_clean_run_stands_out_of_a_mixed_drive(self):
        runs = [(run.kind, run.complete) for run in analyzed("mixed-drive").runs if run.complete]
        self.assertEqual(runs, [("standing", True), ("stop", True)])

    def test_a_pull_lifted_before_60_mph_is_listed_and_not_complete(self):
        lifted = [run for run in analyzed("mixed-drive").runs if not run.complete]
        self.assertEqual([flag.code for run in lifted for flag in run.flags], ["aborted"])
        self.assertIsNone(lifted[0].measured("0-60 mph", "rollout"))
        self.assertIsNotNone(lifted[0].measured("0-30 mph", "rollout"))

    def test_noise_about_the_threshold_of_rest_hides_no_launch(self):
        trace = simulated("clean-run").trace
        first = int(np.argmax(trace.speed_mps > AT_REST_MPS))
        speeds = trace.speed_mps.copy()
        speeds[first : first + 2] = AT_REST_MPS + 0.02, AT_REST_MPS - 0.02
        whole, flickering = find_runs(trace)[0], find_runs(replace(trace, speed_mps=speeds))[0]
        self.assertEqual((flickering.kind, flickering.complete), ("standing", True))
        self.assertAlmostEqual(flickering.start_s, whole.start_s, delta=0.09)
        self.assertAlmostEqual(flickering.rest_before_s, whole.rest_before_s, delta=0.09)

    def test_a_creep_before_the_launch_is_no_noise(self):
        trace = simulated("clean-run").trace
        speeds = trace.speed_mps.copy()
        first = int(np.argmax(speeds > AT_REST_MPS))
        speeds[first - 45 : first - 20] = 0.8
        crept = find_runs(replace(trace, speed_mps=speeds))[0]
        self.assertEqual(crept.kind, "standing")
        self.assertLess(crept.rest_before_s, 1.0)

    def test_a_pull_that_ends_with_the_log_is_kept(self):
        acts = [Act("rest", 3), Act("launch", to_mps=65 * MPH_MPS)]
        self.assertEqual(found(acts), [("standing", True)])

    def test_gentle_braking_is_no_stop_and_hard_braking_is(self):
        self.assertEqual(found(pull(20.0)), [("standing", False)])
        kinds = [run.kind for run in analyzed("stop-series").runs]
        self.assertEqual(kinds, ["stop"] * 3)
