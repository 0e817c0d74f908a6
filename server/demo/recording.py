"""The demo's recorders: they listen to stand-in devices, wherever those listen this time."""

from __future__ import annotations

from accounts.models import User
from cars.models import Car
from courses.models import Course
from days.models import DayState, TestDay
from recording.models import Recorder
from recording.stand_in import order, simulated_car

HOST = "127.0.0.1"


def listen_to(stand_ins: list[dict[str, int]]) -> None:
    """Point a recorder of each car at its stand-ins, and make their car its car; the first has the day under way."""
    day = TestDay.objects.filter(state=DayState.UNDER_WAY).select_related("plan__car").first()
    cars = list(Car.objects.order_by("pk"))
    if day:
        cars.sort(key=lambda car: car.pk != day.plan.car_id)
    for car, ports, which in zip(cars, stand_ins, (day, None), strict=False):
        recorder = _recorder(car, ports, which)
        order(recorder.stand_in, {"car": simulated_car(recorder.set_up), "charge_percent": 93.5, "pack_temp_c": 43.0})


def _recorder(car: Car, ports: dict[str, int], day: TestDay | None) -> Recorder:
    devices = {
        "receiver": f"socket://{HOST}:{ports['receiver']}",
        "bus_interface": "socketcand",
        "bus_channel": f"{HOST}:{ports['bus']}/can0",
        "mast": f"socket://{HOST}:{ports['mast']}",
        "stand_in": f"{HOST}:{ports['orders']}",
        "wanted": False,
    }
    facts = {
        "set_up": car.set_ups.latest("since"),
        "course": Course.objects.filter(direction="out").first(),
        "day": day,
        "started_by": User.objects.get(username="tester"),
    }
    name = f"Stand-in {car.name}"
    recorder, _ = Recorder.objects.update_or_create(name=name, defaults=devices, create_defaults=devices | facts)
    return recorder
