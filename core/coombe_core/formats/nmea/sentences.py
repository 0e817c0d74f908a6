"""Sentences of NMEA 0183 in a piece of a log: where they stand, whether their checksum holds, and their fields."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.nmea.fields import Floats, Octets, Places, Truths, parse_numbers
from coombe_core.formats.reading import Rejections

MOST_FIELDS = 24
DOLLAR, STAR, COMMA, LINE_END = (ord(c) for c in "$*,\n")
HEX = np.full(256, 16, dtype=np.uint8)
HEX[[ord(c) for c in "0123456789ABCDEFabcdef"]] = [*range(16), *range(10, 16)]


@dataclass(frozen=True)
class Sentences:
    """Sentences of one piece whose checksum holds: where each begins and ends, its line, all commas, and its first."""

    octets: Octets
    starts: Places
    ends: Places
    lines: NDArray[np.int64]
    commas: Places
    first: Places

    def only(self, chosen: Truths) -> Sentences:
        """Those sentences alone."""
        starts, ends, lines = self.starts[chosen], self.ends[chosen], self.lines[chosen]
        return Sentences(self.octets, starts, ends, lines, self.commas, self.first[chosen])

    def fields(self, number: int) -> tuple[Places, Places]:
        """Start and end of the field of that number, empty where a sentence has fewer."""
        starts = np.minimum(self.commas[self.first + number - 1] + 1, self.ends)
        return starts, np.minimum(self.commas[self.first + number], self.ends)

    def numbers(self, number: int) -> tuple[Floats, Truths]:
        """The numbers of a field and which of them are plain or empty."""
        return parse_numbers(self.octets, *self.fields(number))

    def letters(self, number: int) -> Octets:
        """The first octet of a field, 0 where it is empty."""
        starts, ends = self.fields(number)
        found = self.octets[np.minimum(starts, self.octets.size - 1)]
        return np.where(starts < ends, found, 0).astype(np.uint8)


def find_sentences(octets: Octets, lines_before: int, rejections: Rejections) -> Sentences:
    """Every sentence whose checksum holds; the others go to the rejections."""
    line_ends = np.flatnonzero(octets == LINE_END)
    dollars, stars = np.flatnonzero(octets == DOLLAR), np.flatnonzero(octets == STAR)
    stops = np.flatnonzero((octets == DOLLAR) | (octets == LINE_END) | (octets == ord("\r")))
    limits = np.concatenate([stops, [octets.size]])[np.searchsorted(stops, dollars, side="right")]
    ends = np.concatenate([stars, [octets.size]])[np.searchsorted(stars, dollars)]
    whole = (ends < limits) & (ends + 2 < octets.size) & (ends - dollars > 6)
    lines = np.searchsorted(line_ends, dollars) + 1 + lines_before
    at_start = (dollars == 0) | (octets[np.maximum(dollars - 1, 0)] == LINE_END)
    whole[whole] &= _named(octets, dollars[whole]) & (_stated(octets, ends[whole]) < 256)
    starts, ends, kept = dollars[whole] + 1, ends[whole], lines[whole]
    holds = _checksums(octets, starts, ends) == _stated(octets, ends)
    rejections.all_of(kept[~holds], "checksum does not match")
    begun = lines[at_start & ~whole & _looks_like_one(octets, dollars)]
    begun = begun[~np.isin(begun, kept)] if begun.size else begun
    rejections.all_of(begun, "sentence is cut short or damaged")
    commas = np.append(np.flatnonzero(octets == COMMA), np.full(MOST_FIELDS, octets.size))
    starts, ends, kept = starts[holds], ends[holds], kept[holds]
    return Sentences(octets, starts, ends, kept, commas, np.searchsorted(commas, starts))


def _named(octets: Octets, dollars: Places) -> Truths:
    """Whether five capitals and a comma follow."""
    capitals = np.ones(dollars.size, dtype=np.bool_)
    for place in range(1, 6):
        capitals &= (octets[dollars + place] >= ord("A")) & (octets[dollars + place] <= ord("Z"))
    return np.asarray(capitals & (octets[dollars + 6] == COMMA))


def _looks_like_one(octets: Octets, dollars: Places) -> Truths:
    """Whether two capitals follow that are not those of a maker's own sentence."""
    first, second = (octets[np.minimum(dollars + place, octets.size - 1)] for place in (1, 2))
    capitals = (first >= ord("A")) & (first <= ord("Z")) & (second >= ord("A")) & (second <= ord("Z"))
    return np.asarray(capitals & (first != ord("P")))


def _stated(octets: Octets, ends: Places) -> NDArray[np.int64]:
    """The checksum behind the star; 256 or more where it is none."""
    high, low = (HEX[octets[ends + place]].astype(np.int64) for place in (1, 2))
    return np.where((high > 15) | (low > 15), 256, high * 16 + low)


def _checksums(octets: Octets, starts: Places, ends: Places) -> NDArray[np.uint8]:
    if not starts.size:
        return np.zeros(0, dtype=np.uint8)
    return np.asarray(np.bitwise_xor.reduceat(octets, np.column_stack([starts, ends]).ravel())[::2])
