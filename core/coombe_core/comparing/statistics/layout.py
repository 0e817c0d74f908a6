"""How the runs of two groups lie in days and directions, which decides what may be compared with what."""

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

    `cells` numbers the groups within which labels may be swapped: runs of one day and direction.
    """

    kind: Kind
    after: NDArray[np.bool_]
    days: Ints
    cells: Ints
    covariates: Floats

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
        """Orthonormal columns that span the design and, where groups lie on days of their own, every day."""
        days = [np.eye(self.day_count)[self.days]] if self.kind == "days" else []
        spanned, sizes, _ = np.linalg.svd(np.column_stack([self.design, *days]), full_matrices=False)
        return np.asarray(spanned[:, sizes > RANK_TOLERANCE * sizes[0]])

    @cached_property
    def weights(self) -> Floats:
        """The group's effect by ordinary least squares, as a weighted sum."""
        return np.asarray(np.linalg.pinv(self.design, rcond=RANK_TOLERANCE)[0])


def layout_of(days: Sequence[str], directions: Sequence[str], after: Sequence[bool]) -> Layout:
    """Lay out the runs of two groups.

    Parameters
    ----------
    days, directions : sequence of str, length n
        On which day and in which direction each run was driven; empty where that was not noted.
    after : sequence of bool, length n
        Whether each run belongs to the second group.

    Returns
    -------
    Layout
        ``plain`` where both groups share one day, or the days are not known for every run; ``within`` where days or
        directions are fitted beside the group; ``days`` where the groups do not share all of their days.
    """
    is_after = np.array(after, dtype=bool)
    day = _numbered(days if all(days) else [""] * len(days))
    direction = _numbered(directions)
    shared = _days_are_shared(day, is_after)
    by_day = _indicators(day) if shared else _indicators(day)[:, :0]
    by_direction = _indicators(direction)
    balanced = all(directions) and _directions_are_in_both(direction, is_after)
    if not balanced or not _group_is_separable(is_after, np.column_stack([by_day, by_direction])):
        by_direction, direction = by_direction[:, :0], np.zeros_like(direction)
    covariates = np.column_stack([by_day, by_direction])
    kind: Kind = "days" if not shared else "within" if covariates.size else "plain"
    cells = _numbered(list(zip(day.tolist(), direction.tolist(), strict=True)))
    return Layout(kind, is_after, day, cells, covariates)


def _days_are_shared(day: Ints, is_after: NDArray[np.bool_]) -> bool:
    """Whether runs of both groups were driven on every day."""
    return all(len(set(is_after[day == each])) == 2 for each in range(int(day.max(initial=-1)) + 1))


def _directions_are_in_both(direction: Ints, is_after: NDArray[np.bool_]) -> bool:
    """Whether there is more than one direction, and each group was driven in all of them."""
    return len(set(direction)) > 1 and set(direction[is_after]) == set(direction[~is_after])


def _group_is_separable(is_after: NDArray[np.bool_], covariates: Floats) -> bool:
    """Whether the group's effect can be told apart from those of the covariates."""
    others = np.column_stack([np.ones(is_after.size), covariates])
    return bool(np.linalg.matrix_rank(np.column_stack([others, is_after])) > np.linalg.matrix_rank(others))


def _indicators(labels: Ints) -> Floats:
    """A column for every label but the first."""
    return np.eye(int(labels.max(initial=0)) + 1)[labels][:, 1:]


def _numbered(labels: Sequence[object]) -> Ints:
    order = {label: index for index, label in enumerate(dict.fromkeys(labels))}
    return np.array([order[label] for label in labels], dtype=np.intp)
