"""The spool: what came from the devices, appended to files before anything else is done with it.

Bytes are handed to the kernel at once, which a killed process does not undo, and are on the disk within SYNC_S and
the time that one fdatasync takes, which is what a power cut may cost. The spool stops short of filling the disk, so
that the database beside it can go on.
"""

from __future__ import annotations

import fcntl
import logging
import os
import threading
from pathlib import Path
from typing import IO

from runs.store import NO_ROOM, sync_folder

SYNC_S = 0.1
RESUMED_AT = 1.25  # of the floor: room that must be free again before a full spool goes on
LOCK = "lock"  # beside the files of one recording: held by whoever records or stores it
CAN_FILE = "bus"  # its name since the first version, so that a spool which that one left is stored by this
logger = logging.getLogger(__name__)


class SpoolFile:
    """One file that only grows, as long as the disk has more than `floor_bytes` left."""

    def __init__(self, path: Path, floor_bytes: int = 0) -> None:
        self.path, self.floor_bytes = path, floor_bytes
        self.trouble = ""
        self.is_full = False
        self._handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        self._dirty = False

    def append(self, data: bytes) -> int:
        """Hand bytes to the kernel; how many of them it took. What it did not take stands in `trouble`."""
        if not self._has_room():
            self._refuse("The disk is full; nothing is being recorded.", full=True)
            return 0
        left = memoryview(data)
        while left:
            try:
                left = left[os.write(self._handle, left) :]
            except OSError as error:
                full = error.errno in NO_ROOM
                self._refuse("The disk is full; nothing is being recorded." if full else _unwritable(error), full)
                break
            self._dirty = True
        else:
            self.trouble, self.is_full = "", False
        return len(data) - len(left)

    def sync(self) -> None:
        """Have the disk hold what was appended. Raises OSError; what was not synced is tried again the next time."""
        if self._dirty:
            self._dirty = False
            try:
                os.fdatasync(self._handle)
            except OSError:
                self._dirty = True
                raise

    def close(self) -> None:
        """Sync a last time."""
        try:
            self.sync()
        finally:
            os.close(self._handle)

    def _has_room(self) -> bool:
        state = os.fstatvfs(self._handle)
        needed = self.floor_bytes * (RESUMED_AT if self.is_full else 1.0)
        return state.f_bavail * state.f_frsize > needed

    def _refuse(self, trouble: str, full: bool) -> None:
        if self.trouble != trouble:
            logger.error("%s: %s", self.path, trouble)
        self.trouble, self.is_full = trouble, full


class Spool:
    """The files of one recording: `receiver` as it came, `CAN_FILE` the CAN frames as candump lines."""

    def __init__(self, folder: Path, floor_bytes: int = 0) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.receiver = SpoolFile(folder / "receiver", floor_bytes)
        self.can = SpoolFile(folder / CAN_FILE, floor_bytes)
        self.trouble = ""
        sync_folder(folder)
        sync_folder(folder.parent)
        self._ended = threading.Event()
        self._syncing = threading.Thread(target=self._sync_often, name="spool", daemon=True)
        self._syncing.start()

    def close(self) -> None:
        """End with everything on the disk."""
        self._ended.set()
        self._syncing.join()
        self.receiver.close()
        self.can.close()

    def _sync_often(self) -> None:
        while not self._ended.wait(SYNC_S):
            try:
                self.receiver.sync()
                self.can.sync()
                self.trouble = ""
            except OSError as error:
                if not self.trouble:
                    logger.exception("the spool could not be synced")
                self.trouble = _unwritable(error)


def _unwritable(error: OSError) -> str:
    return f"The spool can't be written: {error.strerror}."


def hold(path: Path) -> IO[str]:
    """A lock by a file, for as long as it is open. Raises BlockingIOError where another process has it."""
    path.parent.mkdir(parents=True, exist_ok=True)
    lock = path.open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        lock.close()
        raise
    return lock
