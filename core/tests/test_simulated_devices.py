"""The simulated devices speak what real devices speak, and agree with each other and with the truth."""

from __future__ import annotations

import socket
from itertools import pairwise
from unittest import TestCase

import can
import cantools
from serial import serial_for_url

from coombe_core.analysis import AnalyzedRun
from coombe_core.formats.can_log import OWN_DBC
from coombe_core.formats.weather import read_metar
from coombe_core.live.streaming import StreamReader
from coombe_core.live.timing import LiveTiming
from coombe_core.simulating.in_thread import Running, running

PACE = 12.0


def timed(made: Running, intent: str, wanted: int, **order: object) -> list[AnalyzedRun]:
    """The runs that the receiver shows while the driver does something, read through pyserial as from a device."""
    reader, timing, runs = StreamReader(), LiveTiming(), []
    with serial_for_url(made.receiver_url, timeout=0.05) as port:
        made.order(drive=intent, **order)
        while len(runs) < wanted:
            piece = reader.feed(port.read(65_536)).complete
            if piece:
                runs += timing.feed(piece)
    return sorted(runs, key=lambda run: run.start_s)


class ReceiverTest(TestCase):
    def test_a_launch_and_its_stop_are_timed_as_they_truly_were(self):
        for output in ("nmea", "ubx"):
            with self.subTest(output), running(output, PACE) as made:
                pull, stop = timed(made, "launch", 2, measure="1/4 mile")
                truths = made.order(truth=True)["truth"]
                self.assertEqual([truth["kind"] for truth in truths], ["standing", "stop"])
                true = {(row["name"], row["clock"]): row for row in truths[0]["measures"]}
                for name, clock in (("0-60 mph", "rollout"), ("1/4 mile", "rollout"), ("0-100 km/h", "first_movement")):
                    ours, theirs = pull.measured(name, clock).time_s, true[name, clock]["time_s"]
                    self.assertAlmostEqual(ours.value, theirs, delta=2 * ours.u95)
                self.assertEqual((pull.complete, stop.kind), (True, "stop"))

    def test_what_the_driver_does_raises_its_flag(self):
        for intent, flag, wanted in (("jump", "jumped", 2), ("lift early", "aborted", 1), ("spin", "wheel_spin", 2)):
            with self.subTest(intent), running(pace=PACE) as made:
                pull = next(run for run in timed(made, intent, wanted) if run.kind == "standing")
                self.assertIn(flag, [each.code for each in pull.flags])

    def test_an_interruption_shows_as_a_gap(self):
        with running(pace=6.0) as made, serial_for_url(made.receiver_url, timeout=0.05) as port:
            reader, times = StreamReader(), []
            while not times or times[-1] < 4.0:
                came = [elapsed_s for elapsed_s, _ in reader.feed(port.read(65_536)).fresh]
                if came and not times:
                    made.order(drop_out_s=1.5)
                times += came
            self.assertAlmostEqual(max(b - a for a, b in pairwise(times)), 1.5, delta=0.1)

    def test_the_first_fix_takes_its_time(self):
        with running(pace=PACE, first_fix_s=2.0) as made, serial_for_url(made.receiver_url, timeout=0.05) as port:
            reader = StreamReader()
            while not (received := reader.feed(port.read(65_536))).fresh:
                pass
            late_s = (reader.start_utc - made.made.receiver.receiver.start_utc).total_seconds()
            self.assertAlmostEqual(late_s + received.fresh[0][0], 2.0, delta=0.05)


class OtherDevicesTest(TestCase):
    def test_the_simulated_car_sends_frames_of_the_dbc_over_a_python_can_interface(self):
        with running(pace=PACE) as made:
            made.order(charge_percent=81.5, battery_temp_c=38.5)
            seen = {}
            with can.Bus(interface="socketcand", channel="can0", host="127.0.0.1", port=made.ports.can) as can_data:
                database = cantools.database.load_file(OWN_DBC)
                while not {"Charge", "BatteryTemp", "IndicatedSpeed", "DriveMode"} <= seen.keys():
                    message = can_data.recv(5.0)
                    seen |= database.decode_message(message.arbitration_id, message.data)
            self.assertAlmostEqual(seen["Charge"], 81.5, delta=0.1)
            self.assertAlmostEqual(seen["BatteryTemp"], 38.5, delta=0.5)

    def test_the_weather_station_sends_a_report_that_the_reader_knows(self):
        with running(pace=PACE) as made, socket.create_connection(("127.0.0.1", made.ports.weather), 10) as line:
            report = read_metar(line.makefile().readline())
        self.assertEqual((report.temp_c, report.sea_level_hpa, report.wind_from_deg), (15.0, 1013.0, 70.0))

    def test_an_order_that_is_none_is_refused_with_a_sentence(self):
        with running(pace=PACE) as made:
            for order in ({"drive": "loop"}, {"rate_hz": 900}, {"car": {"wings": 2}}, {"charge_percent": "much"}):
                self.assertIn("error", made.order(**order))
            self.assertTrue(made.order()["idle"])
