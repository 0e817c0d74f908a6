"""Trials of the studies: sweeps of simulated cars with and without a step, stops that fade and that do not."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from coombe_core.simulating.many import Floats, Launches, launch_all
from coombe_core.studies.braking import braking_series, power_to_find_fade
from coombe_core.studies.repeatability import repeatability
from coombe_core.studies.sweep import Sweep, sweep
from coombe_core.units import FOOT_M, MPH_MPS
from coombe_core.validation.method.tables import Line

CHARGES = np.arange(90.0, 9.0, -10.0)
BETWEEN = np.arange(85.0, 14.0, -10.0)  # where the curve is asked too
ENDS_AT = 70.0
STEP = 0.03
STOPS = 6


def studies(count: int, seed: int) -> list[Line]:
    """How often a sweep's band holds the truth, and how often steps and fades are found and invented."""
    lines: list[Line] = []
    for place, (scatter, words) in enumerate(((0.01, "1 %"), (0.004, "0.4 %"))):
        draw = np.random.default_rng([seed, 7, place])
        level, stepped = _sweeps(count, 0.0, scatter, draw), _sweeps(count, STEP, scatter, draw)
        invented, found = (sum(one.step is not None for one, _ in made) / count for made in (level, stepped))
        lines.append(Line(f"sweep of nine, scatter {words}, no step: one invented", count, invented, most=0.05))
        remark = _placed([one for one, _ in stepped])
        lines.append(Line("the same with a step of 3 % at 70 %: found", count, found, least=0.9, remark=remark))
        held = float(np.mean([_held(one, truth) for one, truth in level]))
        lines.append(Line(f"sweep of nine, scatter {words}: the band holds the truth", count, held, 0.92, 0.98))
    draw = np.random.default_rng([seed, 8])
    for fade, words in ((0.0, "that do not fade: called fading"), (1.0, "that fade by a foot a stop: found")):
        stops = (110.0 + fade * np.arange(STOPS) + draw.normal(size=(count, STOPS))) * FOOT_M
        shown = sum(braking_series([row.tolist()]).verdict == "fades" for row in stops) / count
        beforehand = power_to_find_fade(STOPS, fade, 1.0)
        what = f"{STOPS} stops, scatter of a foot, {words}"
        lines.append(
            Line(what, count, shown, beforehand - 0.04, beforehand + 0.04, f"worked out beforehand: {beforehand:.1%}")
        )
    passes = 4.0 + 0.02 * draw.normal(size=(count, 5))
    changing = sum(repeatability(row.tolist()).changes for row in passes) / count
    return [*lines, Line("five passes that do not change: called changing", count, changing, most=0.065)]


def _sweeps(count: int, step: float, scatter: float, draw: np.random.Generator) -> list[tuple[Sweep, Floats]]:
    """Sweeps of as many cars, each with the true times at and between its charges."""
    mass_kg = draw.uniform(1500, 2300, count)
    charges = np.concatenate([CHARGES, BETWEEN])
    each = {
        "mass_kg": mass_kg,
        "grip": draw.uniform(0.75, 1.0, count),
        "power_w": mass_kg * draw.uniform(115, 200, count),
        "cda_m2": draw.uniform(0.5, 0.65, count),
        "ramp_s": draw.uniform(0.08, 0.2, count),
    }
    same = {"battery_temp_c": 45.0, "slope_percent": 0.0, "head_wind_mps": 0.0, "density_kg_m3": 1.2, "far_up": 1.0}
    size = count * charges.size
    many = Launches(
        **{name: np.repeat(values, charges.size) for name, values in each.items()},
        **{name: np.full(size, value) for name, value in same.items()},
        charge_percent=np.tile(charges, count),
    )
    passed, _ = launch_all(many, 60 * MPH_MPS)
    times = (passed.time_s(60 * MPH_MPS) - passed.rollout_s()).reshape(count, charges.size)
    times = times * (1.0 + step * (charges < ENDS_AT))
    seen = times[:, : CHARGES.size] * (1.0 + scatter * draw.normal(size=(count, CHARGES.size)))
    return [(sweep(CHARGES.tolist(), row.tolist()), truth) for row, truth in zip(seen, times, strict=True)]


def _held(found: Sweep, truth: Floats) -> float:
    """How much of the truth is inside the band."""
    at = np.concatenate([CHARGES, BETWEEN])
    values, u95 = (np.interp(at, found.curve.at, each) for each in (found.curve.values, found.curve.u95()))
    return float(np.mean(np.abs(values - truth) <= u95))


def _placed(made: Sequence[Sweep]) -> str:
    steps = [one.step for one in made if one.step]
    right = np.mean([step.low <= ENDS_AT <= step.high for step in steps]) if steps else 0.0
    return f"its interval holds 70 % in {right:.0%}"
