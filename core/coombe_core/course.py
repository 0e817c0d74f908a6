"""A course: a strip in one direction. What was surveyed of it holds for a run in the way that the run went."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.timing.estimate import Value
from coombe_core.trace import Trace

Floats = NDArray[np.float64]
WGS84_EQUATOR_M = 6_378_137.0
WGS84_ECCENTRICITY_2 = 0.006_694_379_990_14


@dataclass(frozen=True)
class SurveyedCourse:
    """The surveyed slope in percent, positive uphill along `heading_deg`; without a heading it holds for every run."""

    slope_percent: Value
    heading_deg: float | None = None

    def slope_along(self, fixes: Trace) -> Value:
        """The slope as the run met it: uphill out is downhill back."""
        return self.slope_percent.scaled(-1.0) if is_other_way(self.heading_deg, fixes) else self.slope_percent


def mean_heading_deg(fixes: Trace) -> float | None:
    """Mean course over the faster half of a run, degrees clockwise from north; None where the log has no course."""
    if not len(fixes):
        return None
    fast = fixes.speed_mps >= np.median(fixes.speed_mps)
    angles = np.radians(fixes.course_deg[fast & np.isfinite(fixes.course_deg)])
    if not angles.size:
        return None
    return float(np.degrees(np.arctan2(np.sin(angles).mean(), np.cos(angles).mean())) % 360.0)


def is_other_way(heading_deg: float | None, fixes: Trace) -> bool:
    """Whether a run went against a heading rather than along it; not where either is unknown."""
    driven_deg = mean_heading_deg(fixes)
    if heading_deg is None or driven_deg is None:
        return False
    return bool(np.cos(np.radians(driven_deg - heading_deg)) < 0)


def flat_track(latitude_deg: Floats, longitude_deg: Floats) -> tuple[Floats, Floats]:
    """Metres east and north of the first known place, on a plane that touches WGS 84 there; for drawing a strip.

    A degree's length is that of the ellipsoid at the first latitude (meridian and normal radius of curvature).
    """
    known = np.isfinite(latitude_deg) & np.isfinite(longitude_deg)
    if not known.any():
        return np.full_like(latitude_deg, np.nan), np.full_like(longitude_deg, np.nan)
    first = int(np.argmax(known))
    latitude = np.radians(latitude_deg[first])
    shape = 1.0 - WGS84_ECCENTRICITY_2 * np.sin(latitude) ** 2
    along_meridian_m = WGS84_EQUATOR_M * (1.0 - WGS84_ECCENTRICITY_2) / shape**1.5
    along_parallel_m = WGS84_EQUATOR_M / np.sqrt(shape) * np.cos(latitude)
    east_m = np.radians(longitude_deg - longitude_deg[first]) * along_parallel_m
    return east_m, np.radians(latitude_deg - latitude_deg[first]) * along_meridian_m
