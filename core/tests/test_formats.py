"""Every format in and out: what goes out comes back, other libraries agree, and damage never does worse than refuse."""

import io
import json
from dataclasses import replace
from datetime import UTC, datetime
from unittest import TestCase, mock

import gpxpy
import numpy as np
import polars as pl
from drives import nmea, simulated
from geographiclib.geodesic import Geodesic
from hypothesis import given, settings
from hypothesis import strategies as st
from pyubx2 import GET, UBXMessage, UBXReader, calc_checksum

from coombe_core.analysis import Request, analyse_log, time_runs
from coombe_core.formats import ReadError, read_log, write_log
from coombe_core.formats.ubx import decoded
from coombe_core.trace import COLUMNS

TRACE = simulated("clean-run").trace
SHORT = TRACE.between(3.0, 6.0)
SHORT_AT_ZERO = replace(SHORT, elapsed_s=SHORT.elapsed_s - SHORT.elapsed_s[0], start_utc=SHORT.utc_at(3.0))
WRITTEN = ("csv", "gpx", "parquet", "ubx", "tpv")
LOGS = {name: write_log(SHORT, name) for name in WRITTEN} | {"nmea": nmea("clean-run")[:9000]}


class RoundTripTest(TestCase):
    def test_a_table_of_more_rows_than_a_process_should_take_is_refused_before_any_is_decoded(self):
        """Twenty million rows compress to a few kilobytes."""
        rows = np.zeros(20_000_000)
        out = io.BytesIO()
        pl.DataFrame({"elapsed_s": rows, "speed_mps": rows}).write_parquet(out)
        self.assertLess(len(out.getvalue()), 1_000_000)
        with self.assertRaisesRegex(ReadError, "more than 2,500,000 rows; split it"):
            read_log(out.getvalue())
        with mock.patch("coombe_core.formats.delimited.MOST_FIXES", 10), self.assertRaisesRegex(ReadError, "split it"):
            read_log(b"elapsed_s,speed_mps\n" + b"1,2\n" * 20)

    def test_what_goes_out_as_csv_gpx_and_parquet_comes_back_unchanged(self):
        for name in ("csv", "gpx", "parquet"):
            reading = read_log(write_log(TRACE, name))
            self.assertEqual(reading.format, name)
            self.assertEqual(reading.rejections, [])
            self.assertEqual(reading.trace.start_utc, TRACE.start_utc)
            for column in COLUMNS:
                np.testing.assert_array_equal(
                    getattr(reading.trace, column), getattr(TRACE, column), f"{name} {column}"
                )

    def test_every_format_gives_the_same_times(self):
        rollouts = {
            name: time_runs(read_log(write_log(TRACE, name)).trace, Request())[0]
            .measured("1/4 mile", "rollout")
            .time_s.value
            for name in WRITTEN
        }
        self.assertLess(max(rollouts.values()) - min(rollouts.values()), 0.001, rollouts)


def _signed(frame: bytes) -> bytes:
    """A UBX frame with its checksum, as pyubx2 works it out."""
    return frame + calc_checksum(frame[2:])


def _resigned(frame: bytes, place: int, value: int) -> bytes:
    """A UBX frame with one of its bytes replaced, and a checksum that fits."""
    return _signed(frame[:place] + bytes([value]) + frame[place + 1 : -2])


