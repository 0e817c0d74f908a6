"""What a study can't be made of: a code with its numbers, for which `wording` has the sentence."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

Reason = Literal[
    "too few",
    "too few days",
    "too few levels",
    "one level",
    "one speed",
    "apart",
    "missing",
    "missing temperature",
    "sign",
    "no lap",
]


class StudyError(ValueError):
    """Values that a study can't be made of; `numbers` are what its sentence names."""

    def __init__(self, reason: Reason, numbers: Mapping[str, float]) -> None:
        super().__init__(f"{reason}: {dict(numbers)}")
        self.reason: Reason = reason
        self.numbers = numbers
