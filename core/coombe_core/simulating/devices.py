"""A simulated receiver, CAN data, weather station and driver: four ports on loopback around one simulated car.

Each port speaks what the real thing speaks: the receiver NMEA or UBX, CAN the ASCII protocol of socketcand, the
a weather station METAR lines. The fourth takes orders as JSON, one object a line, and answers each with one.
"""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from datetime import timedelta
from pathlib import Path
from typing import Any, BinaryIO

from coombe_core.formats.can_log import OWN_DBC
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.driver import INTENTS, acts_of
from coombe_core.simulating.live_car import LiveCar, TruePull
from coombe_core.simulating.live_receiver import LiveReceiver
from coombe_core.simulating.receiver import Receiver
from coombe_core.simulating.scenarios import true_pull
from coombe_core.timing.measures import parse_measure

HOST = "127.0.0.1"
CAN_PERIODS_S = {"Motion": 0.02, "WheelSpeeds": 0.02, "Battery": 0.1, "Temperatures": 1.0, "Mode": 1.0}
CAN_CLOCK_AHEAD_S = 0.37  # the adapter's clock is not the receiver's
REPORT_S = 10.0
DROP_OUT_AFTER_S = 1.2
GREETED_S = 0.1  # clients expect the last greeting to come alone
MOST_UNSENT_BYTES = 1 << 20
MOST_TRUTHS = 500
TRUE_STEP_S = 0.001  # of what the car really did


@dataclass(frozen=True)
class Ports:
    """Where the simulated devices listen; 0 takes a free port."""

    receiver: int = 0
    can: int = 0
    weather: int = 0
    orders: int = 0


class Line:
    """Everyone who listens at one port."""

    def __init__(self) -> None:
        self._writers: set[asyncio.StreamWriter] = set()

    def add(self, writer: asyncio.StreamWriter) -> None:
        """One listener more."""
        self._writers.add(writer)

    def send(self, data: bytes) -> None:
        """Send to all; who does not read any more is dropped."""
        for writer in list(self._writers):
            if writer.is_closing() or writer.transport.get_write_buffer_size() > MOST_UNSENT_BYTES:
                writer.close()
                self._writers.discard(writer)
            else:
                writer.write(data)

    def close(self) -> None:
        """Hang up on all."""
        for writer in self._writers:
            writer.close()


