"""CAN logs: every log format decodes to the same channels, lines up with the receiver, and show what a run was like."""

import io
from functools import cache
from unittest import TestCase

import can
import numpy as np
from drives import simulated
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.analysis import Request, time_runs
from coombe_core.detection.can_data import AlignedCan, NoMatchError, align
from coombe_core.formats import ReadError
from coombe_core.formats.can_log import CanLog, read_can_log
from coombe_core.physics.battery.power import BatteryPower, battery_power
from coombe_core.physics.road_load import RoadLoad
from coombe_core.simulating.can import OVER_READING, frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.timing.corrections import Correction

MADE = simulated("clean-run")
CLOCK_S = 5000.0


@cache
def written(log_format: str, slip: float = 0.0) -> bytes:
    """The clean run as CAN data saw it, on a clock of its own."""
    return write_can_log(log_format, frames(MADE.motion, SimulatedCar(), CLOCK_S, 91.5, 44.0, slip))


@cache
def can_data(log_format: str = "candump", slip: float = 0.0) -> CanLog:
    return read_can_log(io.BytesIO(written(log_format, slip)))


@cache
def aligned(slip: float = 0.0) -> AlignedCan:
    return align(can_data("candump", slip), MADE.trace)


class FormatsTest(TestCase):
    def test_candump_asc_and_blf_decode_to_the_same_channels(self):
        for log_format in ("asc", "blf"):
            other = can_data(log_format)
            self.assertEqual(other.format, log_format)
            self.assertEqual(set(other.channels), set(can_data().channels))
            for name, channel in can_data().channels.items():
                np.testing.assert_allclose(other.channels[name].value, channel.value, atol=1e-9)
                spacing = np.diff(other.channels[name].time_s) - np.diff(channel.time_s)
                self.assertLess(float(np.abs(spacing).max()), 1e-4)

    def test_frames_are_those_that_python_can_reads(self):
        messages = list(can.CanutilsLogReader(io.StringIO(written("candump").decode())))
        speed = next(m for m in messages if m.arbitration_id == 784)
        self.assertAlmostEqual(can_data().channels["indicated_speed_mps"].time_s[0], speed.timestamp, 6)

    def test_a_damaged_line_is_told_and_the_rest_is_kept(self):
        lines = written("candump").splitlines()
        lines[7] = b"(5000.1 can0 31"
        read = read_can_log(io.BytesIO(b"\n".join(lines)))
        self.assertEqual([(r.line, r.reason) for r in read.rejections], [(8, "not a candump line")])

    def test_a_blf_object_of_no_size_ends_the_reading_instead_of_never(self):
        file = io.BytesIO()
        writer = can.BLFWriter(file, compression_level=0)
        for message in can.CanutilsLogReader(io.StringIO(written("candump").decode())):
            writer.on_message_received(message)
        writer.file.close = lambda: None
        writer.stop()
        whole = bytearray(file.getvalue())
        place = [i for i in range(len(whole) - 4) if whole[i : i + 4] == b"LOBJ"][2000]
        whole[place + 8 : place + 12] = bytes(4)
        read = read_can_log(io.BytesIO(bytes(whole)))
        self.assertIn("smaller than its own header", read.rejections[0].reason)
        self.assertGreater(sum(channel.time_s.size for channel in read.channels.values()), 1000)

    def test_a_foreign_dbc_and_foreign_logs_are_refused(self):
        with self.assertRaisesRegex(ReadError, "DBC"):
            read_can_log(io.BytesIO(written("candump")), dbc="this is none")
        with self.assertRaisesRegex(ReadError, "no CAN log"):
            read_can_log(io.BytesIO(b"$GPRMC,"))
        with self.assertRaisesRegex(ReadError, "nothing in this CAN log"):
            read_can_log(io.BytesIO(b"(1.000000) can0 7FF#00\n"))

    @settings(max_examples=80, deadline=None)
    @given(
        st.sampled_from(["candump", "asc", "blf"]),
        st.lists(st.tuples(st.integers(0, 4000), st.integers(0, 255)), max_size=12),
        st.integers(0, 6000),
    )
    def test_any_damage_reads_or_refuses(self, log_format, changes, end):
        damaged = bytearray(written(log_format)[:6000])
        for place, byte in changes:
            damaged[place] = byte
        try:
            read_can_log(io.BytesIO(bytes(damaged[:end])))
        except ReadError as error:
            self.assertTrue(str(error))


