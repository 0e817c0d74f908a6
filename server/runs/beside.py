"""What stands beside a run: the ones before and after it, the best of its setup, and the air it was driven in."""

from __future__ import annotations

from dataclasses import dataclass

from coombe_core.physics.air import density_altitude_m
from runs.models import Measured, Run, RunKind, Validity
from runs.physics import air_of

HEADLINE = {RunKind.STANDING: ("0-60 mph", "rollout", "time_s"), RunKind.STOP: ("60-0 mph", "speed", "distance_m")}
USUAL = ("30-70 mph", "speed", "time_s")


@dataclass(frozen=True)
class Beside:
    """Runs by number, None where there is none; `of_setup` are the other valid ones of its kind and setup."""

    previous: int | None
    next: int | None
    best: int | None
    of_setup: list[int]
    density_altitude_m: float | None


def beside(run: Run) -> Beside:
    """Look around a run: before and after it in time among the runs of its car."""
    of_car = Run.objects.filter(setup__car=run.setup.car_id).order_by("start_utc", "id")
    like = Run.objects.filter(setup=run.setup_id, kind=run.kind, validity=Validity.VALID, complete=True)
    name, clock, field = HEADLINE.get(RunKind(run.kind), USUAL)
    best = Measured.objects.filter(run__in=like, name=name, clock=clock, **{f"{field}__isnull": False}).order_by(field)
    air = air_of(run)
    return Beside(
        previous=of_car.filter(start_utc__lt=run.start_utc).values_list("pk", flat=True).last(),
        next=of_car.filter(start_utc__gt=run.start_utc).values_list("pk", flat=True).first(),
        best=best.values_list("run_id", flat=True).first(),
        of_setup=list(like.exclude(pk=run.pk).order_by("start_utc").values_list("pk", flat=True)),
        density_altitude_m=density_altitude_m(air.density_kg_m3) if air else None,
    )
