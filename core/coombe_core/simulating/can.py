"""Simulated CAN data: frames of Coombe's own DBC for a simulated motion, as candump, ASC or BLF."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from coombe_core.formats.can_log import OWN_DBC
from coombe_core.simulating.car import Conditions, SimulatedCar, resistance_mps2
from coombe_core.simulating.drive import Motion
from coombe_core.units import KMH_MPS

FRAME_S = 0.02
OVER_READING = 1.03
VOLTAGE_V = 380.0
EFFICIENCY = 0.92


@dataclass(frozen=True)
class State:
    """What the car sends on CAN at one moment."""

    speed_kmh: float
    rear_kmh: float
    pace_mps2: float
    power_kw: float
    charge_percent: float
    battery_temp_c: float
    outside_temp_c: float = 15.0

    def signals(self) -> dict[str, dict[str, float]]:
        """Every message with its signals, in the units of the DBC."""
        return {
            "Motion": {
                "IndicatedSpeed": min(self.speed_kmh * OVER_READING, 600.0),
                "BrakePedal": float(self.pace_mps2 < -3.0),
                "AcceleratorPedal": 100.0 if self.pace_mps2 > 2.0 else 0.0,
            },
            "WheelSpeeds": {
                "WheelSpeedFrontLeft": self.speed_kmh,
                "WheelSpeedFrontRight": self.speed_kmh,
                "WheelSpeedRearLeft": self.rear_kmh,
                "WheelSpeedRearRight": self.rear_kmh,
            },
            "Battery": {
                "BatteryVoltage": VOLTAGE_V,
                "BatteryCurrent": min(self.power_kw * 1000.0 / VOLTAGE_V, 3000.0),
                "BatteryPower": min(self.power_kw, 1500.0),
                "Charge": self.charge_percent,
            },
            "Temperatures": {"BatteryTemp": self.battery_temp_c, "MotorTemp": 60.0, "OutsideTemp": self.outside_temp_c},
            "Mode": {"DriveMode": 2.0},
        }


def frames(
    motion: Motion, car: SimulatedCar, clock_s: float, charge_percent: float, battery_temp_c: float, slip: float = 0.0
) -> Iterator[tuple[float, int, bytes]]:
    """Time on the CAN log's clock (`clock_s` at the drive's start), identifier and payload, 50 times a second.

    `slip` is the share by which the rear wheels run ahead in the first second of every pull.
    """
    import cantools

    database: Any = cantools.database.load_file(OWN_DBC)
    level = Conditions()
    starts = np.array([run.start_s for run in motion.runs if run.kind == "standing"])
    for at_s in np.arange(0.0, motion.elapsed_s[-1], FRAME_S):
        index = int(np.searchsorted(motion.elapsed_s, at_s))
        speed_mps = float(motion.speed_mps[index])
        speed_kmh = speed_mps / KMH_MPS
        before = float(motion.speed_mps[max(index - 20, 0)])
        pace = (speed_mps - before) / 0.02
        spinning = bool(((at_s >= starts) & (at_s < starts + 1.0)).any())
        rear_kmh = speed_kmh * (1.0 + slip * spinning)
        pulling_mps2 = pace + resistance_mps2(car, level, speed_mps) if speed_mps > 0 and pace > 0 else 0.0
        effective_kg = car.mass_kg * car.rotating_mass_factor
        power_kw = effective_kg * pulling_mps2 * speed_mps / EFFICIENCY / 1000.0
        state = State(speed_kmh, rear_kmh, pace, power_kw, charge_percent, battery_temp_c)
        for name, values in state.signals().items():
            message = database.get_message_by_name(name)
            yield clock_s + float(at_s), message.frame_id, message.encode(values)


def write_can_log(log_format: str, sent: Iterator[tuple[float, int, bytes]]) -> bytes:
    """The frames as a candump, asc or blf log."""
    import can

    class Kept(io.BytesIO):
        def close(self) -> None:
            """The writers close what they write to; what was written is still wanted."""

    raw = Kept()
    text = io.TextIOWrapper(raw, write_through=True)
    writers: dict[str, Any] = {"candump": can.CanutilsLogWriter, "asc": can.ASCWriter, "blf": can.BLFWriter}
    writer = writers[log_format](raw if log_format == "blf" else text)
    for time_s, frame_id, payload in sent:
        writer(can.Message(timestamp=time_s, arbitration_id=frame_id, data=payload, is_extended_id=False))
    writer.stop()
    return raw.getvalue()
