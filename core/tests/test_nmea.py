"""The NMEA reader, against pynmea2 and against damage."""

import io
from unittest import TestCase

import pynmea2
from drives import nmea
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.reading import ReadError, Reading, read_log
from coombe_core.reading.nmea import read as read_stream
from coombe_core.units import KNOT_MPS

CLEAN = nmea("clean-run")
SHORT = b"".join(CLEAN.splitlines(keepends=True)[:60])


def read(data: bytes) -> Reading:
    return read_stream(io.BytesIO(data))


def sentence(body: str) -> bytes:
    """A sentence with its checksum, by pynmea2."""
    return f"${body}*{pynmea2.NMEASentence.checksum(body):02X}\r\n".encode()


def rmc(clock: str, speed: str = "10.000", date: str = "090526") -> bytes:
    return sentence(f"GPRMC,{clock},A,5100.0000,N,00200.0000,W,{speed},68.0,{date},,,A")


class NmeaAgainstPynmea2Test(TestCase):
    def test_every_fix_agrees_with_the_usual_library(self):
        trace = read(CLEAN).trace
        parsed = [pynmea2.parse(line.decode().strip()) for line in CLEAN.splitlines()]
        fixes = [message for message in parsed if message.sentence_type == "RMC"]
        heights = [message for message in parsed if message.sentence_type == "GGA"]
        self.assertEqual(len(trace), len(fixes))
        for row in range(0, len(fixes), 37):
            fix, height = fixes[row], heights[row]
            self.assertAlmostEqual(trace.speed_mps[row], float(fix.spd_over_grnd) * KNOT_MPS, 9)
            self.assertAlmostEqual(trace.latitude_deg[row], fix.latitude, 9)
            self.assertAlmostEqual(trace.longitude_deg[row], fix.longitude, 9)
            self.assertAlmostEqual(trace.altitude_m[row], float(height.altitude), 9)
            self.assertEqual(trace.satellites[row], int(height.num_sats))
            moment = trace.utc_at(trace.elapsed_s[row])
            self.assertLess(abs((moment - fix.datetime).total_seconds()), 1e-5)


class NmeaDamageTest(TestCase):
    def test_a_wrong_checksum_rejects_its_line_and_names_it(self):
        lines = SHORT.splitlines(keepends=True)
        lines[4] = lines[4].replace(b",A,", b",A,9", 1)
        reading = read(b"".join(lines))
        self.assertEqual([(r.line, r.reason) for r in reading.rejections], [(5, "checksum does not match")])
        self.assertEqual(len(reading.trace), 29)

    def test_binary_between_sentences_is_passed_over(self):
        mixed = SHORT.replace(b"\r\n", b"\r\n\xb5\x62\x01\x07\x00$\xff\n", 10)
        self.assertEqual(len(read(mixed).trace), 30)

    def test_a_truncated_log_keeps_all_whole_sentences(self):
        self.assertEqual(len(read(SHORT[:-40]).trace), 30)
        self.assertEqual(len(read(SHORT[:-130]).trace), 29)

    def test_time_running_backwards_is_told_by_line(self):
        reading = read(rmc("100000.00") + rmc("100000.10") + rmc("095959.00") + rmc("100000.20"))
        self.assertEqual(len(reading.trace), 3)
        self.assertEqual([r.line for r in reading.rejections], [3])

    def test_midnight_is_passed_without_a_gap(self):
        reading = read(rmc("235959.90") + rmc("000000.00", date="100526") + rmc("000000.10", date="100526"))
        self.assertEqual(reading.trace.elapsed_s.tolist(), [0.0, 0.1, 0.2])

    def test_a_missing_date_is_known_to_be_missing(self):
        reading = read(rmc("235959.90", date="") + rmc("000000.00", date="") + rmc("000000.10", date=""))
        self.assertFalse(reading.trace.date_known)
        self.assertEqual(reading.trace.elapsed_s.tolist(), [0.0, 0.1, 0.2])

    def test_one_fix_is_a_log_without_runs(self):
        self.assertEqual(len(read(rmc("100000.00")).trace), 1)

    def test_a_log_without_any_fix_says_why(self):
        void = sentence("GPRMC,100000.00,V,,,,,,,090526,,,N")
        with self.assertRaisesRegex(ReadError, "line 1: no fix yet"):
            read(void)

    def test_positions_without_speed_name_the_sentence_that_is_missing(self):
        gga = sentence("GPGGA,100000.00,5100.0,N,00200.0,W,1,09,0.9,100.0,M,47.0,M,,")
        with self.assertRaisesRegex(ReadError, "RMC"):
            read(gga)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, len(SHORT)), st.integers(0, len(SHORT)))
    def test_any_slice_reads_or_refuses(self, start, end):
        try:
            reading = read_log(SHORT[start:end])
        except ReadError:
            return
        self.assertGreater(len(reading.trace), 0)

    @settings(max_examples=80, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, len(SHORT) - 1), st.integers(0, 255)), max_size=30))
    def test_any_damage_reads_or_refuses(self, changes):
        damaged = bytearray(SHORT)
        for place, octet in changes:
            damaged[place] = octet
        try:
            read_log(bytes(damaged))
        except ReadError as error:
            self.assertTrue(str(error))

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=400))
    def test_random_bytes_never_raise_anything_else(self, data):
        try:
            read_log(data)
        except ReadError as error:
            self.assertTrue(str(error))