class AligningTest(TestCase):
    def test_the_clocks_are_brought_together_by_the_speed(self):
        expected_s = -CLOCK_S - MADE.offset_s
        self.assertAlmostEqual(aligned().offset_s.value, expected_s, delta=0.02)
        self.assertLess(abs(aligned().offset_s.value - expected_s), 1.5 * aligned().offset_s.u95 + 0.005)

    def test_the_dashboard_s_over_reading_is_found(self):
        # Common practice: an indicated 100 can be a true 97.
        self.assertAlmostEqual(aligned().over_reading, OVER_READING, delta=0.003)

    def test_another_drive_does_not_match(self):
        with self.assertRaises(NoMatchError):
            align(can_data(), simulated("five-runs").trace.between(20.0, 60.0))

    def test_the_state_is_read_at_any_time_of_the_trace(self):
        self.assertAlmostEqual(aligned().value_at("charge_percent", 4.0), 91.5)
        self.assertAlmostEqual(aligned().value_at("battery_temp_c", 4.0), 44.0)
        self.assertEqual(aligned().mode_at(4.0), "Sport")
        self.assertIsNone(aligned().value_at("no_such_channel", 4.0))

    def test_wheel_spin_on_can_is_flagged(self):
        for slip, expected in ((0.3, True), (0.0, False)):
            run = time_runs(MADE.trace, Request(), aligned(slip))[0]
            self.assertEqual("wheel_spin" in {flag.code for flag in run.flags}, expected)

    def test_the_brake_pedal_is_found_near_the_onset(self):
        stop = next(run for run in MADE.motion.runs if run.kind == "stop")
        onset_s = stop.start_s - MADE.offset_s
        pedal_s = aligned().brake_pedal_s(onset_s)
        self.assertAlmostEqual(pedal_s.value, onset_s, delta=0.1)
        run = time_runs(MADE.trace, Request(), aligned())[1]
        self.assertAlmostEqual(run.start_s, pedal_s.value, delta=0.03)
        self.assertIsNone(aligned().brake_pedal_s(4.0))

    def along(self, run, **channels) -> BatteryPower | None:
        since_s = np.arange(-1.0, run.end_s - run.start_s, 0.05)
        return battery_power(since_s, channels or aligned().sampled(run.start_s + since_s), run.curve)

    def test_battery_power_is_power_at_the_wheels_and_losses(self):
        car = SimulatedCar()
        run = time_runs(MADE.trace, Request(correction=Correction(road_load=RoadLoad.of(car.mass_kg, car.cda_m2))))[0]
        battery = self.along(run)
        for speed_mps in (25.0, 35.0, 45.0):
            at_battery = np.interp(speed_mps, battery.speed_mps, battery.power_w)
            at_wheels = np.interp(speed_mps, run.wheel_power.speed_mps, run.wheel_power.power_w)
            self.assertAlmostEqual(at_wheels / at_battery, 0.92, delta=0.02)

    def test_voltage_and_current_stand_in_for_power(self):
        run = time_runs(MADE.trace, Request())[0]
        since_s = np.arange(-1.0, run.end_s - run.start_s, 0.05)
        output = aligned().sampled(run.start_s + since_s)
        apart = self.along(
            run, battery_voltage_v=output["battery_voltage_v"], battery_current_a=output["battery_current_a"]
        )
        self.assertAlmostEqual(apart.peak_w / self.along(run).peak_w, 1.0, 2)
        self.assertIsNone(self.along(run, charge_percent=output["charge_percent"]))

    def test_outside_the_can_log_nothing_is_made_up(self):
        late_s = np.array([-1e4, 5.0, 1e6])
        charge = aligned().sampled(late_s)["charge_percent"]
        self.assertEqual(np.isnan(charge).tolist(), [True, False, True])
