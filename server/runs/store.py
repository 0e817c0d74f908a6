"""The store of uploaded bytes: content-addressed by SHA-256, on disk and verified before any row names them.

They are in a folder (`SyncedStorage`), or in a bucket (`runs.object_store`).
"""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
import uuid
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import IO, Protocol, cast

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage, default_storage
from django.utils import timezone

from config.errors import TellableError

FOLDER, TRASH = "logs", "trash"
PARTIAL = ".partial-"
PIECE_BYTES = 1 << 20
TRASH_KEPT = timedelta(days=30)
NO_ROOM = (errno.ENOSPC, errno.EDQUOT)


class Keeping(Protocol):
    """What is asked of a storage here, besides what Django's storages do."""

    def open(self, name: str, mode: str = "rb") -> IO[bytes]: ...
    def save(self, name: str, content: ContentFile) -> str: ...  # type: ignore[type-arg]
    def exists(self, name: str) -> bool: ...
    def delete(self, name: str) -> None: ...
    def names(self, folder: str) -> list[str]: ...
    def move(self, source: str, target: str) -> None: ...
    def changed_at(self, name: str) -> datetime: ...
    def free_bytes(self) -> int | None: ...
    def try_out(self) -> None: ...


storage = cast(Keeping, default_storage)


class StoreError(TellableError):
    """Bytes that can't be stored or are not there as they were stored."""

    code = "store"


class NoRoomError(StoreError):
    """The disk has no room for them."""

    status_code, code = 507, "no_room"


class MissingBytesError(StoreError):
    """The bytes are gone, or are not what was stored."""

    status_code, code = 410, "missing_bytes"


