"""Questions about what a person entered, as a tester would ask them."""

from __future__ import annotations

from coombe_core.flags.entered import Asked, Code
from coombe_core.units import PSI_KPA
from coombe_core.wording.quantities import both_units, counted, temperature

REASONS: dict[Code, str] = {
    "charge rises": "The charge rises from {before:g} to {after:g} %. Was the car charged during the run?",
    "other scale": "{value} is unusual for a battery.",
    "unlike can": "CAN data shows {expected}, this says {value}.",
    "unlike neighbor": "{minutes} the battery was at {expected}; this says {value}.",
    "unlike weather": "The weather then was {expected}, this says {value}.",
    "mass": "{value} is unusual.",
    "pressure": "{value} is unusual for a tire.",
    "future": "That is {days} ahead. Is the date right?",
}


def question(asked: Asked) -> str:
    """Ask about a value, and offer what was probably meant.

    >>> question(Asked("battery_temp_before_c", "other scale", {"value": 4.444}, 40.0))
    '4 °C (40 °F) is unusual for a battery. Did you mean 40 °C (104 °F)?'
    >>> question(Asked("tire_pressure_kpa", "pressure", {"value": 20.0}, 290.0))
    '20 kPa (2.9 psi) is unusual for a tire. Did you mean 290 kPa (42.1 psi)?'
    >>> question(Asked("charge_after_percent", "charge rises", {"before": 90.0, "after": 94.0}))
    'The charge rises from 90 to 94 %. Was the car charged during the run?'
    """
    numbers = dict(asked.numbers)
    words: dict[str, object] = {
        **numbers,
        **{name: written(asked.field, numbers[name]) for name in ("value", "expected") if name in numbers},
        "minutes": _when(numbers.get("minutes", 0.0)),
        "days": counted(round(numbers.get("days", 0.0)), "day"),
    }
    offer = "" if asked.suggestion is None else f" Did you mean {written(asked.field, asked.suggestion)}?"
    return REASONS[asked.code].format(**words) + offer


def _when(minutes: float) -> str:
    if abs(minutes) < 1:
        return "In the same minute"
    return f"{counted(round(abs(minutes)), 'minute')} {'earlier' if minutes < 0 else 'later'}"


def written(name: str, value: float) -> str:
    """A value of a field with its unit, in both families.

    >>> written("test_mass_kg", 2080.0)
    '2080 kg (4586 lb)'
    """
    if name.endswith("_c"):
        return temperature(value)
    if name.endswith("_kpa"):
        return f"{value:.0f} kPa ({value / PSI_KPA:.1f} psi)"
    return both_units(value, "kg", 0)
