"""A test day's timetable in sentences."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from coombe_core.planning.day import Caution, Remedy, Shortfall, Step, Timetable
from coombe_core.wording.quantities import duration, temperature
from coombe_core.wording.sources import learned_source


def step_note(step: Step) -> str:
    """Say what belongs to a step, or by when it has ended; empty where nothing does."""
    match step.kind:
        case "leave":
            return "climate and route guidance off, settings checked"
        case "arrive":
            return "mount the receiver, wait for a good fix, sign the checklist off"
        case "plug in":
            return "the charge is reached"
        case "start heating" if step.temp_c is not None:
            return f"{temperature(step.temp_c)} is reached"
        case "window closes" if step.temp_c is not None:
            return f"the battery falls below {temperature(step.temp_c)}"
        case _:
            return ""


def shortfall(missed: Shortfall) -> str:
    """Say what can't be met, by how much."""
    at = f"{missed.at:%H:%M}"
    match missed.what:
        case "charge":
            return f"Charge at {at} will be {missed.value:.0f} %; the window begins at {missed.limit:g} %."
        case "open":
            return f"The window stays open for {duration(missed.value)}; the runs take {duration(missed.limit)}."
        case "too cold":
            limit = temperature(missed.limit)
            return f"The battery will be at {temperature(missed.value)} at {at}; the window begins at {limit}."
        case "too warm":
            until = f"it cools to that by {_clock(missed.until)}" if missed.until else "it won't cool to that"
            return (
                f"The battery will be too warm to start: {temperature(missed.value)} at {at}; "
                f"the window ends at {temperature(missed.limit)}; {until}."
            )


def remedy(changes: Sequence[Remedy]) -> str:
    """Say what to change so that the plan is met."""
    first, *others = map(change, changes)
    return "; and ".join([first, *(other[0].lower() + other[1:] for other in others)]) + "."


def change(asked: Remedy) -> str:
    """One change of a remedy, as a sentence without its end."""
    minutes = duration(asked.minutes)
    match asked.what:
        case "later first run":
            return f"First run at {_clock(asked.at)}, {minutes} later"
        case "earlier start":
            return f"Charging and heating from {_clock(asked.at)}, {minutes} earlier"
        case "charger at the course":
            return f"A charger of {asked.power_kw:g} kW at the course, heating up to the first run"
        case "first runs only":
            return f"Only the runs of the first {minutes}, then warm the battery again"
        case "fewer runs":
            return f"Only {minutes} of runs"


def caution(known: Caution) -> str:
    """Say what to know beforehand."""
    if known.what == "climate control":
        return (
            f"Climate control takes {known.value:.1f} points of charge before the first run; switch it off to keep it."
        )
    until = f", about {_clock(known.until)}" if known.until else ""
    return f"The battery is too warm to be conditioned until it has cooled to {temperature(known.value)}{until}."


def rests_on(made: Timetable) -> list[str]:
    """Say where cooling, heating and charging come from, one sentence each."""
    parts = {"Cooling": made.cooling, "Heating": made.heating, "Charging": made.charging}
    return [f"{name} {learned_source(learned)}." for name, learned in parts.items()]


def _clock(instant: datetime | None) -> str:
    return f"{instant:%H:%M}" if instant else ""
