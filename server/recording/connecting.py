"""What a device may be connected to: a serial port of a known kind, or a host that the administrator has named."""

from __future__ import annotations

import re
from dataclasses import dataclass

from django.conf import settings

from recording.models import Connection, Device

CHANNEL = re.compile(r"[a-z][a-z0-9_.-]{0,14}")  # as Linux names interfaces


@dataclass(frozen=True)
class Place:
    """Where a device is, free of the database."""

    kind: str
    connection: str
    path: str = ""
    baud_rate: int = 115_200
    host: str = ""
    port: int = 0
    channel: str = ""
    dbc: str = ""


def place_of(device: Device) -> Place:
    """A device's place."""
    return Place(
        device.kind,
        device.connection,
        device.path,
        device.baud_rate,
        device.host,
        device.port or 0,
        device.channel,
        device.dbc,
    )


def refused(place: Place) -> dict[str, str]:
    """Why a place is not opened, a sentence by field; empty where it may be."""
    if place.connection == Connection.SERIAL:
        if re.fullmatch(settings.DEVICE_PATHS, place.path):
            return {}
        return {"path": "Not a serial port that may be opened, such as /dev/ttyACM0 or /dev/serial/by-id/…"}
    found = {}
    if place.connection in (Connection.TCP, Connection.SOCKETCAND):
        if place.host not in settings.DEVICE_HOSTS:
            named = ", ".join(settings.DEVICE_HOSTS)
            found["host"] = f"This host is not allowed. Allowed are {named}; COOMBE_DEVICE_HOSTS adds more."
        if not place.port:
            found["port"] = "Say which port it listens on."
    if place.connection in (Connection.SOCKETCAN, Connection.SOCKETCAND) and not CHANNEL.fullmatch(place.channel):
        found["channel"] = "Not the name of a CAN interface, such as can0."
    return found
