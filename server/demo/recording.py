"""The demo's recorder: it listens to the stand-in devices, wherever they listen this time."""

from __future__ import annotations

from accounts.models import User
from cars.models import SetUp
from courses.models import Course
from days.models import DayState, TestDay
from recording.models import Recorder
from recording.stand_in import order, simulated_car

HOST = "127.0.0.1"


def listen_to(ports: dict[str, int]) -> None:
    """Point the recorder of the day that is under way at the stand-ins, and make their car its car."""
    day = TestDay.objects.filter(state=DayState.UNDER_WAY).select_related("plan__car").first()
    set_up = SetUp.objects.filter(car=day.plan.car).last() if day else SetUp.objects.last()
    if set_up is None:
        return
    devices = {
        "receiver": f"socket://{HOST}:{ports['receiver']}",
        "bus_interface": "socketcand",
        "bus_channel": f"{HOST}:{ports['bus']}/can0",
        "mast": f"socket://{HOST}:{ports['mast']}",
        "stand_in": f"{HOST}:{ports['orders']}",
    }
    facts = {
        "set_up": set_up,
        "course": Course.objects.filter(direction="out").first(),
        "day": day,
        "started_by": User.objects.get(username="tester"),
        "wanted": False,
    }
    recorder, _ = Recorder.objects.update_or_create(
        name="Stand-in car", defaults=devices, create_defaults=devices | facts
    )
    order(recorder.stand_in, {"car": simulated_car(recorder.set_up), "charge_percent": 93.5, "pack_temp_c": 43.0})
