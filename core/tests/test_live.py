"""The live stream: the same trace in any pieces gives the same runs, each as soon as it is final."""

from functools import cache
from itertools import pairwise
from unittest import TestCase

import numpy as np
from drives import simulated
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.analysis import AFTER_S, AnalyzedRun, Request, time_runs
from coombe_core.detection.runs import RunFinder, find_runs
from coombe_core.live.timing import LiveTiming
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import CREEP, FALSE_START, LIFTED, TRAFFIC, Scenario, clean_run, pull, simulate
from coombe_core.trace import Trace

ROLL = [Act("rest", 2), Act("gentle", to_mps=16.0), Act("hold", 3), Act("launch", to_mps=34.0), *pull(34.0)[2:]]
DRIVES = {"traffic": TRAFFIC, "creep": CREEP, "false": FALSE_START, "lifted": LIFTED, "run": clean_run(), "roll": ROLL}


@cache
def mixed() -> Trace:
    """A log with everything in it."""
    return simulated("mixed-drive").trace


@cache
def whole() -> list[AnalyzedRun]:
    return time_runs(mixed(), Request())


def pieces(trace: Trace, cuts: list[int]) -> list[Trace]:
    """The trace cut behind those numbers of fixes."""
    edges = [0, *sorted({cut for cut in cuts if 0 < cut < len(trace)}), len(trace)]
    return [trace._each(lambda column, a=a, b=b: column[a:b]) for a, b in pairwise(edges)]


class LiveTest(TestCase):
    def assert_same(self, live: list[AnalyzedRun]):
        self.assertEqual([run.kind for run in live], [run.kind for run in whole()])
        for ours, theirs in zip(live, whole(), strict=True):
            self.assertEqual((ours.start_s, ours.complete), (theirs.start_s, theirs.complete))
            self.assertEqual(ours.measures, theirs.measures)
            self.assertEqual(ours.flags, theirs.flags)

    @settings(max_examples=12, deadline=None)
    @given(st.lists(st.integers(1, 2400), max_size=30))
    def test_pieces_of_any_length_change_no_result(self, cuts):
        timing = LiveTiming()
        live = [run for piece in pieces(mixed(), cuts) for run in timing.feed(piece)] + timing.finish()
        self.assert_same(sorted(live, key=lambda run: run.start_s))

    def test_fix_by_fix_a_run_comes_two_seconds_after_its_end(self):
        timing, came = LiveTiming(), []
        for piece in pieces(mixed(), list(range(1, len(mixed())))):
            came += [(float(piece.elapsed_s[0]), run) for run in timing.feed(piece)]
        for now_s, run in came:
            if run.kind != "stop":
                self.assertAlmostEqual(now_s, run.end_s + AFTER_S, delta=0.2)
        self.assertGreaterEqual(len(came), len(whole()) - 1)

    def test_a_log_that_ends_in_a_pull_gives_it_at_the_end(self):
        trace = simulated("clean-run").trace
        timing = LiveTiming()
        cut = trace.between(0.0, 14.0)
        self.assertEqual(timing.feed(cut), [])
        self.assertEqual([run.kind for run in timing.finish()], ["standing"])

    def test_nothing_gives_nothing(self):
        timing = LiveTiming()
        self.assertEqual(timing.feed(mixed().between(-9.0, -8.0)), [])
        self.assertEqual(timing.finish(), [])


class FinderTest(TestCase):
    @settings(max_examples=15, deadline=None)
    @given(st.lists(st.sampled_from(sorted(DRIVES)), min_size=1, max_size=4), st.integers(0, 1000))
    def test_passing_over_quiet_fixes_finds_what_feeding_all_of_them_finds(self, names, seed):
        trace = simulate(Scenario("", [act for name in names for act in DRIVES[name]]), seed).trace
        finder = RunFinder()
        fed = [
            run
            for elapsed_s, speed_mps in zip(trace.elapsed_s.tolist(), trace.speed_mps.tolist(), strict=True)
            for run in finder.feed(elapsed_s, speed_mps)
        ]
        fed += finder.finish()
        self.assertEqual(find_runs(trace), sorted(fed, key=lambda run: run.start_s))

    def test_a_roll_on_is_found_and_traffic_is_not(self):
        runs = find_runs(simulate(Scenario("", [*TRAFFIC, *ROLL, *TRAFFIC]), 3).trace)
        self.assertEqual([(run.kind, run.complete) for run in runs], [("rolling", True)])

    def test_a_roll_on_gives_its_intervals_and_no_time_from_rest(self):
        made = simulate(Scenario("", ROLL), 9)
        run = next(run for run in time_runs(made.trace, Request()) if run.kind == "rolling")
        names = {row.name for row in run.measures}
        self.assertIn("80-120 km/h", names)
        self.assertEqual({row.clock for row in run.measures}, {"speed"})
        motion = made.motion
        late = motion.elapsed_s > made.offset_s + run.start_s - 0.5
        speeds, times = motion.speed_mps[late], motion.elapsed_s[late]
        top = int(np.argmax(speeds))
        real = np.interp([80 / 3.6, 120 / 3.6], speeds[:top], times[:top])
        row = run.measured("80-120 km/h", "speed")
        self.assertAlmostEqual(row.time_s.value, float(real[1] - real[0]), delta=2 * row.time_s.u95)
