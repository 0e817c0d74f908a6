"""Aligning a CAN log to the receiver's clock by the speed that both saw, and what CAN data says of a run."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.can_log import CanLog, Channel
from coombe_core.trace import Trace
from coombe_core.uncertainty import COVERAGE_95, Value

Floats = NDArray[np.float64]
GRID_S = 0.1
LEAST_MATCH = 0.7
MOST_APART = 0.1  # of the spread of speed, what may remain between both
ROUNDS = 8
SLIP_FROM_MPS, SLIP_UNTIL_S = 2.0, 4.0
FRESH_S, LEAST_HEARD = 0.25, 0.8
STATE_KEPT_S = 120.0  # how long charge and temperature stay what they were
SAME_NOISE_S = 0.5  # fixes nearer than this share their noise, as far as the offset goes
WHEELS = tuple(f"wheel_speed_{axle}_{side}_mps" for axle in ("front", "rear") for side in ("left", "right"))


class NoMatchError(ValueError):
    """A CAN log that does not show the same drive as the receiver's log; its text is a sentence."""


@dataclass(frozen=True)
class AlignedCan:
    """A CAN log and how its clock relates to a trace.

    `offset_s` is what to add to the log's clock for the trace's elapsed time; the dashboard's speed is the true speed
    times `over_reading`.
    """

    log: CanLog
    offset_s: Value
    over_reading: float

    def channel(self, name: str) -> Channel | None:
        """A channel on the trace's time axis; None where the CAN log lacks it."""
        channel = self.log.channels.get(name)
        return Channel(channel.time_s + self.offset_s.value, channel.value) if channel else None

    def value_at(self, name: str, elapsed_s: float) -> float | None:
        """A channel at one time of the trace; None where it was not heard within two minutes of it."""
        channel, at_s = self.channel(name), np.array([elapsed_s])
        if channel is None or not channel.heard_within(at_s, STATE_KEPT_S)[0]:
            return None
        return float(channel.at(at_s)[0])

    def sampled(self, times_s: Floats) -> dict[str, Floats]:
        """Every channel at times of the trace; those outside the CAN log are NaN."""
        found = {}
        for name in self.log.channels:
            channel = self.channel(name)
            if channel is not None:
                inside = (times_s >= channel.time_s[0]) & (times_s <= channel.time_s[-1])
                found[name] = np.where(inside, channel.at(times_s), np.nan)
        return found

    def mode_at(self, elapsed_s: float) -> str | None:
        """The drive mode that the CAN data last stated by a time of the trace."""
        before = [name for time_s, name in self.log.modes if time_s + self.offset_s.value <= elapsed_s]
        return before[-1] if before else None

    def wheel_slip(self, trace: Trace, start_s: float) -> float | None:
        """The most by which any wheel ran ahead of the car soon after a launch, as a share.

        None without wheels, or where they were not heard for much of the time: a wheel that was last heard before or
        after a gap says nothing of the car's speed now.
        """
        wheels = [channel for name in WHEELS if (channel := self.channel(name))]
        fixes = trace.between(start_s, start_s + SLIP_UNTIL_S)
        heard = [channel.heard_within(fixes.elapsed_s, FRESH_S) for channel in wheels]
        covered = np.logical_and.reduce([fixes.speed_mps > SLIP_FROM_MPS, *heard])
        if not wheels or covered.sum() < LEAST_HEARD * (fixes.speed_mps > SLIP_FROM_MPS).sum() or not covered.any():
            return None
        fastest = np.max([channel.at(fixes.elapsed_s[covered]) for channel in wheels], axis=0)
        return float(np.max(fastest / fixes.speed_mps[covered] - 1.0))

    def brake_pedal_s(self, near_s: float, within_s: float = 1.5) -> Value | None:
        """When the brake pedal went down nearest to a time of the trace; None where it did not, or is not known."""
        pedal = self.channel("brake_pedal")
        if pedal is None:
            return None
        pressed = pedal.time_s[1:][(pedal.value[1:] > 0.5) & (pedal.value[:-1] <= 0.5)]
        near = pressed[np.abs(pressed - near_s) <= within_s]
        if not near.size:
            return None
        return Value(float(near[np.argmin(np.abs(near - near_s))]), self.offset_s.u95)


def align(log: CanLog, trace: Trace) -> AlignedCan:
    """Align a CAN log to the receiver's clock by the speed that both saw.

    First the lag at which the changes of both speeds match best, then least squares of the speeds in the offset and in
    the over-reading of the dashboard.

    Parameters
    ----------
    log : CanLog
        With the channel `indicated_speed_mps`.
    trace : Trace

    Returns
    -------
    AlignedCan
        The offset of the clocks in seconds, and by what factor the dashboard over-reads.

    Raises
    ------
    NoMatchError
        Where they do not overlap, or do not show the same drive.
    """
    speed = log.channels.get("indicated_speed_mps")
    if speed is None or speed.time_s.size < 10 or len(trace) < 10:
        raise NoMatchError("the CAN log has no indicated speed to align it by")
    offset_s = _rough_offset(speed, trace)
    gain = 1.0
    for _ in range(ROUNDS):
        can_s = trace.elapsed_s - offset_s
        inside = (can_s >= speed.time_s[0]) & (can_s <= speed.time_s[-1])
        if inside.sum() < 10:
            raise NoMatchError("the CAN log and the receiver's log do not overlap")
        seen, true = speed.at(can_s[inside]), trace.speed_mps[inside]
        change = (speed.at(can_s[inside] + GRID_S) - speed.at(can_s[inside] - GRID_S)) / (2 * GRID_S)
        columns = np.column_stack([true, change])
        solution, *_ = np.linalg.lstsq(columns, seen, rcond=None)
        gain, later_s = float(solution[0]), float(np.clip(solution[1], -0.5, 0.5))
        offset_s += later_s
    residuals = seen - columns @ solution
    if float(np.std(residuals)) > MOST_APART * float(np.std(seen)):
        raise NoMatchError("the CAN log does not show the same drive as the receiver's log")
    step_s = max(float(np.median(np.diff(trace.elapsed_s))), 1e-3)
    together = max(SAME_NOISE_S / step_s, 1.0)
    spread_s = float(np.sqrt(np.mean(residuals**2) * together / max(float(change @ change), 1e-9)))
    return AlignedCan(log, Value(offset_s, COVERAGE_95 * spread_s), gain)


def _rough_offset(speed: Channel, trace: Trace) -> float:
    """The lag of best match between the changes of both speeds, over every overlap."""
    ours = _changes(trace.elapsed_s, trace.speed_mps)
    theirs = _changes(speed.time_s, speed.value)
    # The product at every lag, by the correlation theorem; scipy.signal has it, and takes 2 s to be imported.
    size = ours.size + theirs.size - 1
    match = np.fft.irfft(np.fft.rfft(ours, size) * np.fft.rfft(theirs[::-1], size), size)
    best = int(np.argmax(match))
    least = min(float(ours @ ours), float(theirs @ theirs))
    if least == 0.0 or match[best] < LEAST_MATCH * least:
        raise NoMatchError("the CAN log does not show the same drive as the receiver's log")
    steps = best - (theirs.size - 1)
    return float(trace.elapsed_s[0] + steps * GRID_S - speed.time_s[0])


def _changes(time_s: Floats, speed_mps: Floats) -> Floats:
    grid_s = np.arange(time_s[0], time_s[-1], GRID_S)
    smooth = np.convolve(np.interp(grid_s, time_s, speed_mps), np.full(5, 0.2), mode="same")
    return np.diff(smooth)
