"""Whether a car's run to a target fits a course."""

from __future__ import annotations

from typing import Any

from cars.models import Car
from coombe_core.planning.friction import friction
from coombe_core.planning.strip import StripCheck, check_strip, check_strip_to_distance
from coombe_core.timing.measures import parse_measure
from coombe_core.wording.strip import basis_sentences, friction_source, reach_source, strip_sentence
from courses.models import Course
from learning import services as learning


def check(
    course: Course, car: Car, target: str, outside_temp_c: float | None = None, tire_season: str = ""
) -> StripCheck:
    """The check of a measure (`0-60 mph`, `1/4 mile`, `100-0 km/h`). Raises ValueError where nothing shows it."""
    measure = parse_measure(target)
    slope = course.slope_percent or 0.0
    grip = friction(course.surface, outside_temp_c, tire_season)
    to_mps = measure.from_mps if measure.basis == "stop" else measure.to_mps
    reach = learning.reach(car, to_mps or 0.0, slope)
    if reach is None:
        raise ValueError(f"how far {car.name} goes is not known: state its mass and power, or import a run of it")
    if measure.to_m:
        if reach.distance_m[-1] < measure.to_m:
            reach = learning.reach(car, learning.TOP_SPEED_MPS, slope) or reach
        return check_strip_to_distance(measure.to_m, course.available_m, reach, grip, slope)
    return check_strip(to_mps, course.available_m, reach, grip, slope)


def as_json(checked: StripCheck) -> dict[str, Any]:
    """As the API shows it."""
    parts = ("target_mps", "pull_m", "reaction_m", "stopping_m", "margin_m", "available_m", "highest_mps")
    return {name: getattr(checked, name) for name in (*parts, "fits", "needed_m", "shortfall_m")} | {
        "friction": checked.friction.coefficient,
        "friction_source": friction_source(checked.friction),
        "reach_source": reach_source(checked.reach),
        "sentence": strip_sentence(checked),
        "basis": basis_sentences(checked),
    }
