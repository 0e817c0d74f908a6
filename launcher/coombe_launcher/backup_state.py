"""How the latest backup of a home ended, and whether that is good enough."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

STATE = "backup.json"  # in the home
OLD = timedelta(hours=50)  # a daily one may be two hours late


def note(folder: Path, **what: Any) -> None:
    """Write how a backup of the home in `folder` ended; when the latest good one did stays known."""
    before = read(folder) or {}
    now = datetime.now(UTC).isoformat(timespec="seconds")
    noted = {"ended_at": now, "good_at": now if what["ok"] else before.get("good_at"), "sentence": "", **what}
    partial = folder / f"{STATE}.partial"
    partial.write_text(json.dumps(noted))
    partial.replace(folder / STATE)


def read(folder: Path) -> dict[str, Any] | None:
    """How the latest ended; None where none was ever made."""
    try:
        noted: dict[str, Any] = json.loads((folder / STATE).read_text())
    except (OSError, ValueError):
        return None
    return noted


def trouble(folder: Path) -> str:
    """What an administrator has to know: a backup that failed, or is old; empty where all is well or none is made."""
    noted = read(folder)
    if noted is None:
        return ""
    if not noted["ok"]:
        again = f"./coombe backup {noted.get('target', 'FOLDER')}"
        return (
            f"The latest backup ({_day(noted['ended_at'])}) failed: {noted['sentence']}. Once that is mended: {again}"
        )
    if datetime.now(UTC) - datetime.fromisoformat(noted["good_at"]) > OLD:
        return f"The latest backup is of {_day(noted['good_at'])}. Does its timer run?"
    return ""


def _day(instant: str) -> str:
    return f"{datetime.fromisoformat(instant):%Y-%m-%d %H:%M} UTC"
