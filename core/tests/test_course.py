"""A surveyed course: its slope holds in the way that a run went."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from drives import simulated

from coombe_core.analysis import Request, time_runs
from coombe_core.course import SurveyedCourse, is_other_way, mean_heading_deg
from coombe_core.timing.estimate import Value

OUT = SurveyedCourse(Value(0.6, 0.1), heading_deg=0.0)


class SurveyedCourseTest(TestCase):
    def test_uphill_out_is_downhill_back(self):
        # The pulls of this session alternate, with a U-turn between them.
        runs = time_runs(simulated("five-runs").trace, Request(surveyed=OUT))
        self.assertEqual([run.slope_percent.value for run in runs], [0.6, -0.6, 0.6, -0.6, 0.6])
        self.assertTrue(all(run.slope_percent.u95 == 0.1 for run in runs))

    def test_a_level_survey_counts_as_one(self):
        level = SurveyedCourse(Value(0.0, 0.02), heading_deg=0.0)
        run = time_runs(simulated("clean-run").trace, Request(surveyed=level))[0]
        self.assertEqual(run.slope_percent, Value(0.0, 0.02))

    def test_without_a_heading_the_slope_holds_for_every_run(self):
        anyway = SurveyedCourse(Value(0.6, 0.1))
        runs = time_runs(simulated("five-runs").trace, Request(surveyed=anyway))
        self.assertEqual({run.slope_percent.value for run in runs}, {0.6})

    def test_headings_are_averaged_around_north(self):
        trace = simulated("clean-run").trace
        wavering = replace(trace, course_deg=np.where(np.arange(len(trace)) % 2, 350.0, 30.0))
        self.assertAlmostEqual(mean_heading_deg(wavering), 10.0, delta=1.0)

    def test_a_log_without_course_is_taken_along_the_survey(self):
        trace = simulated("clean-run").trace
        silent = replace(trace, course_deg=np.full(len(trace), np.nan))
        self.assertIsNone(mean_heading_deg(silent))
        self.assertFalse(is_other_way(180.0, silent))
