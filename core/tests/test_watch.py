"""The strip's one word, and the target as it nears, from single fixes."""

from __future__ import annotations

from itertools import groupby
from unittest import TestCase

from drives import simulated, true_measures

from coombe_core.live.status import Glance, StripWatch
from coombe_core.live.timing import LiveTiming
from coombe_core.simulating.driver import acts_of
from coombe_core.simulating.scenarios import CREEP, TRAFFIC, Scenario, Simulated, simulate
from coombe_core.timing.measures import parse_measure

SIXTY = parse_measure("0-60 mph")


def watched(made: Simulated, watch: StripWatch) -> list[Glance]:
    """A glance after every fix, with results as they come."""
    timing, seen = LiveTiming(), []
    trace = made.trace
    for index, (elapsed_s, speed_mps) in enumerate(
        zip(trace.elapsed_s.tolist(), trace.speed_mps.tolist(), strict=True)
    ):
        glance = watch.fix(elapsed_s, speed_mps)
        if timing.feed(trace._each(lambda column, i=index: column[i : i + 1])):
            glance = watch.timed()
        seen.append(Glance(**vars(glance)))
    return seen


def words(seen: list[Glance]) -> list[str]:
    return [word for word, _ in groupby(glance.word for glance in seen)]


class WordTest(TestCase):
    def test_a_run_goes_from_ready_to_done(self):
        seen = watched(simulated("clean-run"), StripWatch(SIXTY))
        report = [word for word in words(seen) if word != "hold on"]
        self.assertEqual(report[:3], ["ready", "staged", "running"])
        self.assertEqual(report[-1], "done")
        self.assertNotIn("no fix", report)

    def test_traffic_and_creeping_are_never_running(self):
        seen = watched(simulate(Scenario("", [*TRAFFIC, *CREEP]), 5), StripWatch(SIXTY))
        self.assertLessEqual(set(words(seen)), {"ready", "rolling", "staged"})

    def test_a_stop_is_running_while_the_brakes_bite(self):
        made = simulate(Scenario("", acts_of("stop", parse_measure("100-0 km/h"))), 5)
        seen = watched(made, StripWatch(parse_measure("100-0 km/h")))
        run = made.motion.runs[0]
        biting = [g.word for g in seen if run.start_s + 0.8 < g.elapsed_s + made.offset_s < run.end_s - 0.2]
        self.assertEqual(set(biting), {"running"})

    def test_silence_is_no_fix_and_the_next_fix_ends_it(self):
        watch = StripWatch(SIXTY)
        watch.fix(0.0, 0.0)
        self.assertEqual(watch.silent().word, "no fix")
        self.assertEqual(watch.fix(9.0, 0.0).word, "ready")

    def test_done_stays_until_the_car_moves_on_or_somebody_decides(self):
        watch = StripWatch(SIXTY)
        watched(simulated("clean-run"), watch)
        last_s = watch.now.elapsed_s
        for tick in range(100):
            watch.fix(last_s + 0.04 * (tick + 1), 0.0)
        self.assertEqual(watch.now.word, "done")
        watch.seen()
        self.assertEqual(watch.fix(last_s + 4.04, 0.0).word, "staged")


class TargetTest(TestCase):
    def test_the_target_is_told_within_a_fix_of_the_truth(self):
        for name, rollout in (("0-60 mph", True), ("0-60 mph", False), ("1/8 mile", True)):
            with self.subTest(name, rollout=rollout):
                made = simulated("clean-run")
                reached = watched(made, StripWatch(parse_measure(name), rollout))[-1].reached
                true = true_measures(made)[name, "rollout" if rollout else "first_movement"]
                self.assertAlmostEqual(reached.time_s, true["time_s"], delta=0.1)

    def test_it_is_told_with_the_fix_that_passes_it(self):
        seen = watched(simulated("clean-run"), StripWatch(SIXTY))
        first = next(glance for glance in seen if glance.reached)
        self.assertLess(first.elapsed_s - first.reached.at_s, 0.0401)
        self.assertGreaterEqual(first.speed_mps, SIXTY.to_mps)

    def test_a_roll_on_counts_from_the_speed_it_is_named_by(self):
        measure = parse_measure("60-100 km/h")
        made = simulate(Scenario("", acts_of("roll-on", measure)), 3)
        reached = next(glance.reached for glance in watched(made, StripWatch(measure)) if glance.reached)
        speeds, times = made.motion.speed_mps, made.motion.elapsed_s
        top = int(speeds.argmax())
        low, high = (float(times[:top][speeds[:top] >= level][0]) for level in (measure.from_mps, measure.to_mps))
        self.assertAlmostEqual(reached.time_s, high - low, delta=0.1)
