"""Properties that hold whatever the log: damage, order, repetition."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from drives import nmea, simulated
from groups import difference, relabeled
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.analysis import Request, analyse_log, time_runs
from coombe_core.comparing.statistics.samples import sample
from coombe_core.formats import ReadError, write_log
from coombe_core.timing.measures import STANDARD_MEASURES
from coombe_core.trace import COLUMNS

CSV = write_log(simulated("clean-run").trace.between(0.0, 3.0), "csv")
MICROSECONDS = st.integers(1_000_000, 30_000_000).map(lambda count: count / 1e6)
VALUES = st.lists(MICROSECONDS, min_size=2, max_size=7)


class LogsTest(TestCase):
    @settings(max_examples=80, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(0, len(CSV) - 1), st.integers(0, 255)), max_size=20), st.integers(0, len(CSV))
    )
    def test_a_damaged_or_cut_csv_reads_or_refuses(self, changes, end):
        damaged = bytearray(CSV)
        for place, byte in changes:
            damaged[place] = byte
        try:
            analyse_log(bytes(damaged[:end]))
        except ReadError as error:
            self.assertTrue(str(error))

    def test_repeated_lines_change_no_result(self):
        lines = nmea("clean-run").splitlines(keepends=True)
        twice = b"".join(line for pair in zip(lines[::2], lines[1::2], strict=True) for line in pair * 2)
        once, again = analyse_log(nmea("clean-run")), analyse_log(twice)
        self.assertEqual([run.measures for run in once.runs], [run.measures for run in again.runs])
        self.assertEqual(len(again.reading.rejections), len(once.reading.trace))

    def test_a_later_start_of_the_log_shifts_its_runs_and_nothing_else(self):
        trace = simulated("clean-run").trace
        late = replace(trace.between(1.5, 99.0), elapsed_s=trace.between(1.5, 99.0).elapsed_s - 1.5)
        early_run, late_run = time_runs(trace, Request())[0], time_runs(late, Request())[0]
        self.assertAlmostEqual(early_run.start_s - late_run.start_s, 1.5, 3)
        for ours, theirs in zip(late_run.measures, early_run.measures, strict=True):
            self.assertAlmostEqual(ours.time_s.value, theirs.time_s.value, 3)

    def test_a_trace_of_any_length_is_analysed_without_an_accident(self):
        trace = simulated("clean-run").trace
        for count in (1, 2, 3, 8, 110, 130, 200):
            cut = replace(trace, **{name: getattr(trace, name)[:count] for name in COLUMNS})
            for run in time_runs(cut, Request()):
                self.assertTrue(all(np.isfinite(row.time_s.u95) for row in run.measures if row.time_s))


class MeasuresTest(TestCase):
    def test_longer_measures_take_longer_on_every_clock(self):
        run = time_runs(simulated("clean-run").trace, Request())[0]
        for clock in ("first_movement", "rollout"):
            reached = [m for m in STANDARD_MEASURES if m.basis == "distance" and run.measured(m.name, clock)]
            times = [run.measured(m.name, clock).time_s.value for m in sorted(reached, key=lambda m: m.to_m)]
            self.assertEqual(times, sorted(times))
            self.assertGreaterEqual(len(times), 5)


class GroupsTest(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(VALUES, VALUES)
    def test_swapping_the_groups_turns_the_sign_and_nothing_else(self, before, after):
        there, back = difference(before, after), difference(after, before)
        self.assertAlmostEqual(there.value, -back.value, 9)
        self.assertAlmostEqual(there.low95, -back.high95, 9)
        self.assertAlmostEqual(there.p_value, back.p_value, 9)
        self.assertAlmostEqual(relabeled(before, after).p_value, relabeled(after, before).p_value, 9)

    @settings(max_examples=60, deadline=None)
    @given(VALUES, VALUES, st.floats(-0.5, 0.5))
    def test_a_common_offset_changes_no_difference(self, before, after, offset):
        moved = difference([value + offset for value in before], [value + offset for value in after])
        self.assertAlmostEqual(moved.value, difference(before, after).value, 6)

    @settings(max_examples=40, deadline=None)
    @given(VALUES)
    def test_the_best_is_one_of_the_values_and_the_mean_lies_among_them(self, values):
        drawn = sample(values)
        self.assertIn(drawn.best, values)
        self.assertLessEqual(min(values) - 1e-9, drawn.mean)
        self.assertLessEqual(drawn.mean, max(values) + 1e-9)
