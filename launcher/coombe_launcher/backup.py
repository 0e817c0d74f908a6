"""Backups of a home: its database and files, taken while it is used, kept by rule, and put back.

A backup is a manifest beside a dump of the database; files are in a pool by their SHA-256, so that one that is in many
backups is there once, and a backup copies only what is new. Recordings that are under way are copied before the
database and after it: what was stored in between is in either.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from coombe_launcher.backup_state import note
from coombe_launcher.backup_target import FORMAT, NAME, Target, stated_hash
from coombe_launcher.console import LauncherError, say
from coombe_launcher.database import PrivateDatabase
from coombe_launcher.home import Home
from coombe_launcher.upgrading import copy_database, dump, load, schema_state, unknown_here

DATABASE = "database.sql.gz"
TAKEN = ("store", "spool", "https", "secret-key")
GROWING = ("spool",)


def back_up(home: Home, env: Mapping[str, str], target: Target) -> str:
    """Back a home up while it is used; the name of the backup. How it ended is written into the home.

    Raises LauncherError; nothing of a backup that broke off counts as one.
    """
    begun = time.monotonic()
    try:
        with target.alone():
            made = _backed_up(home, env, target)
            removed = target.keep_by_rule()
    except (LauncherError, OSError) as error:
        note(home.folder, target=str(target.folder), ok=False, sentence=str(error))
        raise LauncherError(f"the backup failed: {error}") from None
    folder, manifest = target.manifest(made)
    if damaged := [row["name"] for row in manifest["files"] if stated_hash(row["name"]) not in ("", row["sha256"])]:
        say(f"{len(damaged)} files of the store are not what was stored, here as there: ./coombe store lists them")
    size = sum(row["bytes"] for row in manifest["files"]) + manifest["database"]["bytes"]
    note(home.folder, target=str(target.folder), ok=True, name=made)
    say(f"Backed up {size / 1e6:.1f} MB in {time.monotonic() - begun:.0f} s: {folder}")
    if removed:
        say(f"{len(removed)} older ones were removed by the rule: {', '.join(removed)}")
    return made


def _backed_up(home: Home, env: Mapping[str, str], target: Target) -> str:
    at = datetime.now(UTC)
    partial = target.begin(f"{at:{NAME}}")
    before = dict(_taken(home, target, GROWING))
    dump(env["DATABASE_URL"], partial / DATABASE)
    sha256, size = _digest(partial / DATABASE)
    locked = target.locker.lock(partial / DATABASE)
    files = before | dict(_taken(home, target, TAKEN))
    state = schema_state(env)
    manifest = {
        "format": FORMAT,
        "made_at": at.isoformat(timespec="seconds"),
        "database": {"file": locked.name, "sha256": sha256, "bytes": size, "migrations": state["applied"]},
        "files": [{"name": name, **row} for name, row in sorted(files.items())],
    }
    target.finish(partial, manifest)
    return f"{at:{NAME}}"


def _taken(home: Home, target: Target, names: Sequence[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Files of the home in the pool, by their paths in it; one that goes meanwhile was not to stay."""
    for path in (each for name in names for each in _files(home.folder / name)):
        with suppress(FileNotFoundError):
            yield str(path.relative_to(home.folder)), target.take(path)


def _files(path: Path) -> Iterator[Path]:
    if path.is_file():
        yield path
    elif path.is_dir():
        yield from (each for each in sorted(path.rglob("*")) if each.is_file() and ".partial" not in each.name)


def check(target: Target, name: str | None) -> str:
    """Read a whole backup and compare it with its hashes; its name. Raises LauncherError with all that is wrong."""
    folder, manifest = target.manifest(name)
    wrong = []
    scratch = target.folder / f"checking-{os.getpid()}"
    try:
        with _scratch(scratch):
            for row in manifest["files"]:
                try:
                    target.give(row["sha256"], scratch / "file")
                except LauncherError as error:
                    wrong.append(f"{error} ({row['name']})")
            wrong += _wrong_database(target, folder, manifest, scratch)
    except OSError as error:
        raise LauncherError(f"{target.folder} can't be written: {error.strerror}") from None
    if wrong:
        listed = "\n  ".join(wrong)
        raise LauncherError(f"{folder.name} is not whole:\n  {listed}")
    say(f"{folder.name} is whole: the database and {len(manifest['files'])} files, each with its hash")
    return folder.name


