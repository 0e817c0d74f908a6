"""CAN logs (candump, ASC, BLF) as channels in SI units, decoded with a DBC."""

from __future__ import annotations

import io
import logging
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.reading import CanError, Rejection
from coombe_core.units import KMH_MPS

Floats = NDArray[np.float64]
OWN_DBC = Path(__file__).resolve().parent / "coombe.dbc"
HEAD_BYTES = 4096
BLF_OBJECT = b"LOBJ"
BLF_HEADER_BYTES = 16
logging.getLogger("can.io.blf").setLevel(logging.ERROR)  # it warns of every damaged object
CANDUMP = re.compile(rb"^\(\d+\.\d+\) +\S+ +[0-9A-Fa-f]{3,8}#[0-9A-Fa-f]{0,16}( [RT])?\s*$")
# Signal name, compared in lower case without underscores -> channel and factor to SI.
SIGNALS: dict[str, tuple[str, float]] = {
    "indicatedspeed": ("indicated_speed_mps", KMH_MPS),
    "wheelspeedfrontleft": ("wheel_speed_front_left_mps", KMH_MPS),
    "wheelspeedfrontright": ("wheel_speed_front_right_mps", KMH_MPS),
    "wheelspeedrearleft": ("wheel_speed_rear_left_mps", KMH_MPS),
    "wheelspeedrearright": ("wheel_speed_rear_right_mps", KMH_MPS),
    "brakepedal": ("brake_pedal", 1.0),
    "acceleratorpedal": ("accelerator_percent", 1.0),
    **dict.fromkeys(("batteryvoltage", "packvoltage"), ("battery_voltage_v", 1.0)),
    **dict.fromkeys(("batterycurrent", "packcurrent"), ("battery_current_a", 1.0)),
    **dict.fromkeys(("batterypower", "packpower"), ("battery_power_w", 1000.0)),
    "charge": ("charge_percent", 1.0),
    **dict.fromkeys(("batterytemp", "packtemp"), ("battery_temp_c", 1.0)),
    "motortemp": ("motor_temp_c", 1.0),
    **dict.fromkeys(("inlettemp", "coolantinlettemp"), ("inlet_temp_c", 1.0)),
    "outsidetemp": ("outside_temp_c", 1.0),
}
MODE = "drivemode"


@dataclass(frozen=True)
class Channel:
    """One quantity over the log's own clock: seconds and values (n each)."""

    time_s: Floats
    value: Floats

    def at(self, times_s: Floats) -> Floats:
        """The channel at times on its clock, between its samples in a straight line."""
        return np.interp(times_s, self.time_s, self.value)

    def heard_within(self, times_s: Floats, within_s: float) -> NDArray[np.bool_]:
        """Whether a sample is within a number of seconds of each time (n): elsewhere `at` only guesses."""
        after = np.searchsorted(self.time_s, times_s).clip(1, max(self.time_s.size - 1, 1))
        nearest = np.minimum(
            np.abs(self.time_s[after - 1] - times_s),
            np.abs(self.time_s[after.clip(max=self.time_s.size - 1)] - times_s),
        )
        return np.asarray(nearest <= within_s)


@dataclass(frozen=True)
class CanLog:
    """A CAN log: its format, its channels by name, the drive modes as (time, name), and what was left out."""

    format: str
    channels: dict[str, Channel]
    modes: list[tuple[float, str]]
    rejections: list[Rejection]


def recognizes(head: bytes) -> str | None:
    """The format of a CAN log by its first bytes: candump, asc or blf; None for anything else."""
    if head.startswith(b"LOGG"):
        return "blf"
    lines = head.lstrip().splitlines()
    if lines and CANDUMP.match(lines[0].strip()):
        return "candump"
    if re.match(rb"(?i)\s*date .*\n\s*base +(hex|dec)", head):
        return "asc"
    return None


def load_dbc(dbc: str | None = None) -> dict[int, Any]:
    """The messages of a DBC by identifier, of Coombe's own where none is given. Raises CanError where it is none."""
    import cantools

    try:
        database: Any = cantools.database.load_string(dbc or OWN_DBC.read_text(), database_format="dbc")
    except Exception as error:
        raise CanError(f"the DBC can't be read: {str(error)[:120]}") from None
    return {message.frame_id: message for message in database.messages}


