"""Energy of a run: what the battery gave or took, from voltage and current, with what its charge says beside it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.studies.problem import StudyError
from coombe_core.uncertainty import Value
from coombe_core.units import MILE_M

Floats = NDArray[np.float64]
JOULES_A_WH = 3600.0
SENSORS_U95 = 0.02  # of an energy: voltage and current as cars report them, assumed
LEAST_SAMPLES = 5
CHARGE_STEP_U95 = 0.5  # points by which a charge that is shown in whole ones may be off, at either end


@dataclass(frozen=True)
class Energy:
    """Energy out of the battery (Wh; below zero it was recovered), a mile of it, and what charge says of it."""

    energy_wh: Value
    wh_per_mile: Value
    from_charge_wh: Value | None = None

    @property
    def agree(self) -> bool | None:
        """Whether charge says the same, as surely as it can."""
        if self.from_charge_wh is None:
            return None
        apart = abs(self.energy_wh.value - self.from_charge_wh.value)
        return apart <= math.hypot(self.energy_wh.u95, self.from_charge_wh.u95)


def energy(
    time_s: Floats,
    power_w: Floats,
    distance_m: float,
    pulls: bool,
    charge_percent: tuple[float, float] | None = None,
    capacity_wh: float | None = None,
) -> Energy:
    """Integrate the power of a run.

    Parameters
    ----------
    time_s, power_w : array of float, shape (n,)
        Out of the battery, voltage times current.
    distance_m : float
        Of the run.
    pulls : bool
        Whether it is a pull, which takes energy out, or a stop, which may put some back.
    charge_percent : (float, float), optional
        Before and after.
    capacity_wh : float, optional

    Returns
    -------
    Energy
        By the trapezoid rule; its u95 is what half of the samples make of it, and 2 % for the sensors (assumed).

    Raises
    ------
    StudyError
        With fewer than five samples, and where a pull puts energy into the battery: its sign is turned round.
    """
    if time_s.size < LEAST_SAMPLES:
        raise StudyError("too few", {"runs": time_s.size, "least": LEAST_SAMPLES})
    whole = float(np.trapezoid(power_w, time_s)) / JOULES_A_WH
    halved = float(np.trapezoid(power_w[::2], time_s[::2])) / JOULES_A_WH
    if pulls and whole < 0.0:
        raise StudyError("sign", {"energy_wh": whole})
    found = Value(whole, math.hypot(SENSORS_U95 * whole, halved - whole))
    from_charge = None
    if charge_percent and capacity_wh:
        lost = (charge_percent[0] - charge_percent[1]) / 100.0 * capacity_wh
        from_charge = Value(lost, math.sqrt(2.0) * CHARGE_STEP_U95 / 100.0 * capacity_wh)
    return Energy(found, found.scaled(MILE_M / distance_m), from_charge)
