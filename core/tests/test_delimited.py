"""The CSV reader: dialects, units, and what it refuses."""

from unittest import TestCase

import numpy as np
from drives import simulated

from coombe_core.formats import ReadError, read_log, write_log


class DelimitedTest(TestCase):
    def test_what_the_stand_in_writes_comes_back(self):
        trace = simulated("clean-run").trace
        back = read_log(write_log(trace, "csv")).trace
        np.testing.assert_allclose(back.speed_mps, trace.speed_mps, rtol=1e-8)
        np.testing.assert_allclose(back.elapsed_s, trace.elapsed_s, atol=2e-3)

    def test_semicolons_and_decimal_commas(self):
        trace = read_log(b"Time (s);Speed (km/h)\n0,00;36,0\n0,04;37,8\n").trace
        np.testing.assert_allclose(trace.speed_mps, [10.0, 10.5])
        self.assertFalse(trace.date_known)

    def test_mph_and_knots_are_converted_by_the_header(self):
        self.assertAlmostEqual(read_log(b"t,speed_mph\n0,60\n1,60\n").trace.speed_mps[0], 26.8224)
        self.assertAlmostEqual(read_log(b"t,speed_kn\n0,10\n1,10\n").trace.speed_mps[0], 5.144444, 5)

    def test_unknown_columns_are_passed_over(self):
        trace = read_log(b"elapsed_s,color,speed_mps\n0,blue,1\n0.1,red,2\n").trace
        self.assertEqual(trace.speed_mps.tolist(), [1, 2])

    def test_a_row_without_speed_is_rejected_by_line(self):
        reading = read_log(b"elapsed_s,speed_mps\n0,1\n0.1,NaN\n0.2,abc\n0.3,-4\n0.4\n0.5,2\n")
        self.assertEqual([r.line for r in reading.rejections], [3, 4, 5, 6])
        self.assertEqual(len(reading.trace), 2)

    def test_a_header_without_speed_unit_is_refused_with_its_names(self):
        with self.assertRaisesRegex(ReadError, "line 1: no speed column.*velocity"):
            read_log(b"time,velocity,lat\n0,1,2\n")

    def test_a_header_without_time_is_refused(self):
        with self.assertRaisesRegex(ReadError, "line 1: no time column"):
            read_log(b"speed_mps,lat\n1,2\n")

    def test_a_gpx_file_is_named_as_such_whatever_its_name(self):
        with self.assertRaisesRegex(ReadError, "GPX"):
            read_log(b'<?xml version="1.0"?><gpx version="1.1"></gpx>')

    def test_a_height_that_nothing_on_earth_has_is_no_height(self):
        data = b"time_utc,speed_mps,altitude_m\n2026-05-09T10:00:00Z,1,1e300\n2026-05-09T10:00:01Z,1,88\n"
        altitude_m = read_log(data).trace.altitude_m
        self.assertTrue(np.isnan(altitude_m[0]))
        self.assertEqual(altitude_m[1], 88.0)

    def test_an_empty_file_is_told(self):
        with self.assertRaisesRegex(ReadError, "empty"):
            read_log(b" \r\n ")
