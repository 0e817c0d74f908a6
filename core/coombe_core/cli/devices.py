"""`coombe simulated-devices`: a simulated receiver, CAN data, weather station and driver on ports of this machine."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import json
import signal
import sys
from dataclasses import asdict
from pathlib import Path

from coombe_core.simulating.devices import Ports, simulated_devices
from coombe_core.simulating.live_receiver import starting_now
from coombe_core.simulating.receiver import Receiver


def main(arguments: list[str] | None = None) -> int:
    """Serve until stopped; prints the ports as one line of JSON once they are open."""
    options = _parser().parse_args(arguments)
    receiver = starting_now(
        Receiver(rate_hz=options.rate, latitude_deg=options.latitude, longitude_deg=options.longitude)
    )
    made = simulated_devices(receiver, options.output, options.first_fix, options.pace, options.seed, options.keep)
    ports = Ports(options.receiver_port, options.can_port, options.weather_port, options.orders_port)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(made.run(ports, lambda found: print(json.dumps(asdict(found)), flush=True)))
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="coombe simulated-devices", description=__doc__)
    parser.add_argument("--rate", type=float, default=25.0, help="fixes a second, 1 to 100")
    parser.add_argument("--output", choices=("nmea", "ubx"), default="nmea", help="what the receiver speaks")
    parser.add_argument("--first-fix", type=float, default=3.0, metavar="S", help="until the first fix")
    parser.add_argument("--pace", type=float, default=1.0, help="simulated seconds in a real one")
    parser.add_argument("--latitude", type=float, default=51.31)
    parser.add_argument("--longitude", type=float, default=-3.02)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path, metavar="FILE", help="append all that the receiver sends")
    for name in ("receiver", "can", "weather", "orders"):
        parser.add_argument(f"--{name}-port", type=int, default=0)
    return parser


if __name__ == "__main__":
    sys.exit(main())
