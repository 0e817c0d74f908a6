"""A look at a log before anything of it is timed: its runs, its gaps, and what is odd."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from unittest import TestCase

import numpy as np
from drives import simulated

from coombe_core.detection.look import is_can_log, look_at, look_at_can
from coombe_core.detection.runs import find_runs
from coombe_core.formats import ReadError, write_log
from coombe_core.formats.reading import CanError
from coombe_core.wording.look import odd_can_sentences, odd_sentences

FRAMES = "\n".join(f"({1778320000 + n / 10:.6f}) can0 310#E803000000000000" for n in range(50))


class ReceiverLogTest(TestCase):
    def test_it_shows_the_runs_that_an_import_finds_and_nothing_odd(self):
        trace = simulated("five-runs").trace
        seen = look_at(write_log(trace, "nmea"))
        self.assertEqual([run.kind for run in seen.runs], [run.kind for run in find_runs(trace)])
        self.assertEqual(odd_sentences(seen), [])

    def test_gaps_slowness_and_a_run_broken_off_are_said(self):
        trace = simulated("clean-run").trace
        peak_s = float(trace.elapsed_s[np.argmax(trace.speed_mps)])
        cut = replace(trace, elapsed_s=trace.elapsed_s + 9.0 * (trace.elapsed_s > peak_s - 6.0))
        seen = look_at(write_log(cut, "nmea"))
        self.assertIn("1 gap in its fixes, the longest of 9 s.", odd_sentences(seen))
        second = trace.only(np.arange(len(trace)) % 25 == 0)
        self.assertIn("1.0 fixes a second: its times will be unsure.", odd_sentences(look_at(write_log(second, "csv"))))

    def test_what_cannot_be_read_is_refused_as_by_an_import(self):
        with self.assertRaisesRegex(ReadError, "empty"):
            look_at(b"")


class CanLogTest(TestCase):
    def test_its_clock_says_when_it_began(self):
        self.assertTrue(is_can_log(FRAMES.encode()))
        self.assertFalse(is_can_log(b"$GPRMC"))
        frames = (FRAMES + "\nnonsense").encode()
        seen = look_at_can(frames)
        self.assertEqual(seen.start_utc, datetime.fromtimestamp(1778320000, UTC))
        self.assertAlmostEqual(seen.duration_s, 4.9, 6)
        self.assertEqual(odd_can_sentences(seen), ["1 line left out."])

    def test_a_clock_from_its_own_start_shows_no_date(self):
        seen = look_at_can(FRAMES.replace("(17783", "(00000").encode())
        self.assertIsNone(seen.start_utc)
        self.assertEqual(odd_can_sentences(seen), ["Its clock shows no date: choose the log that it goes with."])

    def test_frames_of_another_car_are_refused(self):
        with self.assertRaisesRegex(CanError, "known to the DBC"):
            look_at_can(FRAMES.replace("310#", "7FF#").encode())