class UbxTest(TestCase):
    def test_fixes_are_those_of_pyubx2(self):
        trace = read_log(LOGS["ubx"]).trace
        messages = [message for _, message in UBXReader(io.BytesIO(LOGS["ubx"]))]
        self.assertEqual(len(trace), len(messages))
        for row in range(0, len(messages), 11):
            self.assertAlmostEqual(trace.speed_mps[row], messages[row].gSpeed / 1000, 9)
            self.assertAlmostEqual(trace.latitude_deg[row], messages[row].lat, 9)
            self.assertAlmostEqual(trace.speed_accuracy_mps[row], messages[row].sAcc / 1000, 9)
            self.assertEqual(trace.fix_quality[row], 4.0)

    def test_columns_are_those_of_pyubx2_whatever_the_receiver_says(self):
        draw = np.random.default_rng(5)
        messages = [
            UBXMessage(
                "NAV",
                "NAV-PVT",
                GET,
                year=2026,
                month=int(draw.integers(1, 13)),
                day=int(draw.integers(1, 29)),
                hour=int(draw.integers(24)),
                min=int(draw.integers(60)),
                second=int(draw.integers(61)),
                nano=int(draw.integers(-500_000_000, 1_000_000_000)),
                fixType=3,
                gnssFixOk=1,
                diffSoln=int(draw.integers(2)),
                carrSoln=int(draw.integers(3)),
                numSV=int(draw.integers(40)),
                lat=float(draw.uniform(-90, 90)),
                lon=float(draw.uniform(-180, 180)),
                hMSL=int(draw.integers(-400_000, 4_000_000)),
                gSpeed=int(draw.integers(90_000)),
                headMot=float(draw.uniform(0, 360)),
                velD=int(draw.integers(-9_000, 9_000)),
                sAcc=int(draw.integers(2_000)),
            )
            for _ in range(40)
        ]
        fixes = decoded([message.serialize() for message in messages])
        self.assertTrue(fixes.usable.all())
        for row, sent in enumerate(messages):
            message = UBXReader.parse(sent.serialize())
            whole = datetime(message.year, message.month, message.day, message.hour, message.min, tzinfo=UTC)
            self.assertAlmostEqual(fixes.utc_s[row], whole.timestamp() + message.second + message.nano * 1e-9, 6)
            read = {name: float(column[row]) for name, column in fixes.columns.items()}
            quality = {0: 2.0 if message.diffSoln else 1.0, 1: 5.0, 2: 4.0}[message.carrSoln]
            for name, value in {
                "speed_mps": message.gSpeed / 1000,
                "latitude_deg": message.lat,
                "longitude_deg": message.lon,
                "course_deg": message.headMot,
                "altitude_m": message.hMSL / 1000,
                "satellites": message.numSV,
                "climb_mps": -message.velD / 1000,
                "speed_accuracy_mps": message.sAcc / 1000,
                "fix_quality": quality,
            }.items():
                self.assertAlmostEqual(read[name], value, 7, name)

    def test_damaged_and_other_messages_are_counted_and_passed_over(self):
        good = LOGS["ubx"][:100]
        other = UBXMessage("MON", "MON-VER", GET, swVersion=b"1" * 30, hwVersion=b"2" * 10).serialize()
        damaged = good[:50] + b"\x01" + good[51:]
        undated = _resigned(good, 6 + 6, 0)
        without_fix = _resigned(good, 6 + 20, 0)
        log = b"noise" + good + other + damaged + undated + without_fix + LOGS["ubx"][100:400]
        reading = read_log(log)
        self.assertEqual(len(reading.trace), 4)
        read = {rejection.line: rejection.reason.split(" (")[0] for rejection in reading.rejections}
        self.assertEqual(read, {3: "damaged message", 4: "NAV-PVT message without a date", 5: "no fix yet"})

    def test_a_shorter_nav_pvt_of_an_older_receiver_is_read(self):
        older = b"".join(
            _signed(LOGS["ubx"][at : at + 4] + b"\x54\x00" + LOGS["ubx"][at + 6 : at + 90]) for at in (0, 100, 200)
        )
        np.testing.assert_array_equal(read_log(older).trace.speed_mps, read_log(LOGS["ubx"][:300]).trace.speed_mps)

    def test_a_receiver_without_a_fix_is_told(self):
        damaged = LOGS["ubx"][:100].replace(b"\x03\x81", b"\x00\x00")
        with self.assertRaisesRegex(ReadError, "no fix|holds no fix"):
            read_log(damaged)


