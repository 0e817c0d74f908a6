"""The simulated car driven in real time: acts follow one another, and its battery empties and warms."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from coombe_core.simulating.can import EFFICIENCY, State
from coombe_core.simulating.car import STEP_S, Conditions, SimulatedCar, resistance_mps2
from coombe_core.simulating.drive import Act, CarState, facing, steps
from coombe_core.units import KMH_MPS

BATTERY_KWH = 80.0
REGENERATION = 0.5  # the share of braking's energy that comes back
HEAT_J_PER_K = 500_000.0
COOLING_S = 200 * 60.0
SPIN_SLIP = 0.4
KWH_J = 3.6e6
MOVING_MPS = 0.01  # of the true motion, which has no noise


@dataclass(frozen=True)
class TruePull:
    """What the car really did in a launch or a braking: its act, the order, its start; speed and distance at 1 kHz."""

    act: Act
    intent: str
    start_s: float
    speed_mps: list[float]
    distance_m: list[float]


class LiveCar:
    """One car on one strip. `advance` moves it on; what it did last is kept in `pulls` until it is taken."""

    def __init__(
        self, car: SimulatedCar, conditions: Conditions, heading_deg: float = 0.0, outside_temp_c: float = 15.0
    ):
        self.car, self.conditions, self.outside_temp_c = car, conditions, outside_temp_c
        self.state = CarState(heading_deg=heading_deg)
        self.east_m = self.north_m = self.power_w = 0.0
        self.altitude_m = 120.0
        self.spinning = False
        self.pulls: list[TruePull] = []
        self.out_deg = heading_deg
        self._acts: deque[tuple[Act, str]] = deque()
        self._intent = ""
        self._act = Act("rest")
        self._began_s = 0.0
        self._along = conditions
        self._motion = self._moved()

    @property
    def idle(self) -> bool:
        """Whether nothing that was ordered is left to do."""
        return not self._acts and self._act.kind == "rest"

    @property
    def pulling_for_s(self) -> float:
        """How long the launch under way has lasted; 0 where none is."""
        return self.state.elapsed_s - self._began_s if self._act.kind == "launch" else 0.0

    def order(self, acts: Sequence[Act], intent: str = "") -> None:
        """Have the driver do these after what was ordered before."""
        self._acts.extend((act, intent) for act in acts)

    def advance(self, until_s: float) -> None:
        """Move on to a time since the beginning."""
        while self.state.elapsed_s < until_s - STEP_S / 2:
            next(self._motion)

    def can_state(self) -> State:
        """What the car sends on CAN now."""
        speed_kmh = self.state.speed_mps / KMH_MPS
        return State(
            speed_kmh=speed_kmh,
            rear_kmh=speed_kmh * (1 + SPIN_SLIP * self.spinning),
            pace_mps2=self.state.acceleration_mps2 if self.state.speed_mps > 0 else 0.0,
            power_kw=self.power_w / 1000,
            charge_percent=self.conditions.charge_percent,
            battery_temp_c=self.conditions.battery_temp_c,
            outside_temp_c=self.outside_temp_c,
        )

    def _moved(self) -> Iterator[None]:
        """Every step of every act, for ever: at rest where nothing is ordered. Conditions hold for a whole act."""
        while True:
            self._act, self._began_s = self._next_act(), self.state.elapsed_s
            self._along = facing(self.conditions, self.state.heading_deg - self.out_deg)
            pull = TruePull(self._act, self._intent, self._began_s, [], [])
            distance_m, before_mps, used_j, lost_j = 0.0, self.state.speed_mps, 0.0, 0.0
            for _ in steps(self._act, self.state, self.car, self._along):
                speed_mps = self.state.speed_mps
                if self._act.kind in ("launch", "brake"):
                    distance_m += (before_mps + speed_mps) * STEP_S / 2 if pull.distance_m else 0.0
                    pull.speed_mps.append(speed_mps)
                    pull.distance_m.append(distance_m)
                if speed_mps or before_mps:
                    self._move(before_mps, speed_mps)
                    used_j += self.power_w * STEP_S
                    lost_j += abs(self.power_w) * STEP_S * (1 - EFFICIENCY)
                before_mps = speed_mps
                yield
                self.state.elapsed_s += STEP_S
            self._use_battery(used_j, lost_j, self.state.elapsed_s - pull.start_s)
            if pull.speed_mps:
                self.pulls.append(pull)

    def _next_act(self) -> Act:
        if self._acts:
            act, self._intent = self._acts.popleft()
            return act
        if self.state.speed_mps > MOVING_MPS:
            return Act("gentle", to_mps=0.0)
        return Act("rest", seconds=0.02)

    def _move(self, before_mps: float, speed_mps: float) -> None:
        """Place, elevation and power after one step."""
        angle, distance_m = math.radians(self.state.heading_deg), (before_mps + speed_mps) * STEP_S / 2
        self.east_m += distance_m * math.sin(angle)
        self.north_m += distance_m * math.cos(angle)
        self.altitude_m += distance_m * self._along.slope_percent / 100
        self.spinning = self._act.spins and speed_mps > 0.5
        pace = (speed_mps - before_mps) / STEP_S + resistance_mps2(self.car, self._along, speed_mps)
        at_wheels_w = self.car.mass_kg * self.car.rotating_mass_factor * pace * speed_mps
        self.power_w = at_wheels_w / EFFICIENCY if at_wheels_w > 0 else at_wheels_w * REGENERATION

    def _use_battery(self, used_j: float, lost_j: float, seconds: float) -> None:
        """Charge and battery temperature after an act."""
        cooled_k = (self.conditions.battery_temp_c - self.outside_temp_c) * seconds / COOLING_S
        self.conditions = replace(
            self.conditions,
            charge_percent=max(self.conditions.charge_percent - 100 * used_j / KWH_J / BATTERY_KWH, 0.0),
            battery_temp_c=self.conditions.battery_temp_c + lost_j / HEAT_J_PER_K - cooled_k,
        )
