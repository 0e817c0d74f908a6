"""A simulated receiver that samples the live car fix by fix and says what a real one would send."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np

from coombe_core.formats import write_log
from coombe_core.formats.nmea import sentence
from coombe_core.simulating.live_car import LiveCar
from coombe_core.simulating.receiver import Receiver, meters_per_degree
from coombe_core.trace import Trace

PLACE_NOISE_M, PLACE_DRIFT_S, HEIGHT_DRIFT_S = 0.3, 60.0, 10.0


class LiveReceiver:
    """One receiver in one car. It knows no fix for `first_fix_s` after it is switched on."""

    def __init__(self, receiver: Receiver, output: str = "nmea", first_fix_s: float = 0.0, seed: int = 1) -> None:
        self.receiver, self.output, self.first_fix_s = receiver, output, first_fix_s
        self.silent_until_s = float("-inf")
        self._draw = np.random.default_rng(seed)
        self._noise = dict.fromkeys(("speed", "east", "north", "height"), 0.0)
        self._per_degree = meters_per_degree(receiver.latitude_deg)

    def sends(self, car: LiveCar, at_s: float) -> bytes:
        """The bytes of the fix at a time since the beginning; none where the output is interrupted."""
        if at_s < self.silent_until_s:
            return b""
        if at_s < self.first_fix_s:
            return self._no_fix(at_s)
        fix = self._fix(car, at_s)
        return write_log(fix, "ubx") if self.output == "ubx" else write_log(fix, "nmea")

    def _no_fix(self, at_s: float) -> bytes:
        if self.output == "ubx":
            return b""
        moment = self.receiver.start_utc + timedelta(seconds=at_s)
        clock = f"{moment:%H%M%S}.{moment.microsecond // 1000:03d}"
        return sentence(f"GNRMC,{clock},V,,,,,,,{moment:%d%m%y},,,N") + sentence(f"GNGGA,{clock},,,,,0,00,99.9,,,,,,")

    def _fix(self, car: LiveCar, at_s: float) -> Trace:
        rate_hz, kind = self.receiver.rate_hz, self.receiver
        speed = kind.speed_noise_mps * self._drawn("speed", kind.correlation_at_25_hz ** (25.0 / rate_hz))
        drift = math.exp(-1.0 / (rate_hz * PLACE_DRIFT_S))
        east_m = car.east_m + PLACE_NOISE_M * self._drawn("east", drift)
        north_m = car.north_m + PLACE_NOISE_M * self._drawn("north", drift)
        height = kind.altitude_noise_m * self._drawn("height", math.exp(-1.0 / (rate_hz * HEIGHT_DRIFT_S)))
        heading = car.state.heading_deg + self._draw.normal() * 5.0 / max(car.state.speed_mps, 0.1)
        values = {
            "speed_mps": max(car.state.speed_mps + speed, 0.0),
            "latitude_deg": kind.latitude_deg + north_m / self._per_degree[0],
            "longitude_deg": kind.longitude_deg + east_m / self._per_degree[1],
            "course_deg": heading % 360.0,
            "altitude_m": car.altitude_m + height,
            "satellites": 17.0,
            "hdop": 0.7,
            "climb_mps": math.nan,
            "speed_accuracy_mps": math.nan,
            "fix_quality": 4.0,
        }
        start_utc = kind.start_utc + timedelta(seconds=at_s)
        return Trace(start_utc, np.zeros(1), **{name: np.array([value]) for name, value in values.items()})  # type: ignore[arg-type]

    def _drawn(self, name: str, link: float) -> float:
        """The next value of a first-order autoregressive noise of unit variance."""
        self._noise[name] = link * self._noise[name] + math.sqrt(1 - link**2) * float(self._draw.normal())
        return self._noise[name]


def starting_now(receiver: Receiver) -> Receiver:
    """The receiver with its clock at the present whole second."""
    return replace(receiver, start_utc=datetime.now(UTC).replace(microsecond=0))
