"""CAN data as its frames come in: what each channel says now, and the last minutes as a log to align."""

from __future__ import annotations

import threading
from array import array

import numpy as np

from coombe_core.formats.can_log import CanLog, Channel, channels_of, load_dbc, modes_of
from coombe_core.live.timing import KEPT_S

MOST_SAMPLES = 120_000  # of one channel


class LiveCan:
    """Takes frames in the order of time. `dbc` decodes them, Coombe's own where it is None.

    One thread may feed while another asks.
    """

    def __init__(self, dbc: str | None = None) -> None:
        self.latest: dict[str, float] = {}
        self.mode = ""
        self._known = load_dbc(dbc)
        self._samples: dict[str, tuple[array[float], array[float]]] = {}
        self._modes: list[tuple[float, str]] = []
        self._lock = threading.Lock()

    def feed(self, time_s: float, frame_id: int, payload: bytes) -> bool:
        """Take a frame; whether it could be decoded."""
        message = self._known.get(frame_id)
        if message is None:
            return False
        try:
            signals = message.decode(payload)
        except Exception:  # cantools raises many kinds for a payload that does not fit
            return False
        with self._lock:
            for channel, value in channels_of(signals):
                self._keep(channel, time_s, value)
            for mode in modes_of(signals):
                if mode != self.mode:
                    self._modes.append((time_s, mode))
                    self.mode = mode
        return True

    def _keep(self, channel: str, time_s: float, value: float) -> None:
        self.latest[channel] = value
        times, values = self._samples.setdefault(channel, (array("d"), array("d")))
        times.append(time_s)
        values.append(value)
        if len(times) > MOST_SAMPLES or time_s - times[0] > 2 * KEPT_S:
            kept = int(np.searchsorted(np.array(times), time_s - KEPT_S))
            del times[:kept], values[:kept]

    def log(self) -> CanLog | None:
        """The last minutes; None where nothing has come."""
        if not self._samples:
            return None
        with self._lock:
            channels = {
                name: Channel(np.array(times), np.array(values)) for name, (times, values) in self._samples.items()
            }
            return CanLog("live", channels, list(self._modes), [])
