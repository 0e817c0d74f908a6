"""Numbers out of many text fields at once: arithmetic on columns of bytes instead of a loop over strings."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

ByteArray = NDArray[np.uint8]
Places = NDArray[np.intp]
Floats = NDArray[np.float64]
Truths = NDArray[np.bool_]
WIDEST = 17  # digits that an exact integer surely holds
ZERO, POINT, MINUS, NINE = (np.uint8(ord(c)) for c in "0.-9")


def parse_numbers(raw: ByteArray, starts: Places, ends: Places) -> tuple[Floats, Truths]:
    """The plain decimal numbers (digits, one point, a leading minus) in bytes[start:end], and which fields are such.

    An empty field is NaN and counts as one. Values are those that `float` gives, up to 15 digits.
    """
    negative = raw[np.minimum(starts, raw.size - 1)] == MINUS
    if negative.any():
        negative &= ends > starts
        starts = starts + negative
    widths = ends - starts
    values, plain = np.full(starts.size, np.nan), ~negative & (widths == 0)
    for width in np.flatnonzero(np.bincount(np.minimum(widths, WIDEST + 1))[1 : WIDEST + 1]) + 1:
        rows = slice(None) if widths[0] == width and (widths == width).all() else np.flatnonzero(widths == width)
        values[rows], plain[rows] = _of_one_width(raw, starts[rows], int(width))
    values[negative] *= -1.0
    return values, plain


def _of_one_width(raw: ByteArray, starts: Places, width: int) -> tuple[Floats, Truths]:
    """The numbers of fields of one width. Columns of bytes are in rows here: that is what the machine is fast at."""
    text = np.ascontiguousarray(np.lib.stride_tricks.sliding_window_view(raw, width)[starts].T)
    points = text == POINT
    many = points.any(axis=1)
    digits = text - ZERO  # bytes below the digits wrap round to large numbers
    digits[points] = 0
    plain: Truths = np.asarray((digits <= NINE - ZERO).all(axis=0))
    mantissa, after = np.zeros(starts.size), np.zeros(starts.size)
    if many.sum() == 1 and points[place := int(np.argmax(many))].all():
        for row in (*range(place), *range(place + 1, width)):
            mantissa *= 10.0
            mantissa += digits[row]
        return mantissa / 10.0 ** (width - place - 1), plain & (width > 1)
    for row in range(width):
        mantissa = np.where(points[row], mantissa, mantissa * 10.0 + digits[row])
        after = np.where(points[row], width - row - 1, after)
    count = points.sum(axis=0)
    return mantissa / 10.0**after, plain & (count <= 1) & (count < width)
