"""What a machine remembers beside its spool, for a start without the database."""

from __future__ import annotations

import json
import logging
from pathlib import Path
from typing import Any

from django.conf import settings

logger = logging.getLogger(__name__)


def path_of(name: str) -> Path:
    """Where something is remembered."""
    return Path(settings.SPOOL) / f"{name}.json"


def remember(name: str, facts: Any) -> None:
    """Keep something, whole; a disk that is full only costs that."""
    path = path_of(name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        partial = path.with_suffix(".partial")
        partial.write_text(json.dumps(facts))
        partial.replace(path)
    except OSError:
        logger.exception("%s could not be remembered", name)


def remembered(name: str) -> Any:
    """What was kept last; None where nothing was, or it can't be read."""
    try:
        return json.loads(path_of(name).read_text())
    except (OSError, ValueError):
        return None
