"""Simulated drives that several tests share, made once."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from coombe_core.analysis import Analysis, Request, analyse_log
from coombe_core.formats import write_log
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import SCENARIOS, Scenario, Simulated, clean_run, simulate, truth
from coombe_core.timing.corrections import Correction


@cache
def simulated(name: str, seed: int = 11) -> Simulated:
    """A scenario received once."""
    return simulate(SCENARIOS[name], seed)


@cache
def nmea(name: str, seed: int = 11) -> bytes:
    """A scenario's log as NMEA."""
    return write_log(simulated(name, seed).trace, "nmea")


@cache
def analyzed(name: str, seed: int = 11) -> Analysis:
    """A scenario's log, read and timed, with times corrected to level."""
    return analyse_log(nmea(name, seed), Request(correction=Correction(slope=True)))


def true_measures(made: Simulated, index: int = 0) -> dict[tuple[str, str], dict]:
    """The true measures of the index-th real run, by name and clock."""
    runs = truth(made)["runs"]
    return {(row["name"], row["clock"]): row for row in runs[index]["measures"]}


def one_run(seed: int, car: SimulatedCar, slope_percent: float = 0.0, **receiver: float) -> Simulated:
    """One standing quarter mile and its stop."""
    scenario = Scenario("", clean_run(), car, Conditions(slope_percent=slope_percent), replace(Receiver(), **receiver))
    return simulate(scenario, seed)
