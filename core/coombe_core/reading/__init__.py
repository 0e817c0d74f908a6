"""Readers: bytes in, a Trace and what was rejected out. A format is recognised by its content, never by its name.

To add a format: write a module with `recognises(head)` and `read(data)`, and put it in READERS.
"""

from __future__ import annotations

from typing import Protocol

from coombe_core.reading import delimited, nmea
from coombe_core.reading.result import ReadError, Reading

__all__ = ["FORMATS", "ReadError", "Reading", "read_log"]


class Reader(Protocol):
    """What a format's module offers."""

    FORMAT: str

    def recognises(self, head: bytes) -> bool:
        """Whether these first bytes of a log look like the format."""

    def read(self, data: bytes) -> Reading:
        """The whole log. Raises ReadError with a sentence that names the line or field."""


READERS: tuple[Reader, ...] = (nmea, delimited)
FORMATS = tuple(reader.FORMAT for reader in READERS)
HEAD_BYTES = 65_536
KNOWN_BUT_UNREAD = {b"<?xml": "an XML file", b"<gpx": "a GPX file", b"PK\x03\x04": "a ZIP archive", b"%PDF": "a PDF"}


def read_log(data: bytes) -> Reading:
    """Read a log of any known format.

    Raises ReadError where the content is of no known format or holds no fix that can be used.
    """
    if not data.strip():
        raise ReadError("the file is empty")
    head = data[:HEAD_BYTES]
    for reader in READERS:
        if reader.recognises(head):
            return reader.read(data)
    raise ReadError(f"{_guess(head)}: Coombe reads {' and '.join(name.upper() for name in FORMATS)}")


def _guess(head: bytes) -> str:
    text = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    if b"<gpx" in text[:2000]:
        return "this is a GPX file"
    for start, name in KNOWN_BUT_UNREAD.items():
        if text.startswith(start):
            return f"this is {name}"
    return "no known format in this file"
