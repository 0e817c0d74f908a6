"""The store of uploaded bytes: content-addressed by SHA-256 and on disk before any row names them."""

from __future__ import annotations

import os
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage, default_storage

ADDRESS_LENGTH = 64


class SyncedStorage(FileSystemStorage):
    """A file system storage whose files and folders are synced to disk before `save` returns."""

    def _save(self, name: str, content: ContentFile) -> str:  # type: ignore[type-arg]
        saved: str = super()._save(name, content)  # type: ignore[misc]
        path = Path(self.path(saved))
        for synced in (path, path.parent, path.parent.parent):
            handle = os.open(synced, os.O_RDONLY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)
        return saved


def address(sha256: str) -> str:
    """Where the bytes with that hash are kept."""
    return f"logs/{sha256[:2]}/{sha256}"


def keep(data: bytes, sha256: str) -> None:
    """Store bytes under their hash; the same bytes twice are kept once."""
    if not default_storage.exists(address(sha256)):
        default_storage.save(address(sha256), ContentFile(data))


def sweep(named: set[str]) -> int:
    """Remove stored files that no hash in `named` asks for; how many went."""
    removed = 0
    root = Path(default_storage.path("logs"))
    for path in root.glob("*/*"):
        if path.name not in named:
            path.unlink()
            removed += 1
    return removed
