"""Log formats, reading and writing side by side; bytes in, a Trace and what was rejected out.

A format is recognized by its content, never by its name. To add one, write a module with `recognizes`, `read` and
`write`, and put it in FORMATS.

reading      what a reader returns (Reading, Rejection) and the error that it raises (ReadError)
nmea, ubx, gpx, positioning, parquet, delimited      logs of a receiver
can_log      frames from the car, decoded with a DBC
weather      METAR lines
conditions_table      conditions pasted from a spreadsheet
"""

from __future__ import annotations

import importlib
import io
from collections.abc import Mapping
from typing import BinaryIO, Protocol, cast

from coombe_core.formats import delimited
from coombe_core.formats.reading import ReadError, Reading
from coombe_core.trace import Trace

__all__ = ["FORMATS", "ReadError", "Reading", "read_log", "write_log"]


class Format(Protocol):
    """What a format's module offers."""

    FORMAT: str

    def recognizes(self, head: bytes) -> bool:
        """Whether these first bytes of a log look like the format."""

    def read(self, stream: BinaryIO) -> Reading:
        """The whole log. Raises ReadError with a sentence that names the line or field."""

    def write(self, trace: Trace) -> bytes:
        """The trace as a log that `read` reads unchanged, but for what the format has no place for."""


# Format -> its module, and what people call it, in the order of asking. A module is imported when it is its turn: some
# need large libraries.
FORMATS = {
    "nmea": ("nmea", "NMEA"),
    "ubx": ("ubx", "UBX"),
    "gpx": ("gpx", "GPX"),
    "tpv": ("positioning", "positioning JSON"),
    "parquet": ("parquet", "Parquet"),
    "csv": ("delimited", "CSV"),
}
HEAD_BYTES = 65_536
KNOWN_BUT_UNREAD = {b"<?xml": "an XML file", b"PK\x03\x04": "a ZIP archive", b"%PDF": "a PDF"}


def read_log(log: bytes | BinaryIO, layout: Mapping[str, str] | None = None) -> Reading:
    """Read a log of any known format, from bytes or from a file open in binary mode.

    `layout` names the columns of a table whose headings Coombe does not know.

    Raises ReadError where the content is of no known format or holds no fix that can be used.
    """
    stream = io.BytesIO(log) if isinstance(log, bytes) else log
    head = stream.read(HEAD_BYTES)
    stream.seek(0)
    if not head.strip():
        raise ReadError("the file is empty")
    for name in FORMATS:
        reader = _format(name)
        if reader.recognizes(head):
            return delimited.read(stream, layout) if reader is delimited else reader.read(stream)
    *names, last = (name for _, name in FORMATS.values())
    raise ReadError(f"{_guess(head)}: Coombe reads {', '.join(names)} and {last}")


def write_log(trace: Trace, log_format: str) -> bytes:
    """A trace as a log of a format, named as in `FORMATS` and `Reading.format`. Raises KeyError for any other name."""
    return _format(log_format).write(trace)


def _format(name: str) -> Format:
    module, _ = FORMATS[name]
    return cast(Format, importlib.import_module(f"coombe_core.formats.{module}"))


def _guess(head: bytes) -> str:
    text = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    for start, name in KNOWN_BUT_UNREAD.items():
        if text.startswith(start):
            return f"this is {name}"
    return "no known format in this file"
