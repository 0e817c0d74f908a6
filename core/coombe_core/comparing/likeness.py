"""Whether two arms were run alike: charge and pack temperature against their match bands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

CHARGE_BAND_POINTS = 3.0
PACK_TEMP_BAND_K = 5.0


@dataclass(frozen=True)
class State:
    """What was written down of a run before it began; None where nothing was."""

    charge_percent: float | None = None
    pack_temp_c: float | None = None


@dataclass(frozen=True)
class Likeness:
    """Sentences on what differs by more than its band, and on what was not written down."""

    differing: list[str]
    unknown: list[str]


def likeness(before: Sequence[State], after: Sequence[State]) -> Likeness:
    """Compare the arms' mean states. Bands: 3 points of charge, 5 K of pack temperature."""
    differing: list[str] = []
    unknown: list[str] = []
    checks: list[tuple[str, str, str, float, Callable[[State], float | None]]] = [
        ("Charge", "points", "%", CHARGE_BAND_POINTS, lambda state: state.charge_percent),
        ("Pack temperature", "K", "°C", PACK_TEMP_BAND_K, lambda state: state.pack_temp_c),
    ]
    for name, step, unit, band, read in checks:
        known = [[value for state in arm if (value := read(state)) is not None] for arm in (before, after)]
        missing = len(before) + len(after) - sum(map(len, known))
        if missing:
            unknown.append(f"{name} was not written down for {missing} of {len(before) + len(after)} runs.")
        if all(known):
            means = [sum(arm) / len(arm) for arm in known]
            apart = abs(means[1] - means[0])
            if apart > band:
                sides = f"{means[0]:.0f} {unit} before, {means[1]:.0f} {unit} after"
                differing.append(
                    f"{name} differs by {apart:.0f} {step} ({sides}); arms are matched within {band:.0f} {step}."
                )
    return Likeness(differing, unknown)
