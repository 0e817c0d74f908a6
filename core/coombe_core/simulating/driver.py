"""What a person can ask the simulated driver to do, as acts."""

from __future__ import annotations

from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import turn_round
from coombe_core.timing.measures import Measure
from coombe_core.units import KMH_MPS

STAGED_S = 4.0
PAST_SHARE, PAST_M = 1.04, 8.0  # how far past the target a driver pulls
LIFTED_SHARE = 0.7
ROLL_FROM_MPS = 14.0
STOP_FROM_MPS = 101.5 * KMH_MPS
SERIES = 3

Acts = list[Act]


def acts_of(intent: str, target: Measure) -> Acts:
    """The acts of an intent, one of INTENTS, for a measure; they end at rest with the car turned round.

    Raises ValueError for an intent that is unknown.
    """
    if intent not in INTENTS:
        raise ValueError(f"the driver knows {', '.join(INTENTS)}, not {intent!r}")
    return INTENTS[intent](target)


def _staged(pull: Act, *, braking: bool = True) -> Acts:
    slowing = [Act("coast", 0.8), Act("brake"), Act("rest", 3)] if braking else [Act("coast", 1.5), _to(0.0)]
    return [Act("rest", STAGED_S), pull, *slowing, *_away()]


def _away() -> Acts:
    return [Act("gentle", to_mps=8.0), *turn_round()]


def _to(speed_mps: float) -> Act:
    return Act("gentle", to_mps=speed_mps, pace_mps2=1.8)


def _launch(target: Measure, spins: bool = False) -> Act:
    if target.to_m:
        return Act("launch", to_m=target.to_m + PAST_M, spins=spins)
    return Act("launch", to_mps=_top_mps(target), spins=spins)


def _top_mps(target: Measure) -> float:
    return PAST_SHARE * max(target.to_mps, 60 * KMH_MPS)


def _clean(target: Measure) -> Acts:
    return _staged(_launch(target))


def _jump(target: Measure) -> Acts:
    """A false start, back to rest, and the launch straight after it."""
    return [Act("rest", STAGED_S), Act("launch", seconds=0.7), Act("brake"), Act("rest", 1.2), *_clean(target)[1:]]


def _lift(target: Measure) -> Acts:
    return _staged(Act("launch", to_mps=LIFTED_SHARE * _top_mps(target)), braking=False)


def _spin(target: Measure) -> Acts:
    return _staged(_launch(target, spins=True))


def _roll_on(target: Measure) -> Acts:
    from_mps = max(target.from_mps - 2.0, ROLL_FROM_MPS)
    pull = Act("launch", to_mps=max(_top_mps(target), from_mps + 15.0))
    return [_to(from_mps), Act("hold", 3), pull, Act("coast", 0.8), _to(8.0), *turn_round()]


def _stop(target: Measure) -> Acts:
    from_mps = max(STOP_FROM_MPS, 1.015 * target.from_mps if target.basis == "stop" else 0.0)
    return [Act("rest", 2), _to(from_mps), Act("hold", 2), Act("coast", 0.3), Act("brake"), Act("rest", 3), *_away()]


def _series(target: Measure) -> Acts:
    return _stop(target) * SERIES


INTENTS = {
    "launch": _clean,
    "jump": _jump,
    "lift early": _lift,
    "spin": _spin,
    "roll-on": _roll_on,
    "stop": _stop,
    "series of stops": _series,
}
