"""Whether a car's run to a target fits a course."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from cars import knowledge
from cars.models import Car
from coombe_core.planning.friction import friction
from coombe_core.planning.strip import StripCheck, check_strip, check_strip_to_distance
from coombe_core.timing.measures import parse_measure
from coombe_core.units import KMH_MPS, MPH_MPS
from courses.models import Course


def check(
    course: Course, car: Car, target: str, outside_temp_c: float | None = None, tire_season: str = ""
) -> StripCheck:
    """The check of a measure (`0-60 mph`, `1/4 mile`, `100-0 km/h`). Raises ValueError where nothing tells."""
    measure = parse_measure(target)
    slope = course.slope_percent or 0.0
    grip = friction(course.surface, outside_temp_c, tire_season)
    to_mps = measure.from_mps if measure.basis == "stop" else measure.to_mps
    reach = knowledge.reach(car, to_mps or 0.0, slope)
    if reach is None:
        raise ValueError(f"how far {car.name} goes is not known: state its mass and power, or import a run of it")
    if measure.to_m:
        if reach.distance_m[-1] < measure.to_m:
            reach = knowledge.reach(car, knowledge.TOP_SPEED_MPS, slope) or reach
        return check_strip_to_distance(measure.to_m, course.available_m, reach, grip, slope)
    return check_strip(to_mps, course.available_m, reach, grip, slope)


def told(checked: StripCheck) -> dict[str, Any]:
    """As the API tells it."""
    return {
        **{name: value for name, value in asdict(checked).items() if name != "friction"},
        "fits": checked.fits,
        "needed_m": checked.needed_m,
        "shortfall_m": checked.shortfall_m,
        "friction": checked.friction.coefficient,
        "friction_source": checked.friction.source,
        "sentence": sentence(checked),
    }


def sentence(checked: StripCheck) -> str:
    """What a person reads, in metres and feet."""
    if checked.fits:
        spare = checked.available_m - checked.needed_m
        return (
            f"The strip is long enough: {_way(checked.needed_m)} of {_way(checked.available_m)}, {_way(spare)} spare."
        )
    highest = f"{checked.highest_mps / MPH_MPS:.0f} mph ({checked.highest_mps / KMH_MPS:.0f} km/h)"
    return (
        f"The strip is {_way(checked.shortfall_m)} too short: {_way(checked.needed_m)} are needed to pull, react and "
        f"stop, there are {_way(checked.available_m)}. The highest speed that fits is {highest}."
    )


def _way(length_m: float) -> str:
    return f"{length_m:.0f} m ({length_m / 0.3048:.0f} ft)"
