"""Readers: bytes in, a Trace and what was rejected out. A format is recognised by its content, never by its name.

To add a format: write a module with `recognises(head)` and `read(stream)`, and put it in READERS.
"""

from __future__ import annotations

import importlib
import io
from collections.abc import Mapping
from typing import BinaryIO, Protocol, cast

from coombe_core.reading import delimited
from coombe_core.reading.result import ReadError, Reading

__all__ = ["FORMATS", "ReadError", "Reading", "read_log"]


class Reader(Protocol):
    """What a format's module offers."""

    FORMAT: str

    def recognises(self, head: bytes) -> bool:
        """Whether these first bytes of a log look like the format."""

    def read(self, stream: BinaryIO) -> Reading:
        """The whole log. Raises ReadError with a sentence that names the line or field."""


# In the order of asking. A module is imported when it is its turn: some need libraries that take long to load.
READERS = ("nmea", "ubx", "gpx", "positioning", "parquet", "delimited")
FORMATS = ("NMEA", "UBX", "GPX", "positioning JSON", "Parquet", "CSV")
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
    for name in READERS:
        reader = cast(Reader, importlib.import_module(f"coombe_core.reading.{name}"))
        if reader.recognises(head):
            return delimited.read(stream, layout) if reader is delimited else reader.read(stream)
    raise ReadError(f"{_guess(head)}: Coombe reads {', '.join(FORMATS[:-1])} and {FORMATS[-1]}")


def _guess(head: bytes) -> str:
    text = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    for start, name in KNOWN_BUT_UNREAD.items():
        if text.startswith(start):
            return f"this is {name}"
    return "no known format in this file"
