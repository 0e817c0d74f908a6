"""Sentences of NMEA 0183 in a piece of a log: where they stand, whether their checksum holds, and their fields."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.nmea.fields import ByteArray, Floats, Places, Truths, parse_numbers
from coombe_core.formats.reading import Rejections

MOST_FIELDS = 24
DOLLAR, STAR, COMMA, LINE_END = (ord(c) for c in "$*,\n")
HEX = np.full(256, 16, dtype=np.uint8)
HEX[[ord(c) for c in "0123456789ABCDEFabcdef"]] = [*range(16), *range(10, 16)]


@dataclass(frozen=True)
class Sentences:
    """Sentences of one piece whose checksum holds: where each begins and ends, its line, all commas, and its first."""

    raw: ByteArray
    starts: Places
    ends: Places
    lines: NDArray[np.int64]
    commas: Places
    first: Places

    def only(self, chosen: Truths) -> Sentences:
        """Those sentences alone."""
        starts, ends, lines = self.starts[chosen], self.ends[chosen], self.lines[chosen]
        return Sentences(self.raw, starts, ends, lines, self.commas, self.first[chosen])

    def fields(self, number: int) -> tuple[Places, Places]:
        """Start and end of the field of that number, empty where a sentence has fewer."""
        starts = np.minimum(self.commas[self.first + number - 1] + 1, self.ends)
        return starts, np.minimum(self.commas[self.first + number], self.ends)

    def numbers(self, number: int) -> tuple[Floats, Truths]:
        """The numbers of a field and which of them are plain or empty."""
        return parse_numbers(self.raw, *self.fields(number))

    def letters(self, number: int) -> ByteArray:
        """The first byte of a field, 0 where it is empty."""
        starts, ends = self.fields(number)
        found = self.raw[np.minimum(starts, self.raw.size - 1)]
        return np.where(starts < ends, found, 0).astype(np.uint8)


def find_sentences(raw: ByteArray, lines_before: int, rejections: Rejections) -> Sentences:
    """Every sentence whose checksum holds; the others go to the rejections."""
    line_ends = np.flatnonzero(raw == LINE_END)
    dollars, stars = np.flatnonzero(raw == DOLLAR), np.flatnonzero(raw == STAR)
    stops = np.flatnonzero((raw == DOLLAR) | (raw == LINE_END) | (raw == ord("\r")))
    limits = np.concatenate([stops, [raw.size]])[np.searchsorted(stops, dollars, side="right")]
    ends = np.concatenate([stars, [raw.size]])[np.searchsorted(stars, dollars)]
    whole = (ends < limits) & (ends + 2 < raw.size) & (ends - dollars > 6)
    lines = np.searchsorted(line_ends, dollars) + 1 + lines_before
    at_start = (dollars == 0) | (raw[np.maximum(dollars - 1, 0)] == LINE_END)
    whole[whole] &= _named(raw, dollars[whole]) & (_stated(raw, ends[whole]) < 256)
    starts, ends, kept = dollars[whole] + 1, ends[whole], lines[whole]
    holds = _checksums(raw, starts, ends) == _stated(raw, ends)
    rejections.all_of(kept[~holds], "checksum does not match")
    begun = lines[at_start & ~whole & _looks_like_one(raw, dollars)]
    begun = begun[~np.isin(begun, kept)] if begun.size else begun
    rejections.all_of(begun, "sentence is cut short or damaged")
    commas = np.append(np.flatnonzero(raw == COMMA), np.full(MOST_FIELDS, raw.size))
    starts, ends, kept = starts[holds], ends[holds], kept[holds]
    return Sentences(raw, starts, ends, kept, commas, np.searchsorted(commas, starts))


def _named(raw: ByteArray, dollars: Places) -> Truths:
    """Whether five capitals and a comma follow."""
    capitals = np.ones(dollars.size, dtype=np.bool_)
    for place in range(1, 6):
        capitals &= (raw[dollars + place] >= ord("A")) & (raw[dollars + place] <= ord("Z"))
    return np.asarray(capitals & (raw[dollars + 6] == COMMA))


def _looks_like_one(raw: ByteArray, dollars: Places) -> Truths:
    """Whether two capitals follow that are not those of a maker's own sentence."""
    first, second = (raw[np.minimum(dollars + place, raw.size - 1)] for place in (1, 2))
    capitals = (first >= ord("A")) & (first <= ord("Z")) & (second >= ord("A")) & (second <= ord("Z"))
    return np.asarray(capitals & (first != ord("P")))


def _stated(raw: ByteArray, ends: Places) -> NDArray[np.int64]:
    """The checksum behind the star; 256 or more where it is none."""
    high, low = (HEX[raw[ends + place]].astype(np.int64) for place in (1, 2))
    return np.where((high > 15) | (low > 15), 256, high * 16 + low)


def _checksums(raw: ByteArray, starts: Places, ends: Places) -> NDArray[np.uint8]:
    if not starts.size:
        return np.zeros(0, dtype=np.uint8)
    return np.asarray(np.bitwise_xor.reduceat(raw, np.column_stack([starts, ends]).ravel())[::2])
