"""The spool: what came from the devices, appended to files before anything else is done with it.

Octets are handed to the kernel at once, which a killed process does not undo, and are on the disk within SYNC_S and
the time that one fdatasync takes, which is what a power cut may cost.
"""

from __future__ import annotations

import os
import threading
from pathlib import Path

SYNC_S = 0.1


class SpoolFile:
    """One file that only grows."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        self._dirty = False

    def append(self, data: bytes) -> None:
        """Hand the octets to the kernel. Raises OSError where they can't be written."""
        left = memoryview(data)
        while left:
            left = left[os.write(self._handle, left) :]
        self._dirty = True

    def sync(self) -> None:
        """Have the disk hold what was appended."""
        if self._dirty:
            self._dirty = False
            os.fdatasync(self._handle)

    def close(self) -> None:
        """Sync a last time."""
        self.sync()
        os.close(self._handle)


class Spool:
    """The files of one recording: `receiver` as it came, `bus` as candump lines."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.receiver = SpoolFile(folder / "receiver")
        self.bus = SpoolFile(folder / "bus")
        _sync_folder(folder)
        _sync_folder(folder.parent)
        self._ended = threading.Event()
        self._syncing = threading.Thread(target=self._sync_often, name="spool", daemon=True)
        self._syncing.start()

    def close(self) -> None:
        """End with everything on the disk."""
        self._ended.set()
        self._syncing.join()
        self.receiver.close()
        self.bus.close()

    def _sync_often(self) -> None:
        while not self._ended.wait(SYNC_S):
            self.receiver.sync()
            self.bus.sync()


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
