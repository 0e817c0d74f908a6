"""Fitted curves as they are stored, decoded once: many a sheet asks for those of the same runs again."""

from __future__ import annotations

from functools import lru_cache

from coombe_core.curve import Curve
from coombe_core.formats.parquet import read_columns

REMEMBERED = 256  # about 25 kB each


@lru_cache(maxsize=REMEMBERED)
def decoded(blob: bytes) -> Curve:
    """The curve of a stored blob; its columns can't be written to."""
    columns = read_columns(blob)
    for column in columns.values():
        column.setflags(write=False)
    return Curve(**columns)
