"""`coombe upgrade`: a backup, then the tables, then the runs that a newer core times otherwise; and the way back."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from coombe_launcher.backup import back_up, bring_back
from coombe_launcher.backup_target import Locker, Target
from coombe_launcher.console import LauncherError, manage, say
from coombe_launcher.home import Home
from coombe_launcher.places import SERVER
from coombe_launcher.upgrading import check_schema, upgrade

NOTED = "upgraded.json"  # in the home: which backup was made before the latest upgrade


def move_up(home: Home, env: dict[str, str], target: Target) -> None:
    """Bring a home that nothing uses up to this code, with a backup from before. Raises LauncherError.

    Where a step fails, the backup is the way back; what had been done is said.
    """
    pending = check_schema(home, env)["pending"]
    name = back_up(home, env, target)
    noted = {"at": datetime.now(UTC).isoformat(timespec="seconds"), "target": str(target.folder), "backup": name}
    (home.folder / NOTED).write_text(json.dumps(noted))
    upgrade(home, env)
    say(f"Tables: {len(pending)} changes" if pending else "Tables: as they were")
    say(manage(env, "retime", doing="timing again what a newer core times otherwise").strip() or "Runs: as they were")
    say(manage(env, "check_store", "--quick", doing="comparing the store with the database").strip().splitlines()[-1])
    say("Upgraded. The way back: put the older Coombe in place, then ./coombe upgrade --back")


def move_back(home: Home, locker: Locker) -> None:
    """Bring back what was before the latest upgrade; the older code has to be in place. Raises LauncherError."""
    noted = _noted(home)
    target = Target(Path(noted["target"]), locker)
    _, manifest = target.manifest(noted["backup"])
    if newer := sorted(_own_changes() - set(manifest["database"]["migrations"])):
        raise LauncherError(
            f"this is still the newer Coombe ({newer[-1]} is not in the backup of {noted['at']}), which would change"
            " the tables again. Put the older one in place first"
        )
    bring_back(home, target, noted["backup"], True, os.environ.get("DATABASE_URL"))
    (home.folder / NOTED).unlink()


def _noted(home: Home) -> Mapping[str, Any]:
    try:
        noted: dict[str, Any] = json.loads((home.folder / NOTED).read_text())
    except FileNotFoundError:
        raise LauncherError(
            f"{home.folder} was not upgraded by ./coombe upgrade, or was brought back since. A backup comes back with"
            " ./coombe restore FOLDER, a copy of the database with ./coombe restore"
        ) from None
    return noted


def _own_changes() -> set[str]:
    """Every change of the tables that this code has, as an app and a name."""
    files = SERVER.glob("*/migrations/[0-9]*.py")
    return {f"{path.parent.parent.name} {path.stem}" for path in files}