def _wrong_database(target: Target, folder: Path, manifest: Mapping[str, Any], scratch: Path) -> list[str]:
    stored = folder / manifest["database"]["file"]
    if not stored.exists():
        return [f"the copy of the database is gone: {stored}"]
    with target.locker.opened(stored, scratch) as plain:
        found, _ = _digest(plain)
    return [] if found == manifest["database"]["sha256"] else [f"the copy of the database is damaged: {stored}"]


def bring_back(home: Home, target: Target, name: str | None, replace: bool, external: str | None) -> None:
    """Put a backup in the place of what a home holds.

    Everything is read and compared with its hashes first. `external` is the address of a database that is not the
    home's own. What was there before is kept beside. Raises LauncherError, and then the home is as it was.
    """
    folder, manifest = target.manifest(name)
    _refuse_full(home, replace, external)
    if unknown := unknown_here(manifest["database"]["migrations"]):
        raise LauncherError(f"{folder.name} was made by a newer Coombe ({unknown[-1]} is unknown here). Use that one")
    coming, aside = home.folder / "restoring", home.folder / f"before-restore-{datetime.now(UTC):{NAME}}"
    with _scratch(coming):
        for row in manifest["files"]:
            target.give(row["sha256"], coming / row["name"])
        if wrong := _wrong_database(target, folder, manifest, coming):
            raise LauncherError(wrong[0])
        with target.locker.opened(folder / manifest["database"]["file"], coming) as plain:
            if external:
                _load_over(home, external, plain)
            else:
                _load_into_new(coming / "mariadb", plain)
        _change_over(home, coming, aside, TAKEN if external else (*TAKEN, "mariadb"))
    say(f"Restored the backup of {manifest['made_at']}: the database and {len(manifest['files'])} files.")
    if aside.exists():
        say(f"What was there before is in {aside}; delete it once nothing is missed.")


def _refuse_full(home: Home, replace: bool, external: str | None) -> None:
    """Raises LauncherError where a home holds something that nobody said is to be replaced."""
    held = [each for each in (*TAKEN, "mariadb") if (home.folder / each).exists() and each != "secret-key"]
    if external and not schema_state(home.environment(external))["empty"]:
        held.append("tables in DATABASE_URL")
    if held and not replace:
        raise LauncherError(
            f"{home.folder} is not empty: it has {', '.join(held)}. With --replace that is put aside, and kept"
        )


def _change_over(home: Home, coming: Path, aside: Path, names: Sequence[str]) -> None:
    """Put what a home holds under some names aside, and what is coming in its place."""
    for each in names:
        if (home.folder / each).exists():
            aside.mkdir(exist_ok=True)
            (home.folder / each).rename(aside / each)
        if (coming / each).exists():
            (coming / each).rename(home.folder / each)


def _load_over(home: Home, url: str, copy: Path) -> None:
    """Put a dump in the place of a database that is not the home's own; as it was it is among the home's copies."""
    kept = copy_database(home, url, "before-restore")
    try:
        load(url, copy)
    except LauncherError as error:
        raise LauncherError(f"{error}\nThe database as it was comes back with: ./coombe restore {kept}") from None
    say(f"What the database held before is in {kept}")


def _load_into_new(folder: Path, copy: Path) -> None:
    database = PrivateDatabase(folder)
    folder.mkdir(parents=True)
    database.start()
    try:
        load(database.url, copy)
    finally:
        database.stop()


@contextmanager
def _scratch(folder: Path) -> Iterator[None]:
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True, mode=0o700)
    try:
        yield
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _digest(path: Path) -> tuple[str, int]:
    with path.open("rb") as data:
        return hashlib.file_digest(data, "sha256").hexdigest(), path.stat().st_size
