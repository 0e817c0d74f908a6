"""The store in a bucket of an object store (S3), for installations of several machines."""

from __future__ import annotations

import errno
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import IO, Any

from botocore.exceptions import BotoCoreError, ClientError
from storages.backends.s3 import S3Storage

GONE = ("404", "NoSuchKey", "NotFound")


class ObjectStorage(S3Storage):
    """A bucket whose errors are those of files: what is gone is FileNotFoundError, all else OSError with the cause.

    An object is there whole or not at all, as the store needs it.
    """

    def _save(self, name: str, content: Any) -> str:
        with _as_files():
            return str(super()._save(name, content))

    def _open(self, name: str, mode: str = "rb") -> IO[bytes]:
        with _as_files():
            opened: IO[bytes] = super()._open(name, mode)
            return opened

    def delete(self, name: str) -> None:
        """Remove an object; one that is gone is no error."""
        with _as_files():
            super().delete(name)

    def names(self, folder: str) -> list[str]:
        """The last parts of the names of everything below a folder."""
        with _as_files():
            listed = self.bucket.objects.filter(Prefix=f"{self._normalize_name(folder)}/")
            return sorted(each.key.rsplit("/", 1)[1] for each in listed)

    def move(self, source: str, target: str) -> None:
        """Give an object another name."""
        with _as_files():
            copied = {"Bucket": self.bucket_name, "Key": self._normalize_name(source)}
            self.bucket.Object(self._normalize_name(target)).copy(copied)
            self.bucket.Object(copied["Key"]).delete()

    def changed_at(self, name: str) -> datetime:
        """When an object got its name."""
        with _as_files():
            changed: datetime = self.bucket.Object(self._normalize_name(name)).last_modified
            return changed

    def free_bytes(self) -> int | None:
        """How much room there is: nobody knows."""
        return None

    def try_out(self) -> None:
        """Write something and remove it. Raises OSError."""
        with _as_files():
            probe = self.bucket.Object(self._normalize_name(".probe"))
            probe.put(Body=b"")
            probe.delete()


@contextmanager
def _as_files() -> Iterator[None]:
    try:
        yield
    except ClientError as error:
        code = str(error.response.get("Error", {}).get("Code", ""))
        if code in GONE:
            raise FileNotFoundError(errno.ENOENT, "It is not in the object store") from None
        raise OSError(errno.EACCES, f"The object store refuses it ({code})") from None
    except BotoCoreError as error:
        raise OSError(errno.EIO, f"The object store does not answer ({type(error).__name__})") from None