def read_can_log(stream: BinaryIO, dbc: str | None = None) -> CanLog:
    """Read and decode a CAN log, with Coombe's own DBC where none is given.

    Raises CanError where the format is unknown, the DBC can't be used, or nothing in the log is known to it.
    """
    data = stream.read()
    found = recognizes(data[:HEAD_BYTES])
    if found is None:
        raise CanError("no CAN log that Coombe knows (candump, ASC or BLF)")
    known = load_dbc(dbc)
    rejections: list[Rejection] = []
    samples: dict[str, list[tuple[float, float]]] = {}
    modes: list[tuple[float, str]] = []
    for number, (time_s, frame_id, payload) in enumerate(_frames(data, found, rejections), 1):
        if frame_id not in known:
            continue
        try:
            signals = known[frame_id].decode(payload)
        except Exception as error:
            rejections.append(Rejection(number, f"frame {frame_id:X} can't be decoded: {str(error)[:80]}"))
            continue
        for channel, value in channels_of(signals):
            samples.setdefault(channel, []).append((time_s, value))
        modes.extend((time_s, mode) for mode in modes_of(signals))
    if not samples:
        raise CanError("nothing in this CAN log is known to the DBC")
    return CanLog(found, {name: _channel(rows) for name, rows in samples.items()}, modes, rejections)


def channels_of(signals: Mapping[str, Any]) -> Iterator[tuple[str, float]]:
    """The channels that decoded signals give, in SI units."""
    for name, value in signals.items():
        known = SIGNALS.get(_plain(name))
        if known:
            yield known[0], float(value) * known[1]


def modes_of(signals: Mapping[str, Any]) -> list[str]:
    """The drive mode among decoded signals, if it is there."""
    return [str(value) for name, value in signals.items() if _plain(name) == MODE]


def _plain(name: str) -> str:
    return name.replace("_", "").lower()


def _channel(rows: list[tuple[float, float]]) -> Channel:
    table = np.array(rows)
    order = np.argsort(table[:, 0], kind="stable")
    return Channel(table[order, 0], table[order, 1])


def _frames(data: bytes, log_format: str, rejections: list[Rejection]) -> Iterator[tuple[float, int, bytes]]:
    """Time, identifier and payload of every frame; where a log is damaged, those before the damage."""
    import can

    if log_format == "candump":
        kept = []
        for line, text in enumerate(data.splitlines(), 1):
            if CANDUMP.match(text):
                kept.append(text.decode(errors="replace"))
            elif text.strip():
                rejections.append(Rejection(line, "not a candump line"))
        reader: Any = can.CanutilsLogReader(io.StringIO("\n".join(kept) + "\n"))
    elif log_format == "asc":
        reader = can.ASCReader(io.StringIO(data.decode("utf-8", errors="replace")), relative_timestamp=False)
    count = 0
    try:
        for message in reader if log_format != "blf" else _blf_reader(data):
            count += 1
            if not (message.is_error_frame or message.is_remote_frame):
                yield float(message.timestamp), int(message.arbitration_id), bytes(message.data)
    except Exception as error:
        rejections.append(Rejection(count + 1, f"the log is damaged after {count} frames: {str(error)[:80]}"))


def _blf_reader(data: bytes) -> Any:
    """The library's reader, kept from an object of no size, which it would read for ever."""
    import can

    class Careful(can.BLFReader):
        def _parse_container(self, data: bytes) -> Iterator[can.Message]:
            carried = len(self._tail)
            sound = _sound_until(self._tail + data)
            yield from super()._parse_container(data[: max(sound - carried, 0)])
            if sound < carried + len(data):
                raise ValueError("an object smaller than its own header")

    return Careful(io.BytesIO(data))


def _sound_until(objects: bytes) -> int:
    """Where in a container the first object is that is smaller than its own header; else its end."""
    place = objects.find(BLF_OBJECT)
    while 0 <= place <= len(objects) - BLF_HEADER_BYTES:
        size = int.from_bytes(objects[place + 8 : place + 12], "little")
        if size < BLF_HEADER_BYTES:
            return place
        place = objects.find(BLF_OBJECT, place + size)
    return len(objects)
