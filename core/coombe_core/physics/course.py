"""A course: a strip in one direction. What was surveyed of it holds for a run in its own direction."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.interpolation import median
from coombe_core.trace import AT_REST_MPS, Trace
from coombe_core.uncertainty import Value

Floats = NDArray[np.float64]
WGS84_EQUATOR_M = 6_378_137.0
WGS84_ECCENTRICITY_2 = 0.006_694_379_990_14


@dataclass(frozen=True, eq=False)
class Profile:
    """Elevations (m) at ascending distances (m) along the heading from where cars stage (n each)."""

    distance_m: Floats
    elevation_m: Floats

    @classmethod
    def of(cls, stations: Sequence[tuple[float, float]]) -> Profile:
        """A profile of (distance, elevation) stations. Raises ValueError where they are under two or do not ascend."""
        distance_m, elevation_m = np.array(stations, dtype=np.float64).reshape(-1, 2).T
        if distance_m.size < 2 or (np.diff(distance_m) <= 0).any() or not np.isfinite(elevation_m).all():
            raise ValueError("a slope profile needs two stations or more, each further on than the one before it")
        return cls(distance_m, elevation_m)

    @classmethod
    def of_csv(cls, text: str) -> Profile:
        """Read a table with the headings distance_m and elevation_m. Raises ValueError with the line at fault."""
        rows = list(csv.reader(io.StringIO(text)))
        if not rows or [cell.strip() for cell in rows[0][:2]] != ["distance_m", "elevation_m"]:
            raise ValueError("line 1: a slope profile has the headings distance_m,elevation_m")
        stations = []
        for line, row in enumerate(rows[1:], start=2):
            try:
                stations.append((float(row[0]), float(row[1])))
            except (ValueError, IndexError):
                raise ValueError(f"line {line}: not a distance and an elevation in meters") from None
        return cls.of(stations)

    @property
    def mean_slope_percent(self) -> float:
        """Of the straight line through the stations (least squares)."""
        return 100.0 * float(np.polyfit(self.distance_m, self.elevation_m, 1)[0])

    def turned(self) -> Profile:
        """As it is met by a run from the other end."""
        return Profile((self.distance_m[-1] - self.distance_m)[::-1], self.elevation_m[::-1])

    def slope_percent(self, distance_m: Floats) -> Floats:
        """Slope at distances (m) from the staged position; beyond its ends that of the last stretch."""
        slopes = 100.0 * np.diff(self.elevation_m) / np.diff(self.distance_m)
        stretch = np.searchsorted(self.distance_m, distance_m, side="right") - 1
        return np.asarray(slopes[np.clip(stretch, 0, slopes.size - 1)])


@dataclass(frozen=True)
class SurveyedCourse:
    """The surveyed slope in percent, positive uphill along `heading_deg`; without a heading it holds for every run.

    With a `profile`, the slope holds where it is; the mean slope's u95 is then that of the survey.
    """

    slope_percent: Value
    heading_deg: float | None = None
    profile: Profile | None = None

    def slope_along(self, fixes: Trace) -> Value:
        """The mean slope as the run met it: uphill out is downhill back."""
        profile = self.profile_along(fixes)
        if profile is not None:
            steps_m = np.diff(fixes.elapsed_s) * (fixes.speed_mps[1:] + fixes.speed_mps[:-1]) / 2
            distance_m = np.cumsum(steps_m)
            mean = (
                float(steps_m @ profile.slope_percent(distance_m) / max(steps_m.sum(), 1e-9)) if steps_m.size else 0.0
            )
            return Value(mean, self.slope_percent.u95)
        return self.slope_percent.scaled(-1.0) if is_opposite_direction(self.heading_deg, fixes) else self.slope_percent

    def profile_along(self, fixes: Trace) -> Profile | None:
        """The profile as the run met it, if there is one."""
        if self.profile is None:
            return None
        return self.profile.turned() if is_opposite_direction(self.heading_deg, fixes) else self.profile


STATION_STEP_M = 20.0
SURVEY_FASTEST_MPS = 17.0


def survey(fixes: Trace) -> Profile:
    """Make a profile from a slow drive along the strip.

    The mean altitude of the fixes of every 20 m; distance is integrated Doppler speed from the first fix in motion.

    Parameters
    ----------
    fixes : Trace

    Returns
    -------
    Profile

    Raises
    ------
    ValueError
        Where the drive is under 60 m, too fast for its altitudes to settle, or has none.
    """
    moving = fixes.speed_mps > AT_REST_MPS
    known = moving & np.isfinite(fixes.altitude_m)
    if not known.any():
        raise ValueError("the log has no fix in motion with an altitude")
    if median(fixes.speed_mps[moving]) > SURVEY_FASTEST_MPS:
        raise ValueError("driven too fast to survey: keep below 60 km/h, about 37 mph")
    steps_m = np.diff(fixes.elapsed_s, prepend=fixes.elapsed_s[0]) * fixes.speed_mps
    distance_m = np.cumsum(np.where(moving, steps_m, 0.0))
    place = np.floor(distance_m[known] / STATION_STEP_M).astype(np.int64)
    counts = np.bincount(place)
    heights = np.bincount(place, fixes.altitude_m[known])
    used = np.flatnonzero(counts)
    if used.size < 3:
        raise ValueError("the drive is too short to survey: 60 m or more are needed")
    return Profile(
        np.asarray((used + 0.5) * STATION_STEP_M), np.asarray(heights[used] / counts[used], dtype=np.float64)
    )


def mean_heading_deg(fixes: Trace) -> float | None:
    """Average the course over the faster half of a run; degrees from north, None where the log has no course."""
    if not len(fixes):
        return None
    fast = fixes.speed_mps >= median(fixes.speed_mps)
    angles = np.radians(fixes.course_deg[fast & np.isfinite(fixes.course_deg)])
    if not angles.size:
        return None
    return float(np.degrees(np.arctan2(np.sin(angles).mean(), np.cos(angles).mean())) % 360.0)


def is_opposite_direction(heading_deg: float | None, fixes: Trace) -> bool:
    """Whether a run went against a heading rather than along it; not where either is unknown."""
    driven_deg = mean_heading_deg(fixes)
    if heading_deg is None or driven_deg is None:
        return False
    return bool(np.cos(np.radians(driven_deg - heading_deg)) < 0)


def directions_of(headings_deg: Sequence[float | None]) -> list[str]:
    """Out or back for runs of those headings, out being the first; empty for all where any is unknown.

    >>> directions_of([68.0, 247.0, 69.0])
    ['out', 'back', 'out']
    """
    known = [heading for heading in headings_deg if heading is not None]
    if len(known) < len(headings_deg):
        return [""] * len(headings_deg)
    return ["back" if np.cos(np.radians(heading - known[0])) < 0 else "out" for heading in known]


def flat_track(latitude_deg: Floats, longitude_deg: Floats) -> tuple[Floats, Floats]:
    """Project places on a plane that touches WGS 84 at the first known one.

    A degree's length is that of the ellipsoid at the first latitude (meridian and normal radius of curvature).

    Parameters
    ----------
    latitude_deg, longitude_deg : array of float, shape (n,)
        NaN where a fix has no place.

    Returns
    -------
    (array, array), shape (n,) each
        Meters east and north of the first known place.
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
