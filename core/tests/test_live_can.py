"""CAN data as the frames come in: the same channels as in the log that they make, and a memory with an end."""

from __future__ import annotations

import io
from unittest import TestCase

import numpy as np
from drives import simulated

from coombe_core.detection.can_data import align
from coombe_core.formats.can_log import read_can_log
from coombe_core.live.can import LiveCan
from coombe_core.live.timing import KEPT_S, LiveTiming
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.trace import Trace


class LiveCanTest(TestCase):
    def setUp(self):
        self.made = simulated("clean-run")
        self.sent = list(frames(self.made.motion, SimulatedCar(), 500.0, 91.0, 40.0, slip=0.3))

    def listened(self) -> LiveCan:
        can_data = LiveCan()
        for frame in self.sent:
            can_data.feed(*frame)
        return can_data

    def test_frames_that_come_in_are_the_log_that_they_make(self):
        live, logged = self.listened().log(), read_can_log(io.BytesIO(write_can_log("candump", iter(self.sent))))
        self.assertEqual(live.channels.keys(), logged.channels.keys())
        for name, channel in live.channels.items():
            np.testing.assert_array_equal(channel.value, logged.channels[name].value)
        self.assertEqual(live.modes[0][1], logged.modes[0][1])

    def test_the_last_word_of_every_channel_is_known(self):
        can_data = self.listened()
        self.assertAlmostEqual(can_data.latest["charge_percent"], 91.0, delta=0.1)
        self.assertEqual((can_data.latest["battery_temp_c"], can_data.mode), (40.0, "Sport"))

    def test_frames_of_others_and_damaged_ones_are_left_out(self):
        can_data = LiveCan()
        self.assertFalse(can_data.feed(0.0, 0x7FF, b"\0" * 8))
        self.assertFalse(can_data.feed(0.0, 0x310, b"\0"))
        self.assertIsNone(can_data.log())

    def test_only_the_last_minutes_are_kept(self):
        can_data = LiveCan()
        payload = self.sent[2][2]
        for second in range(int(5 * KEPT_S)):
            can_data.feed(float(second), self.sent[2][1], payload)
        times = can_data.log().channels["charge_percent"].time_s
        self.assertLessEqual(times[-1] - times[0], 2 * KEPT_S)
        self.assertGreaterEqual(times[-1] - times[0], KEPT_S - 1)

    def test_a_live_run_draws_on_the_can_data_beside_it(self):
        can_data = self.listened()

        def beside(trace: Trace):
            return align(can_data.log(), trace)

        timing = LiveTiming(can_data=beside)
        runs = timing.feed(self.made.trace) + timing.finish()
        self.assertIn("wheel_spin", [flag.code for flag in runs[0].flags])


class MemoryTest(TestCase):
    def test_a_long_rest_keeps_only_the_fixes_that_a_run_may_need(self):
        rest = simulated("clean-run").trace.between(0.0, 1.0)
        timing = LiveTiming()
        for second in range(int(3 * KEPT_S)):
            shifted = Trace(**{**vars(rest), "elapsed_s": rest.elapsed_s + 1.001 * second})
            timing.feed(shifted)
        kept = sum(len(piece) for piece in timing._pieces)
        self.assertLess(kept, 2 * (KEPT_S + 30) * 26)
        self.assertLessEqual(len(timing._pieces), 513)
