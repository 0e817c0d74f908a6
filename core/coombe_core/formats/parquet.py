"""Parquet as Coombe writes it: one column a quantity, named as in `Trace`, and the start in the file's metadata.

A file from elsewhere is decoded in a process of its own: the library ends the whole process on some damaged files.
"""

from __future__ import annotations

import io
import subprocess
import sys
from collections.abc import Mapping
from datetime import datetime
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.reading import MOST_FIXES, ReadError, Reading, Rejections, assemble, too_many_fixes
from coombe_core.trace import COLUMNS, Trace

FORMAT = "parquet"
MAGIC = b"PAR1"
LIMIT_S = 120.0
MOST_BYTES = 2 * 1024**3
TOO_MANY = 3
START = "start_s"
Floats = NDArray[np.float64]
Columns = dict[str, Floats]


def recognizes(head: bytes) -> bool:
    """Whether the file begins as Parquet does."""
    return head.startswith(MAGIC)


def read(stream: BinaryIO) -> Reading:
    """Fixes of a Parquet log. Raises ReadError where it is damaged or lacks a column."""
    child = [sys.executable, "-m", "coombe_core.formats.parquet"]
    try:
        done = subprocess.run(child, input=stream.read(), capture_output=True, timeout=LIMIT_S, check=False)
        done.check_returncode()
        with np.load(io.BytesIO(done.stdout), allow_pickle=False) as decoded:
            columns = {name: decoded[name] for name in decoded.files}
    except subprocess.CalledProcessError as error:
        message = "the Parquet file is damaged or was not written by Coombe"
        raise ReadError(too_many_fixes() if error.returncode == TOO_MANY else message) from None
    except (subprocess.SubprocessError, OSError, ValueError, KeyError, EOFError):
        raise ReadError("the Parquet file is damaged or was not written by Coombe") from None
    return _assembled(columns)


def read_own(data: bytes) -> Reading:
    """Fixes of a Parquet blob that Coombe itself wrote and kept."""
    return _assembled(_decoded(data))


def write(trace: Trace) -> bytes:
    """Every column of the trace as float64; the start stands in the file's metadata."""
    return write_columns({name: getattr(trace, name) for name in COLUMNS}, {"start_utc": trace.start_utc.isoformat()})


def write_columns(columns: Mapping[str, Floats], metadata: Mapping[str, str] | None = None) -> bytes:
    """Columns of one length as a Parquet file compressed with zstd."""
    import polars as pl

    out = io.BytesIO()
    pl.DataFrame(dict(columns)).write_parquet(out, compression="zstd", metadata=dict(metadata) if metadata else None)
    return out.getvalue()


def read_columns(blob: bytes) -> Columns:
    """The columns of a file that Coombe itself wrote, missing values as NaN."""
    import polars as pl

    frame = pl.read_parquet(io.BytesIO(blob))
    return {each.name: (each if each.dtype == pl.Float64 else each.cast(pl.Float64)).to_numpy() for each in frame}


def _rows(data: bytes) -> int:
    """How many rows the file's footer states, without decoding any."""
    import polars as pl

    return int(pl.scan_parquet(io.BytesIO(data)).select(pl.len()).collect().item())


def _decoded(data: bytes) -> Columns:
    """The columns as float64, and the start in seconds since 1970 among them."""
    import polars as pl

    start = datetime.fromisoformat(pl.read_parquet_metadata(io.BytesIO(data))["start_utc"])
    return read_columns(data) | {START: np.array([start.timestamp()])}


def _assembled(columns: Columns) -> Reading:
    if not {"elapsed_s", "speed_mps", START} <= columns.keys():
        raise ReadError("the Parquet file lacks elapsed_s or speed_mps")
    elapsed_s, start_s = columns.pop("elapsed_s"), float(columns.pop(START)[0])
    timed = np.isfinite(elapsed_s)
    rows = (np.flatnonzero(timed) + 1).astype(np.int64)
    kept = {name: column[timed] for name, column in columns.items()}
    date_known = start_s > 365 * 86_400.0
    return assemble(start_s + elapsed_s[timed], rows, kept, Rejections(), FORMAT, date_known)


def _child() -> None:
    """Decode what comes in on standard input, within bounds of memory, and write the columns as npz."""
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    data = sys.stdin.buffer.read()
    if _rows(data) > MOST_FIXES:
        sys.exit(TOO_MANY)
    columns = _decoded(data)
    out = io.BytesIO()
    np.savez(out, **columns)  # type: ignore[arg-type]
    sys.stdout.buffer.write(out.getvalue())


if __name__ == "__main__":
    _child()
