"""UBX message by message, as a receiver sends it."""

from __future__ import annotations

from collections.abc import Iterator

from coombe_core.formats.ubx import NAV_PVT, Frames, decoded

Found = tuple[float, dict[str, float], bool]


class UbxStream:
    """Takes bytes in pieces and yields a fix for every NAV-PVT message; each is complete at once."""

    def __init__(self) -> None:
        self.rejected = 0
        self._frames = Frames()

    def feed(self, data: bytes) -> Iterator[Found]:
        """Take the next bytes and yield the fixes whose messages they end."""
        for frame in self._frames.feed(data):
            if frame is not None and not frame.startswith(NAV_PVT):
                continue
            fix = decoded([frame]) if frame else None
            if fix is None or not fix.usable[0]:
                self.rejected += 1
                continue
            yield float(fix.utc_s[0]), {name: float(column[0]) for name, column in fix.columns.items()}, True

    def finish(self) -> Iterator[Found]:
        """Nothing waits: a message that was cut off is none."""
        yield from ()
