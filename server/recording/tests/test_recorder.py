"""A recorder's process: what the simulated devices did is what the database holds, whatever is killed on the way."""

from __future__ import annotations

import hashlib

from django.core.files.storage import default_storage

from recording.models import Recording
from recording.tests.recording_case import RecordingCase
from runs.store import address

PACE = 6.0


class RecordTest(RecordingCase):
    def test_a_run_and_its_stop_are_stored_as_they_truly_were(self):
        with self.simulated_devices(pace=PACE) as made:
            process = self.listening()
            made.order(drive="launch", charge_percent=91.0, battery_temp_c=41.0, head_wind_mps=2.0)
            pull, stop = self.runs(2)
            log = self.stop(process)
        truths = made.truths
        self.assert_true(pull, truths[0])
        self.assert_true(stop, truths[1])
        self.assertTrue(pull.complete)
        self.assertAlmostEqual(pull.charge_before_percent, 91.0, delta=0.2)
        self.assertLessEqual(
            pull.charge_after_percent, pull.charge_before_percent
        )  # steps of 0.2, late on a busy machine
        self.assertAlmostEqual(pull.battery_temp_before_c, 41.0, delta=0.5)
        self.assertEqual((pull.wind_mps, pull.drive_mode, pull.direction), (2.0, "Sport", "out"))
        with default_storage.open(address(log.sha256)) as kept:
            self.assertEqual(hashlib.sha256(kept.read()).hexdigest(), log.sha256)
        recording = Recording.objects.get()
        self.assertEqual(recording.gaps.count(), 0)
        self.assertFalse((self.var / "spool" / str(recording.spool)).exists())
        self.assertEqual(log.can_log.format, "candump")

    def test_two_processes_never_record_with_one_recorder(self):
        with self.simulated_devices(can=False):
            first = self.listening()
            second = self.record()
            self.assertEqual(second.wait(30), 1)
            self.assertIsNone(first.poll())
            self.stop(first)