class SyncedStorage(FileSystemStorage):
    """A file system storage that writes beside, syncs, and renames: a name stands for a whole file or for none."""

    def _save(self, name: str, content: ContentFile) -> str:  # type: ignore[type-arg]
        path = Path(self.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        partial = path.with_name(f"{path.name}{PARTIAL}{uuid.uuid4().hex}")
        try:
            with partial.open("xb") as out:
                for piece in content.chunks(PIECE_BYTES):
                    out.write(piece)
                out.flush()
                os.fsync(out.fileno())
            partial.replace(path)
        except BaseException:
            with suppress(OSError):
                partial.unlink()
            raise
        for folder in (path.parent, path.parent.parent):
            sync_folder(folder)
        return name

    def names(self, folder: str) -> list[str]:
        """The last parts of the names of all files below a folder, also of those that are not whole."""
        return sorted(path.name for path in Path(self.path(folder)).rglob("*") if path.is_file())

    def move(self, source: str, target: str) -> None:
        """Give a file another name, at once."""
        old, new = Path(self.path(source)), Path(self.path(target))
        new.parent.mkdir(parents=True, exist_ok=True)
        old.replace(new)
        os.utime(new)
        for folder in (new.parent, old.parent):
            sync_folder(folder)

    def changed_at(self, name: str) -> datetime:
        """When a file got its name."""
        return datetime.fromtimestamp(Path(self.path(name)).stat().st_mtime, UTC)

    def free_bytes(self) -> int | None:
        """How much room the disk has."""
        place = Path(self.path(""))
        while not place.exists():
            place = place.parent
        return shutil.disk_usage(place).free

    def try_out(self) -> None:
        """Write something and remove it. Raises OSError."""
        probe = Path(self.path(".probe"))
        probe.parent.mkdir(parents=True, exist_ok=True)
        probe.touch()
        probe.unlink(missing_ok=True)

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        """A name means one content: bytes that are damaged give way to the right ones."""
        return name


def sync_folder(folder: Path) -> None:
    """Have the disk hold the names in a folder."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def address(sha256: str) -> str:
    """Where the bytes with that hash are kept."""
    return f"{FOLDER}/{sha256[:2]}/{sha256}"


def keep(data: bytes, sha256: str, reserve_bytes: int | None = None) -> None:
    """Store bytes under their hash and verify what is there; the same bytes twice are kept once.

    Raises NoRoomError where the disk is full, or would have less than the reserve left; nothing is left behind then.
    """
    if holds(sha256):
        return
    write(address(sha256), data, reserve_bytes)
    if not holds(sha256):
        storage.delete(address(sha256))
        raise StoreError("What was written to the store reads back otherwise: the disk may be failing.")


def keep_all(files: Iterable[tuple[str, bytes]]) -> None:
    """Store many by their hashes, all or none of them. Raises like `keep`."""
    added = []
    try:
        for sha256, data in files:
            if not holds(sha256):
                keep(data, sha256)
                added.append(sha256)
    except BaseException:
        for sha256 in added:
            storage.delete(address(sha256))
        raise


def write(name: str, data: bytes, reserve_bytes: int | None = None) -> None:
    """Write a file of the storage, whole or not at all. Raises NoRoomError, or StoreError with the cause."""
    check_room(len(data), settings.RESERVE_BYTES if reserve_bytes is None else reserve_bytes)
    try:
        storage.save(name, ContentFile(data))
    except OSError as error:
        if error.errno in NO_ROOM:
            raise NoRoomError("The disk is full. Nothing was stored; make room, then try again.") from None
        raise StoreError(f"The store can't be written: {error.strerror}. Nothing was stored.") from None


def read_file(name: str) -> bytes:
    """The bytes of a file of the storage. Raises MissingBytesError where it is gone."""
    try:
        with storage.open(name) as file:
            data: bytes = file.read()
    except OSError:
        raise MissingBytesError("The file that was sent is gone. Send it again.") from None
    return data


def check_room(size_bytes: int, reserve_bytes: int) -> None:
    """Raise NoRoomError where storing a number of bytes would leave less free than the reserve, if anybody knows."""
    free = storage.free_bytes()
    if free is not None and free - size_bytes < reserve_bytes:
        raise NoRoomError(
            f"The disk has {free / 1e6:.0f} MB left, and {reserve_bytes / 1e6:.0f} MB are kept free for recording and"
            " the database. Nothing was stored; make room, then try again."
        )


def holds(sha256: str) -> bool:
    """Whether the bytes are there and hash to their name."""
    try:
        with storage.open(address(sha256)) as file:
            return digest(file) == sha256
    except OSError:
        return False


def read(sha256: str) -> bytes:
    """The bytes with that hash. Raises MissingBytesError where they are gone or damaged."""
    try:
        with storage.open(address(sha256)) as file:
            data: bytes = file.read()
    except OSError:
        raise MissingBytesError(f"The stored file {sha256[:12]}… is missing; ./coombe store lists what is.") from None
    if hashlib.sha256(data).hexdigest() != sha256:
        raise MissingBytesError(f"The stored file {sha256[:12]}… is damaged; ./coombe store lists what is.")
    return data


def digest(file: IO[bytes]) -> str:
    """The SHA-256 of a file, a piece at a time."""
    total = hashlib.sha256()
    while piece := file.read(PIECE_BYTES):
        total.update(piece)
    return total.hexdigest()


@dataclass(frozen=True)
class Check:
    """Where store and database disagree: hashes whose bytes are gone or damaged, and files that no row names."""

    missing: list[str]
    damaged: list[str]
    unknown: list[str]
    partial: list[str]

    @property
    def sound(self) -> bool:
        """Whether every row has its bytes, whole."""
        return not self.missing and not self.damaged


def check(named: set[str], thorough: bool = True) -> Check:
    """Compare the store with the hashes that rows name; `thorough` also reads every file that is named."""
    lying = storage.names(FOLDER)
    whole = {name for name in lying if PARTIAL not in name}
    damaged = [name for name in sorted(named & whole) if thorough and not holds(name)]
    partial = [name for name in lying if PARTIAL in name]
    return Check(sorted(named - whole), damaged, sorted(whole - named), partial)


def to_trash(named: set[str]) -> list[str]:
    """Move files that no row names to the trash; their hashes. They stay there for thirty days."""
    unknown = check(named, thorough=False).unknown
    for sha256 in unknown:
        storage.move(address(sha256), _trashed(sha256))
    return unknown


def take_back(sha256: str) -> bytes:
    """Bytes that no row names, from the store or the trash. Raises MissingBytesError where there are none."""
    if storage.exists(_trashed(sha256)):
        storage.move(_trashed(sha256), address(sha256))
    return read(sha256)


def in_trash() -> list[str]:
    """The hashes of what is in the trash."""
    return list(storage.names(TRASH))


def empty_trash() -> list[str]:
    """Delete for good what has lain in the trash for longer than thirty days; the hashes."""
    limit = timezone.now() - TRASH_KEPT
    gone = [sha256 for sha256 in in_trash() if storage.changed_at(_trashed(sha256)) < limit]
    for sha256 in gone:
        storage.delete(_trashed(sha256))
    return gone


def _trashed(sha256: str) -> str:
    return f"{TRASH}/{sha256}"
