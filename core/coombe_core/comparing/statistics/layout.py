"""How the runs of two groups are spread over days and directions, which decides what may be compared with what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Kind = Literal["plain", "within", "days"]
RANK_TOLERANCE = 1e-9


@dataclass(frozen=True, eq=False)
class Layout:
    """How the runs of two groups (n) lay: which are after, on which day and direction; what is compared with what.

    `cells` numbers the groups within which labels may be swapped: runs of one day and direction. `place` counts the
    runs that were driven before each on its day; where not `in_order`, nobody noted when, and it is the least even way.
    """

    kind: Kind
    after: NDArray[np.bool_]
    days: Ints
    cells: Ints
    covariates: Floats
    place: Floats
    in_order: bool

    @property
    def day_count(self) -> int:
        """Days on which any of the runs were driven."""
        return int(self.days.max()) + 1 if self.days.size else 0

    @cached_property
    def design(self) -> Floats:
        """Columns of the group, the level, and what is fitted beside (n x columns)."""
        return np.column_stack([self.after.astype(float), np.ones(self.after.size), self.covariates])

    @cached_property
    def basis(self) -> Floats:
        """Orthonormal columns that span the design and, where groups are on days of their own, every day."""
        return spanned(self._columns)

    @cached_property
    def basis_in_time(self) -> Floats:
        """The same with a drift from run to run, which is the same on all days; without where the order is unknown."""
        return spanned(np.column_stack([self._columns, self.place])) if self.in_order else self.basis

    @cached_property
    def weights(self) -> Floats:
        """The group's effect by ordinary least squares, as a weighted sum."""
        return np.asarray(np.linalg.pinv(self.design, rcond=RANK_TOLERANCE)[0])

    @property
    def _columns(self) -> Floats:
        days = [np.eye(self.day_count)[self.days]] if self.kind == "days" else []
        return np.column_stack([self.design, *days])


def spanned(columns: Floats) -> Floats:
    """Orthonormal columns that span others."""
    found, sizes, _ = np.linalg.svd(columns, full_matrices=False)
    return np.asarray(found[:, sizes > RANK_TOLERANCE * sizes[0]])


def layout_of(
    days: Sequence[str], directions: Sequence[str], after: Sequence[bool], hours: Sequence[float | None] = ()
) -> Layout:
    """Lay out the runs of two groups.

    Parameters
    ----------
    days, directions : sequence of str, length n
        On which day and in which direction each run was driven; empty where that was not noted. A day that was not
        noted counts as a day of its group's own: nothing says that the other group was driven on it.
    after : sequence of bool, length n
        Whether each run belongs to the second group.
    hours : sequence of float or None, length n or 0
        When on its day each run was driven. On a day that lacks one the first group's runs count as driven before the
        second's, in the order in which they stand.

    Returns
    -------
    Layout
        ``plain`` where both groups share one day; ``within`` where days or directions are fitted beside the group;
        ``days`` where the groups do not share all of their days.
    """
    is_after = np.array(after, dtype=bool)
    day = _numbered([name or f"of group {group:d}" for name, group in zip(days, after, strict=True)])
    direction = _numbered(directions)
    shared = _days_are_shared(day, is_after)
    by_day = _indicators(day) if shared else _indicators(day)[:, :0]
    by_direction = _indicators(direction)
    if not all(directions) or not _directions_are_in_both(direction, is_after):
        by_direction, direction = by_direction[:, :0], np.zeros_like(direction)
    covariates = np.column_stack([by_day, by_direction])
    kind: Kind = "days" if not shared else "within" if covariates.size else "plain"
    cells = _numbered(list(zip(day.tolist(), direction.tolist(), strict=True)))
    noted = [hour for hour in hours if hour is not None]
    in_order = bool(noted) and len(noted) == len(days)
    place = _places(day, noted if in_order else range(len(days)))
    return Layout(kind, is_after, day, cells, covariates, place, in_order)


def _places(days: Ints, hours: Sequence[float]) -> Floats:
    place, when = np.zeros(days.size), np.asarray(hours, dtype=np.float64)
    for day in set(days.tolist()):
        runs = np.flatnonzero(days == day)
        place[runs[np.argsort(when[runs], kind="stable")]] = np.arange(runs.size)
    return place


def _days_are_shared(day: Ints, is_after: NDArray[np.bool_]) -> bool:
    """Whether runs of both groups were driven on every day."""
    return all(len(set(is_after[day == each])) == 2 for each in range(int(day.max(initial=-1)) + 1))


def _directions_are_in_both(direction: Ints, is_after: NDArray[np.bool_]) -> bool:
    """Whether there is more than one direction, and each group was driven in all: neither group is then a direction."""
    return len(set(direction)) > 1 and set(direction[is_after]) == set(direction[~is_after])


def _indicators(labels: Ints) -> Floats:
    """A column for every label but the first."""
    return np.eye(int(labels.max(initial=0)) + 1)[labels][:, 1:]


def _numbered(labels: Sequence[object]) -> Ints:
    order = {label: index for index, label in enumerate(dict.fromkeys(labels))}
    return np.array([order[label] for label in labels], dtype=np.intp)
