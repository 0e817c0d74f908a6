"""Flags as sentences: what is wrong, and what to do about it."""

from __future__ import annotations

from coombe_core.flags.flag import Flag
from coombe_core.units import MPH_MPS
from coombe_core.wording.quantities import speed

SENTENCES = {
    "ordinary_driving": "Driven as in traffic, not at full power or full braking; it does not count as complete.",
    "aborted": "Lifted before 60 mph; the measures reached before that count.",
    "lifted_early": "Eased off on the way to 60 mph; keep it out of full-power comparisons.",
    "rolling": "The car rolled into this run; a time from rest needs a standing start.",
    "jumped": "Pulled away and stopped in the {staging_s:.0f} s before the launch: a jump? Stage again.",
    "crept_before_start": "Only {rest_s:.1f} s at rest before the launch; the car may have crept.",
    "gap": "{missing:.0f} fixes missing, the longest gap {longest_s:.2f} s; check the receiver's cable and sky view.",
    "duplicate_fixes": "{repeated:.0f} fixes repeat the one before; set the receiver's output rate to its fix rate.",
    "fixes_left_out": "Single fixes left out that no car can follow: {count:.0f}. Check the receiver's sky view.",
    "held_at_rest": (
        "The receiver writes zero below {slowest_mps:.1f} m/s ({slowest_mph:.0f} mph), which leaves first movement "
        "and rest less sure; turn that off."
    ),
    "soft_start": (
        "Torque may have come up over as much as {rise_s:.1f} s, more slowly than usual cars do: a gentle start, a "
        "receiver that smooths its speed, or too few fixes to tell. Times from rest are less sure; turn smoothing off."
    ),
    "soft_end": (
        "The car may have come to rest over as much as {rise_s:.1f} s: brakes that are eased off, a receiver that "
        "smooths its speed, or too few fixes to tell. The time to rest is less sure; compare distances, and turn "
        "smoothing off."
    ),
    "unsmoothed": (
        "This receiver smooths its speed over {smoothing_s:.2f} s, as registered: speeds, times and distances are "
        "corrected."
    ),
    "passed_in_the_bite": (
        "{speed} was passed {since_s:.2f} s after brake onset, while the brakes took hold: use the distance from brake "
        "onset, or begin 10 % faster."
    ),
    "passed_as_torque_rose": ("{speed} was passed {about}, while torque came up: begin the pull slower."),
    "rate_low": "Only {rate_hz:.1f} fixes per second; excluded from comparisons from rest unless you keep the run.",
    "rate_uneven": "Fixes come at uneven times; log the receiver's own time, not the phone's.",
    "poor_geometry": "Few satellites or poor geometry; mount the receiver where it sees the sky.",
    "differential_lost": "The differential fix was lost during the run; wait for it to come back and run again.",
    "slope_unknown": "No elevation in the log; enter the course's slope.",
    "slope_beyond_limit": (
        "Downhill by {downhill_percent:.1f} %, over the limit of 1 %; quote the time corrected to level."
    ),
    "slope_uncertain": (
        "Slope {slope_percent:+.1f} % ± {u95_percent:.1f} % can't rule out over 1 % downhill; survey the course."
    ),
    "wind_beyond_limit": (
        "{side} wind of {wind_mps:.1f} m/s ({wind_mph:.0f} mph) along the course; run both directions."
    ),
    "receiver_moved": (
        "Positions jumped off the driven line by {apart_m:.0f} m in a second: did the receiver move? Fix its mount."
    ),
    "midnight": "The clock rolled over midnight UTC during the run; its day is that of its start.",
    "date_missing": "The log has no date; enter the day of the run by hand.",
    "speed_from_positions": (
        "Speed was worked out from positions, not from Doppler; its times are rough. Log speed with the positions."
    ),
    "charge_outside_window": "Charge {value:.0f} % is outside the window of {low:.0f} to {high:.0f} %.",
    "battery_temperature_outside_window": (
        "Battery temperature {value:.0f} °C is outside the window of {low:.0f} to {high:.0f} °C."
    ),
    "implausible_temperature": "A battery at {battery_temp_c:.0f} °C is not plausible; was it {battery_temp_c:.0f} °F?",
    "setup_not_confirmed": "Nobody confirmed that the setup's change is active. Open the setup and say how you saw it.",
}
# Codes of runs that were timed before core 0.8 and not again.
EARLIER = {
    "start_unsmoothed": (
        "This receiver smooths its speed over {smoothing_s:.2f} s, as registered: times from rest are corrected."
    ),
    "smoothed": (
        "This receiver smooths its speed over {smoothing_s:.2f} s, which was not corrected: time the run again."
    ),
}
# Codes that come with different numbers, each with its own sentence.
BY_NUMBER = {
    "slip": "The driven wheels ran {slip:.0%} ahead of the car; clean tires and strip.",
    "dip": "Acceleration dipped by {dip:.0%} soon after the launch and came back: wheel spin? Look at the curve.",
    "peak_g": "{peak_g:.2f} g is more than road tires grip; check the receiver and its units.",
    "peak_w": (
        "{peak_kw:.0f} kW at the wheels is more than the car's stated {stated_kw:.0f} kW allow. "
        "Check mass, slope and power."
    ),
}


def message_of(flag: Flag) -> str:
    """Say a flag in one or two sentences. Raises KeyError for a code that has no sentence."""
    by_number = next((BY_NUMBER[name] for name in flag.numbers if name in BY_NUMBER), None)
    sentence = by_number or {**EARLIER, **SENTENCES}[flag.code]
    return sentence.format(**flag.numbers, **_worked_out(flag))


def _worked_out(flag: Flag) -> dict[str, float | str]:
    """What a sentence needs beside the numbers as they are."""
    numbers = flag.numbers
    match flag.code:
        case "slope_beyond_limit":
            return {"downhill_percent": -numbers["slope_percent"]}
        case "wind_beyond_limit":
            wind_mps = numbers["head_wind_mps"]
            side = "Head" if wind_mps > 0 else "Tail"
            return {"side": side, "wind_mps": abs(wind_mps), "wind_mph": abs(wind_mps) / MPH_MPS}
        case "held_at_rest":
            return {"slowest_mph": numbers["slowest_mps"] / MPH_MPS}
        case "passed_in_the_bite":
            return {"speed": speed(numbers["speed_mps"])}
        case "passed_as_torque_rose":
            when = "after full power began" if numbers["since_s"] > 0 else "before full power"
            return {"speed": speed(numbers["speed_mps"]), "about": f"{abs(numbers['since_s']):.2f} s {when}"}
        case "implausible" if "peak_w" in numbers:
            return {"peak_kw": numbers["peak_w"] / 1000, "stated_kw": numbers["stated_w"] / 1000}
        case _:
            return {}
