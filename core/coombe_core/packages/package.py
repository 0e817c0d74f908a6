"""A data package in memory."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

Cell = str | float | int | bool | None
Row = Mapping[str, Cell]
Json = Mapping[str, object]


class PackageError(ValueError):
    """What is wrong with a package as a whole; its text is a sentence without a period."""


@dataclass(frozen=True)
class About:
    """What the package is: its title, the version of the core behind its numbers, who made it when, and its license."""

    title: str
    core_version: str
    created: str
    made_by: str = ""
    license: str = ""


@dataclass(frozen=True)
class Package:
    """Tables by name, files by their path in the package, and what the comparison took, a pair an entry."""

    about: About
    tables: Mapping[str, Sequence[Row]]
    files: Mapping[str, bytes] = field(default_factory=dict)
    inputs: Sequence[Json] = ()
