"""What the calibrated constants of the fit are for: errors over stated uncertainty, with each of them and without.

`python -m coombe_core.validation.calibration` prints one table; 1.00 is an error that is as large as it was said to be.
A constant is right where its column stands near one, and needed where the column beside it does not.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import ModuleType

import numpy as np

from coombe_core.fitting import doubts, motion
from coombe_core.uncertainty import COVERAGE_95
from coombe_core.validation.accuracy.trials import Setting, Trial, trials

Key = tuple[str, str, str]


@dataclass(frozen=True)
class Constant:
    """A constant, the value that switches it off, and the receiver and the quantities on which it shows."""

    module: ModuleType
    name: str
    off: float
    setting: Setting
    quantities: tuple[Key, ...]

    @contextmanager
    def switched_off(self) -> Iterator[None]:
        """Without the constant, for as long as the block lasts."""
        value = getattr(self.module, self.name)
        setattr(self.module, self.name, self.off)
        try:
            yield
        finally:
            setattr(self.module, self.name, value)


AT_THE_LINE: tuple[Key, ...] = (
    ("1/4 mile", "rollout", "line_speed_mps"),
    ("1/4 mile", "rollout", "trap_speed_mps"),
    ("100-0 km/h", "speed", "distance_m"),
)
HIDDEN = Constant(motion, "HIDDEN", 1.0, Setting(25.0, 0.05), (("60-90 mph", "speed", "time_s"),))
COARSE = Constant(doubts, "COARSE_DOUBT", 1.0, Setting(2.0, 0.05), AT_THE_LINE)
CONSTANTS = (HIDDEN, COARSE)


def spread(made: list[Trial], quantities: tuple[Key, ...]) -> float:
    """Give the root mean square of error over standard uncertainty, of some quantities of all trials."""
    pairs = [made_one.errors[key] for made_one in made for key in quantities if key in made_one.errors]
    errors, halves, _ = np.array(pairs).T
    return float(np.sqrt(np.mean((COVERAGE_95 * errors / halves) ** 2)))


def with_and_without(constant: Constant, count: int, seed: int) -> tuple[float, float]:
    """Give the spread with a constant and without, on the same trials."""
    as_it_is = spread(trials(count, constant.setting, seed), constant.quantities)
    with constant.switched_off():
        return as_it_is, spread(trials(count, constant.setting, seed), constant.quantities)


def main(count: int = 200, seed: int = 4242) -> None:
    """Print the table."""
    print(f"{'constant':14s} {'rate, Hz':>8s} {'with':>6s} {'without':>8s}   {count} trials")
    for constant in CONSTANTS:
        found = with_and_without(constant, count, seed)
        print(f"{constant.name:14s} {constant.setting.rate_hz:8g} {found[0]:6.2f} {found[1]:8.2f}")


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
