"""Flags of what was recorded about a run: its state against the window, slips of unit, an unseen change."""

from __future__ import annotations

from coombe_core.flags.flag import Flag

HOTTEST_C = 75.0


def state_flags(
    charge_percent: float | None,
    battery_temp_c: float | None,
    charge_window: tuple[float, float] | None = None,
    battery_temp_window_c: tuple[float, float] | None = None,
    change_confirmed: bool = True,
) -> list[Flag]:
    """Raise flags of what was recorded about a run.

    Parameters
    ----------
    charge_percent, battery_temp_c : float or None
        The state before the run; percent and degrees C.
    charge_window, battery_temp_window_c : (float, float), optional
        What the plan allows.
    change_confirmed : bool
        Whether somebody recorded how they saw that the setup's change is active.

    Returns
    -------
    list of Flag
        Outside its window, a temperature in the wrong unit, an unconfirmed change.
    """
    flags = [
        _outside("charge_outside_window", charge_percent, charge_window),
        _outside("battery_temperature_outside_window", battery_temp_c, battery_temp_window_c),
    ]
    if battery_temp_c is not None and battery_temp_c > HOTTEST_C:
        flags.append(Flag("implausible_temperature", "caution", {"battery_temp_c": battery_temp_c}))
    if not change_confirmed:
        flags.append(Flag("setup_not_confirmed", "caution"))
    return [flag for flag in flags if flag]


def _outside(code: str, value: float | None, window: tuple[float, float] | None) -> Flag | None:
    if value is None or window is None or window[0] <= value <= window[1]:
        return None
    return Flag(code, "caution", {"value": value, "low": window[0], "high": window[1]})
