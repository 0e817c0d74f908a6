"""A folder of backups: manifests beside dumps, and a pool of files by their SHA-256; locked where that is asked."""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import shutil
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from coombe_launcher.console import LauncherError, run

FORMAT = "coombe-backup-1"
MANIFEST = "manifest.json"
NAME = "%Y%m%dT%H%M%SZ"
KEPT = {"%Y-%m-%d": 7, "%G-W%V": 5, "%Y-%m": 12}  # days, weeks and months, the latest backup of each
PIECE_BYTES = 1 << 20


@dataclass(frozen=True)
class Locker:
    """How files are locked with a passphrase, by GnuPG; without one they stand as they are."""

    passphrase: Path | None = None

    @property
    def suffix(self) -> str:
        """What the name of a locked file ends in."""
        return ".gpg" if self.passphrase else ""

    def lock(self, path: Path) -> Path:
        """Replace a file with what only the passphrase opens; its path."""
        if not self.passphrase:
            return path
        locked = path.with_name(path.name + self.suffix)
        options = ["--symmetric", "--cipher-algo", "AES256", "--compress-algo", "none"]
        self._gpg([*options, "--output", str(locked), str(path)], "locking a file")
        path.unlink()
        return locked

    @contextmanager
    def opened(self, path: Path, beside: Path) -> Iterator[Path]:
        """A file as it was before it was locked, for as long as it is looked at; `beside` is a folder for that."""
        if path.suffix != ".gpg":
            yield path
            return
        if not self.passphrase:
            raise LauncherError(f"{path.parent} is locked: name the file with its passphrase by --passphrase-file")
        beside.mkdir(parents=True, exist_ok=True)
        plain = beside / f"opened-{os.getpid()}"
        try:
            self._gpg(["--output", str(plain), "--decrypt", str(path)], f"opening {path.name}")
            yield plain
        finally:
            plain.unlink(missing_ok=True)

    def _gpg(self, options: Sequence[str], doing: str) -> None:
        command = ["gpg", "--batch", "--yes", "--quiet", "--pinentry-mode", "loopback"]
        run([*command, "--passphrase-file", str(self.passphrase), *options], doing)


