"""Flags of what was written down about a run: its state against the window, slips of unit, an unseen change."""

from __future__ import annotations

from coombe_core.timing.result import Flag

HOTTEST_C = 75.0


def state_flags(
    charge_percent: float | None,
    pack_temp_c: float | None,
    charge_window: tuple[float, float] | None = None,
    pack_temp_window_c: tuple[float, float] | None = None,
    change_confirmed: bool = True,
) -> list[Flag]:
    """What the written-down state raises: outside its window, a temperature in the wrong unit, an unseen change."""
    flags = [
        _outside("charge", charge_percent, charge_window, "%"),
        _outside("pack temperature", pack_temp_c, pack_temp_window_c, "°C"),
    ]
    if pack_temp_c is not None and pack_temp_c > HOTTEST_C:
        message = f"A pack at {pack_temp_c:.0f} °C is not plausible; was it {pack_temp_c:.0f} °F?"
        flags.append(Flag("implausible_temperature", "caution", message))
    if not change_confirmed:
        message = "Nobody wrote down how it was seen that the set-up's change is active; confirm it."
        flags.append(Flag("set_up_not_confirmed", "caution", message))
    return [flag for flag in flags if flag]


def _outside(name: str, value: float | None, window: tuple[float, float] | None, unit: str) -> Flag | None:
    if value is None or window is None or window[0] <= value <= window[1]:
        return None
    message = (
        f"{name.capitalize()} {value:.0f} {unit} lies outside the window of {window[0]:.0f} to {window[1]:.0f} {unit}."
    )
    return Flag(f"{name.replace(' ', '_')}_outside_window", "caution", message)
