"""What was driven against what was recorded: sentence by sentence, and each pull once."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from itertools import pairwise
from operator import sub
from typing import Any

from coombe_core.simulating.in_thread import Running
from recording.models import Recording
from runs import store
from runs.models import Run

NEAR_S = 1.0
Interval = tuple[float, float]  # seconds since 1970


@dataclass
class Driven:
    """What a comparison came to; `wrong` are sentences, none of which should be there."""

    sentences: int = 0
    holes: int = 0
    gaps: int = 0
    pulls: int = 0
    runs: int = 0
    wrong: list[str] = field(default_factory=list)

    def compare(self, recorder: int, car: Running, sent: bytes) -> None:
        """What one recorder stored against what its devices sent and its car did."""
        places = {line: place for place, line in enumerate(sentences(sent))}
        listened: list[Interval] = []
        gaps: list[Interval] = []
        runs: list[Run] = []
        for recording in Recording.objects.filter(recorder=recorder).exclude(log=None).order_by("began_at"):
            log = recording.log
            assert log and log.sha256
            start_s = log.start_utc.timestamp()
            missed = [(start_s + gap.from_s, start_s + gap.to_s) for gap in recording.gaps.all()]
            self._compare_sentences(recorder, sentences(store.read(log.sha256)), places, len(missed))
            listened.append((start_s, start_s + log.duration_s))
            gaps += missed
            runs += log.runs.order_by("start_utc")
        gaps += [(one[1], other[0]) for one, other in pairwise([(0.0, 0.0), *listened, (float("inf"), float("inf"))])]
        self.runs += len(runs)
        self.wrong += [f"recorder {recorder}: {run} is stored twice" for run in _doubled(runs)]
        for truth in car.truths:
            self._compare_pull(recorder, truth, runs, gaps)

    def _compare_sentences(self, recorder: int, kept: list[bytes], places: Mapping[bytes, int], gaps: int) -> None:
        """Each as it was sent, once and in order, and no hole without a gap."""
        where = [places[line] for line in kept if line in places]
        holes = sum(step != 1 for step in map(sub, where[1:], where))
        if sorted(set(where)) != where:
            self.wrong.append(f"recorder {recorder}: sentences are doubled or out of order")
        if len(kept) - len(where) > holes:
            self.wrong.append(f"recorder {recorder}: {len(kept) - len(where)} sentences are not as they were sent")
        if holes > gaps:
            self.wrong.append(f"recorder {recorder}: {holes} holes, and {gaps} gaps were stored")
        self.sentences, self.holes, self.gaps = self.sentences + len(kept), self.holes + holes, self.gaps + gaps

    def _compare_pull(
        self, recorder: int, truth: Mapping[str, Any], runs: Sequence[Run], gaps: Sequence[Interval]
    ) -> None:
        """There once, if somebody listened from before it to after it."""
        begun, ended = (datetime.fromisoformat(truth[name]).timestamp() for name in ("start_utc", "end_utc"))
        if any(from_s < ended + 2.0 and to_s > begun - 5.0 for from_s, to_s in gaps):
            return
        self.pulls += 1
        near = [run for run in runs if run.kind == truth["kind"] and abs(run.start_utc.timestamp() - begun) < NEAR_S]
        if len(near) != 1:
            self.wrong.append(f"recorder {recorder}: a {truth['kind']} was driven once and stored {len(near)} times")


def _doubled(runs: list[Run]) -> Iterator[Run]:
    for place, run in enumerate(runs):
        if any(
            other.kind == run.kind and abs((other.start_utc - run.start_utc).total_seconds()) < NEAR_S
            for other in runs[:place]
        ):
            yield run


def sentences(data: bytes) -> list[bytes]:
    """The whole NMEA sentences in some bytes."""
    return [line for line in data.split(b"\r\n") if line.startswith(b"$") and b"*" in line[-3:]]