class Target:
    """A folder of backups: `backups/NAME/` and `pool/`."""

    def __init__(self, folder: Path, locker: Locker) -> None:
        self.folder, self.locker = folder, locker
        self._pool, self._backups = folder / "pool", folder / "backups"

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Be the only one that writes there. Raises LauncherError where another does, or nobody can."""
        try:
            self._pool.mkdir(parents=True, exist_ok=True)
            self._backups.mkdir(exist_ok=True)
            lock = (self.folder / "lock").open("w")
        except OSError as error:
            raise LauncherError(f"{self.folder} can't be written: {error.strerror}") from None
        with lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                raise LauncherError(f"another backup into {self.folder} is under way") from None
            self._clear()
            try:
                yield
            finally:
                self._clear()

    def _clear(self) -> None:
        """Remove what a backup that broke off has left."""
        for left in (*self._backups.glob("*.partial"), *self._pool.glob("*.partial*")):
            shutil.rmtree(left) if left.is_dir() else left.unlink()

    @property
    def names(self) -> list[str]:
        """The backups that are complete, the oldest first."""
        return sorted(path.parent.name for path in self._backups.glob(f"*/{MANIFEST}") if path.parent.suffix == "")

    def manifest(self, name: str | None) -> tuple[Path, dict[str, Any]]:
        """The folder and manifest of a backup, or of the latest. Raises LauncherError."""
        if not self.names:
            raise LauncherError(f"there is no backup in {self.folder}")
        if name and name not in self.names:
            listed = "\n  ".join(self.names)
            raise LauncherError(f"there is no backup {name} in {self.folder}; those that there are:\n  {listed}")
        folder = self._backups / (name or self.names[-1])
        try:
            manifest: dict[str, Any] = json.loads((folder / MANIFEST).read_text())
        except (OSError, ValueError):
            raise LauncherError(f"the manifest of {folder.name} can't be read: it was cut short or changed") from None
        if manifest.get("format") != FORMAT:
            raise LauncherError(f"{folder.name} is of another kind ({manifest.get('format')}): use a newer Coombe")
        return folder, manifest

    def begin(self, name: str) -> Path:
        """A folder for a backup that is not complete yet."""
        partial = self._backups / f"{name}.partial"
        partial.mkdir()
        return partial

    def finish(self, partial: Path, manifest: Mapping[str, Any]) -> None:
        """Complete a backup: it is there from now on."""
        _write(partial / MANIFEST, json.dumps(manifest, indent=1))
        os.sync()
        partial.rename(partial.with_suffix(""))

    def take(self, path: Path) -> dict[str, Any]:
        """Put a file into the pool, unless it is there; its hash and size. Raises OSError where it can't be read."""
        size, stated = path.stat().st_size, stated_hash(str(path))
        if stated and self._place(stated).exists():
            return {"sha256": stated, "bytes": size}
        partial = self._pool / f"{os.getpid()}.partial"
        sha256, size = _copied(path, partial)
        if not self._place(sha256).exists():
            locked = self.locker.lock(partial)
            self._place(sha256).parent.mkdir(exist_ok=True)
            locked.replace(self._place(sha256))
        partial.unlink(missing_ok=True)
        return {"sha256": sha256, "bytes": size}

    def give(self, sha256: str, path: Path) -> None:
        """Take a file out of the pool, verified. Raises LauncherError where it is gone or another."""
        place = next((each for each in (self._place(sha256), self._bare(sha256)) if each.exists()), None)
        if place is None:
            raise LauncherError(f"a file of the backup is gone: {self._bare(sha256)}")
        path.parent.mkdir(parents=True, exist_ok=True)
        with self.locker.opened(place, path.parent) as plain:
            found, _ = _copied(plain, path)
        if found != sha256:
            path.unlink()
            raise LauncherError(f"a file of the backup is damaged: {place}")

    def keep_by_rule(self) -> list[str]:
        """Remove backups that the rule does not keep, and files that no backup names; the names of those removed."""
        removed = [name for name in self.names if name not in kept(self.names)]
        for name in removed:
            shutil.rmtree(self._backups / name)
        named = {row["sha256"] for name in self.names for row in self.manifest(name)[1]["files"]}
        for path in self._pool.glob("??/*"):
            if path.name.removesuffix(".gpg") not in named:
                path.unlink()
        return removed

    def _bare(self, sha256: str) -> Path:
        return self._pool / sha256[:2] / sha256

    def _place(self, sha256: str) -> Path:
        return self._bare(sha256 + self.locker.suffix) if self.locker.suffix else self._bare(sha256)


def kept(names: Sequence[str]) -> set[str]:
    """Which backups to keep: the latest of each of the last days, weeks and months that have one, and the latest."""
    keep = set(sorted(names)[-1:])
    for period, count in KEPT.items():
        latest: dict[str, str] = {}
        for name in sorted(names):
            latest[datetime.strptime(name, NAME).strftime(period)] = name
        keep |= {latest[each] for each in sorted(latest)[-count:]}
    return keep


def stated_hash(name: str) -> str:
    """The hash that the store names a file by; empty for files that have other names."""
    return Path(name).name if Path(name).parent.parent.name == "logs" else ""


def _write(path: Path, text: str) -> None:
    partial = path.with_name(f"{path.name}.partial")
    partial.write_text(text)
    partial.replace(path)


def _copied(source: Path, path: Path) -> tuple[str, int]:
    """Copy a file; the hash and number of the bytes that were written."""
    digest, size = hashlib.sha256(), 0
    with source.open("rb") as data, path.open("wb") as out:
        while piece := data.read(PIECE_BYTES):
            digest.update(piece)
            out.write(piece)
            size += len(piece)
        out.flush()
        os.fsync(out.fileno())
    return digest.hexdigest(), size
