"""What the stated default of the scatter from day to day rests on: what differs between days, and what noting leaves.

`python -m coombe_core.validation.day_scatter` prints it: by how much a usual car's times differ by each cause.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from coombe_core.simulating.many import Launches, launch_all
from coombe_core.timing.measures import DISTANCES_M
from coombe_core.units import MPH_MPS

SIXTY_MPS = 60 * MPH_MPS
QUARTER_M = DISTANCES_M["1/4 mile"]


@dataclass(frozen=True)
class Cause:
    """Something that differs between days: its usual value, and its standard deviation unnoted and noted."""

    name: str
    column: str
    usual: float
    unnoted: float
    noted: float
    source: str


CAUSES = (
    Cause("air density, kg/m³", "density_kg_m3", 1.2, 0.025, 0.004, "5 K and 8 hPa between days; read at the course"),
    Cause("wind along the course, m/s", "head_wind_mps", 0.0, 1.5, 0.5, "a light breeze; as read beside the course"),
    Cause("charge at the launch, %", "charge_percent", 80.0, 3.0, 0.5, "a start window of 10 %; read to 1 %"),
    Cause("battery temperature, °C", "battery_temp_c", 32.0, 2.5, 0.7, "a window of 8 °C; read to 1 °C, one sensor"),
    Cause("load, kg", "mass_kg", 1900.0, 15.0, 5.0, "driver, luggage; weighed"),
    Cause("grip of surface and tires, 1", "grip", 0.9, 0.007, 0.007, "nothing on board reads it"),
    Cause("power beside that, W", "power_w", 300e3, 1200.0, 1200.0, "inner heat of battery and motors"),
)


def shares() -> dict[str, list[tuple[float, float]]]:
    """Give the share of a time by which days differ, unnoted and noted, for each measure: by cause, then in all.

    The spreads of the causes are from memory: what testers' own notes usually show.
    """
    usual = {cause.column: cause.usual for cause in CAUSES} | {
        "cda_m2": 0.56,
        "ramp_s": 0.12,
        "slope_percent": 0.0,
        "far_up": 1.0,
    }
    columns = {name: np.full(1 + len(CAUSES), value) for name, value in usual.items()}
    for place, cause in enumerate(CAUSES, 1):
        columns[cause.column][place] += cause.unnoted
    passed, _ = launch_all(Launches(**columns), SIXTY_MPS, to_m=QUARTER_M)
    times = {"0-60 mph": passed.time_s(SIXTY_MPS), "1/4 mile": passed.at_distance_s[:, -1]}
    found = {}
    for name, time_s in times.items():
        unnoted = np.abs(time_s[1:] / time_s[0] - 1.0)
        noted = unnoted * [cause.noted / cause.unnoted for cause in CAUSES]
        rows = list(zip(unnoted.tolist(), noted.tolist(), strict=True))
        found[name] = [*rows, (math.hypot(*unnoted), math.hypot(*noted))]
    return found


def main() -> None:
    """Print the table."""
    print(f"{'':32s} {'unnoted':>8s} {'noted':>8s}")
    for measure, rows in shares().items():
        print(measure)
        for name, (unnoted, noted) in zip([*(cause.name for cause in CAUSES), "in all"], rows, strict=True):
            print(f"  {name:30s} {100 * unnoted:7.2f}% {100 * noted:7.2f}%")


if __name__ == "__main__":
    main()
