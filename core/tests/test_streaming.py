"""The stream readers: any pieces of the bytes give exactly the fixes that the file's reader finds."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from itertools import pairwise
from unittest import TestCase

import numpy as np
from drives import simulated
from hypothesis import given, settings
from hypothesis import strategies as st

from coombe_core.formats import read_log, write_log
from coombe_core.live.streaming import StreamReader
from coombe_core.trace import COLUMNS, Trace

LINE = "GNGGA,{clock},5118.6,N,00301.2,W,4,17,0.7,120.5,M,47.0,M,,"


def short() -> Trace:
    return simulated("clean-run").trace.between(3.0, 8.0)


@cache
def as_sent(name: str) -> bytes:
    return write_log(short(), name)


def sentence(body: str) -> bytes:
    total = 0
    for byte in body.encode():
        total ^= byte
    return f"${body}*{total:02X}\r\n".encode()


def stream(data: bytes, cuts: list[int], reader: StreamReader | None = None) -> Trace:
    reader = reader or StreamReader()
    edges = [0, *sorted({cut for cut in cuts if cut < len(data)}), len(data)]
    got = [reader.feed(data[a:b]).complete for a, b in pairwise(edges)]
    return Trace.joined([piece for piece in [*got, reader.finish().complete] if piece])


class StreamTest(TestCase):
    def assert_equal(self, ours: Trace, theirs: Trace):
        self.assertEqual(ours.start_utc, theirs.start_utc)
        for name in COLUMNS:
            np.testing.assert_array_equal(getattr(ours, name), getattr(theirs, name), err_msg=name)

    @settings(max_examples=12, deadline=None)
    @given(st.sampled_from(["nmea", "ubx"]), st.lists(st.integers(1, 18_000), max_size=12))
    def test_pieces_of_any_length_give_what_the_file_gives(self, name, cuts):
        self.assert_equal(stream(as_sent(name), cuts), read_log(as_sent(name)).trace)

    @settings(max_examples=30, deadline=None)
    @given(
        st.sampled_from(["nmea", "ubx"]),
        st.lists(st.tuples(st.integers(200, 18_000), st.integers(0, 255)), min_size=1, max_size=6),
        st.lists(st.integers(1, 18_000), max_size=4),
    )
    def test_damage_costs_a_stream_what_it_costs_a_file(self, name, damage, cuts):
        data = bytearray(as_sent(name))
        for place, byte in damage:
            data[place % len(data)] = byte
        self.assert_equal(stream(bytes(data), cuts), read_log(bytes(data)).trace)

    def test_a_fix_is_fresh_before_its_epoch_is_over(self):
        reader = StreamReader()
        first, second = write_log(short(), "nmea").splitlines(keepends=True)[:2]
        self.assertEqual(len(reader.feed(first).fresh), 1)
        self.assertIsNone(reader.feed(second).complete)

    def test_height_and_speed_may_come_in_sentences_of_their_own(self):
        parts = []
        for tick in range(12):
            clock = f"0930{tick // 4:02d}.{25 * (tick % 4):02d}"
            parts.append(sentence(f"GNZDA,{clock},09,05,2026,00,00"))
            parts.append(sentence(LINE.format(clock=clock)))
            parts.append(sentence(f"GNVTG,68.0,T,,M,{tick * 1.5:.3f},N,{tick * 2.778:.3f},K,D"))
        data = b"".join(parts)
        self.assert_equal(stream(data, [100, 333, 900]), read_log(data).trace)

    def test_a_recording_goes_on_where_its_file_ends(self):
        data = write_log(replace(short(), start_utc=datetime(2026, 5, 9, 23, 59, 55, tzinfo=UTC)), "nmea")
        whole = read_log(data).trace
        cut = data.index(b"$GNRMC", len(data) // 2)
        before = read_log(data[:cut]).trace
        reader = StreamReader(before.start_utc, float(before.elapsed_s[-1]))
        self.assert_equal(Trace.joined([before, stream(data[cut:], [77], reader)]), whole)

    def test_no_fix_comes_out_of_sentences_without_one(self):
        reader = StreamReader()
        reader.feed(sentence("GNRMC,093000.00,V,,,,,,,090526,,,N") * 20)
        self.assertEqual((reader.format, reader.finish().fresh), ("nmea", []))
        self.assertGreaterEqual(reader.rejected, 1)

    def test_what_is_no_receiver_is_never_taken_for_one(self):
        reader = StreamReader()
        received = reader.feed(b"hello\r\n" * 5000)
        self.assertEqual((reader.format, received.complete), (None, None))