class GpxTest(TestCase):
    def test_points_are_those_of_gpxpy(self):
        trace = read_log(LOGS["gpx"]).trace
        points = gpxpy.parse(LOGS["gpx"]).tracks[0].segments[0].points
        self.assertEqual([p.latitude for p in points], trace.latitude_deg.tolist())
        self.assertEqual([p.elevation for p in points], trace.altitude_m.tolist())

    def test_a_point_that_lacks_what_others_state_changes_nothing_of_them(self):
        first_without = LOGS["gpx"].replace(b"<sat>", b"<!--", 1).replace(b"</sat>", b"-->", 1)
        whole, without = read_log(LOGS["gpx"]).trace, read_log(first_without).trace
        self.assertTrue(np.isnan(without.satellites[0]) and np.isfinite(whole.satellites).all())
        np.testing.assert_array_equal(without.satellites[1:], whole.satellites[1:])
        for name in set(COLUMNS) - {"satellites"}:
            np.testing.assert_array_equal(getattr(without, name), getattr(whole, name), name)

    def test_every_column_is_that_of_gpxpy(self):
        trace = read_log(LOGS["gpx"]).trace
        points = gpxpy.parse(LOGS["gpx"]).tracks[0].segments[0].points
        read = {name: getattr(trace, name).tolist() for name in ("longitude_deg", "satellites", "hdop", "elapsed_s")}
        self.assertEqual([p.longitude for p in points], read["longitude_deg"])
        self.assertEqual([p.satellites for p in points], read["satellites"])
        self.assertEqual([p.horizontal_dilution for p in points], read["hdop"])
        np.testing.assert_allclose([(p.time - points[0].time).total_seconds() for p in points], read["elapsed_s"])
        by_name = {e.tag.rsplit("}", 1)[-1]: e.text for e in points[7].extensions}
        self.assertEqual(float(by_name["speed"]), trace.speed_mps[7])
        self.assertEqual(float(by_name["course"]), trace.course_deg[7])

    def test_points_that_lack_something_are_told_by_number(self):
        point = '<trkpt lat="51" lon="-2"><time>2026-05-09T{}</time><speed>{}</speed><sat>{}</sat></trkpt>'
        given = (
            point.format("09:00:00Z", 3, 12),
            '<trkpt lat="51" lon="-2"><speed>3</speed></trkpt>',
            point.format("10:00:02.5+01:00", 4, "many"),
            '<trkpt lat="51"><time>2026-05-09T09:00:03Z</time></trkpt><!-- a note -->',
            point.format("09:00:04", "quick", 12),
            point.format("09:00:05Z", 5, "").replace(
                "</trkpt>", "<extensions><Heading>91</Heading></extensions></trkpt>"
            ),
        )
        body = f"<trk><trkseg>{''.join(given)}</trkseg></trk>"
        reading = read_log(f'<gpx version="1.0" xmlns="http://example.org/gpx">{body}</gpx>'.encode())
        self.assertEqual([3.0, 4.0, 5.0], reading.trace.speed_mps.tolist())
        self.assertEqual([0.0, 2.5, 5.0], reading.trace.elapsed_s.tolist())
        np.testing.assert_array_equal([12.0, np.nan, np.nan], reading.trace.satellites)
        np.testing.assert_array_equal([np.nan, np.nan, 91.0], reading.trace.course_deg)
        self.assertEqual([rejection.line for rejection in reading.rejections], [2, 4, 5])

    def test_without_speed_it_comes_from_geodesic_lengths_and_is_flagged(self):
        bare = "".join(
            f'<trkpt lat="{51 + 0.0001 * i:.7f}" lon="-2"><time>2026-05-09T09:00:{i:02d}Z</time></trkpt>'
            for i in range(20)
        )
        gpx = f'<?xml version="1.0"?><gpx version="1.1" creator="t"><trk><trkseg>{bare}</trkseg></trk></gpx>'
        trace = read_log(gpx.encode()).trace
        length_m = Geodesic.WGS84.Inverse(51.0, -2, 51.0001, -2)["s12"]
        np.testing.assert_allclose(trace.speed_mps, length_m, rtol=1e-4)
        self.assertTrue(trace.speed_from_positions)

    def test_entities_and_document_types_are_refused(self):
        bomb = b'<?xml version="1.0"?><!DOCTYPE gpx [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><gpx>&b;</gpx>'
        for text in (bomb, bomb.decode().encode("utf-16")):
            with self.assertRaisesRegex(ReadError, "document type"):
                read_log(text)

    def test_a_track_without_times_names_its_points(self):
        gpx = b'<gpx version="1.1"><trk><trkseg><trkpt lat="1" lon="2"/></trkseg></trk></gpx>'
        with self.assertRaisesRegex(ReadError, "few points|without a time"):
            read_log(gpx)


class PositioningTest(TestCase):
    def test_reports_with_odd_values_are_told_by_line(self):
        lines = LOGS["tpv"].splitlines()
        report = json.loads(lines[5])
        lines[5] = json.dumps(report | {"mode": 1}).encode()
        lines[7] = json.dumps(report | {"speed": "fast"}).encode()
        lines[9] = b'{"class": "TPV", '
        reading = read_log(b"\n".join(lines))
        self.assertEqual([rejection.line for rejection in reading.rejections], [6, 8, 10])
        self.assertEqual(reading.trace.satellites[0], 17)

    def test_a_status_that_is_no_number_leaves_the_quality_unknown(self):
        lines = LOGS["tpv"].splitlines()
        place = next(i for i, line in enumerate(lines) if b'"TPV"' in line)
        for odd in ({}, [1], "1", None):
            lines[place] = json.dumps(json.loads(lines[place]) | {"status": odd}).encode()
            reading = read_log(b"\n".join(lines))
            self.assertEqual(len(reading.rejections), 0)
            self.assertTrue(np.isnan(reading.trace.fix_quality[0]))


class DamageTest(TestCase):
    def read_or_refuse(self, data: bytes) -> None:
        try:
            analyse_log(data)
        except ReadError as error:
            self.assertTrue(str(error))

    @settings(max_examples=30, deadline=None)
    @given(st.sampled_from(sorted(LOGS)), st.floats(0, 1), st.floats(0, 1))
    def test_any_prefix_and_suffix_reads_or_refuses(self, name, start, end):
        log = LOGS[name]
        self.read_or_refuse(log[int(start * len(log)) :])
        self.read_or_refuse(log[: int(end * len(log))])

    @settings(max_examples=45, deadline=None)
    @given(
        st.sampled_from(sorted(LOGS)),
        st.lists(st.tuples(st.floats(0, 1, exclude_max=True), st.integers(0, 255)), max_size=20),
    )
    def test_any_damage_reads_or_refuses(self, name, changes):
        damaged = bytearray(LOGS[name])
        for place, byte in changes:
            damaged[int(place * len(damaged))] = byte
        self.read_or_refuse(bytes(damaged))

    @settings(max_examples=30, deadline=None)
    @given(
        st.sampled_from([b"\xb5\x62\x01\x07", b"<gpx", b'{"class":"TPV"', b"PAR1", b"$GPRMC,", b"utc,speed_mps\n"]),
        st.binary(max_size=300),
    )
    def test_random_bytes_behind_any_format_s_mark_never_raise_anything_else(self, mark, data):
        self.read_or_refuse(mark + data)
