"""Parquet as Coombe writes it: one column a quantity, named as in `Trace`, and the start in the file's metadata."""

from __future__ import annotations

import io
from datetime import datetime
from typing import BinaryIO

import numpy as np

from coombe_core.reading.result import ReadError, Reading, assemble

FORMAT = "parquet"
MAGIC = b"PAR1"


def recognises(head: bytes) -> bool:
    """Whether the file begins as Parquet does."""
    return head.startswith(MAGIC)


def read(stream: BinaryIO) -> Reading:
    """Fixes of a Parquet log. Raises ReadError where it is damaged or lacks a column."""
    import polars as pl

    data = stream.read()
    try:
        frame = pl.read_parquet(io.BytesIO(data))
        start = datetime.fromisoformat(pl.read_parquet_metadata(io.BytesIO(data))["start_utc"])
        columns = {name: frame[name].cast(pl.Float64).fill_null(np.nan).to_numpy() for name in frame.columns}
        elapsed_s, speed = columns.pop("elapsed_s"), columns["speed_mps"]
        start_s = start.timestamp()
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, KeyError, ValueError, OSError, OverflowError):
        raise ReadError("the Parquet file is damaged or was not written by Coombe") from None
    usable = np.isfinite(elapsed_s) & (speed >= 0)
    rows = np.flatnonzero(usable) + 1
    kept = {name: column[usable] for name, column in columns.items()}
    date_known = start.year > 1970
    return assemble(start_s + elapsed_s[usable], rows.astype(np.int64), kept, [], FORMAT, date_known)
