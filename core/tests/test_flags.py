"""Flags: each with a trace that must raise it and one that must not."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from drives import simulated

from coombe_core.analysis import Request, time_runs
from coombe_core.flags.flag import Flag
from coombe_core.physics.course import SurveyedCourse
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, clean_run, pull, simulate
from coombe_core.trace import COLUMNS, Trace
from coombe_core.uncertainty import Value
from coombe_core.wording.flags import message_of

CLEAN = simulated("clean-run").trace


def flags(trace: Trace, surveyed: float | None = 0.0) -> dict[str, Flag]:
    """The flags of the trace's first run; a surveyed level course unless another is given."""
    course = None if surveyed is None else SurveyedCourse(Value(surveyed, 0.05))
    return {flag.code: flag for flag in time_runs(trace, Request(surveyed=course))[0].flags}


def without(trace: Trace, from_s: float, to_s: float) -> Trace:
    """The trace with the fixes between two times taken out."""
    kept = (trace.elapsed_s < from_s) | (trace.elapsed_s > to_s)
    return replace(trace, **{name: getattr(trace, name)[kept] for name in COLUMNS})


def driven(acts: list[Act], seed: int = 4) -> Trace:
    return simulate(Scenario("", acts), seed).trace


class FlagsTest(TestCase):
    def test_a_clean_run_on_a_surveyed_level_course_has_none(self):
        self.assertEqual(flags(CLEAN), {})

    def test_a_short_gap_is_a_caution_and_a_long_one_proposes_to_void(self):
        self.assertEqual(flags(without(CLEAN, 7.0, 7.2))["gap"].severity, "caution")
        long = flags(without(CLEAN, 7.0, 8.0))["gap"]
        self.assertEqual(long.severity, "void")
        self.assertIn("26 fixes missing", message_of(long))

    def test_a_gap_before_the_run_is_no_matter(self):
        self.assertNotIn("gap", flags(without(CLEAN, 0.5, 1.2)))

    def test_one_fix_a_second_is_a_caution_and_five_are_not(self):
        for step, expected in ((25, True), (5, False)):
            thin = replace(CLEAN, **{name: getattr(CLEAN, name)[::step] for name in COLUMNS})
            runs = time_runs(thin, Request())
            self.assertTrue(runs, step)
            for run in runs:
                self.assertEqual("rate_low" in [flag.code for flag in run.flags], expected, run.kind)

    def test_few_satellites_or_poor_geometry_are_a_caution(self):
        few = replace(CLEAN, satellites=np.full(len(CLEAN), 6.0))
        poor = replace(CLEAN, hdop=np.full(len(CLEAN), 3.2))
        unknown = replace(CLEAN, hdop=np.full(len(CLEAN), np.nan), satellites=np.full(len(CLEAN), np.nan))
        self.assertIn("poor_geometry", flags(few))
        self.assertIn("poor_geometry", flags(poor))
        self.assertNotIn("poor_geometry", flags(unknown))

    def test_a_launch_out_of_a_short_halt_may_have_crept(self):
        creeping = [Act("gentle", to_mps=2.0, pace_mps2=0.8), Act("gentle", pace_mps2=0.8), Act("rest", 0.1)]
        self.assertIn("crept_before_start", flags(driven([Act("rest", 2), *creeping, *clean_run()[1:]])))
        self.assertNotIn("crept_before_start", flags(driven(clean_run())))

    def test_a_lift_before_60_mph_aborts_and_a_full_pull_does_not(self):
        self.assertEqual(flags(driven(pull(20.0)))["aborted"].severity, "note")
        self.assertNotIn("aborted", flags(driven(pull(29.0))))

    def test_easing_off_on_the_way_to_60_mph_is_a_caution(self):
        eased = [Act("rest", 4), Act("launch", to_mps=16), Act("hold", 0.8), Act("launch", to_mps=29), *pull(29.0)[2:]]
        self.assertIn("lifted_early", flags(driven(eased)))

    def test_slope_beyond_the_limit_uncertain_and_fine(self):
        self.assertEqual(flags(CLEAN, -1.4)["slope_beyond_limit"].severity, "caution")
        self.assertNotIn("slope_beyond_limit", flags(CLEAN, +1.4))
        course = SurveyedCourse(Value(-0.8, 0.6))
        near = {flag.code for flag in time_runs(CLEAN, Request(surveyed=course))[0].flags}
        self.assertEqual(near, {"slope_uncertain"})

    def test_no_altitude_asks_for_the_course_s_slope(self):
        flat = replace(CLEAN, altitude_m=np.full(len(CLEAN), np.nan))
        self.assertIn("slope_unknown", flags(flat, None))

    def test_a_missing_date_is_a_note(self):
        self.assertEqual(flags(replace(CLEAN, date_known=False))["date_missing"].severity, "note")

    def test_every_message_says_something_to_a_person(self):
        for flag in [*flags(without(CLEAN, 7.0, 8.0)).values(), *flags(CLEAN, -2.0).values()]:
            self.assertRegex(message_of(flag), r"^[A-Z0-9].*\.$")
