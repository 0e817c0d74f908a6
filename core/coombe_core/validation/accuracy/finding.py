"""What is found: every start, stop and roll-on of a log, however it was received, and nothing of ordinary driving."""

from __future__ import annotations

import math
import os
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from coombe_core.detection.runs import find_runs
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import received
from coombe_core.simulating.traffic import ordinary_driving
from coombe_core.validation.accuracy.trials import Driven, Setting, driven
from coombe_core.validation.accuracy.variants import VARIANTS

RATES_HZ = (5.0, 10.0, 25.0, 100.0)
TRAFFIC_HZ = (10.0, 25.0)
PIECE_H = 3.0
NEAR_S = 1.0  # a run is found where it begins no further from the truth
USUAL = "the usual cars"


@dataclass(frozen=True)
class Found:
    """Of the runs that were driven in a variant: how many were found, and how many besides passed for complete."""

    variant: str
    rate_hz: float
    driven: int
    found: int
    false: int


@dataclass(frozen=True)
class Traffic:
    """Hours of ordinary driving at a rate, and what of it was listed, and listed as complete."""

    rate_hz: float
    hours: float
    listed: int
    complete: int


@dataclass(frozen=True)
class Finding:
    """What was found of all that was driven."""

    runs: Sequence[Found]
    traffic: Sequence[Traffic]

    @property
    def amiss(self) -> list[Found]:
        """Where a run was not found, or one was that was not driven."""
        return [each for each in self.runs if each.found < each.driven or each.false]


def find_all(cars: int, hours: float, seed: int, variants: Sequence[str] = ("", *VARIANTS)) -> Finding:
    """Trials of as many cars in each variant, and of so long in traffic at each rate."""
    return Finding(_runs(cars, seed, variants), _traffic(hours, seed))


def _runs(cars: int, seed: int, variants: Sequence[str]) -> list[Found]:
    """Drive as many cars of every variant, receive them at every rate, and look for their runs."""
    jobs = [(number, seed, variant) for variant in variants for number in range(cars)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        made = list(pool.map(_of_car, jobs, chunksize=4))
    counts = np.reshape(made, (-1, cars, len(RATES_HZ), 3)).sum(axis=1).tolist()
    return [
        Found(variant or USUAL, rate_hz, *of_rate)
        for variant, of_variant in zip(variants, counts, strict=True)
        for rate_hz, of_rate in zip(RATES_HZ, of_variant, strict=True)
    ]


def _traffic(hours: float, seed: int) -> list[Traffic]:
    """Drive in traffic for so long at every rate, a few hours at a time."""
    pieces = math.ceil(hours / PIECE_H)
    jobs = [(rate_hz, [seed, number]) for rate_hz in TRAFFIC_HZ for number in range(pieces)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        made = list(pool.map(_piece, jobs))
    counts = np.reshape(made, (-1, pieces, 2)).sum(axis=1).tolist()
    return [Traffic(rate_hz, pieces * PIECE_H, *of_rate) for rate_hz, of_rate in zip(TRAFFIC_HZ, counts, strict=True)]


def _of_car(job: tuple[int, int, str]) -> list[tuple[int, int, int]]:
    """Runs driven, found and false of one car, at every rate."""
    made = driven(*job)
    return [_of_receiver(made, Setting(rate_hz).of(made.world.receiver)) for rate_hz in RATES_HZ]


def _of_receiver(made: Driven, receiver: Receiver) -> tuple[int, int, int]:
    real = seen = right = 0
    for each in made.drives:
        driven_runs = [(run.kind, run.start_s) for run in each.motion.runs]
        complete = [run for run in find_runs(received(each.motion, receiver, each.noise_seed).trace) if run.complete]
        real, seen = real + len(driven_runs), seen + len(complete)
        for run in complete:
            match = next(
                (one for one in driven_runs if one[0] == run.kind and abs(one[1] - run.start_s) < NEAR_S), None
            )
            if match:
                driven_runs.remove(match)
                right += 1
    return real, right, seen - right


def _piece(job: tuple[float, Sequence[int]]) -> tuple[int, int]:
    """What of a piece of ordinary driving is listed, and listed as complete."""
    rate_hz, seed = job
    runs = find_runs(ordinary_driving(PIECE_H, rate_hz, seed))
    return len(runs), sum(run.complete for run in runs)
