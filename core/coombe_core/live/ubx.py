"""UBX message by message, as a receiver sends it."""

from __future__ import annotations

from collections.abc import Iterator

from coombe_core.formats.ubx import COLUMNS, Frames, fix_of

Found = tuple[float, dict[str, float], bool]


class UbxStream:
    """Takes bytes in pieces and yields a fix for every NAV-PVT message; each is complete at once."""

    def __init__(self) -> None:
        self.rejected = 0
        self._frames = Frames()

    def feed(self, data: bytes) -> Iterator[Found]:
        """Take the next bytes and yield the fixes whose messages they end."""
        for message in self._frames.feed(data):
            if message is not None and message.identity != "NAV-PVT":
                continue
            try:
                utc_s, *values = fix_of(message)
            except (AttributeError, TypeError, ValueError):
                self.rejected += 1
                continue
            yield utc_s, dict(zip(COLUMNS, values, strict=True)), True

    def finish(self) -> Iterator[Found]:
        """Nothing waits: a message that was cut off is none."""
        yield from ()
