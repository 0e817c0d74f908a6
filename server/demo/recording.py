"""The demo's recorders: they listen to simulated devices, wherever those listen this time."""

from __future__ import annotations

from accounts.models import User
from cars.models import Car
from courses.models import Course
from days.models import DayState, TestDay
from recording.models import Recorder
from recording.simulated import devices_at
from recording.simulation import order, simulated_car


def listen_to(simulated_devices: list[dict[str, int]]) -> None:
    """Point a recorder of each car at its simulated devices, and make their car its car; the first gets today's day."""
    day = TestDay.objects.filter(state=DayState.UNDER_WAY).select_related("plan__car").first()
    cars = list(Car.objects.order_by("pk"))
    if day:
        cars.sort(key=lambda car: car.pk != day.plan.car_id)
    for car, ports, which in zip(cars, simulated_devices, (day, None), strict=False):
        recorder = _recorder(car, ports, which)
        assert recorder.simulation
        order(
            recorder.simulation, {"car": simulated_car(recorder.setup), "charge_percent": 93.5, "battery_temp_c": 43.0}
        )


def _recorder(car: Car, ports: dict[str, int], day: TestDay | None) -> Recorder:
    name = f"Simulated {car.name}"
    devices = devices_at(f"Simulated {car.name}", ports) | {"wanted": False}
    facts = {
        "setup": car.setups.latest("since"),
        "course": Course.objects.filter(direction="out").first(),
        "day": day,
        "started_by": User.objects.get(username="tester"),
    }
    recorder, _ = Recorder.objects.update_or_create(name=name, defaults=devices, create_defaults=devices | facts)
    return recorder
