"""A home: the folder with one installation's database, store and spool. The demo has its own beside the real one."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from coombe_launcher.console import LauncherError, say
from coombe_launcher.installing import environment
from coombe_launcher.looking_after import end_process
from coombe_launcher.places import VAR

LEFTOVER_LIMIT_S = 15.0
LEFT_BEHIND = (" -m config.web ", "manage.py record", "manage.py store_recordings", "manage.py retime --watch")


@dataclass(frozen=True)
class Home:
    """One folder of data."""

    folder: Path

    @classmethod
    def of(cls, demo: bool = False) -> Home:
        """The real one, or the demo's."""
        real = Path(os.environ.get("COOMBE_VAR", VAR))
        return cls(real / "demo" if demo else real)

    @property
    def database(self) -> Path:
        """Where its private database is."""
        return self.folder / "mariadb"

    @property
    def copies(self) -> Path:
        """Where copies of the database are, made before it is changed."""
        return self.folder / "copies"

    def environment(self, url: str) -> dict[str, str]:
        """What a process that works with its data needs."""
        return environment() | {"DATABASE_URL": url, "COOMBE_VAR": str(self.folder)}

    def make(self) -> None:
        """Make the folder, readable by its owner only."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self.folder.chmod(0o700)

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Be the only one that serves or records from it. Raises LauncherError where another does."""
        self.make()
        with (self.folder / "serving.lock").open("a+") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                lock.seek(0)
                raise LauncherError(
                    f"Coombe already runs from {self.folder} (process {lock.read().strip() or 'unknown'});"
                    " stop that one first"
                ) from None
            lock.truncate(0)
            lock.write(str(os.getpid()))
            lock.flush()
            yield

    def end_leftovers(self) -> None:
        """End processes of this home that a killed launcher has left behind; only whoever is alone may do so."""
        for entry in Path("/proc").glob("[0-9]*"):
            try:
                command = (entry / "cmdline").read_text().replace("\0", " ")
                ours = f"COOMBE_VAR={self.folder}\0" in (entry / "environ").read_text()
            except OSError:
                continue  # another's, or gone
            if ours and any(words in command for words in LEFT_BEHIND) and int(entry.name) != os.getpid():
                end_process(int(entry.name), LEFTOVER_LIMIT_S)

    def clear_uploads(self) -> None:
        """Remove what a killed web process was receiving."""
        shutil.rmtree(self.folder / "uploads", ignore_errors=True)


def warn_of_root() -> None:
    """Say so where everybody on the network would talk to root."""
    if os.geteuid() == 0:
        say("Coombe runs as root. To serve other people, start it as a user of its own.")
