"""The NMEA reader, against pynmea2 and against damage."""

import io
from unittest import TestCase, mock

import numpy as np
import pynmea2
from drives import nmea
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.formats import ReadError, Reading, read_log
from coombe_core.formats.nmea import read as read_stream
from coombe_core.trace import COLUMNS
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


NUMBERS = st.decimals(0, 180, allow_nan=False, places=3)
EPOCHS = st.lists(
    st.tuples(
        st.integers(0, 8999).map(lambda n: f"{n // 100:02d}{n % 60:02d}.{n % 9999:04d}"),
        st.integers(0, 17999).map(lambda n: f"{n // 100:03d}{n % 60:02d}.{n % 9999:04d}"),
        *(st.sampled_from("NS"), st.sampled_from("EW"), NUMBERS, NUMBERS),
        *(st.integers(0, 24), st.decimals("0.5", 20, places=1), st.decimals(-90, 4000, places=3)),
    ),
    min_size=1,
    max_size=12,
)


class AnyEpochTest(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(EPOCHS)
    def test_whatever_a_receiver_states_is_read_as_the_usual_library_reads_it(self, epochs):
        lines = []
        for number, (north, east, ns, ew, knots, course, satellites, hdop, height) in enumerate(epochs):
            clock = f"10{number // 60:02d}{number % 60:02d}.00"
            lines.append(sentence(f"GNGGA,{clock},{north},{ns},{east},{ew},1,{satellites},{hdop},{height},M,47.0,M,,"))
            lines.append(sentence(f"GNRMC,{clock},A,{north},{ns},{east},{ew},{knots},{course},090526,,,A"))
        reading = read(b"".join(lines))
        self.assertEqual(reading.rejections, [])
        for row, (height, fix) in enumerate(zip(lines[::2], lines[1::2], strict=True)):
            gga, rmc = (pynmea2.parse(line.decode().strip()) for line in (height, fix))
            self.assertAlmostEqual(reading.trace.latitude_deg[row], rmc.latitude, 9)
            self.assertAlmostEqual(reading.trace.longitude_deg[row], rmc.longitude, 9)
            self.assertAlmostEqual(reading.trace.speed_mps[row], float(rmc.spd_over_grnd) * KNOT_MPS, 9)
            self.assertAlmostEqual(reading.trace.course_deg[row], float(rmc.true_course), 9)
            self.assertAlmostEqual(reading.trace.altitude_m[row], float(gga.altitude), 9)
            self.assertEqual(reading.trace.satellites[row], int(gga.num_sats))
            self.assertAlmostEqual(reading.trace.hdop[row], float(gga.horizontal_dil), 9)


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
        for place, byte in changes:
            damaged[place] = byte
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


class OtherSentencesTest(TestCase):
    """Receivers that say it in other sentences than RMC."""

    def log(self, *bodies: str) -> bytes:
        """A second of fixes ten times a second; `{t}` stands for the time."""
        return b"".join(sentence(body.format(t=f"10000{i / 10:.2f}")) for i in range(10) for body in bodies)

    def test_gga_with_vtg_and_zda_gives_place_speed_and_date(self):
        zda = "GPZDA,{t},09,05,2026,00,00"
        gga = "GPGGA,{t},5100.6000,N,00200.0000,W,4,12,0.8,101.5,M,47.0,M,,"
        trace = read(self.log(zda, gga, "GPVTG,68.0,T,,M,19.438,N,36.000,K,D")).trace
        self.assertEqual(trace.start_utc.isoformat(), "2026-05-09T10:00:00+00:00")
        self.assertAlmostEqual(trace.speed_mps[0], 10.0, 6)
        self.assertAlmostEqual(trace.latitude_deg[0], 51.01, 9)
        self.assertEqual((trace.course_deg[0], trace.altitude_m[0], trace.fix_quality[0]), (68.0, 101.5, 4.0))

    def test_gns_gives_quality_by_its_mode(self):
        gns = "GNGNS,{t},5100.0,S,00200.0,E,RR,18,0.6,88.0,47.0,,"
        trace = read(self.log(gns, "GNVTG,68.0,T,,M,10.0,N,,K,D")).trace
        self.assertEqual((trace.fix_quality[0], trace.satellites[0], trace.altitude_m[0]), (4.0, 18.0, 88.0))
        self.assertAlmostEqual(trace.speed_mps[0], 10 * KNOT_MPS, 6)
        self.assertAlmostEqual(trace.latitude_deg[0], -51.0)
        self.assertFalse(trace.date_known)

    def test_gsa_gives_the_geometry_that_no_other_sentence_has(self):
        gsa = "GNGSA,A,3,01,02,03,04,05,06,07,08,,,,,1.9,1.4,1.2"
        body = "GPRMC,{t},A,5100.0000,N,00200.0000,W,10.0,68.0,090526,,,D"
        trace = read(self.log(gsa, body)).trace
        self.assertEqual((trace.hdop[0], trace.fix_quality[0]), (1.4, 2.0))

    def test_a_maker_s_own_sentence_is_passed_over_in_silence(self):
        reading = read(rmc("100000.00") + b"$PXYZ,1,2*00\r\n" + rmc("100000.10"))
        self.assertEqual((len(reading.trace), reading.rejections), (2, []))

    def test_all_rejected_lines_are_counted_and_the_first_are_kept(self):
        back = rmc("095959.00") * 12_000
        rejections = read(rmc("100000.00") + back).rejections
        self.assertEqual((rejections.total, len(rejections), rejections[0].line), (12_000, 10_000, 2))

    def test_vtg_stands_in_where_an_rmc_is_damaged(self):
        gga = "GPGGA,{t},5100.6000,N,00200.0000,W,4,12,0.8,101.5,M,47.0,M,,"
        body = "GPRMC,{t},A,5100.6000,N,00200.0000,W,19.438,68.0,090526,,,D"
        whole = self.log(body, gga, "GPVTG,68.0,T,,M,19.438,N,36.000,K,D")
        damaged = whole.replace(b"$GPRMC,100000.30,A", b"$GPRMC,100000.30,V", 1)
        trace = read(damaged).trace
        self.assertEqual(len(trace), 10)
        self.assertAlmostEqual(trace.speed_mps[3], 10.0, 6)
        self.assertAlmostEqual(trace.latitude_deg[3], 51.01, 9)


class PiecesTest(TestCase):
    """A long log is read in pieces, several at a time; where they end changes nothing."""

    def logs(self):
        others = OtherSentencesTest()
        gga, vtg = "GPGGA,{t},5100.6000,N,00200.0000,W,4,12,,101.5,M,47.0,M,,", "GPVTG,68.0,T,,M,19.438,N,36.000,K,D"
        gsa = "GNGSA,A,3,01,02,03,04,05,06,07,08,,,,,1.9,1.4,1.2"
        yield SHORT
        yield others.log("GPZDA,{t},09,05,2026,00,00", gga, vtg)
        yield others.log(gsa, gga, vtg, "GPRMC,{t},A,5100.0000,N,00200.0000,W,10.0,68.0,090526,,,D")
        yield SHORT.replace(b"\r\n", b"\r\n\xb5\x62\x01\x07\x00$\xff\n", 10).replace(b",A,", b",A,9", 3)

    @settings(max_examples=20, deadline=None)
    @given(st.integers(200, 3000))
    def test_the_size_of_a_piece_changes_no_fix_and_no_rejection(self, piece_bytes):
        for log in self.logs():
            whole = read(log)
            with mock.patch("coombe_core.formats.nmea.PIECE_BYTES", piece_bytes):
                pieces = read(log)
            self.assertEqual(pieces.rejections, whole.rejections)
            for name in COLUMNS:
                np.testing.assert_array_equal(getattr(pieces.trace, name), getattr(whole.trace, name), name)

    def test_lines_of_a_long_log_are_counted_over_its_pieces(self):
        long = b"".join(rmc(f"{10 + i // 3600:02d}{i // 60 % 60:02d}{i % 60:02d}.00") for i in range(16_000))
        damaged = bytearray(long)
        damaged[long.index(b"140000.00")] = ord("9")
        with mock.patch("coombe_core.formats.nmea.PIECE_BYTES", 1 << 17):
            whole, reading = read(long), read(bytes(damaged))
        self.assertEqual((len(whole.trace), whole.rejections), (16_000, []))
        self.assertEqual([r.line for r in reading.rejections], [14_401])
