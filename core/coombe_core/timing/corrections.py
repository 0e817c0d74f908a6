"""Times corrected to other conditions: the same run re-integrated with its acceleration changed by what differs.

a_ref(v) = a(v) + g sin(theta) / k + (drag as driven - drag in the reference air); the reference is a level course, air
of 1.225 kg/m^3 and calm. Slope, air density and wind are each corrected or left. The uncorrected time stands beside it.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.physics.air import STANDARD_DENSITY_KG_M3, Air
from coombe_core.physics.course import Profile
from coombe_core.physics.reintegration import reintegrated
from coombe_core.physics.road_load import RoadLoad
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure, parse_measure, time_on
from coombe_core.timing.results import Measured, TimedRun
from coombe_core.uncertainty import Value

Floats = NDArray[np.float64]
DRAG_U95 = 0.1  # of a drag area, where it was assumed or taken from a data sheet


@dataclass(frozen=True)
class Correction:
    """Which differences to the reference to take out; without any, corrected times are left out.

    `air` is that of the run; density and wind can only be corrected with a road load.
    """

    slope: bool = False
    density: bool = False
    wind: bool = False
    air: Air = field(default_factory=Air)
    road_load: RoadLoad | None = None

    @property
    def parts(self) -> tuple[str, ...]:
        """What is corrected, by name."""
        drag = self.road_load is not None
        wanted = {"slope": self.slope, "air density": self.density and drag, "wind": self.wind and drag}
        return tuple(name for name, on in wanted.items() if on)


def corrected(
    run: TimedRun, correction: Correction, heading_deg: float | None = None, profile: Profile | None = None
) -> TimedRun:
    """Give a run a corrected time beside every uncorrected one, or say why there is none.

    Parameters
    ----------
    run : TimedRun
    correction : Correction
        What to take out, the air, and the road load.
    heading_deg : float, optional
        Clockwise from true north; the wind needs it.
    profile : Profile, optional
        The course's, as the run met it: each stretch is then corrected by its own slope.

    Returns
    -------
    TimedRun
    """
    parts = correction.parts
    if not parts or run.kind == "stop":
        return run
    if "slope" in parts and run.slope_percent is None:
        return replace(run, uncorrected_because="slope unknown")
    if "wind" in parts and heading_deg is None:
        return replace(run, uncorrected_because="heading unknown")
    head_wind_mps = correction.air.head_wind_mps(heading_deg or 0.0)
    slopes = _slopes_percent(run, profile)
    rows = [
        replace(row, corrected_time_s=_corrected_time(run, row, correction, slopes, head_wind_mps))
        for row in run.measures
    ]
    return replace(run, measures=rows, corrected_parts=parts)


def _slopes_percent(run: TimedRun, profile: Profile | None) -> Floats:
    """The slope at every point of the run's curve: the profile's, else the mean."""
    if profile is not None and run.kind == "standing":
        return profile.slope_percent(run.curve.distance_m)
    return np.full_like(run.curve.speed_mps, run.slope_percent.value if run.slope_percent else 0.0)


def _corrected_time(
    run: TimedRun, row: Measured, correction: Correction, slopes_percent: Floats, head_wind_mps: float
) -> Value | None:
    """The row's time in the reference conditions, its interval widened by what the correction does not know."""
    uncorrected_s, slope_u95 = row.time_s, run.slope_percent.u95 if run.slope_percent else 0.0
    if uncorrected_s is None:
        return None
    measure = parse_measure(row.name)
    uncorrected = time_of(run.curve, measure, row.clock, np.zeros_like(run.curve.speed_mps))

    def shift(steeper_percent: float, drag: float) -> float | None:
        extra = _extra_mps2(run.curve.speed_mps, correction, slopes_percent + steeper_percent, head_wind_mps, drag)
        level = time_of(run.curve, measure, row.clock, extra)
        return None if level is None or uncorrected is None else level - uncorrected

    change, by_slope, by_drag = shift(0.0, 1.0), shift(slope_u95, 1.0), shift(0.0, 1.1)
    if change is None or by_slope is None or by_drag is None:
        return None
    unknown = by_slope - change, (by_drag - change) * DRAG_U95 / 0.1
    return Value(uncorrected_s.value + change, float(np.linalg.norm([uncorrected_s.u95, *unknown])))


def _extra_mps2(
    speed_mps: Floats, correction: Correction, slopes_percent: Floats, head_wind_mps: float, drag: float
) -> Floats:
    """What the reference conditions add to the acceleration at each speed; `drag` scales the drag area."""
    load, parts = correction.road_load or RoadLoad(1.0), correction.parts
    extra = load.slope_mps2(slopes_percent) if "slope" in parts else np.zeros_like(speed_mps)
    if correction.road_load is not None and set(parts) - {"slope"}:
        density = correction.air.density_kg_m3
        reference = STANDARD_DENSITY_KG_M3 if "air density" in parts else density
        still_mps = 0.0 if "wind" in parts else head_wind_mps
        extra += drag * load.drag_mps2(speed_mps, density, head_wind_mps)
        extra -= drag * load.drag_mps2(speed_mps, reference, still_mps)
    return extra


def time_of(curve: Curve, measure: Measure, clock: Clock, extra_mps2: Floats) -> float | None:
    """Time a measure on a curve with something (n, m/s^2) added to the acceleration; None where it is out of reach."""
    changed = reintegrated(curve, extra_mps2)
    return time_on(changed, measure, clock) if changed else None
