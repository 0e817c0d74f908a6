"""The spool and what is made of it: bytes first, gaps named, a full disk reported."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from unittest import TestCase, mock

import numpy as np

from coombe_core.analysis import Request
from coombe_core.formats import write_log
from coombe_core.live.can import LiveCan
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from recording.findings import Findings, Found, FoundGap, taken_up
from recording.models import GapCause
from recording.spool import Spool


class SpoolTest(TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_bytes_are_in_the_file_once_they_are_appended(self):
        spool = Spool(self.folder / "one")
        spool.receiver.append(b"first")
        self.assertEqual((self.folder / "one" / "receiver").read_bytes(), b"first")
        spool.close()
        again = Spool(self.folder / "one")
        again.receiver.append(b", second")
        again.close()
        self.assertEqual((self.folder / "one" / "receiver").read_bytes(), b"first, second")

    def test_what_was_appended_is_synced_by_the_thread_and_at_the_end(self):
        with mock.patch("recording.spool.os.fdatasync", side_effect=os.fdatasync) as synced:
            spool = Spool(self.folder / "two")
            spool.can.append(b"frame")
            spool.close()
        self.assertGreaterEqual(synced.call_count, 1)

    def test_a_write_in_parts_is_finished_and_a_full_disk_is_told(self):
        spool = Spool(self.folder / "three")
        real = os.write
        with mock.patch("recording.spool.os.write", side_effect=lambda handle, data: real(handle, bytes(data)[:2])):
            spool.receiver.append(b"in small parts")
        self.assertEqual((self.folder / "three" / "receiver").read_bytes(), b"in small parts")
        full = OSError(28, "No space left on device")
        with mock.patch("recording.spool.os.write", side_effect=full):
            self.assertEqual(spool.receiver.append(b"more"), 0)
        self.assertTrue(spool.receiver.is_full)
        self.assertEqual(spool.receiver.trouble, "The disk is full; nothing is being recorded.")
        self.assertEqual(spool.receiver.append(b", then more"), 11)
        self.assertEqual((spool.receiver.is_full, spool.receiver.trouble), (False, ""))
        spool.close()

    def test_a_recording_is_taken_up_where_its_file_ends(self):
        trace = simulate(SCENARIOS["clean-run"], 3).trace
        path = self.folder / "receiver"
        data = write_log(trace, "nmea")
        path.write_bytes(data[: len(data) // 2])
        reader, before = taken_up(path)
        self.assertEqual(reader.start_utc, trace.start_utc)
        later = reader.feed(data[len(data) // 2 :]).complete
        self.assertGreater(later.elapsed_s[0], before.elapsed_s[-1])
        self.assertAlmostEqual(len(before) + len(later), len(trace), delta=3)

    def test_nothing_is_taken_up_from_a_file_without_fixes(self):
        (self.folder / "receiver").write_bytes(b"$GNRMC,")
        reader, before = taken_up(self.folder / "receiver")
        self.assertEqual((reader.start_utc, before), (None, None))


class FindingsTest(TestCase):
    def found(self, cut_s: float, gap_s: float, cause: GapCause) -> list[Found | FoundGap]:
        trace = simulate(SCENARIOS["clean-run"], 3).trace
        findings = Findings(Request(), LiveCan())
        first, second = trace.between(0.0, cut_s), trace.between(cut_s + gap_s, np.inf)
        return [*findings.feed(first), *findings.feed(second, cause), *findings.finish()]

    def test_a_gap_says_why_there_are_no_fixes(self):
        for cause in GapCause:
            gap, *runs = self.found(2.0, 0.8, cause)
            self.assertEqual(gap.cause, cause)
            self.assertAlmostEqual(gap.to_s - gap.from_s, 0.84, delta=0.05)
            self.assertEqual([found.run.kind for found in runs], ["standing", "stop"])

    def test_a_gap_in_a_run_is_flagged_on_the_run_too(self):
        gap, pull, _ = self.found(6.0, 0.8, GapCause.NOT_LISTENING)
        self.assertIsInstance(gap, FoundGap)
        self.assertIn("gap", [flag.code for flag in pull.run.flags])
        self.assertLessEqual(pull.near.elapsed_s[0], pull.run.start_s)
        self.assertGreaterEqual(pull.near.elapsed_s[-1], pull.run.end_s)