class SimulatedDevices:
    """One simulated car and its devices. `pace` is how many simulated seconds a real one lasts.

    `kept` receives a copy of every byte that the receiver sends, whether anybody listens or not.
    """

    def __init__(self, car: LiveCar, receiver: LiveReceiver, pace: float = 1.0, kept: BinaryIO | None = None) -> None:
        import cantools

        self.car, self.receiver, self.pace, self.kept = car, receiver, pace, kept
        self.ports = Ports()
        self.truths: list[dict[str, Any]] = []
        self._lines = {name: Line() for name in ("receiver", "can", "weather")}
        self._database: Any = cantools.database.load_file(OWN_DBC)
        self._drop_out_s = 0.0
        self._sent_s = dict.fromkeys((*CAN_PERIODS_S, "fix", "weather"), 0.0)

    async def run(self, ports: Ports, ready: Callable[[Ports], None] = lambda ports: None) -> None:
        """Listen and drive until canceled; `ready` is given the ports."""
        answers = {
            "receiver": self._listen("receiver"),
            "can": self._can,
            "weather": self._weather,
            "orders": self._orders,
        }
        servers = {
            name: await asyncio.start_server(answer, HOST, getattr(ports, name)) for name, answer in answers.items()
        }
        self.ports = Ports(**{name: server.sockets[0].getsockname()[1] for name, server in servers.items()})
        ready(self.ports)
        try:
            await self._drive()
        finally:
            for server in servers.values():
                server.close()
            for line in self._lines.values():
                line.close()

    async def _drive(self) -> None:
        clock = asyncio.get_running_loop().time
        begun = clock()
        while True:
            self._move_on((clock() - begun) * self.pace)
            await asyncio.sleep(CAN_PERIODS_S["Motion"] / 4)

    def _move_on(self, now_s: float) -> None:
        """Everything that is due by a time since the beginning, in its order."""
        while (due_s := min(self._due_s().values())) <= now_s:
            self.car.advance(due_s)
            if self._drop_out_s and self.car.pulling_for_s > DROP_OUT_AFTER_S:
                self.receiver.silent_until_s, self._drop_out_s = due_s + self._drop_out_s, 0.0
            for name, at_s in self._due_s().items():
                if at_s == due_s:
                    self._sent_s[name] = at_s
                    self._send(name, at_s)
        self._take_truths()

    def _due_s(self) -> dict[str, float]:
        periods = {**CAN_PERIODS_S, "fix": 1.0 / self.receiver.receiver.rate_hz, "weather": REPORT_S}
        return {name: round(self._sent_s[name] + period, 6) for name, period in periods.items()}

    def _send(self, name: str, at_s: float) -> None:
        if name == "fix":
            data = self.receiver.sends(self.car, at_s)
            self._lines["receiver"].send(data)
            if self.kept:
                self.kept.write(data)
                self.kept.flush()
        elif name == "weather":
            self._lines["weather"].send(self._metar(at_s))
        else:
            message = self._database.get_message_by_name(name)
            payload = message.encode(self.car.can_state().signals()[name])
            clock_s = (self._utc(at_s) + timedelta(seconds=CAN_CLOCK_AHEAD_S)).timestamp()
            self._lines["can"].send(f"< frame {message.frame_id:03X} {clock_s:.6f} {payload.hex().upper()} >".encode())

    def _utc(self, at_s: float) -> Any:
        return self.receiver.receiver.start_utc + timedelta(seconds=at_s)

    def _metar(self, at_s: float) -> bytes:
        wind = self.car.conditions.head_wind_mps
        from_deg = round(self.car.out_deg / 10) * 10 % 360 or 360
        temp = f"{self.car.outside_temp_c:.0f}".replace("-", "M").rjust(2, "0")
        report = f"METAR ZZZZ {self._utc(at_s):%d%H%M}Z {from_deg:03d}{abs(wind):02.0f}MPS 9999 {temp}/08 Q1013"
        return report.encode() + b"\n"

    def _take_truths(self) -> None:
        for pull in self.car.pulls:
            self.truths.append(self._truth(pull))
        self.car.pulls.clear()
        del self.truths[:-MOST_TRUTHS]

    def _truth(self, pull: TruePull) -> dict[str, Any]:
        facts = true_pull(pull.act.kind == "brake", pull.speed_mps, pull.distance_m)
        end_s = pull.start_s + len(pull.speed_mps) * TRUE_STEP_S
        when = {"start_utc": self._utc(pull.start_s).isoformat(), "end_utc": self._utc(end_s).isoformat()}
        return {**when, "intent": pull.intent, **facts}

    def _listen(self, name: str) -> Any:
        async def add(_: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            self._lines[name].add(writer)

        return add

    async def _weather(self, _: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        writer.write(self._metar(self._sent_s["fix"]))
        self._lines["weather"].add(writer)

    async def _can(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """The greeting of socketcand, then every frame."""
        try:
            writer.write(b"< hi >")
            for _ in ("open", "rawmode"):
                await reader.readuntil(b">")
                writer.write(b"< ok >")
        except (OSError, EOFError):  # a listener that only looks whether somebody is here
            writer.close()
            return
        await asyncio.sleep(GREETED_S)
        self._lines["can"].add(writer)

    async def _orders(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        while line := await reader.readline():
            try:
                answer = self.obey(json.loads(line))
            except (ValueError, TypeError, KeyError) as error:
                answer = {"error": str(error)}
            writer.write(json.dumps(answer).encode() + b"\n")
        writer.close()

    def obey(self, order: dict[str, Any]) -> dict[str, Any]:
        """Carry one order out and say how things stand.

        `drive` names an intent of the driver and `measure` what for; `charge_percent`, `battery_temp_c`,
        `head_wind_mps` and `car` (fields of SimulatedCar) change the car; `drop_out_s` silences the receiver, with
        `drive` in mid-pull and else now; `rate_hz` changes its rate; `truth` asks for what really happened. Raises
        ValueError where an order is none.
        """
        state = {name: float(order[name]) for name in _CONDITIONS if name in order}
        self.car.conditions = replace(self.car.conditions, **state)
        if "car" in order:
            self.car.car = replace(SimulatedCar(), **_car_facts(order["car"]))
        if "rate_hz" in order:
            self.receiver.receiver = replace(self.receiver.receiver, rate_hz=_rate_hz(order["rate_hz"]))
        if "drop_out_s" in order and "drive" in order:
            self._drop_out_s = float(order["drop_out_s"])
        elif "drop_out_s" in order:
            self.receiver.silent_until_s = self._sent_s["fix"] + float(order["drop_out_s"])
        if "drive" in order:
            self.car.order(acts_of(order["drive"], parse_measure(order.get("measure", "0-60 mph"))), order["drive"])
        return {**self._stands(), **({"truth": self.truths} if order.get("truth") else {})}

    def _stands(self) -> dict[str, Any]:
        conditions = self.car.conditions
        return {
            "idle": self.car.idle,
            "speed_mps": self.car.state.speed_mps,
            "charge_percent": conditions.charge_percent,
            "battery_temp_c": conditions.battery_temp_c,
            "head_wind_mps": conditions.head_wind_mps,
            "rate_hz": self.receiver.receiver.rate_hz,
            "pace": self.pace,
            "intents": list(INTENTS),
        }


_CONDITIONS = ("charge_percent", "battery_temp_c", "head_wind_mps")


def _car_facts(given: dict[str, Any]) -> dict[str, Any]:
    known = {each.name for each in fields(SimulatedCar)}
    if unknown := set(given) - known:
        raise ValueError(f"a simulated car has no {', '.join(sorted(unknown))}")
    return given


def _rate_hz(given: Any) -> float:
    rate_hz = float(given)
    if not 1 <= rate_hz <= 100:
        raise ValueError("a receiver's rate is between 1 and 100 Hz")
    return rate_hz


def simulated_devices(
    receiver: Receiver, output: str, first_fix_s: float, pace: float, seed: int, keep: Path | None = None
) -> SimulatedDevices:
    """Simulated devices around a car that waits at the start of a strip, heading north-east."""
    car = LiveCar(SimulatedCar(), Conditions(charge_percent=95.0, battery_temp_c=44.0), heading_deg=68.0)
    kept = keep.open("ab") if keep else None
    return SimulatedDevices(car, LiveReceiver(receiver, output, first_fix_s, seed), pace, kept)
