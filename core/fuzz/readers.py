"""Throws damaged logs at one reader for some minutes: anything but its own error is printed with the log that did it.

PYTHONPATH=core .venv/bin/python core/fuzz/readers.py nmea --minutes 10
"""

from __future__ import annotations

import argparse
import io
import random
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path

from coombe_core.analysis import analyse_log
from coombe_core.formats import FORMATS, ReadError, write_log
from coombe_core.formats.can_log import read_can_log
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.scenarios import SCENARIOS, simulate

MADE = simulate(SCENARIOS["clean-run"], 5)
SHORT = MADE.trace.between(3.0, 7.0)
BUSES = ("candump", "asc", "blf")
TOKENS = (
    *(b"", b"-", b".", b"1e999", b"nan", b"inf", b"99999999999999999999", b"0", b"\x00", b"\xff" * 9, b"\r\n", b"\n"),
    *(
        b",",
        b";",
        b"*",
        b"$GPRMC,",
        b"\xb5\x62\x01\x07",
        b"<gpx>",
        b"]]>",
        b"&#0;",
        b'{"class":"TPV"}',
        b'"',
        b"\xef\xbb\xbf",
    ),
)


def original(name: str) -> tuple[bytes, Callable[[bytes], object]]:
    """A good log of a format, and what reads it."""
    if name in BUSES:
        sent = frames(MADE.motion, SimulatedCar(), 10.0, 90.0, 40.0)
        kept = [frame for _, frame in zip(range(600), sent, strict=False)]
        return write_can_log(name, iter(kept)), lambda data: read_can_log(io.BytesIO(data))
    return write_log(SHORT, name), analyse_log


def damaged(log: bytes, draw: random.Random) -> bytes:
    """A log with a few random hurts: bytes changed, parts cut, doubled, moved, tokens put in."""
    data = bytearray(log)
    for _ in range(draw.randint(1, 12)):
        if not data:
            break
        at, length = draw.randrange(len(data)), draw.choice((1, 1, 2, 8, 64, 700))
        match draw.randrange(5):
            case 0:
                data[at] = draw.randrange(256)
            case 1:
                del data[at : at + length]
            case 2:
                data[at:at] = data[at : at + length]
            case 3:
                data[at : at + length] = draw.choice(TOKENS)
            case _:
                data[at] ^= 1 << draw.randrange(8)
    return bytes(data)


def main() -> int:
    """Fuzz one reader; 1 where it let anything but its own error out."""
    parser = argparse.ArgumentParser()
    parser.add_argument("reader", choices=[*FORMATS, *BUSES])
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    log, act = original(options.reader)
    draw, until, tried, found = random.Random(options.seed), time.monotonic() + 60 * options.minutes, 0, 0
    while time.monotonic() < until:
        data = damaged(log, draw)
        tried += 1
        try:
            act(data)
        except ReadError:
            continue
        except Exception:
            found += 1
            path = Path(f"fuzz-{options.reader}-{tried}.bin")
            path.write_bytes(data)
            print(f"{path}:\n{traceback.format_exc()}", flush=True)
    print(f"{options.reader}: {tried} damaged logs in {options.minutes:g} minutes, {found} let something else out")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
