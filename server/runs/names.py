"""File names as they are kept and shown."""

from __future__ import annotations

UNKNOWN_NAME = "file"
LONGEST = 255


def plain_name(name: str) -> str:
    """A file name without folders, control characters and marks of writing direction, short enough to keep."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in last if c.isprintable())[-LONGEST:] or UNKNOWN_NAME
