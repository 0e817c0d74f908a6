"""Slope: a surveyed course holds in the way that a run went; else it comes from climb or altitude."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import statsmodels.api
from drives import simulated
from scipy.integrate import solve_ivp

from coombe_core.analysis import Request, time_runs
from coombe_core.physics.course import Profile, SurveyedCourse, is_opposite_direction, mean_heading_deg, survey
from coombe_core.simulating.car import Conditions
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import Scenario, simulate
from coombe_core.timing.corrections import Correction
from coombe_core.timing.slope import slope_by_altitude, slope_by_climb, slope_percent
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value
from coombe_core.units import STANDARD_GRAVITY_MPS2

OUT = SurveyedCourse(Value(0.6, 0.1), heading_deg=0.0)


class SurveyTest(TestCase):
    def drive(self, slope_percent: float, to_mps: float = 8.0, hold_s: float = 60.0) -> Trace:
        acts = [Act("rest", 3), Act("gentle", to_mps=to_mps), Act("hold", hold_s), Act("gentle", to_mps=0.0)]
        return simulate(Scenario("", acts, conditions=Conditions(slope_percent=slope_percent)), 12).trace

    def test_slow_drives_give_slopes_back(self):
        for slope in (-1.0, 0.0, 0.8, 2.0):
            self.assertAlmostEqual(survey(self.drive(slope)).mean_slope_percent, slope, delta=0.15)

    def test_stations_lie_every_20_m_and_ascend(self):
        profile = survey(self.drive(0.5))
        self.assertTrue((np.diff(profile.distance_m) == 20.0).all())
        self.assertGreater(profile.distance_m[-1], 450.0)

    def test_what_can_not_be_surveyed_says_why(self):
        with self.assertRaisesRegex(ValueError, "too fast"):
            survey(self.drive(0.5, to_mps=25.0))
        with self.assertRaisesRegex(ValueError, "too short"):
            survey(self.drive(0.5, to_mps=3.0, hold_s=5.0))
        trace = self.drive(0.5)
        with self.assertRaisesRegex(ValueError, "no fix in motion with an altitude"):
            survey(replace(trace, altitude_m=np.full(len(trace), np.nan)))

    def test_a_survey_there_is_the_survey_back_turned(self):
        there, back = survey(self.drive(0.9)), survey(self.drive(-0.9)).turned()
        self.assertAlmostEqual(there.mean_slope_percent, back.mean_slope_percent, delta=0.2)


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
        self.assertFalse(is_opposite_direction(180.0, silent))


class ProfileTest(TestCase):
    """A strip that climbs and falls: each stretch is corrected by its own slope."""

    HILL = Profile.of([(-50.0, 0.0), (200.0, 2.0), (600.0, -1.2)])

    def driven(self, profile: Profile | None) -> tuple[np.ndarray, np.ndarray]:
        """Times and speeds of a car of 8 m/s2 and 150 W/kg, by scipy's integration of v' = a(v) - g sin(slope) / k."""

        def pace(_: float, state: np.ndarray) -> list[float]:
            way, speed = state
            slope = profile.slope_percent(np.array([way]))[0] / 100.0 if profile else 0.0
            drive = min(8.0, 150.0 / max(speed, 1e-6)) - STANDARD_GRAVITY_MPS2 * np.sin(np.arctan(slope)) / 1.04
            return [speed, drive]

        at_s = np.arange(0.0, 13.0, 0.04)
        solved = solve_ivp(pace, (0.0, 13.0), [0.0, 0.0], t_eval=at_s, max_step=0.01)
        return solved.y[0], solved.y[1]

    def trace(self, profile: Profile) -> Trace:
        _, speed = self.driven(profile)
        still = np.zeros(75)
        speed_mps = np.concatenate([still, speed])
        template = simulated("clean-run").trace.between(0.0, (speed_mps.size - 0.5) * 0.04)
        noise = 0.02 * np.random.default_rng(5).standard_normal(speed_mps.size)
        return replace(
            template,
            elapsed_s=np.arange(speed_mps.size) * 0.04,
            speed_mps=np.maximum(speed_mps + noise, 0.0),
            altitude_m=np.full(speed_mps.size, np.nan),
        )

    def test_times_on_a_hill_are_corrected_to_those_on_the_level(self):
        surveyed = SurveyedCourse(Value(0.0, 0.02), profile=self.HILL)
        run = time_runs(self.trace(self.HILL), Request(surveyed=surveyed, correction=Correction(slope=True)))[0]
        way, speed = self.driven(None)
        at_s = np.arange(way.size) * 0.04
        for name, levels, level in (("1/4 mile", way, 402.336), ("0-60 mph", speed, 60 * 0.44704)):
            level_s = float(np.interp(level, levels, at_s) - np.interp(0.3048, way, at_s))
            row = run.measured(name, "rollout")
            self.assertAlmostEqual(row.corrected_time_s.value, level_s, delta=0.015)
            self.assertGreater(row.time_s.value, level_s + 0.01)

    def test_its_mean_over_the_way_is_the_run_s_slope(self):
        surveyed = SurveyedCourse(Value(0.0, 0.02), profile=self.HILL)
        run = time_runs(self.trace(self.HILL), Request(surveyed=surveyed))[0]
        climbed_m = np.interp([0.0, run.curve.distance_m[-1]], self.HILL.distance_m, self.HILL.elevation_m)
        self.assertAlmostEqual(
            run.slope_percent.value, 100 * np.diff(climbed_m)[0] / run.curve.distance_m[-1], delta=0.01
        )
        self.assertEqual(run.slope_percent.u95, 0.02)

    def test_the_way_back_meets_it_from_the_other_end(self):
        profile = Profile.of([(0.0, 0.0), (100.0, 1.0), (400.0, 0.0)])
        self.assertEqual(profile.turned().slope_percent(np.array([10.0, 350.0])).round(6).tolist(), [0.333333, -1.0])

    def test_a_profile_is_read_from_a_table_or_refused_by_line(self):
        profile = Profile.of_csv("distance_m,elevation_m\n0,0\n50,0.5\n")
        self.assertEqual(profile.slope_percent(np.array([20.0, 80.0])).tolist(), [1.0, 1.0])
        for text, reason in (
            ("way,height\n0,0\n", "line 1"),
            ("distance_m,elevation_m\n0,0\nfar,1\n", "line 3"),
            ("distance_m,elevation_m\n0,0\n", "two stations"),
            ("distance_m,elevation_m\n0,0\n0,1\n", "further on"),
        ):
            with self.assertRaisesRegex(ValueError, reason):
                Profile.of_csv(text)


class SlopeOfARunTest(TestCase):
    def test_altitude_against_distance_is_the_regression_of_statsmodels(self):
        draw = np.random.default_rng(4)
        trace = simulated("clean-run").trace.between(4.0, 14.0)
        distance_m = np.concatenate([[0.0], np.cumsum(trace.speed_mps[1:] * np.diff(trace.elapsed_s))])
        elevation_m = 100.0 + 0.008 * distance_m + 0.1 * draw.standard_normal(distance_m.size)
        still = replace(trace, speed_mps=np.zeros(len(trace)), altitude_m=np.full(len(trace), 100.0))
        ours = slope_by_altitude(distance_m, replace(trace, altitude_m=elevation_m), still)
        theirs = statsmodels.api.OLS(elevation_m, statsmodels.api.add_constant(distance_m)).fit()
        self.assertAlmostEqual(ours.value / 100.0, theirs.params[1], 9)
        self.assertAlmostEqual(ours.u95 / 100.0 / 1.959964, theirs.bse[1], 9)

    def test_vertical_speed_settles_a_slope_over_fifty_meters(self):
        inside, widths = 0, []
        for seed in range(40):
            draw = np.random.default_rng(seed)
            trace = simulated("clean-run").trace.between(4.0, 8.0)
            climb = -0.008 * trace.speed_mps + 0.08 * draw.standard_normal(len(trace))
            slope = slope_by_climb(replace(trace, climb_mps=climb))
            inside += abs(slope.value + 0.8) <= slope.u95
            widths.append(slope.u95)
        self.assertGreaterEqual(inside, 35)
        self.assertLess(np.median(widths), 0.25)

    def test_the_surer_of_altitude_and_vertical_speed_counts(self):
        trace = simulated("clean-run").trace.between(4.0, 12.0)
        distance_m = np.concatenate([[0.0], np.cumsum(trace.speed_mps[1:] * np.diff(trace.elapsed_s))])
        steps_m = np.round(trace.altitude_m, 0)
        climb = 0.004 * trace.speed_mps + 0.05 * np.random.default_rng(1).standard_normal(len(trace))
        both = replace(trace, altitude_m=steps_m, climb_mps=climb)
        self.assertEqual(slope_percent(distance_m, both, both), slope_by_climb(both))
        no_climb = replace(both, climb_mps=np.full(len(trace), np.nan))
        self.assertEqual(slope_percent(distance_m, no_climb, both), slope_by_altitude(distance_m, both, both))
