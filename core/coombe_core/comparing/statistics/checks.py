"""What a skeptic looks for in the runs themselves: a trend over the day, and values far from their group's others."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.statistics.interval import two_sided_p
from coombe_core.comparing.statistics.layout import Floats, Layout
from coombe_core.comparing.statistics.power import ALPHA

FAR = 3.5  # of the modified z score (Iglewicz and Hoaglin 1993)
MAD_TO_SD = 1.4826


@dataclass(frozen=True)
class Trend:
    """Change of the values an hour within a day, and the p of there being none."""

    per_hour: float
    p_value: float

    @property
    def shown(self) -> bool:
        """Whether the interval excludes zero."""
        return self.p_value < ALPHA


def trend(values: Floats, hours: Floats, layout: Layout) -> Trend | None:
    """Look for a trend within the day, beside groups, days and directions.

    Parameters
    ----------
    values, hours : array of float, shape (n,)
    layout : Layout

    Returns
    -------
    Trend or None
        None where too few runs say.
    """

    days = np.eye(layout.day_count)[layout.days]
    design = np.column_stack([hours, layout.after, layout.covariates, days])
    others = int(np.linalg.matrix_rank(design[:, 1:]))
    dof = values.size - others - 1
    if dof < 2 or np.linalg.matrix_rank(design) == others:
        return None
    solution = np.linalg.lstsq(design, values, rcond=None)[0]
    left = float(((values - design @ solution) ** 2).sum()) / dof
    error = float(np.sqrt(left * np.linalg.pinv(design.T @ design)[0, 0]))
    if error == 0.0:
        return None
    return Trend(float(solution[0]), two_sided_p(solution[0] / error, dof))


def outliers(values: Floats, layout: Layout) -> list[int]:
    """List the places (0..n-1) of values far from the median of their group; they are never dropped."""
    medians = np.where(layout.after, np.median(values[layout.after]), np.median(values[~layout.after]))
    apart = np.abs(values - medians)
    if values.size < 6 or not (spread := MAD_TO_SD * float(np.median(apart))):
        return []
    return [int(place) for place in np.flatnonzero(apart > FAR * spread)]
