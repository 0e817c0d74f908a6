"""Two cars side by side: arming, the start signal, and what the runs say."""

from __future__ import annotations

import random
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from django.db.models import Max, Q
from django.utils import timezone

from coombe_core.comparing.heads_up import Lane, left_first_s, reaction_s, standings
from coombe_core.uncertainty import Value
from coombe_core.wording.heads_up import ahead_sentence, moved_first_sentence, reaction_sentence
from recording.models import HeadsUp, Recorder
from runs.curves import decoded
from runs.models import Receiver, Run, RunKind, Validity

HOLD_S = (2.0, 4.5)  # from the order to the signal: nobody can count it
ASSUMED_START_U95_S = 0.06
draw = random.SystemRandom()


def arm(left: Recorder, right: Recorder) -> HeadsUp:
    """Take the next standing start of each recorder for one."""
    return HeadsUp.objects.create(left=left, right=right, left_before=_latest(left), right_before=_latest(right))


def _latest(recorder: Recorder) -> datetime | None:
    """When the latest run of a recorder began, by its receiver's clock."""
    runs = Run.objects.filter(log__recording__recorder=recorder)
    latest: datetime | None = runs.aggregate(latest=Max("start_utc"))["latest"]
    return latest


def give_signal(pair: HeadsUp) -> HeadsUp:
    """Set the signal a few seconds ahead; pages show and sound it then."""
    pair.signal_at = timezone.now() + timedelta(seconds=draw.uniform(*HOLD_S))
    pair.save(update_fields=["signal_at"])
    return pair


def run_of(pair: HeadsUp, recorder: Recorder) -> Run | None:
    """The recorder's first standing start since it was armed that is not void, and before the next was armed."""
    runs = Run.objects.filter(kind=RunKind.STANDING, validity=Validity.VALID, log__recording__recorder=recorder)
    if since := _before(pair, recorder):
        runs = runs.filter(start_utc__gt=since)
    of_recorder = HeadsUp.objects.filter(Q(left=recorder) | Q(right=recorder), armed_at__gt=pair.armed_at)
    later = of_recorder.order_by("armed_at").first()
    if later is not None:
        until = _before(later, recorder)
        runs = runs.filter(start_utc__lte=until) if until else runs.none()
    return runs.order_by("start_utc").first()


def _before(pair: HeadsUp, recorder: Recorder) -> datetime | None:
    return pair.left_before if pair.left_id == recorder.pk else pair.right_before


def outcome(pair: HeadsUp, also_m: float | None = None) -> dict[str, Any] | None:
    """Who was ahead where, at one more distance (m) too, and the reactions; None until both runs are there."""
    runs = run_of(pair, pair.left), run_of(pair, pair.right)
    if runs[0] is None or runs[1] is None:
        return None
    left, right = _lane(runs[0]), _lane(runs[1])
    cars = pair.left.setup.car.name, pair.right.setup.car.name
    left_first = left_first_s(left, right)
    reactions = _reaction(pair, left), _reaction(pair, right)
    found = [
        asdict(each)
        | {
            "gap_s": _value_json(each.gap_s),
            "gap_lengths": each.gap_lengths,
            "shown": each.shown,
            "sentence": ahead_sentence(each, *cars),
        }
        for each in standings(left, right, also_m)
    ]
    return {
        "left_run": runs[0].pk,
        "right_run": runs[1].pk,
        "standings": found,
        "left_first_s": _value_json(left_first),
        "left_reaction_s": _value_json(reactions[0]),
        "right_reaction_s": _value_json(reactions[1]),
        "sentences": [
            moved_first_sentence(left_first, *cars),
            *(reaction_sentence(each, car) for each, car in zip(reactions, cars, strict=True) if each),
        ],
    }


def _lane(run: Run) -> Lane:
    measures = [row.to_core() for row in run.measured.all()]
    first = next((row.time_s for row in measures if row.clock == "first_movement" and row.time_s), None)
    receiver = Receiver.objects.filter(name=run.receiver).first() if run.receiver else None
    late_s = receiver.latency_s or 0.0 if receiver else 0.0
    start = Value(run.start_utc.timestamp() - late_s, first.u95 if first else ASSUMED_START_U95_S)
    return Lane(measures, decoded(bytes(run.trace.curve)), start)


def _reaction(pair: HeadsUp, lane: Lane) -> Value | None:
    return reaction_s(lane, pair.signal_at.timestamp()) if pair.signal_at else None


def _value_json(value: Value | None) -> dict[str, float] | None:
    return {"value": value.value, "u95": value.u95} if value else None
