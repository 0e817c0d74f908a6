"""Numbers of a report in the family of units that it is written in. SI goes in, text comes out."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from coombe_core.units import FOOT_M, KMH_MPS, MILE_M, MPH_MPS, POUND_KG, PSI_KPA, STANDARD_GRAVITY_MPS2
from coombe_core.wording.quantities import signed

NONE = "–"


@dataclass(frozen=True)
class Unit:
    """How a quantity is written: an SI value is `factor` times what is shown, plus an offset."""

    name: str
    factor: float = 1.0
    offset: float = 0.0
    digits: int = 2

    def of(self, si: float) -> float:
        """An SI value in this unit."""
        return si / self.factor + self.offset

    def text(self, si: float | None, u95: float | None = None) -> str:
        """A value with its 95 % half-width, where it has one, to two digits of it; a dash where there is none."""
        if si is None:
            return NONE
        digits = self.digits if u95 is None else digits_for(u95 / self.factor)
        found = _minus(f"{self.of(si):.{digits}f}")
        return found if u95 is None else f"{found} ± {u95 / self.factor:.{digits}f}"

    def difference(self, si: float, half: float) -> str:
        """A difference with its sign and its 95 % half-width, to the digits of the sentence that says it."""
        digits = 2 if half / self.factor >= 0.01 else 3
        return f"{signed(si / self.factor, digits)} {self.name} ± {half / self.factor:.{digits}f} {self.name}"


PERCENT, SECOND, PLAIN = Unit("%", digits=0), Unit("s", digits=3), Unit("", digits=2)
US: Mapping[str, Unit] = {
    "speed": Unit("mph", MPH_MPS, digits=1),
    "distance": Unit("ft", FOOT_M, digits=1),
    "temperature": Unit("°F", 5 / 9, 32.0, 0),
    "pressure": Unit("psi", PSI_KPA, digits=1),
    "mass": Unit("lb", POUND_KG, digits=0),
    "odometer": Unit("mi", MILE_M / 1000, digits=0),
}
METRIC: Mapping[str, Unit] = {
    "speed": Unit("km/h", KMH_MPS, digits=1),
    "distance": Unit("m", digits=1),
    "temperature": Unit("°C", digits=0),
    "pressure": Unit("kPa", digits=0),
    "mass": Unit("kg", digits=0),
    "odometer": Unit("km", digits=0),
}
EITHER: Mapping[str, Unit] = {
    "time": SECOND,
    "percent": PERCENT,
    "air": Unit("hPa", digits=0),
    "acceleration": Unit("g", STANDARD_GRAVITY_MPS2),
    "power": Unit("kW", digits=0),
    "ratio": Unit("", digits=3),
    "angle": Unit("°", digits=0),
}


def unit_of(kind: str, family: str) -> Unit:
    """The unit of a kind of quantity, such as `speed`; a plain number for any other."""
    return (US if family == "us" else METRIC).get(kind) or EITHER.get(kind, PLAIN)


def digits_for(half: float) -> int:
    """How many decimals show two digits of an interval, one to three of them."""
    return 3 if half <= 0 else min(max(1 - math.floor(math.log10(half)), 1), 3)


def _minus(text: str) -> str:
    return text.replace("-", "−")
