"""Simulated devices as rows that a recorder can be pointed at."""

from __future__ import annotations

from collections.abc import Mapping

from recording.models import Connection, Device, DeviceKind

HOST = "127.0.0.1"


def devices_at(name: str, ports: Mapping[str, int]) -> dict[str, Device]:
    """The simulated devices that listen at some ports, by their role in a recorder."""
    tcp = {"connection": Connection.TCP, "host": HOST}
    can = {"connection": Connection.SOCKETCAND, "host": HOST, "channel": "can0"}
    made = {
        "receiver": ("receiver", DeviceKind.RECEIVER, tcp | {"port": ports["receiver"]}),
        "can": ("CAN", DeviceKind.CAN, can | {"port": ports["can"]}),
        "weather_station": ("weather", DeviceKind.WEATHER, tcp | {"port": ports["weather"]}),
        "simulation": ("driver", DeviceKind.SIMULATION, tcp | {"port": ports["orders"]}),
    }
    return {
        role: Device.objects.update_or_create(name=f"{name} {word}", defaults={"kind": kind, **place})[0]
        for role, (word, kind, place) in made.items()
    }
