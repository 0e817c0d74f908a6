"""Whether a pull was one at full power, or a join, an overtake or a quick start in traffic.

At full power the pedal goes down at once; then grip limits the pull, or power does, so that acceleration falls as speed
rises; and at the end the driver lifts. In traffic the pedal comes down slowly, the pull is as hard at its end as at its
beginning, or the speed that was reached is held.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
OVER_S, EVERY_S = 0.5, 0.1  # what acceleration is taken over, and how often
EARLY_S = 2.5
TAKEN_UP = (0.3, 0.7)  # the pedal is down when the pull has risen from the one share of its early peak to the other
TAKEN_UP_S = 0.75
LOW_SHARE, HIGH_SHARE = 0.6, 0.97  # of the top speed, between which acceleration falls
BAND_SHARE = 0.06
GRIP_MPS2 = 5.5  # so hard a pull is at the limit of grip or near it
STEADY_POWER_SHARE = 0.25  # how far from steady power towards a steady pull a pull at full power may be
LEAST_W_PER_KG = 40.0
STILL_PULLING_MPS2 = 0.5  # the log ends with the pull
HELD_MPS2, HELD_S, LIFTED_MPS = -0.25, 0.6, 0.5  # speed that changes no faster, over so long, is held
# Whatever follows, no pull of traffic's is as strong as this, from rest and out of steady speed. A weak one out of
# steady speed is what overtakes and joins are too: then speed has to be let go of, as no one in traffic does at once.
ROLLING_MPS, STRONG_W_PER_KG, STRONG_ROLLING_W_PER_KG, LET_GO_MPS2 = 5.0, 120.0, 140.0, -0.6


def at_full_power(times_s: Floats, speeds_mps: Floats, end_s: float) -> bool:
    """Judge a pull.

    Parameters
    ----------
    times_s, speeds_mps : array of float, shape (n,)
        The fixes of the pull, and what follows it until it was seen to be over.
    end_s : float
        When it was fastest.

    Returns
    -------
    bool
    """
    pull = times_s <= end_s
    t, v = times_s[pull], np.maximum.accumulate(speeds_mps[pull])
    if t.size < 3 or t[-1] - t[0] < OVER_S:
        return False
    if not _pedal_down(t, v) or not _as_hard_as_it_can(t, v):
        return False
    then_mps2, power_w_per_kg, rolling = _then_mps2(times_s, speeds_mps), _power_w_per_kg(t, v), v[0] > ROLLING_MPS
    if rolling and power_w_per_kg < STRONG_W_PER_KG:
        return then_mps2 <= LET_GO_MPS2
    strong = power_w_per_kg >= (STRONG_ROLLING_W_PER_KG if rolling else STRONG_W_PER_KG)
    return strong or not HELD_MPS2 < then_mps2 < STILL_PULLING_MPS2


def _power_w_per_kg(t: Floats, v: Floats) -> float:
    """The most that the pull puts into the car's motion, over half a second."""
    at_s = np.arange(t[0] + OVER_S / 2, t[-1] - OVER_S / 2, EVERY_S)
    before, after = np.interp(at_s - OVER_S / 2, t, v), np.interp(at_s + OVER_S / 2, t, v)
    return float(((after**2 - before**2) / (2 * OVER_S)).max(initial=0.0))


def _pedal_down(t: Floats, v: Floats) -> bool:
    """Whether the pull was taken up at once."""
    at_s = np.arange(t[0] - OVER_S / 2, min(t[0] + EARLY_S, t[-1] - OVER_S / 2), EVERY_S)
    pace = (np.interp(at_s + OVER_S / 2, t, v) - np.interp(at_s - OVER_S / 2, t, v)) / OVER_S
    low, high = (share * pace.max() for share in TAKEN_UP)
    up = int(np.argmax(pace >= high))
    slow = np.flatnonzero(pace[:up] < low)  # noise before the pull can be fast too: the last slow moment counts
    return bool(at_s[up] - at_s[slow[-1] if slow.size else 0] <= TAKEN_UP_S)


def _as_hard_as_it_can(t: Floats, v: Floats) -> bool:
    """Whether grip or power limits the pull: steady power makes it weaker in proportion to speed."""
    band = BAND_SHARE * v[-1]
    high = HIGH_SHARE * v[-1] - band
    low = max(LOW_SHARE * v[-1], v[0] + 2 * band)
    if low >= high:
        return False
    at_low = max(_gained_mps2(t, v, x, band) for x in (low - band, low))  # a gear may be shifted in one of the halves
    at_high = _gained_mps2(t, v, high - band, 2 * band)
    if at_low >= GRIP_MPS2:
        return True
    return bool(
        at_low * low >= LEAST_W_PER_KG and at_high / at_low <= low / high + STEADY_POWER_SHARE * (1 - low / high)
    )


def _gained_mps2(t: Floats, v: Floats, from_mps: float, gain_mps: float) -> float:
    """The mean acceleration from a speed on, until so much is gained."""
    return float(gain_mps / (np.interp(from_mps + gain_mps, v, t) - np.interp(from_mps, v, t)))


def _then_mps2(times_s: Floats, speeds_mps: Floats) -> float:
    """How speed changes after the pull, at the end of what was seen of it; -inf where it is well below."""
    last = times_s >= times_s[-1] - HELD_S - 1e-9
    t, v = times_s[last], speeds_mps[last]
    if t.size < 3 or v[-1] < speeds_mps.max() - LIFTED_MPS:
        return -math.inf
    return float(np.polyfit(t - t[0], v, 1)[0])
