"""A flag: something about a run that a person should know, as a code with its numbers; `wording.flags` says it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

Severity = Literal["void", "caution", "note"]


@dataclass(frozen=True)
class Flag:
    """Something about a run that a person should know; it proposes, and a person decides.

    `numbers` are what its sentence needs, units in their names. `at_s` is where it happened, on the trace's time axis;
    None where it holds for the run as a whole.
    """

    code: str
    severity: Severity
    numbers: Mapping[str, float] = field(default_factory=dict)
    excludes: Literal["", "from rest"] = ""
    at_s: float | None = None
