"""Orders to the simulated devices of a recorder, where it has such."""

from __future__ import annotations

import json
import socket
from typing import Any

from cars.models import Setup
from config.errors import UnfitError
from coombe_core.simulating.car import SimulatedCar
from recording.connecting import place_of, refused
from recording.models import Device

ANSWER_S = 5.0
WHEEL_SHARE = 0.94  # of the stated power
KNOWN_CARS: dict[tuple[str, str], SimulatedCar] = {}
"""Car and setup -> what it is simulated by, where somebody has said so (the demo does)."""


class SimulationError(UnfitError):
    """A simulated device that does not answer, or refuses; its text is a sentence."""


def order(device: Device, given: dict[str, Any]) -> dict[str, Any]:
    """Give one order and take the answer. Raises SimulationError."""
    place = place_of(device)
    try:
        if refused(place):
            raise OSError("this place may not be opened")
        with (
            socket.create_connection((place.host, place.port), ANSWER_S) as line,
            line.makefile("rw", encoding="utf-8") as text,
        ):
            text.write(json.dumps(given) + "\n")
            text.flush()
            answer: dict[str, Any] = json.loads(text.readline())
    except (OSError, ValueError):
        raise SimulationError("The simulated car does not answer.") from None
    if "error" in answer:
        raise SimulationError(f"The simulated car refuses: {answer['error']}.")
    return answer


def simulated_car(setup: Setup) -> dict[str, Any]:
    """What the simulated car is in a setup: one that is known, else by what was recorded of the car."""
    if known := KNOWN_CARS.get((setup.car.name, setup.name)):
        return vars(known)
    car, plain = setup.car, SimulatedCar()
    return {
        "mass_kg": car.test_mass_kg or plain.mass_kg,
        "power_w": car.power_kw * 1000 * WHEEL_SHARE if car.power_kw else plain.power_w,
        "cda_m2": car.cda_m2 or plain.cda_m2,
    }
