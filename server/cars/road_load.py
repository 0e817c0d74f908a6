"""What holds a car back in a setup: the setup's own mass and drag where a modification changed them, else the car's."""

from __future__ import annotations

from cars.models import Setup
from coombe_core.physics.road_load import RoadLoad


def road_load(setup: Setup, load_kg: float = 0.0) -> RoadLoad | None:
    """The road load of a setup with what it carries (kg); None where its mass is not known."""
    car = setup.car
    mass_kg = setup.test_mass_kg or car.test_mass_kg
    if mass_kg is None:
        return None
    return RoadLoad.of(mass_kg + load_kg, setup.cda_m2 or car.cda_m2, car.rolling_coefficient)
