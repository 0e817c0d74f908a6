"""Bringing the database up to date: checked first, copied first, then one change at a time.

MariaDB can't take a change of tables back. What was under way when an upgrade broke off is written beside the data, and
nothing starts until the copy that was made before is restored.
"""

from __future__ import annotations

import gzip
import json
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from coombe_launcher.console import LauncherError, manage, say
from coombe_launcher.home import Home
from coombe_launcher.places import SERVER

UNDER_WAY = "upgrade-under-way.json"
COPIES_KEPT = 5


def upgrade(home: Home, env: dict[str, str]) -> None:
    """Apply what is pending. Raises LauncherError where the database is newer than the code, or half changed."""
    state = check_schema(home, env)
    if not state["pending"]:
        return
    options = ["--marker", str(home.folder / UNDER_WAY)]
    if not state["empty"]:
        copy = copy_database(home, env["DATABASE_URL"], "before-upgrade")
        say(f"Upgrading the database: {len(state['pending'])} changes; a copy is in {copy}")
        options += ["--copy", str(copy)]
    manage(env, "apply_changes", *options, doing="bringing the database up to date")


def check_schema(home: Home, env: Mapping[str, str]) -> dict[str, Any]:
    """How the tables stand. Raises LauncherError where the database is newer than the code, or half changed."""
    _refuse_half_done(home)
    state = schema_state(env)
    if state["unknown"]:
        raise LauncherError(
            f"this database was made by a newer Coombe ({state['unknown'][-1]} is unknown here). Start the newer one,"
            " or restore a copy of the database from before: ./coombe restore"
        )
    return state


def schema_state(env: Mapping[str, str]) -> dict[str, Any]:
    """How the tables stand to the code."""
    state: dict[str, Any] = json.loads(manage(env, "schema_state", doing="reading the database's state"))
    return state


def _refuse_half_done(home: Home) -> None:
    marker = home.folder / UNDER_WAY
    if not marker.exists():
        return
    broken_off = json.loads(marker.read_text())
    if not broken_off["copy"]:  # a new database: nothing was in it
        raise LauncherError(
            f"creating the database broke off in {broken_off['migration']}; it was still empty."
            f" Delete {home.database} and {marker}, then start again"
        )
    raise LauncherError(
        f"an upgrade of the database broke off in {broken_off['migration']}, so its tables may be half changed."
        f" Restore the copy from before, then start again:\n  ./coombe restore {broken_off['copy']}"
    )


def copy_database(home: Home, url: str, why: str) -> Path:
    """Write the whole database into a compressed file; the path. The latest few are kept."""
    home.copies.mkdir(parents=True, exist_ok=True)
    path = home.copies / f"{datetime.now(UTC):%Y%m%dT%H%M%S}-{why}.sql.gz"
    partial = path.with_suffix(".partial")
    dump(url, partial)
    partial.replace(path)
    for old in sorted(home.copies.glob("*.sql.gz"))[:-COPIES_KEPT]:
        old.unlink()
    return path


def dump(url: str, path: Path) -> None:
    """Write the whole database, as it stands at one instant, into a compressed file. Raises LauncherError."""
    with _client_options(url) as (options, database):
        command = ["mariadb-dump", *options, "--single-transaction", "--quick", "--hex-blob", database]
        with gzip.open(path, "wb", compresslevel=3) as out, tempfile.TemporaryFile() as errors:
            dumping = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=errors)
            assert dumping.stdout
            shutil.copyfileobj(dumping.stdout, out)
            if dumping.wait():
                errors.seek(0)
                raise LauncherError(f"copying the database failed: {errors.read().decode(errors='replace').strip()}")


def restore(home: Home, url: str, copy: Path) -> None:
    """Put a copy in the place of what the database holds; that is copied first. Raises LauncherError."""
    if not copy.is_file():
        listed = "\n  ".join(map(str, sorted(home.copies.glob("*.sql.gz")))) or "none"
        raise LauncherError(f"there is no copy {copy}; copies that there are:\n  {listed}")
    kept = copy_database(home, url, "before-restore")
    load(url, copy)
    (home.folder / UNDER_WAY).unlink(missing_ok=True)
    say(f"Restored {copy}. What was there before is in {kept}")


def load(url: str, copy: Path) -> None:
    """Put what `dump` wrote in the place of the database. Raises LauncherError."""
    with _client_options(url) as (options, database):
        client = ["mariadb", *options]
        _feed(client, f"DROP DATABASE `{database}`; CREATE DATABASE `{database}` CHARACTER SET utf8mb4".encode())
        with gzip.open(copy, "rb") as data:
            restoring = subprocess.Popen([*client, database], stdin=subprocess.PIPE, stderr=subprocess.PIPE)
            assert restoring.stdin and restoring.stderr
            shutil.copyfileobj(data, restoring.stdin)
            restoring.stdin.close()
            output = restoring.stderr.read().decode(errors="replace").strip()
            if restoring.wait():
                raise LauncherError(f"restoring {copy} failed: {output}")


def unknown_here(migrations: Sequence[str]) -> list[str]:
    """Those of applied migrations, each an app and a name, that this code does not have though it has the app."""
    apart = [each.split() for each in migrations]
    return [
        f"{app} {name}"
        for app, name in apart
        if (SERVER / app / "migrations").is_dir() and not (SERVER / app / "migrations" / f"{name}.py").exists()
    ]


def _feed(client: Sequence[str], sql: bytes) -> None:
    done = subprocess.run(client, input=sql, capture_output=True, check=False)
    if done.returncode:
        raise LauncherError(f"the database refused: {done.stderr.decode(errors='replace').strip()}")


@contextmanager
def _client_options(url: str) -> Iterator[tuple[list[str], str]]:
    """Options for MariaDB's own programs and the database's name; the password goes by a file of ours alone."""
    parts = urlsplit(url)
    handle, name = tempfile.mkstemp(prefix="coombe-client-")
    try:
        with os.fdopen(handle, "w") as file:
            secret = unquote(parts.password or "").replace("\\", "\\\\").replace('"', '\\"')
            file.write(f'[client]\nuser="{unquote(parts.username or "")}"\npassword="{secret}"\n')
        where = [f"--host={parts.hostname or '127.0.0.1'}", f"--port={parts.port or 3306}", "--protocol=tcp"]
        yield [f"--defaults-extra-file={name}", *where, "--default-character-set=utf8mb4"], parts.path.lstrip("/")
    finally:
        Path(name).unlink()
